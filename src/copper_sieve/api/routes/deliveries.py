"""Plans and deliveries."""

from __future__ import annotations

import hashlib
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import count
from pathlib import Path
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from ...core.errors import SieveError
from ...core.recipe import Evaluation, Recipe
from ...core.target import Target, write_target
from ...store import deliveries, destinations, sets
from ...store.database import Database
from ...store.sets import SetRow
from ...work import Plan, plan_delivery
from ...work.deliveries.again import Answer, compared, keyed, latest_folder
from ...work.deliveries.destinations import Part, apart
from ...work.deliveries.handing import note_of
from ...work.deliveries.running import target_of
from ..models.deliveries import Delivery, DeliveryLine, PlanRequest
from ..state import AppState, State, known_target
from .destinations import destination_of

__all__ = ["router"]

router = APIRouter()


@dataclass(frozen=True)
class _Asked:
    """What a request comes to: plans in the order of sets and targets, and the folder of before that they go on in."""

    plans: list[tuple[SetRow, Plan]]
    folder: str | None


def _asked(state: AppState, project: str, request: PlanRequest) -> _Asked:
    with state.pool.connection() as conn:
        box = sets.project_named(conn, project)
        rows = [sets.get_set(conn, set_id) for set_id in request.sets]
        targets = [known_target(conn, key) for key in request.targets]
        done = deliveries.done_manifests(conn, box.id) if request.into == "own" else []
        places = destinations.list_destinations(conn, box.id) if request.into == "own" else {}
    unwanted = {(one.set, one.target, one.role) for one in request.unwanted}
    pairs = {(row.name, target.key) for row in rows for target in targets}
    folder, lying = latest_folder(state.destinations.deliveries, done, pairs)

    counted: set[str] = set()

    def evaluated(row: SetRow) -> Evaluation:
        facts = row.recipe.facts
        return state.evaluation(row.recipe, None if request.size is None else min(request.size, max(facts.width, facts.height)))

    def planned(row: SetRow, evaluation: Evaluation, target: Target) -> Plan:
        roles = {role for set_id, key, role in unwanted if (set_id, key) == (row.id, target.key)}
        plan = keyed(evaluation, target, plan_delivery(evaluation, target, row.name, project=box.title, unwanted=roles))
        where = places.get(target.key)
        if where is not None:
            names: dict[Part, str] = {"project": box.title, "set": row.name, "target": target.key}
            plan = plan.model_copy(update={"place": destination_of(where).place(names)})
        elif folder is None:
            return state.deliverer.lasting(evaluation, target, plan, counted)
        answers: dict[str, Answer] = {
            one.name: one.answer for one in request.answers if (one.set, one.target) == (row.name, target.key)
        }
        there = lying.get((row.name, target.key, plan.place), {})
        lies = state.destinations.folder(folder or "", plan)
        plan = compared(plan, there, lies, state.hashes.of, answers).model_copy(update={"folder": folder})
        return state.deliverer.lasting(evaluation, target, plan, counted)

    of_sets = [(row, evaluated(row)) for row in rows]
    plans = [planned(row, evaluation, target) for row, evaluation in of_sets for target in targets]
    return _Asked(list(zip((row for row in rows for _ in targets), apart(plans))), folder)


@router.post("/projects/{project}/plans")
def plan(state: State, project: str, request: PlanRequest) -> list[Plan]:
    """The exact files, before anything is written, each as it stands against the folder it goes to."""
    return [plan for _, plan in _asked(state, project, request).plans]


@router.post("/projects/{project}/deliveries", status_code=201)
def start(state: State, project: str, request: PlanRequest) -> Delivery:
    """Start writing in the background: what changed, into the folder of before, or everything into a new one.

    Files that wait, and files in whose place lies what nobody said may be touched, are not written.
    """
    asked = _asked(state, project, request)
    going = [(row, plan) for row, plan in asked.plans if any(f.is_written for f in plan.files)]
    if not going:
        raise SieveError("Nothing can be delivered: choose a set and a target of which at least one file does not wait.")
    if not request.remove and not any(f.goes for _, plan in going for f in plan.files):
        raise SieveError("There is nothing to write: every file lies there as it would be written.")
    recipes = {row.id: row.recipe.model_dump(mode="json", by_alias=True) for row, _ in going}
    with state.pool.connection() as conn:  # a delivery keeps the tables it was made by
        tables = {key: write_target(known_target(conn, key)) for key in {plan.target for _, plan in going}}
    jobs: list[dict[str, Any]] = [
        {"plan": plan.model_dump(mode="json"), "recipe": recipes[row.id], "target": tables[plan.target]} for row, plan in going
    ]
    gone = {f"{plan.set}/{plan.target}/{name}" for _, plan in going for name in plan.gone}
    jobs[0]["remove"] = [place for place in request.remove if place in gone]
    heads = {str(row.id): row.head for row, _ in going}
    with state.pool.connection() as conn:
        box = sets.project_named(conn, project)
        told = {"project_id": box.id, "plan": jobs, "heads": heads, "is_again": asked.folder is not None}
        folder = asked.folder or _new_folder(conn, state.destinations.deliveries, project)
        delivery_id = deliveries.create_delivery(conn, folder=folder, **told)
    state.deliverer.start(delivery_id)
    return get(state, delivery_id)


