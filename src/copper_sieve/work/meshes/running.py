"""Bakes behind the screen: a small trial first, then the maps at their size, which become sources of the set."""

from __future__ import annotations

import contextlib
import io
import time
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal, NamedTuple
from typing import cast as as_type
from uuid import UUID

import numpy as np
import psycopg

from ...core.bake import BakedPicture, BakePlan, with_baked
from ...core.bake.entering import tiles_of_bake
from ...core.baked_maps import BAKED, MapName
from ...core.bands import Cancel
from ...core.checks.mesh_pairs import cage_findings, pair_findings
from ...core.errors import MeshInvalid
from ...core.findings import Finding
from ...core.mesh.made import high_of, joined, low_of, only
from ...core.mesh.shape import Shape
from ...core.mesh.unfold import uv_areas
from ...core.recipe import BakedFrom, Recipe, Worn
from ...core.recipe.model import TileFile
from ...core.target import legal_name
from ...files import read_bytes
from ...store import bakes, sets
from ...store.bakes import BakeRow
from ...store.database import Database, Pool
from ...store.originals import keep_original
from ..background import Background, Ended
from .casting import caster_for, parted_for
from .keeping import KeptMeshes
from .pictures import Bodies, Outcome, Picture, bake_pictures, laid_out

__all__ = ["Baker"]

_TRIAL_PX, _TRIAL_RAYS = 512, 16
_TRIAL_SHARE = 0.15  # of the bar, as the trial is over soon
_REPORT_EVERY_S = 0.1
_MOVED_TRIES = 5  # times that somebody may change the set while its maps are put in


@dataclass(frozen=True)
class _Job:
    """What a bake reads: the part of the low mesh that wears the set, what is cast from, and the cage over that part."""

    bodies: Bodies
    cage: Shape | None
    tiles: tuple[int, ...]
    findings: list[Finding]


