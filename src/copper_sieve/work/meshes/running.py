"""Bakes behind the screen: a small trial first, then the maps at their size, which become sources of the set."""

from __future__ import annotations

import contextlib
import hashlib
import io
import time
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal
from uuid import UUID

import numpy as np
import psycopg

from ...core.bake import BakedPicture, BakePlan, bake, with_baked
from ...core.bake.baking import Baked
from ...core.bake.cast import Caster
from ...core.bake.parting import Parted
from ...core.baked_maps import BAKED, MapName
from ...core.bands import Cancel
from ...core.checks.mesh_pairs import cage_findings, pair_findings
from ...core.errors import MeshInvalid
from ...core.findings import Finding
from ...core.mesh.made import high_of, joined, low_of, only
from ...core.mesh.shape import Shape
from ...core.mesh.unfold import uv_areas
from ...core.recipe import BakedFrom, Worn
from ...core.target import legal_name
from ...files import encode, read_bytes
from ...store import bakes, sets
from ...store.bakes import BakeRow
from ...store.database import Database, Pool
from ...store.originals import keep_original
from ..background import Background, Ended
from .baking import codes_of
from .casting import caster_for, parted_for
from .keeping import KeptMeshes

__all__ = ["Baker", "baked_pictures"]

_TRIAL_PX, _TRIAL_RAYS = 512, 16
_TRIAL_SHARE = 0.15  # of the bar, as the trial is over soon
_REPORT_EVERY_S = 0.1
_MOVED_TRIES = 5  # times that somebody may change the set while its maps are put in


@dataclass(frozen=True)
class Picture:
    """A baked map as a file."""

    map: MapName
    content: bytes
    depth: int
    ends: tuple[tuple[float, ...], tuple[float, ...]]

    @property
    def sha256(self) -> str:
        return hashlib.sha256(self.content).hexdigest()


@dataclass(frozen=True)
class _Bodies:
    """What a bake reads: the part of the low mesh that wears the set, what is cast from, and the cage over that part."""

    low: Shape
    high: Shape | None
    cage: Shape | None
    caster: Caster
    parted: Parted | None
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
        bodies = self._read(row.worn, cancel)
        tell = _Teller(self._pool, id)
        began = time.monotonic()
        trial = self._trial(row, bodies, tell, cancel)
        seconds = (time.monotonic() - began) * _times_longer(row)
        found = [one.model_dump(mode="json") for one in (*bodies.findings, *trial.findings)]
        with self._pool.connection() as conn:
            bakes.update_bake(conn, id, findings=found)
        worst = next((one for one in trial.findings if one.grade == "stop"), None)
        if worst is not None and not row.is_trial:
            raise MeshInvalid(f"The trial at {_TRIAL_PX} px says: {worst.text} So the rest was not baked.")
        if row.is_trial:
            with self._pool.connection() as conn:
                bakes.update_bake(conn, id, state="done", share=1.0, doing="")
            return
        self._whole(row, bodies, tell, cancel, seconds)

    def _read(self, worn: Worn, cancel: Cancel) -> _Bodies:
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
        caster = caster_for(high or low, cancel=cancel)
        return _Bodies(low, high, cage, caster, parted_for(low, high, cancel=cancel), found)

    def _trial(self, row: BakeRow, bodies: _Bodies, tell: _Teller, cancel: Cancel) -> Baked:
        """A small bake of the same maps: quick to look at, and it says whether rays miss."""
        size = min(_TRIAL_PX, row.size)
        tell.begin(f"Trial at {size} px", 0.0, 1.0 if row.is_trial else _TRIAL_SHARE)
        plan = replace(_plan(row.worn, bodies, size), rays=min(_TRIAL_RAYS, row.worn.rays), samples=1)
        baked = bake(bodies.low, bodies.high, plan, bodies.caster, parted=bodies.parted, cancel=cancel, progress=tell)
        pictures = baked_pictures(baked)
        missed = _missed(baked)
        rows: list[dict[str, Any]] = [{"map": p.map, "title": BAKED[p.map].title, "sha256": p.sha256} for p in pictures]
        rows += [{"map": "missed", "title": "Rays that missed", "sha256": hashlib.sha256(missed).hexdigest()}] if missed else []
        with self._pool.connection() as conn:
            for picture in pictures:
                _keep(conn, picture.content, f"trial_{picture.map}.png")
            if missed:
                _keep(conn, missed, "trial_missed.png")
            bakes.update_bake(conn, row.id, trial=rows)
        return baked

    def _whole(self, row: BakeRow, bodies: _Bodies, tell: _Teller, cancel: Cancel, seconds: float) -> None:
        worn = row.worn
        tell.begin(f"Baking at {row.size} px, {_about(seconds)}", _TRIAL_SHARE, 0.92)
        baked = bake(
            bodies.low,
            bodies.high,
            _plan(worn, bodies, row.size),
            bodies.caster,
            parted=bodies.parted,
            cancel=cancel,
            progress=tell,
        )
        tell.begin("Putting the maps into the set", 0.92, 1.0)
        cancel.check()
        pictures, missed = baked_pictures(baked), _missed(baked)
        missed_map = hashlib.sha256(missed).hexdigest() if missed else None
        with self._pool.connection() as conn:
            name = legal_name(sets.get_set(conn, row.set_id).name)
            entries = [_entry(p, f"{name}_{p.map}.png", row, baked, bodies.low, missed_map) for p in pictures]
            for picture, entry in zip(pictures, entries):
                _keep(conn, picture.content, entry.name)
            if missed:
                _keep(conn, missed, f"{name}_missed.png")
        found = [one.model_dump(mode="json") for one in (*bodies.findings, *baked.findings)]
        for _ in range(_MOVED_TRIES):
            cancel.check()
            with contextlib.suppress(sets.HeadMoved), self._pool.connection() as conn:
                now = sets.get_set(conn, row.set_id)
                titles = ", ".join(BAKED[p.map].title.lower() for p in pictures)
                recipe = with_baked(now.recipe, entries)
                sets.write_recipe(conn, row.set_id, expects=now.head, recipe=recipe, note=f"Baked {titles}")
                bakes.update_bake(conn, row.id, state="done", share=1.0, doing="", findings=found)
                return
        raise MeshInvalid("the set was changed again and again while its maps were put in. Bake again.")


