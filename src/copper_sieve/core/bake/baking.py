"""A bake: rays from a low mesh to a high one, and what they meet as maps."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import cast as as_type

import numpy as np
from scipy import ndimage

from ..baked_maps import BAKED, MapName
from ..bands import NEVER, Cancel
from ..errors import MeshInvalid
from ..findings import finding
from ..mesh.shape import IntArray, Shape, smooth_normals
from ..mesh.tangents import tangents
from ..mesh.topology import edges_of
from ..mesh.udim import on_tile
from ..mesh.unfold import hard_edges_inside, uv_areas
from ..raster import FloatArray, Size
from .baked import Baked, BakedMap
from .bvh import OwnCaster
from .cast import Caster, Hits, hits
from .cover import Cover, covered
from .enclosing import Facing, outside_of
from .measures import Surface, colors_of, curvature_of, openness, thickness
from .parting import Parted
from .places import Places, in_frames, made_unit, padded, scattered
from .plan import BakePlan, left_out

__all__ = ["bake"]

_BAND = 1 << 18  # samples at once
_TRIED = 1 << 15  # places on the low mesh that the offset is found from
_FARTHEST, _MORE, _USUAL = 0.1, 1.1, 0.02  # of the size; of the farthest that was met; of the size where nothing was
_MISSED, _MOST_MISSED = 1e-4, 0.2
_OUTSIDE = 1e-3
_PARALLEL = 1e-12
_TELLING = 99.0  # percentile of curvature that is shown as the end of the range


@dataclass
class _Low:
    """The low mesh as rays start from it."""

    shape: Shape
    normals: FloatArray
    tangents: FloatArray | None
    ways: FloatArray  # (T, 3, 3) from each corner, in units of the offset
    is_straight: bool


def bake(
    low: Shape,
    high: Shape | None,
    plan: BakePlan,
    caster: Caster | None = None,
    *,
    tile: int | None = None,
    parted: Parted | None = None,
    cancel: Cancel = NEVER,
    progress: Callable[[float], None] = lambda share: None,
) -> Baked:
    """Bake maps for a low mesh, from a high one or from itself.

    Parameters
    ----------
    low : with UV
    high : what maps are baked from; None: the low mesh itself
    caster : of ``high.at``, or of ``low.at`` where there is no high mesh; None: our own
    tile : the UDIM number of the picture that is made; None: the one over UV 0 to 1
    parted : parts that see each other alone, as ``partners_of`` the two meshes says; None: every ray sees all of the high mesh
    progress : called with the share that is done
    Returns
    -------
    baked : equal bytes each time, and however many cores there are
    Raises
    ------
    MeshInvalid : the low mesh has no UV, or nothing of it lies in the picture
    Examples
    --------
    >>> uv = np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])
    >>> low = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.int32([4]), uv=uv)
    >>> bake(low, low, BakePlan(("normal",), size=8, offset=0.1)).maps["normal"].values[0, 0].tolist()
    [0.0, 0.0, 1.0]
    """
    if low.uv is None:
        raise MeshInvalid("the low mesh has no UV, so there is no place to bake to. Unfold it, or make a quick UV.")
    giver = high or low
    caster = caster or OwnCaster(giver.at, cancel=cancel)
    cast = _Cast(caster, parted)
    why = left_out(plan, low, high)
    found = [finding("mesh-map-left-out", map=BAKED[name].title, why=text) for name, text in why.items()]
    maps: tuple[MapName, ...] = tuple(name for name in plan.maps if name not in why)
    start = _start_of(low, plan)
    size = Size(plan.size, plan.size)
    uv = on_tile(low, tile).uv
    assert uv is not None
    areas = uv_areas(low, uv)
    order = np.argsort(areas < 0, kind="stable")  # copies that are not mirrored are baked from, where they lie on each other
    offset = plan.offset
    if high is not None and offset is None and plan.cage is None:
        offset = _offset_for(start, high, cast)
    offset = offset or _USUAL * low.size
    if plan.cage is not None:
        offset = float(np.linalg.norm(start.ways, axis=-1).max())
    if high is not None and not start.is_straight and plan.cage is None:
        found.append(finding("mesh-hard-without-cage", file=low.name, offset=offset))
    canvas = _Canvas(plan, maps, low, high, cast, start, offset, cancel)
    shifts = [
        ((k + 0.5) / plan.samples - 0.5, (j + 0.5) / plan.samples - 0.5) for j in range(plan.samples) for k in range(plan.samples)
    ]
    for number, shift in enumerate(shifts):
        for first, last in _bands(size):
            cancel.check()
            cover = covered(low, uv, size, order, shift=shift, rows=(first, last), cancel=cancel)
            if not number:
                canvas.covered[first:last] = cover.is_covered
            canvas.add(cover, first, last)
            progress((number + last / size.height) / len(shifts) * 0.95)
    if not canvas.covered.any():
        raise MeshInvalid("nothing of the low mesh lies in the picture: its UV are all outside of it, or have no area.")
    made = canvas.finished()
    progress(1.0)
    baked = Baked(made, canvas.covered, canvas.missed, float(offset), caster.name, found)
    if high is not None and baked.missed_share > _MISSED:
        id = "mesh-missed-most" if baked.missed_share > _MOST_MISSED else "mesh-missed"
        name = low.name if tile is None else f"{low.name}, tile {tile}"
        found.append(finding(id, file=name, missed=baked.missed_share))
    if high is not None:
        ways = start.ways if plan.cage is not None else start.ways * np.float32(offset)
        outside = outside_of(_facing(low, uv, ways, high, parted), low.size, cancel=cancel)
        if outside.share > _OUTSIDE:
            one = finding("mesh-outside-cage", file=low.name, share=outside.share)
            found.append(one.model_copy(update={"where": outside.where if tile is None else None}))
    return baked


def _facing(low: Shape, uv: FloatArray, ways: FloatArray, high: Shape, parted: Parted | None) -> list[Facing]:
    """What is baked from each other: the whole meshes, or part by part."""
    whole = Facing(low.at, low.by_triangle(uv), ways, high.at)
    if parted is None:
        return [whole]
    sides = ((parted.low == k, triangles) for k, triangles in enumerate(parted.triangles))
    return [Facing(whole.low[own], whole.uv[own], whole.ways[own], whole.high[theirs]) for own, theirs in sides]


def _bands(size: Size) -> Iterator[tuple[int, int]]:
    step = max(1, _BAND // size.width)
    return ((first, min(first + step, size.height)) for first in range(0, size.height, step))


def _start_of(low: Shape, plan: BakePlan) -> _Low:
    normals = low.by_triangle(low.shading)
    frame = tangents(low) if "normal" in plan.maps else None
    if plan.cage is not None:
        if len(plan.cage.corners) != len(low.corners):
            raise MeshInvalid(
                f"the cage has {len(plan.cage.corners)} corners and the low mesh {len(low.corners)}: make it from the low mesh."
            )
        ways = plan.cage.points[low.by_triangle(plan.cage.corners)] - low.at
        return _Low(low, normals, frame, ways, False)
    averaged = plan.averaged
    if averaged is None:
        averaged = low.normals is not None and _has_hard_edges(low)
    ways = smooth_normals(low)[low.faces] if averaged else normals
    return _Low(low, normals, frame, ways, not averaged)


def _has_hard_edges(low: Shape) -> bool:
    one_uv = np.zeros((len(low.corners), 2), np.float32)
    return bool(len(hard_edges_inside(low, one_uv, edges_of(low))))


def _offset_for(start: _Low, high: Shape, cast: _Cast) -> float:
    """A little more than the farthest that the high mesh, where it looks the same way, lies from the low one."""
    low = start.shape
    at, ways = low.at, start.ways
    places = scattered(at, _TRIED)
    points, way = places.of(at), made_unit(places.of(ways))
    reach = np.full(_TRIED, _FARTHEST * low.size, np.float32)
    flat = np.cross(high.at[:, 1] - high.at[:, 0], high.at[:, 2] - high.at[:, 0])
    nearest = np.full(_TRIED, np.inf, np.float32)
    for sign in (1, -1):
        met = cast.hits(points, sign * way, reach, places.triangle)
        looks = (flat[np.maximum(met.triangle, 0)] * way).sum(1) > 0
        nearest = np.where((met.triangle >= 0) & looks, np.minimum(nearest, met.distance), nearest)
    held = nearest[np.isfinite(nearest)]
    return float(max(held.max() * _MORE, 1e-4 * low.size)) if len(held) else _USUAL * low.size


@dataclass(frozen=True)
class _Cast:
    """Rays from the low mesh: into its own part of the high one where parts are told apart."""

    caster: Caster
    parted: Parted | None

    def hits(self, origins: FloatArray, ways: FloatArray, reach: FloatArray, low_triangle: IntArray) -> Hits:
        if self.parted is None:
            return hits(self.caster, origins, ways, reach)
        return self.parted.hits(origins, ways, reach, low_triangle)


class _Canvas:
    """Maps as they fill, band after band."""

    def __init__(
        self,
        plan: BakePlan,
        maps: tuple[MapName, ...],
        low: Shape,
        high: Shape | None,
        cast: _Cast,
        start: _Low,
        offset: float,
        cancel: Cancel,
    ) -> None:
        self.plan, self.maps, self.low, self.high, self.cast = plan, maps, low, high, cast
        self.start, self.offset, self.cancel = start, offset, cancel
        giver = high or low
        self.giver, self.size = giver, giver.size
        self.giver_normals = np.ascontiguousarray(giver.by_triangle(giver.shading))
        self.curvature = curvature_of(giver)[giver.faces][..., None] if "curvature" in maps else None
        by_material = plan.id_by == "material" or (plan.id_by is None and len(np.unique(giver.material)) > 1)
        names = giver.materials if by_material else giver.parts
        self.colors = colors_of(names)
        self.marks = (giver.material if by_material else giver.part)[giver.polygon_of]
        whole = low.points[np.unique(low.corners)]
        self.box = whole.min(0), whole.max(0)
        self.values: dict[MapName, FloatArray] = {}
        sides = plan.size, plan.size
        self.covered, self.missed = (np.zeros(sides, bool) for _ in range(2))
        self.hits, self.drawn = (np.zeros(sides, np.uint8) for _ in range(2))
        for name in maps:
            wide = (3,) if name in ("normal", "object_normal", "position", "id") else ()
            self.values[name] = np.zeros((*sides, *wide), np.float32)

    def add(self, cover: Cover, first: int, last: int) -> None:
        within = np.nonzero(cover.is_covered & self.covered[first:last])
        if not len(within[0]):
            return
        place = within[0] + first, within[1]
        texels = place[0] * self.covered.shape[1] + place[1]
        here = Places(texels, cover.triangle[within], cover.second[within], cover.third[within])
        points = here.of(self.low.at)
        if self.high is None:
            there, is_met = here, np.ones(len(texels), bool)
        else:
            there, is_met = self._met(here, points)
        self.drawn[place] += 1
        self.hits[place] += is_met
        self.missed[place] |= ~is_met
        self._marked(place, here, there, points, is_met)

    def _met(self, here: Places, points: FloatArray) -> tuple[Places, np.ndarray]:
        """Where on the high mesh the rays of some samples end."""
        way = here.of(self.start.ways)
        if self.plan.cage is None:
            way = (made_unit(way) if self.start.is_straight else way) * np.float32(self.offset)
        long = np.linalg.norm(way, axis=1)
        unit = way / np.maximum(long, 1e-30)[:, None]
        met = self.cast.hits(points + way, -unit, 2 * long, here.triangle)
        is_met = met.triangle >= 0
        there = Places(here.texels, np.maximum(met.triangle, 0), met.second, met.third)
        return there, is_met

    def _marked(
        self,
        place: tuple[np.ndarray, np.ndarray],
        here: Places,
        there: Places,
        points: FloatArray,
        is_met: np.ndarray,
    ) -> None:
        normals = made_unit(there.of(self.giver_normals))
        held = tuple(part[is_met] for part in place)
        surface = None
        if {"occlusion", "thickness"} & set(self.maps):
            at = self.giver.at[there.triangle[is_met]]
            faces = made_unit(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]))
            faces = np.where((faces * normals[is_met]).sum(1, keepdims=True) < 0, -faces, faces)
            surface = Surface(there.of(self.giver.at)[is_met], normals[is_met], faces, here.texels[is_met], self.size)
        for name in self.maps:
            values = self.values[name]
            match name:
                case "normal":
                    values[held] += self._in_frame(here, normals)[is_met]
                case "object_normal":
                    values[held] += normals[is_met]
                case "height":
                    values[place] += self._height(here, points)
                case "position":
                    values[place] += points
                case "id":
                    values[held] = self.colors[self.marks[there.triangle[is_met]]]
                case "curvature":
                    assert self.curvature is not None
                    values[held] += there.of(self.curvature)[is_met, 0]
                case "occlusion" | "thickness":
                    assert surface is not None
                    measure = openness if name == "occlusion" else thickness
                    values[held] += measure(self.cast.caster, surface, self.plan.rays, self.plan.seed, cancel=self.cancel)

    def _in_frame(self, here: Places, normals: FloatArray) -> FloatArray:
        """Normals in the frame of the low mesh, its vectors interpolated and not made unit: what a shader does, undone."""
        assert self.start.tangents is not None
        return in_frames(normals, here.of(self.start.normals), here.of(self.start.tangents))

    def _height(self, here: Places, points: FloatArray) -> FloatArray:
        """How far above the low mesh the high one is, straight along the normal; 0 where nothing is met."""
        way = made_unit(here.of(self.start.normals))
        reach = np.full(len(points), 2 * self.offset, np.float32)
        met = self.cast.hits(points + way * np.float32(self.offset), -way, reach, here.triangle)
        return np.where(met.triangle >= 0, np.float32(self.offset) - met.distance, np.float32(0))

    def finished(self) -> dict[MapName, BakedMap]:
        """The maps, means taken, ranges told, and padded to full."""
        held = self.covered & ((self.hits > 0) | (self.high is None))
        rows, columns = (np.zeros(held.shape, np.int32) for _ in range(2))
        if held.any() and not held.all():
            found = ndimage.distance_transform_edt(~held, return_distances=False, return_indices=True)
            rows, columns = as_type(np.ndarray, found)
        out: dict[MapName, BakedMap] = {}
        for name in self.maps:
            values = self.values.pop(name)
            if name in ("normal", "object_normal"):
                made_unit(values)
            elif name != "id":
                counts = np.maximum(self.drawn if name in ("height", "position") else self.hits, 1).astype(np.float32)
                values /= counts if values.ndim == 2 else counts[..., None]
            if held.any():
                padded(values, held, rows, columns)
            out[name] = self._ranged(name, values, held)
        return out

    def _ranged(self, name: MapName, values: FloatArray, held: np.ndarray) -> BakedMap:
        if name == "position":
            low, high = self.box
            span = np.maximum(high - low, 1e-30)
            return BakedMap(np.clip((values - low) / span, 0, 1), _triple(low), _triple(high))
        if name in ("height", "curvature"):
            told = np.abs(values[held]) if held.any() else np.zeros(1)
            top = float(told.max() if name == "height" else np.percentile(told, _TELLING)) or 1.0
            return BakedMap(np.clip(values / np.float32(2 * top) + np.float32(0.5), 0, 1), -top, top)
        if name == "thickness":
            top = float(values[held].max()) if held.any() else 1.0
            return BakedMap(values / np.float32(top or 1.0), 0.0, top)
        if name == "occlusion":
            return BakedMap(values, 0.0, 1.0)
        return BakedMap(values)


def _triple(values: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(value) for value in values)
    return x, y, z
