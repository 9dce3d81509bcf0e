"""SQL by name: one file of statements a family of tables, each under a line ``-- its_name --``."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import LiteralString, cast

__all__ = ["statements"]

_NAME = re.compile(r"^-- (\w+) --$", re.MULTILINE)


@cache
def statements(family: str) -> Mapping[str, LiteralString]:
    """All statements of ``queries/FAMILY.sql`` by their names.

    Examples
    --------
    >>> statements("profiles")["profile_named"]
    'SELECT profile FROM source_profile WHERE name = %(name)s;'
    """
    text = (resources.files("copper_sieve.store") / "queries" / f"{family}.sql").read_text("utf-8")
    names = list(_NAME.finditer(text))
    ends = [name.start() for name in names[1:]] + [len(text)]
    # the files are part of the program, so their text is as good as a literal
    found: dict[str, LiteralString] = {}
    for name, end in zip(names, ends, strict=True):
        found[name[1]] = cast(LiteralString, _without_remark(text[name.end() : end].strip()))
    return MappingProxyType(found)


def _without_remark(text: str) -> str:
    return "\n".join(line for line in text.splitlines() if not line.startswith("-- "))