def _new_folder(conn: Database, root: Path, project: str) -> str:
    """Make a folder of a name that no delivery had before, not even one whose folder was taken away since."""
    day = datetime.now(UTC).date().isoformat()
    used = deliveries.used_folders(conn, f"{project}/{day} ")
    (root / project).mkdir(parents=True, exist_ok=True)
    for number in count(1):
        folder = f"{project}/{day} {number}"
        if folder in used:
            continue
        try:
            (root / folder).mkdir()
            return folder
        except FileExistsError:
            continue
    raise AssertionError("counting has no end")


@router.get("/deliveries/{delivery_id}")
def get(state: State, delivery_id: UUID) -> Delivery:
    with state.pool.connection() as conn:
        row = deliveries.get_delivery(conn, delivery_id)
        return Delivery(**_told(state, row, sets.list_heads(conn, row.project_id)), rows=row.rows)


@router.get("/deliveries/{delivery_id}/plan")
def plan_of(state: State, delivery_id: UUID, target: str, set_name: Annotated[str, Query(alias="set")]) -> Plan:
    """The files of one set for one target, as they were planned and written."""
    with state.pool.connection() as conn:
        return Plan.model_validate(deliveries.job_of(conn, delivery_id, set_name, target)[1]["plan"])


@router.get("/projects/{project}/deliveries")
def list_all(state: State, project: str) -> list[DeliveryLine]:
    with state.pool.connection() as conn:
        box = sets.project_named(conn, project)
        heads = sets.list_heads(conn, box.id)
        newest: dict[str, deliveries.DeliveryLine] = {}  # one that went on in a folder stands for those before
        for row in deliveries.list_deliveries(conn, box.id):
            newest.setdefault(row.folder if row.state == "done" else str(row.id), row)
        return [DeliveryLine(**_told(state, row, heads)) for row in newest.values()]


@router.post("/deliveries/{delivery_id}/cancel", status_code=202)
def cancel(state: State, delivery_id: UUID) -> Delivery:
    state.deliverer.cancel(delivery_id)
    return get(state, delivery_id)


def _told(state: AppState, row: deliveries.DeliveryLine, heads: Mapping[UUID, int]) -> dict[str, Any]:
    now = {str(set_id): head for set_id, head in heads.items()}
    stale = any(set_id in now and now[set_id] != head for set_id, head in row.heads.items())
    kept = {name: getattr(row, name) for name in DeliveryLine.model_fields if name not in ("stale", "path", "sent")}
    sent = [{**one, "path": state.destinations.path_of(one["place"])} for one in row.sent]
    return kept | {"stale": stale, "path": str(state.destinations.deliveries / row.folder), "sent": sent}


@router.get("/deliveries/{delivery_id}/note", response_class=Response)
def note(
    state: State,
    delivery_id: UUID,
    target: str,
    set_name: Annotated[str, Query(alias="set")],
    form: Literal["html", "md"] = "html",
) -> Response:
    """The hand-over note of one set for one target, as it was delivered."""
    with state.pool.connection() as conn:
        job = deliveries.job_of(conn, delivery_id, set_name, target)[1]
    written = note_of(Plan.model_validate(job["plan"]), target_of(job), Recipe.model_validate(job["recipe"]))
    if form == "md":
        return Response(written.markdown(), media_type="text/markdown; charset=utf-8")
    return Response(written.html(), media_type="text/html; charset=utf-8")


@router.get("/deliveries/{delivery_id}/zip")
def as_zip(state: State, delivery_id: UUID) -> StreamingResponse:
    """The delivered files in one archive, stored as they are."""
    with state.pool.connection() as conn:
        row = deliveries.whole_delivery(conn, delivery_id)
    folder, manifest = state.destinations.deliveries / row.folder, row.manifest
    if row.state != "done" or manifest is None or not folder.is_dir():
        raise SieveError("This delivery has no files: it did not finish, or its folder was taken away. Deliver again.")
    files = state.destinations.located(row.folder, manifest)
    changed = [name for name, (path, sha256) in files.items() if _sha256(path) != sha256]
    if changed:
        raise FilesChanged(f"{', '.join(changed)} in {row.folder} is not what was delivered any more. Deliver again.")
    headers = {"content-disposition": f'attachment; filename="{Path(row.folder).name.replace(" ", "-")}.zip"'}
    paths = {name: path for name, (path, _) in sorted(files.items())}
    return StreamingResponse(_zipped(paths), media_type="application/zip", headers=headers)


class FilesChanged(SieveError):
    """What lies in a delivery's folder is not what its manifest says."""

    code = "files-changed"


def _sha256(path: Path) -> str | None:
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError:
        return None


class _Pipe:
    """A file that hands over what was written since it was last asked."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def write(self, content: bytes) -> int:
        self._parts.append(bytes(content))
        return len(content)

    def flush(self) -> None: ...

    def take(self) -> bytes:
        taken, self._parts = b"".join(self._parts), []
        return taken


def _zipped(files: Mapping[str, Path]) -> Iterator[bytes]:
    pipe = _Pipe()
    with zipfile.ZipFile(pipe, "w") as archive:  # type: ignore[arg-type]
        for name, path in files.items():
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), path.read_bytes())
            yield pipe.take()
    yield pipe.take()
