"""What a recipe's parts call each other by."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any, Literal, cast

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

__all__ = ["Ref", "is_part_name", "master_ref", "node_ref", "source_ref"]

_REMEMBERED = 1 << 12  # refs: the same few are asked for again and again
_NAME = r"[a-z0-9_]+"
_SHAPE = r"^(source:[a-z0-9_]+:[a-z0-9_]+|node:[a-z0-9_]+(:[a-z0-9_]+)?|master:[a-z0-9_]+)$"
Kind = Literal["source", "node", "master"]


class Ref(str):
    """Text of three kinds, taken apart once: ``source:ID:QUANTITY``, ``node:NAME`` or ``node:NAME:OUTPUT``, ``master:KEY``.

    ``name`` is the source's, the node's or the master's; ``part`` the quantity of a source, the output of a node that makes
    several, else None. Raises ValueError for any other text.

    Examples
    --------
    >>> ref = Ref("source:s1:height")
    >>> ref.kind, ref.name, ref.part
    ('source', 's1', 'height')
    """

    kind: Kind
    name: str
    part: str | None

    def __new__(cls, text: str) -> Ref:
        if isinstance(text, Ref):
            return text
        if re.fullmatch(_SHAPE, text) is None:
            raise ValueError(f"a ref is source:ID:QUANTITY, node:NAME[:OUTPUT] or master:KEY (got {text!r})")
        made = super().__new__(cls, text)
        kind, made.name, *part = text.split(":")
        made.kind, made.part = cast(Kind, kind), part[0] if part else None
        return made

    @property
    def whole(self) -> Ref:
        """The node itself, whichever output is named; any other ref as it is."""
        return node_ref(self.name) if self.kind == "node" and self.part is not None else self

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(pattern=_SHAPE))


def is_part_name(name: str) -> bool:
    """Whether a ref can name a source or a node that is called so.

    Examples
    --------
    >>> is_part_name("s1"), is_part_name("my file")
    (True, False)
    """
    return re.fullmatch(_NAME, name) is not None


@lru_cache(maxsize=_REMEMBERED)
def source_ref(source_id: str, key: str) -> Ref:
    """Ref of the channels of a source that are read as ``key``."""
    return Ref(f"source:{source_id}:{key}")


@lru_cache(maxsize=_REMEMBERED)
def node_ref(name: str, output: str | None = None) -> Ref:
    """Ref of a node's only output, or of the one named."""
    return Ref(f"node:{name}" if output is None else f"node:{name}:{output}")


@lru_cache(maxsize=_REMEMBERED)
def master_ref(key: str) -> Ref:
    """Ref of a master, wherever it comes from."""
    return Ref(f"master:{key}")
