"""A target as the TOML it is read from: only what differs from the defaults, in the order of the model."""

from __future__ import annotations

import json
from typing import Any

from .model import Target

__all__ = ["write_target"]


def write_target(target: Target) -> str:
    """TOML text that ``read_target`` gives the same target for."""
    table = target.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    files, documents = table.pop("files"), table.pop("documents", [])
    tables = {name: table.pop(name) for name in [n for n, value in table.items() if isinstance(value, dict)]}
    lines = ["schema = 1", *(_line(name, value) for name, value in table.items() if name != "schema")]
    for name, content in tables.items():
        lines += ["", f"[{name}]", *(_line(key, value) for key, value in content.items())]
    for file in files:
        channels = file.pop("channels")
        lines += ["", "[[files]]", *(_line(name, value) for name, value in file.items()), "[files.channels]"]
        lines += [_line(letter, channel) for letter, channel in channels.items()]
    for document in documents:
        inputs = document.pop("inputs")
        lines += ["", "[[documents]]", *(_line(name, value) for name, value in document.items()), "[documents.inputs]"]
        lines += [_line(name, value) for name, value in inputs.items()]
    return "\n".join(lines) + "\n"


def _line(key: str, value: Any) -> str:
    return f"{_key(key)} = {_value(value)}"


def _key(key: str) -> str:
    return key if key.replace("_", "").replace("-", "").isalnum() and key.isascii() else json.dumps(key, ensure_ascii=False)


def _value(value: Any) -> str:
    match value:
        case bool():
            return "true" if value else "false"
        case str():
            return json.dumps(value, ensure_ascii=False)  # TOML's basic strings escape as JSON's do
        case dict():
            return "{ " + ", ".join(_line(key, part) for key, part in value.items()) + " }"
        case list() | tuple():
            return "[" + ", ".join(map(_value, value)) + "]"
        case _:
            return repr(value)
