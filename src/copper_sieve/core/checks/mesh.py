"""Checks on meshes: what would make a bake, or the look in an engine, wrong."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..bake.cover import covered
from ..findings import Finding, finding
from ..mesh.made import is_both
from ..mesh.pairing import role_of
from ..mesh.shape import Shape
from ..mesh.tangents import tangents, unlike_degrees
from ..mesh.topology import Edges, edges_of, inward, islands_of
from ..mesh.udim import are_copies, on_tile, tiles_of
from ..mesh.unfold import hard_edges_inside, margin_of, overlapping, stretch_of, turned_islands, uv_areas
from ..raster import FloatArray, Size
from ..tiles import runs

__all__ = ["LEAST_MARGIN", "MESH_CHECKS", "QUICK_UV", "SeenMesh", "mesh_checks_for", "uv_findings"]

QUICK_UV = "quick UV"  # stands in the name of a mesh whose UV were made by the machine
_OUTSIDE = 1e-5
_OUTSIDE_SAYS = {
    "repeated": "There the picture is repeated, and nothing is baked.",
    "moved": "It lies on what is inside, moved by whole tiles: it shows the same, and nothing is baked from it.",
    "tiles": "A set in tiles lies on it by their numbers, and each is baked. Where one picture is meant, move it in.",
}
_LEAST_SHARE = 0.001  # of what is covered: less overlap is not told
_MARGIN, _SMALLER = 2, 2  # texels for each island at the second smaller map
LEAST_MARGIN = _MARGIN * 2**_SMALLER
_SECOND_MARGIN = 4
_STRETCHED, _UNEVEN = 2.0, 2.0
_CLEAR, _UPRIGHT = 0.7, 2.0
_SCALED = 1e-4
_ALIKE = 0.1  # degrees
_LIES = 2.5  # times as wide as high
_LOOKED_AT = 1024  # px at which overlap and margins are measured, at most
_NAMED_PARTS = 3


@dataclass(frozen=True)
class SeenMesh:
    """A mesh with what its checks share.

    Parameters
    ----------
    file : what it is called
    px : of the maps that it will wear, for margins
    """

    file: str
    shape: Shape
    px: int = 2048
    missing: tuple[str, ...] = ()
    outside: tuple[str, ...] = ()
    layings: tuple[str, ...] = ()

    @cached_property
    def edges(self) -> Edges:
        return edges_of(self.shape)

    @cached_property
    def uv(self) -> FloatArray | None:
        """Its UV where they are numbers and span an area."""
        uv = self.shape.uv
        if uv is None or not np.isfinite(uv).all() or not (np.abs(uv_areas(self.shape, uv)) > 1e-12).any():
            return None
        return uv

    @cached_property
    def uv_of_tiles(self) -> list[FloatArray]:
        """The UV as each tile has them, if they lie in tiles; else as they are. (C, 2) each."""
        moved = (on_tile(self.shape, tile).uv for tile in tiles_of(self.shape) or (None,))
        return [uv for uv in moved if uv is not None]

    @cached_property
    def islands(self) -> np.ndarray:
        assert self.uv is not None
        return islands_of(self.shape, self.uv)

    @cached_property
    def materials(self) -> list[tuple[str, np.ndarray]]:
        """Each material's name, and its triangles."""
        of = self.shape.material[self.shape.polygon_of]
        return [(name or "its one material", np.flatnonzero(of == k)) for k, name in enumerate(self.shape.materials)]


