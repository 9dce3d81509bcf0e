"""The maps that a bake makes: what each is called, what it needs, and which quantity it is read as."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

__all__ = ["BAKED", "MapName"]

MapName = Literal["normal", "object_normal", "height", "occlusion", "curvature", "thickness", "position", "id"]


class _Baked(NamedTuple):
    """One row: what a map is called, and whether it needs a second mesh to be cast from, or a closed one."""

    title: str
    needs_high: bool = False
    needs_closed: bool = False


BAKED: Mapping[MapName, _Baked] = MappingProxyType(
    {
        "normal": _Baked("Normal", needs_high=True),
        "object_normal": _Baked("Object normal"),
        "height": _Baked("Height", needs_high=True),
        "occlusion": _Baked("Occlusion"),
        "curvature": _Baked("Curvature"),
        "thickness": _Baked("Thickness", needs_closed=True),
        "position": _Baked("Position"),
        "id": _Baked("ID"),
    }
)
