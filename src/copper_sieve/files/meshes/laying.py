"""How the materials of a glTF document lay their pictures on a mesh: by which of its UV, and those scaled, turned and moved."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, degrees, isfinite, sin
from typing import Any

import numpy as np

from ...core.raster import FloatArray

__all__ = ["Laying", "laying_of"]

_EXTENSION = "KHR_texture_transform"


@dataclass(frozen=True)
class Laying:
    """``channel`` is 0 or 1, the first or the second UV; ``rotation`` is in radians. The document's UV have v pointing down."""

    channel: int = 0
    scale: tuple[float, float] = (1.0, 1.0)
    rotation: float = 0.0
    offset: tuple[float, float] = (0.0, 0.0)

    @property
    def said(self) -> str:
        """What it does, in words; "" where it leaves the first UV as they are.

        Examples
        --------
        >>> Laying(1, (4.0, 4.0)).said
        'are its second ones, scaled by 4 × 4'
        """
        words = ["its second ones"] if self.channel else []
        words += ["scaled by {:.3g} × {:.3g}".format(*self.scale)] if self.scale != (1, 1) else []
        words += [f"turned by {degrees(self.rotation):.3g}°"] if self.rotation else []
        words += ["moved by {:.3g} and {:.3g}".format(*self.offset)] if any(self.offset) else []
        return f"are {', '.join(words)}" if words else ""

    @property
    def keeps_directions(self) -> bool:
        """Whether u and v point where they did, so that tangents of the file still hold."""
        return self.channel == 0 and self.rotation == 0 and min(self.scale) > 0

    def on(self, uv: FloatArray) -> FloatArray:
        """UV (N, 2), v down, as the pictures lie on them: scaled, then turned, then moved (KHR_texture_transform).

        Examples
        --------
        >>> Laying(scale=(2.0, 1.0), offset=(0.0, 0.5)).on(np.float32([[0.25, 0.25]])).tolist()
        [[0.5, 0.75]]
        """
        turned, across = cos(self.rotation), sin(self.rotation)
        u, v = (uv * self.scale).T
        return np.stack([turned * u + across * v, turned * v - across * u], -1) + self.offset


def laying_of(textures: Sequence[dict[str, Any]]) -> Laying | None:
    """The laying that these rows of a material's textures share; None where they differ, or say what is none."""
    told = {_laying(row) for row in textures}
    return next(iter(told)) if len(told) == 1 else None if told else Laying()


def _laying(row: dict[str, Any]) -> Laying | None:
    extensions = row.get("extensions")
    moved = extensions.get(_EXTENSION) if isinstance(extensions, dict) else None
    moved = moved if isinstance(moved, dict) else {}
    channel = moved.get("texCoord", row.get("texCoord", 0))
    numbers = [_pair(moved.get("scale", [1, 1])), _pair([moved.get("rotation", 0)] * 2), _pair(moved.get("offset", [0, 0]))]
    scale, rotation, offset = numbers
    if channel not in (0, 1) or scale is None or rotation is None or offset is None:
        return None
    return Laying(int(channel), scale, rotation[0], offset)


def _pair(value: Any) -> tuple[float, float] | None:
    is_pair = isinstance(value, list) and len(value) == 2 and all(isinstance(one, int | float) and isfinite(one) for one in value)
    return (float(value[0]), float(value[1])) if is_pair else None
