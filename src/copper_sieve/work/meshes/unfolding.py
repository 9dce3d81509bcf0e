"""UV made by the machine: a quick unfolding for trials, a second set for baked light, flat and box mappings for test pieces."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable, Mapping
from dataclasses import replace
from io import BytesIO
from types import MappingProxyType

import numpy as np

from ...core.bands import in_parts
from ...core.errors import MeshInvalid
from ...core.mesh.made import as_triangles
from ...core.mesh.shape import Shape, welded
from ...core.mesh.topology import islands_of
from ...core.mesh.unfold import uv_areas
from ...core.raster import FloatArray
from . import charts

__all__ = ["MAPPINGS", "quick_uv"]

_FULL = (0.5, 0.55, 0.6, 0.65, 0.7, 0.75, 0.8, 0.85)  # how much of the picture islands are tried to fill
_PX, _PADDING = 1024, 8  # what islands are packed at, and how many texels of it part them


def quick_uv(shape: Shape, way: str = "islands", *, second: bool = False) -> Shape:
    """A shape with UV made by the machine.

    Parameters
    ----------
    way : ``islands`` unfolds it, ``flat`` looks at it from the side that it is widest on, ``box`` from six sides
    second : write them as the second set, for light, and leave the first alone
    Raises
    ------
    MeshInvalid : the unfolding library is not installed, or it has no face with an area
    """
    if way not in MAPPINGS:
        raise MeshInvalid(f"a mapping is one of {', '.join(MAPPINGS)} (got {way!r}).")
    whole = as_triangles(shape)
    at = whole.at
    if not np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).any():
        raise MeshInvalid("no face of the mesh has an area, so there is nothing to unfold.")
    uv = MAPPINGS[way](whole)
    return replace(whole, second_uv=uv) if second else replace(whole, uv=uv, given_tangents=None)


def _islands(shape: Shape) -> FloatArray:
    """Charts by xatlas, with its traps seen to: none is mirrored, and both axes are scaled alike."""
    same = welded(shape.points)
    points = np.zeros((int(same.max()) + 1, 3), np.float32)
    points[same] = shape.points
    uv, sides = _charted(points, same[shape.faces], resolution=_PX)
    areas, island = uv_areas(shape, uv), islands_of(shape, uv)
    is_mirrored = np.bincount(island, areas) < 0
    if is_mirrored.any():  # turned over, and packed anew: where they lay they might meet others
        uv[np.repeat(is_mirrored[island], 3), 0] *= -1
        covered = float(np.abs(areas).sum())
        tries = in_parts(lambda full: _repacked(uv * np.float32(np.sqrt(full * _PX**2 / covered)), island), _FULL)
        uv, sides = max(tries, key=lambda tried: float(uv_areas(shape, tried[0]).sum()) / max(tried[1]) ** 2)
    return np.ascontiguousarray(uv / np.float32(max(sides)), np.float32)


def _repacked(uv: FloatArray, island: np.ndarray) -> tuple[FloatArray, tuple[int, int]]:
    """Islands in texels, (C, 2), laid beside each other as they stand."""
    rows = np.concatenate([uv, np.repeat(island, 3)[:, None]], 1).astype(np.float32)
    index = welded(rows)
    places = np.zeros((int(index.max()) + 1, 2), np.float32)
    places[index] = uv
    return _charted(places, index.reshape(-1, 3), texels_per_unit=1.0)


def _charted(
    places: np.ndarray, faces: np.ndarray, *, resolution: int = 0, texels_per_unit: float = 0.0
) -> tuple[np.ndarray, tuple[int, int]]:
    """UV of the triangles' corners in texels, (C, 2), and the atlas' sides, as the script ``charts`` makes them."""
    job = BytesIO()
    np.savez(job, places=places, faces=faces, padding=_PADDING, resolution=resolution, texels_per_unit=texels_per_unit)
    done = subprocess.run([sys.executable, charts.__file__], input=job.getvalue(), capture_output=True)
    if done.returncode == charts.MISSING:
        raise MeshInvalid("unfolding needs the library xatlas, which is not installed here. Use the box mapping.")
    if done.returncode:
        why = (done.stderr.decode(errors="replace").strip().splitlines() or [f"it ended with {done.returncode}"])[-1]
        raise MeshInvalid(f"the mesh could not be unfolded: {why}. Use the box mapping.")
    made = np.load(BytesIO(done.stdout))
    return made["uv"], (int(made["sides"][0]), int(made["sides"][1]))


def _flat(shape: Shape) -> FloatArray:
    """Seen along its thinnest axis, in its proportions."""
    at = shape.points[shape.corners]
    low, span = at.min(0), at.max(0) - at.min(0)
    drop = int(np.argmin(span))
    u, v = {0: (2, 1), 1: (0, 2), 2: (0, 1)}[drop]
    uv = (at[:, [u, v]] - low[[u, v]]) / np.float32(max(span[u], span[v], 1e-30))
    if drop == 1:
        uv[:, 1] = uv[:, 1].max() - uv[:, 1]  # seen from above, far is up
    if drop == 0:
        uv[:, 0] = uv[:, 0].max() - uv[:, 0]  # seen from the right
    return np.ascontiguousarray(uv, np.float32)


def _box(shape: Shape) -> FloatArray:
    """Each face from the side that it looks to most, at one scale; the six sides lie beside each other."""
    at = shape.at
    normal = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    axis = np.abs(normal).argmax(1)
    is_front = np.take_along_axis(normal, axis[:, None], 1)[:, 0] > 0
    low, span = shape.points[shape.corners].min(0), float(np.ptp(shape.points[shape.corners], 0).max()) or 1.0
    place = (at - low) / np.float32(span)
    uv = np.empty((len(at), 3, 2), np.float32)
    for k, (u, v) in enumerate(((2, 1), (0, 2), (0, 1))):
        for front in (False, True):
            which = (axis == k) & (is_front == front)
            one = place[which][:, :, [u, v]]
            if front == (k != 2):
                one[..., 0] = 1 - one[..., 0]  # so that none is seen from behind
            uv[which] = (one * 0.98 + 0.01 + np.array([k, float(front)], np.float32)) / 3
    return uv.reshape(-1, 2)


MAPPINGS: Mapping[str, Callable[[Shape], FloatArray]] = MappingProxyType({"islands": _islands, "flat": _flat, "box": _box})
