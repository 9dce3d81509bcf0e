"""A target as the TOML it is read from: only what differs from the defaults, in the order of the model."""

from __future__ import annotations

from typing import Any

import tomlkit

from .model import Target

__all__ = ["write_target"]


def write_target(target: Target) -> str:
    """TOML text that ``read_target`` gives the same target for.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> from .model import read_target
    >>> target = shipped_target("engine-orm-down")
    >>> read_target(write_target(target)) == target
    True
    """
    table = target.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    document = tomlkit.document()
    nested = {name: value for name, value in table.items() if isinstance(value, dict)}
    rows = {name: table.pop(name, []) for name in ("files", "documents")}
    document.add("schema", tomlkit.item(1))
    for name, value in table.items():
        if name not in nested and name != "schema":
            document.add(name, tomlkit.item(value))
    for name, value in nested.items():
        document.add(name, _table(value))
    for name, inner in (("files", "channels"), ("documents", "inputs")):
        if rows[name]:
            document.add(name, _array(rows[name], inner))
    return tomlkit.dumps(document)


def _array(rows: list[dict[str, Any]], inner: str) -> Any:
    """Tables one below the other, each with a table of its own at its end whose rows stand in a line."""
    array = tomlkit.aot()
    for row in rows:
        own = row.pop(inner)
        table = _table(row)
        table.add(inner, _table(own))
        array.append(table)
    return array


def _table(content: dict[str, Any]) -> Any:
    table = tomlkit.table()
    for name, value in content.items():
        table.add(name, _inline(value))
    return table


def _inline(value: Any) -> Any:
    if isinstance(value, dict):
        inline = tomlkit.inline_table()
        inline.update({name: _inline(part) for name, part in value.items()})
        return inline
    if isinstance(value, list):
        array = tomlkit.array()
        array.extend(_inline(part) for part in value)
        return array
    return tomlkit.item(value)
