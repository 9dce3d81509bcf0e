"""What a bake makes: its maps between their ends, and what it says of itself."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..baked_maps import MapName
from ..findings import Finding
from ..raster import FloatArray

__all__ = ["Baked", "BakedMap"]


@dataclass(frozen=True)
class BakedMap:
    """One map, (H, W) or (H, W, 3) float32, padded to full.

    Normals are vectors; others 0..1 between ``low`` and ``high``, which are in units of the mesh (1 over them for curvature);
    of position they are corners of the box.
    """

    values: FloatArray
    low: float | tuple[float, float, float] | None = None
    high: float | tuple[float, float, float] | None = None

    def between(self, low: float, high: float) -> BakedMap:
        """The same of one value, between other ends that enclose its own.

        Examples
        --------
        >>> BakedMap(np.float32([[0, 1]]), -1.0, 1.0).between(-2.0, 2.0).values.tolist()
        [[0.25, 0.75]]
        """
        if (self.low, self.high) == (low, high):
            return self
        assert isinstance(self.low, float) and isinstance(self.high, float)
        scale = np.float32((self.high - self.low) / (high - low))
        return BakedMap(self.values * scale + np.float32((self.low - low) / (high - low)), low, high)


@dataclass(frozen=True)
class Baked:
    """What a bake made.

    Parameters
    ----------
    covered, missed : (H, W) texels that show the low mesh, and those of them whose rays met nothing
    offset : how far above the low mesh rays started
    caster : which one cast
    """

    maps: dict[MapName, BakedMap]
    covered: np.ndarray
    missed: np.ndarray
    offset: float
    caster: str
    findings: list[Finding] = field(default_factory=list)

    @property
    def missed_share(self) -> float:
        """Of the covered texels."""
        return float(self.missed.sum() / max(int(self.covered.sum()), 1))