def uv_findings(seen: SeenMesh) -> Iterator[Finding]:
    """Whether a picture can lie on it at all, and where it cannot."""
    uv = seen.shape.uv
    if uv is None:
        yield finding("mesh-no-uv", file=seen.file)
        return
    broken = int((~np.isfinite(uv).all(1)).sum())
    if broken:
        yield finding("mesh-uv-broken", file=seen.file, count=broken)
        return
    areas = np.abs(uv_areas(seen.shape, uv))
    if seen.uv is None:
        yield finding("mesh-uv-empty", file=seen.file)
        return
    is_told = np.zeros(len(areas), bool)
    for name, which in seen.materials:
        if len(which) and not uv[seen.shape.triangles[which]].any():
            is_told[which] = True
            yield finding("mesh-material-no-uv", file=seen.file, material=name)
    at = seen.shape.at.astype(np.float64)
    space = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1)
    is_flat = space > 1e-12 * max(seen.shape.size, 1e-30) ** 2
    lost = int(((areas < 1e-12) & is_flat & ~is_told).sum())
    if lost:
        yield finding("mesh-no-uv-area", file=seen.file, count=lost)
    place = uv[seen.shape.triangles].mean(1)
    is_outside = ((place < -_OUTSIDE) | (place > 1 + _OUTSIDE)).any(1)
    share = float(areas[is_outside].sum() / areas.sum())
    if share > 0:
        tiles = tiles_of(seen.shape)
        way = "repeated" if not tiles else "moved" if are_copies(seen.shape) else "tiles"
        named = f" (tiles {runs(tiles)})" if tiles else ""
        yield finding("mesh-uv-outside", file=seen.file, share=share, tiles=named, says=_OUTSIDE_SAYS[way])


def _areas(seen: SeenMesh) -> Iterator[Finding]:
    at = seen.shape.at.astype(np.float64)
    space = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1)
    empty = int((space <= 1e-12 * max(seen.shape.size, 1e-30) ** 2).sum())
    if empty:
        yield finding("mesh-no-area", file=seen.file, count=empty)