class Baker(Background):
    """Bakes what sets ask for, one at a time. What did not finish changes no set."""

    name, did, again = "bakes", "baked", "bake again"

    def __init__(self, pool: Pool, meshes: KeptMeshes) -> None:
        self._meshes = meshes
        super().__init__(pool)

    def _write_end(self, id: UUID, state: Ended, problem: str | None) -> None:
        with self._pool.connection() as conn:
            bakes.update_bake(conn, id, state=state, problem=problem, doing="")

    def _work(self, id: UUID, cancel: Cancel) -> None:
        with self._pool.connection() as conn:
            row = bakes.get_bake(conn, id)
            bakes.update_bake(conn, id, state="running", doing="Reading the meshes")
            recipe = sets.get_set(conn, row.set_id).recipe
        job = self._read(row.worn, recipe, cancel)
        tell = _Teller(self._pool, id)
        began = time.monotonic()
        trial = self._trial(row, job, tell, cancel)
        seconds = (time.monotonic() - began) * _times_longer(row)
        with self._pool.connection() as conn:
            bakes.update_bake(conn, id, findings=_found(job, trial))
        worst = next((one for one in trial.findings if one.grade == "stop"), None)
        if worst is not None and not row.is_trial:
            raise MeshInvalid(f"The trial at {_TRIAL_PX} px says: {worst.text} So the rest was not baked.")
        if row.is_trial:
            with self._pool.connection() as conn:
                bakes.update_bake(conn, id, state="done", share=1.0, doing="")
            return
        self._whole(row, job, tell, cancel, seconds)

    def _read(self, worn: Worn, recipe: Recipe, cancel: Cancel) -> _Job:
        whole = low_of(self._meshes.whole(worn.low))
        which = whole.material == worn.material
        low, found, cage = only(whole, which), [], None
        if worn.cage is not None:
            around = self._meshes.whole(worn.cage)
            found += cage_findings(worn.cage.name, whole, around)
            worst = next((one for one in found if one.grade == "stop"), None)
            if worst is not None:
                raise MeshInvalid(worst.text)
            cage = only(around, which)
        high = joined([high_of(self._meshes.whole(mesh)) for mesh in worn.high]) if worn.high else None
        if high is not None:
            found += pair_findings([*low.parts, *high.parts])
        tiles = tiles_of_bake(recipe, low)
        bodies = Bodies(low, high, caster_for(high or low, cancel=cancel), parted_for(low, high, cancel=cancel))
        return _Job(bodies, cage, tiles, found)

    def _trial(self, row: BakeRow, job: _Job, tell: _Teller, cancel: Cancel) -> Outcome:
        """A small bake of the same maps: quick to look at, and it says whether rays miss."""
        size = min(_TRIAL_PX, row.size)
        tell.begin(f"Trial at {size} px", 0.0, 1.0 if row.is_trial else _TRIAL_SHARE)
        plan = replace(_plan(row.worn, job, size), rays=min(_TRIAL_RAYS, row.worn.rays), samples=1)
        made: dict[str, dict[int | None, Picture]] = {}

        def keep(picture: Picture) -> None:
            made.setdefault(picture.map, {})[picture.tile] = picture

        outcome = bake_pictures(job.bodies, plan, keep, tiles=job.tiles, cancel=cancel, progress=tell)
        if "missed" in made:
            made["missed"] = made.pop("missed")  # shown last
        rows: list[dict[str, Any]] = []
        with self._pool.connection() as conn:
            for map, of_tiles in made.items():
                kept = _keep(conn, laid_out(of_tiles, job.tiles), f"trial_{map}.png")
                rows.append({"map": map, "title": _title(map), "sha256": kept.sha256})
            bakes.update_bake(conn, row.id, trial=rows)
        return outcome

    def _whole(self, row: BakeRow, job: _Job, tell: _Teller, cancel: Cancel, seconds: float) -> None:
        in_tiles = f", {len(job.tiles)} tiles" if job.tiles else ""
        tell.begin(f"Baking at {row.size} px{in_tiles}, {_about(seconds)}", _TRIAL_SHARE, 0.97)
        with self._pool.connection() as conn:
            name = legal_name(sets.get_set(conn, row.set_id).name)
        made: dict[str, list[_Kept]] = {}

        def keep(picture: Picture) -> None:
            of_tile = "" if picture.tile is None else f".{picture.tile}"
            with self._pool.connection() as conn:
                made.setdefault(picture.map, []).append(_keep(conn, picture, f"{name}_{picture.map}{of_tile}.png"))

        outcome = bake_pictures(job.bodies, _plan(row.worn, job, row.size), keep, tiles=job.tiles, cancel=cancel, progress=tell)
        tell.begin("Putting the maps into the set", 0.97, 1.0)
        missed = made.pop("missed", [])
        entries = [_entry(as_type(MapName, map), kept, row, job, outcome, missed) for map, kept in made.items()]
        for _ in range(_MOVED_TRIES):
            cancel.check()
            with contextlib.suppress(sets.HeadMoved), self._pool.connection() as conn:
                now = sets.get_set(conn, row.set_id)
                titles = ", ".join(_title(map).lower() for map in made)
                recipe = with_baked(now.recipe, entries)
                sets.write_recipe(conn, row.set_id, expects=now.head, recipe=recipe, note=f"Baked {titles}")
                bakes.update_bake(conn, row.id, state="done", share=1.0, doing="", findings=_found(job, outcome))
                return
        raise MeshInvalid("the set was changed again and again while its maps were put in. Bake again.")


def _found(job: _Job, outcome: Outcome) -> list[dict[str, Any]]:
    return [one.model_dump(mode="json") for one in (*job.findings, *outcome.findings)]


def _title(map: str) -> str:
    return "Rays that missed" if map == "missed" else BAKED[as_type(MapName, map)].title


def _plan(worn: Worn, job: _Job, size: int) -> BakePlan:
    offset = None if worn.offset is None else worn.offset / 100 * job.bodies.low.size
    return BakePlan(worn.maps, size, samples=worn.samples, rays=worn.rays, offset=offset, cage=job.cage)