def _plan(worn: Worn, bodies: _Bodies, size: int) -> BakePlan:
    offset = None if worn.offset is None else worn.offset / 100 * bodies.low.size
    giver = bodies.high or bodies.low
    by: Literal["material", "part"] = "material" if len(np.unique(giver.material)) > 1 else "part"
    told = {"samples": worn.samples, "rays": worn.rays, "offset": offset, "cage": bodies.cage}
    return BakePlan(worn.maps, size, id_by=by, **told)


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


def baked_pictures(baked: Baked) -> list[Picture]:
    """Every map of a bake as a PNG of 16 bits, of 8 where it holds marks."""
    found = []
    for map, made in baked.maps.items():
        codes = codes_of(map, made)
        ends = () if made.low is None else _triple(made.low), () if made.high is None else _triple(made.high)
        found.append(Picture(map, encode(codes, "png"), codes.itemsize * 8, ends))
    return found


def _triple(value: float | tuple[float, float, float]) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,)


def _missed(baked: Baked) -> bytes | None:
    return encode((baked.missed * np.uint8(255)).astype(np.uint8), "png") if baked.missed.any() else None


def _entry(picture: Picture, name: str, row: BakeRow, baked: Baked, low: Shape, missed_map: str | None) -> BakedPicture:
    worn = row.worn
    made = BakedFrom(
        map=picture.map,
        low=worn.low.print,
        material=worn.material,
        high=tuple(mesh.print for mesh in worn.high),
        cage=None if worn.cage is None else worn.cage.print,
        offset=worn.offset,
        far=baked.offset,
        samples=worn.samples,
        rays=worn.rays,
        caster=baked.caster,
        missed=baked.missed_share,
        missed_map=missed_map,
        low_end=picture.ends[0],
        high_end=picture.ends[1],
    )
    rise = (picture.ends[1][0] - picture.ends[0][0]) / _width_of(low) if picture.map == "height" else None
    return BakedPicture(picture.sha256, name, row.size, 8 if picture.depth == 8 else 16, made, rise, low.up)


def _width_of(low: Shape) -> float:
    """How wide the picture lies on the mesh, in units of the mesh: the root of its area over that of its UV."""
    assert low.uv is not None
    at = low.at.astype(np.float64)
    area = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum() / 2
    return float(np.sqrt(area / max(np.abs(uv_areas(low, low.uv)).sum(), 1e-12)))


def _keep(conn: Database, content: bytes, name: str) -> None:
    header = asdict(read_bytes(content, name).header)
    sha256 = hashlib.sha256(content).hexdigest()
    keep_original(conn, sha256=sha256, name=name, size_bytes=len(content), content=io.BytesIO(content), header=header)


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
