"""The maps of a set as copies of them are compared and joined."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..raster import FloatArray
from .decision import Kind

__all__ = ["Coded"]

_LEAST_SPREAD = 0.03  # of a feature: below it is noise
_STEEPEST, _SLOPES_COUNT = 3.0, 0.7


@dataclass(frozen=True)
class Coded:
    """The maps as they are joined, (H, W) or (H, W, C), by their kind."""

    planes: dict[Kind, FloatArray]

    @property
    def shape(self) -> tuple[int, int]:
        rows, columns = next(iter(self.planes.values())).shape[:2]
        return rows, columns

    def each(self, change: Callable[[FloatArray, Kind], FloatArray]) -> Coded:
        return Coded({kind: change(values, kind) for kind, values in self.planes.items()})

    def turned(self) -> Coded:
        """With rows and columns exchanged; slopes stay as they are, being only compared."""
        return self.each(lambda values, _: np.ascontiguousarray(values.swapaxes(0, 1)))

    def features(self) -> FloatArray:
        """What copies are compared by, each over its spread, (H, W, C)."""
        planes = []
        for kind, values in self.planes.items():
            limit, counts = (_STEEPEST, _SLOPES_COUNT) if kind == "normal" else (np.inf, 1.0)
            plane = np.clip(np.atleast_3d(values), -limit, limit)
            planes.append(plane * np.float32(counts / max(float(plane.std((0, 1)).mean()), _LEAST_SPREAD)))
        return np.concatenate(planes, -1).astype(np.float32)