def _times_longer(row: BakeRow) -> float:
    """How many times the rays of its trial a bake casts."""
    worn, trial = row.worn, min(_TRIAL_PX, row.size)
    measures = len(set(worn.maps) & {"occlusion", "thickness"})
    each = 1 + measures * worn.rays, 1 + measures * min(_TRIAL_RAYS, worn.rays)
    return (row.size / trial) ** 2 * worn.samples**2 * each[0] / each[1]


def _about(seconds: float) -> str:
    """A stretch of time as it is said beforehand.

    Examples
    --------
    >>> _about(7), _about(41), _about(400)
    ('some seconds', 'about 40 seconds', 'about 7 minutes')
    """
    if seconds < 10:
        return "some seconds"
    return f"about {round(seconds, -1):.0f} seconds" if seconds < 95 else f"about {seconds / 60:.0f} minutes"


def _entry(map: MapName, kept: list[_Kept], row: BakeRow, job: _Job, outcome: Outcome, missed: list[_Kept]) -> BakedPicture:
    worn, low, first = row.worn, job.bodies.low, kept[0]
    made = BakedFrom(
        map=map,
        low=worn.low.print,
        material=worn.material,
        high=tuple(mesh.print for mesh in worn.high),
        cage=None if worn.cage is None else worn.cage.print,
        offset=worn.offset,
        far=outcome.offset,
        samples=worn.samples,
        rays=worn.rays,
        caster=outcome.caster,
        missed=outcome.missed_share,
        missed_map=next((one.sha256 for one in missed if one.tile is None), None),
        missed_in_tiles={one.tile: one.sha256 for one in missed if one.tile is not None},
        low_end=first.ends[0],
        high_end=first.ends[1],
    )
    rise = (first.ends[1][0] - first.ends[0][0]) / _width_of(low) if map == "height" else None

    def file(one: _Kept) -> TileFile:
        return TileFile(sha256=one.sha256, name=one.name, width=row.size, height=row.size, depth=one.depth)

    beside = {one.tile: file(one) for one in kept[1:] if one.tile is not None}
    return BakedPicture(first.sha256, first.name, row.size, first.depth, made, rise, low.up, first.tile, beside)


def _width_of(low: Shape) -> float:
    """How wide the picture lies on the mesh, in units of the mesh: the root of its area over that of its UV."""
    assert low.uv is not None
    at = low.at.astype(np.float64)
    area = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum() / 2
    return float(np.sqrt(area / max(np.abs(uv_areas(low, low.uv)).sum(), 1e-12)))


class _Kept(NamedTuple):
    """A baked picture as it was put into the store."""

    tile: int | None
    name: str
    sha256: str
    depth: Literal[8, 16]
    ends: tuple[tuple[float, ...], tuple[float, ...]]


def _keep(conn: Database, picture: Picture, name: str) -> _Kept:
    content = picture.content
    header = asdict(read_bytes(content, name).header)
    keep_original(conn, sha256=picture.sha256, name=name, size_bytes=len(content), content=io.BytesIO(content), header=header)
    return _Kept(picture.tile, name, picture.sha256, 8 if picture.depth == 8 else 16, picture.ends)


class _Teller:
    """Progress of a bake, written to its row at most ten times a second."""

    def __init__(self, pool: Pool, id: UUID) -> None:
        self._pool, self._id, self._last = pool, id, 0.0
        self._first, self._end = 0.0, 1.0

    def begin(self, doing: str, first: float, end: float) -> None:
        self._first, self._end = first, end
        self._write(share=first, doing=doing)

    def __call__(self, share: float) -> None:
        now = time.monotonic()
        if now - self._last >= _REPORT_EVERY_S:
            self._last = now
            self._write(share=self._first + share * (self._end - self._first))

    def _write(self, **told: Any) -> None:
        with contextlib.suppress(psycopg.Error):  # how far it is can wait; the maps do not
            with self._pool.connection() as conn:
                bakes.update_bake(conn, self._id, **told)