def _overlap(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    pairs = overlapping(seen.shape, seen.uv)
    if not len(pairs):
        return
    is_mirrored = uv_areas(seen.shape, seen.uv) < 0
    of = seen.shape.material[seen.shape.polygon_of]
    for k, (name, which) in enumerate(seen.materials):
        here = pairs[of[pairs[:, 0]] == k]
        if not len(here):
            continue
        counts = [covered(seen.shape, uv, Size(_LOOKED_AT, _LOOKED_AT), which).count for uv in seen.uv_of_tiles]
        inside, twice = (np.stack([count > least for count in counts]) for least in (0, 1))
        share = float(twice.sum() / max(int(inside.sum()), 1))
        if share > _LEAST_SHARE:
            are_copies = (is_mirrored[here[:, 0]] != is_mirrored[here[:, 1]]).all()
            one = finding(
                "mesh-overlap-mirrored" if are_copies else "mesh-overlap",
                file=seen.file,
                count=len(here),
                material=name,
                share=share,
            )
            yield one.model_copy(update={"where": _box(twice[0]) if len(twice) == 1 else None})


def _box(texels: np.ndarray) -> tuple[float, float, float, float]:
    rows, columns = np.nonzero(texels)
    height, width = texels.shape
    return (
        float(columns.min() / width),
        float(rows.min() / height),
        float((columns.max() + 1) / width),
        float((rows.max() + 1) / height),
    )


def _mirrored(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    areas = uv_areas(seen.shape, seen.uv)
    sums = np.bincount(seen.islands, areas)
    count = int((sums < 0).sum())
    if count:
        yield finding("mesh-mirrored", file=seen.file, count=count, islands=len(sums))


def _margin(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    px = min(seen.px, _LOOKED_AT)
    worst = None
    for uv in seen.uv_of_tiles:
        for _, which in seen.materials:
            found = covered(seen.shape, uv, Size(px, px), which)
            at = np.where(found.triangle >= 0, seen.islands[np.maximum(found.triangle, 0)], -1)
            gap = margin_of(at)
            if gap is not None and (worst is None or gap[0] < worst[0]):
                worst = gap
    if worst is None or worst[0] * seen.px / px >= LEAST_MARGIN:
        return
    x, y = (part / px for part in worst[1])
    one = finding("mesh-margin", file=seen.file, gap=worst[0] * seen.px / px, size=seen.px, least=LEAST_MARGIN)
    where = (max(x - 0.02, 0), max(y - 0.02, 0), min(x + 0.02, 1), min(y + 0.02, 1))
    yield one.model_copy(update={"where": where if len(seen.uv_of_tiles) == 1 else None})


def _stretch(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    found = stretch_of(seen.shape, seen.uv)
    if not len(found.ratio):
        return
    ratio = _percentile(found.ratio, found.weight, 0.99)
    if ratio > _STRETCHED:
        yield finding("mesh-stretch", file=seen.file, ratio=ratio)
    of = seen.shape.material[seen.shape.polygon_of][found.triangles]
    for k, (name, _) in enumerate(seen.materials):
        here = of == k
        if here.any():
            dense, thin = (_percentile(found.density[here], found.weight[here], at) for at in (0.01, 0.99))
            if thin / max(dense, 1e-300) > _UNEVEN:
                yield finding("mesh-density", file=seen.file, material=name, times=thin / dense)


def _percentile(values: np.ndarray, weight: np.ndarray, at: float) -> float:
    """The value below which that share of the weight lies."""
    order = np.argsort(values)
    sums = np.cumsum(weight[order])
    return float(values[order][np.searchsorted(sums, at * sums[-1])])


def _turned(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    islands = turned_islands(seen.shape, seen.uv, seen.edges)
    aslant = [abs(angle) for angle, clear in islands if clear > _CLEAR and _UPRIGHT < abs(angle) < 45 - _UPRIGHT]
    if aslant:
        yield finding("mesh-turned", file=seen.file, count=len(aslant), angle=max(aslant))


def _hard(seen: SeenMesh) -> Iterator[Finding]:
    if seen.uv is None:
        return
    found = hard_edges_inside(seen.shape, seen.uv, seen.edges)
    if len(found):
        face, side = seen.edges.faces[found[0], 0], seen.edges.sides[found[0], 0]
        u, v = seen.uv[seen.shape.triangles[face, [side, (side + 1) % 3]]].mean(0)
        place = (max(float(u) - 0.02, 0.0), max(0.98 - float(v), 0.0), min(float(u) + 0.02, 1.0), min(1.02 - float(v), 1.0))
        yield finding("mesh-hard-edges", file=seen.file, count=len(found)).model_copy(update={"where": place})


def _scale(seen: SeenMesh) -> Iterator[Finding]:
    for part, scale in zip(seen.shape.parts, seen.shape.scales):
        sides = np.abs(scale)
        told = {"file": seen.file, "part": part or "the mesh", "scale": " × ".join(f"{side:.4g}" for side in scale)}
        if min(scale) < 0:
            yield finding("mesh-scale-negative", **told)
        elif sides.max() - sides.min() > _SCALED * sides.max():
            yield finding("mesh-scale-uneven", **told)
        elif np.abs(sides - 1).max() > _SCALED:
            yield finding("mesh-scale", **told)


def _polygons(seen: SeenMesh) -> Iterator[Finding]:
    counts = seen.shape.counts
    quads, more = int((counts == 4).sum()), int((counts > 4).sum())
    if quads or more:
        bent = int(seen.shape.bent.sum())
        told = f"; {bent} are concave or bent" if bent else ""
        yield finding("mesh-polygons", file=seen.file, quads=quads, more=more, bent=told)


def _tangents(seen: SeenMesh) -> Iterator[Finding]:
    given = seen.shape.given_tangents
    if given is None or seen.uv is None:
        return
    told = uv_areas(seen.shape, seen.uv) != 0  # elsewhere any direction in the surface is as good as another
    if not told.any():
        return
    theirs, ours = given[seen.shape.triangles][told], tangents(seen.shape)[told]
    apart = unlike_degrees(theirs, ours)
    is_signed = np.sign(theirs[..., 3]) != np.sign(ours[..., 3])
    unsigned = np.where(is_signed, 0, apart)
    worst = float(unsigned.max())
    if worst <= _ALIKE and not is_signed.any():
        yield finding("mesh-tangents-given", file=seen.file, degrees=worst)
    else:
        count = int(is_signed.sum())
        signs = f", and {count} have the other sign" if count else ""
        yield finding("mesh-tangents-differ", file=seen.file, degrees=worst, signs=signs)


def _closed(seen: SeenMesh) -> Iterator[Finding]:
    edges = seen.edges
    if edges.turned_count:
        yield finding("mesh-winding", file=seen.file, count=edges.turned_count)
    if edges.crowded_count:
        yield finding("mesh-crowded", file=seen.file, count=edges.crowded_count)
    if edges.open_count:
        yield finding("mesh-open", file=seen.file, count=edges.open_count)
    looks_inward = inward(seen.shape, edges)
    if looks_inward.any():
        yield finding("mesh-inside-out", file=seen.file, which=_which_triangles(seen.shape, looks_inward))


def _which_triangles(shape: Shape, are_meant: np.ndarray) -> str:
    """What to call some of a shape's triangles."""
    if are_meant.all():
        return "its faces"
    names = [name for k in np.unique(shape.part[shape.polygon_of][are_meant]) if (name := shape.parts[k])]
    more = " and others" if len(names) > _NAMED_PARTS else ""
    where = f" (of {', '.join(names[:_NAMED_PARTS])}{more})" if names else ""
    return f"{int(are_meant.sum())} of its triangles{where}"


def _up(seen: SeenMesh) -> Iterator[Finding]:
    used = seen.shape.points[np.unique(seen.shape.corners)]
    across, up, deep = (used.max(0) - used.min(0)).tolist()
    other = "z" if seen.shape.up == "y" else "y"
    high, flat = (up, deep) if seen.shape.up == "y" else (deep, up)
    lies = f" It is {flat / max(high, 1e-30):.1f} × as deep as high: if it should stand, {other} is up in it."
    why = "glTF says" if seen.shape.scales else "its format says nothing and this is usual"
    yield finding("mesh-up", file=seen.file, axis=seen.shape.up, why=why, lies=lies if flat > _LIES * max(high, across) else "")


def _materials(seen: SeenMesh) -> Iterator[Finding]:
    unnamed = [k for k, name in enumerate(seen.shape.materials) if not name]
    count = int(np.isin(seen.shape.material, unnamed).sum())
    if count:
        yield finding("mesh-no-material", file=seen.file, count=count)


def _second(seen: SeenMesh) -> Iterator[Finding]:
    uv = seen.shape.second_uv
    if uv is None:
        return
    if not np.isfinite(uv).all() or uv.min() < -_OUTSIDE or uv.max() > 1 + _OUTSIDE:
        yield finding("mesh-second-uv", file=seen.file, why="reaches out of the picture")
        return
    if (uv_areas(seen.shape, uv) < -1e-12).any():
        yield finding("mesh-second-uv", file=seen.file, why="lies mirrored in places")
    px = min(seen.px, _LOOKED_AT)
    found = covered(seen.shape, uv, Size(px, px))
    inside = max(int((found.count > 0).sum()), 1)
    if float((found.count > 1).sum()) / inside > _LEAST_SHARE:
        yield finding("mesh-second-uv", file=seen.file, why="overlaps itself")
    islands = islands_of(seen.shape, uv)
    gap = margin_of(np.where(found.triangle >= 0, islands[np.maximum(found.triangle, 0)], -1))
    if gap is not None and gap[0] < _SECOND_MARGIN:
        yield finding("mesh-second-uv", file=seen.file, why=f"leaves {gap[0]:.1f} texels between islands at {px} px")


def _quick(seen: SeenMesh) -> Iterator[Finding]:
    if QUICK_UV in seen.file:
        yield finding("mesh-quick-uv", file=seen.file)


def _beside(seen: SeenMesh) -> Iterator[Finding]:
    for name in seen.missing:
        yield finding("mesh-file-missing", file=seen.file, name=name)
    for name in seen.outside:
        yield finding("mesh-file-outside", file=seen.file, name=name)


def _laid(seen: SeenMesh) -> Iterator[Finding]:
    for how in seen.layings:
        yield finding("mesh-uv-laid", file=seen.file, how=how)


MESH_CHECKS: tuple[Callable[[SeenMesh], Iterator[Finding]], ...] = (
    uv_findings,
    _areas,
    _overlap,
    _mirrored,
    _margin,
    _stretch,
    _turned,
    _hard,
    _scale,
    _polygons,
    _tangents,
    _closed,
    _up,
    _materials,
    _second,
    _laid,
    _quick,
    _beside,
)


_OF_HIGH = (_areas, _scale, _closed, _up, _materials, _beside)  # it wears nothing, so it needs no UV


def mesh_checks_for(stem: str, parts: Sequence[str]) -> Sequence[Callable[[SeenMesh], Iterator[Finding]]]:
    """The checks of a mesh by what its name says that it is for.

    Parameters
    ----------
    stem : its file's name without the ending
    parts : a file of low and high parts is checked as a low mesh
    Examples
    --------
    >>> len(mesh_checks_for("clasp_high", [])) < len(mesh_checks_for("clasp_low", []))
    True
    """
    return _OF_HIGH if role_of(stem)[1] == "high" and not is_both(parts) else MESH_CHECKS
