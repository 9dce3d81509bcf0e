"""Plans and deliveries."""

from __future__ import annotations

import hashlib
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from ...core.errors import SieveError
from ...core.recipe import Recipe
from ...files.archives import Pipe
from ...store import deliveries, projects, sets
from ...work import Plan
from ...work.deliveries.again import Answer
from ...work.deliveries.handing import note_of
from ...work.deliveries.orders import Order, begin, plans_of
from ...work.deliveries.running import target_of
from ..answers import written_here
from ..models.deliveries import Delivery, DeliveryLine, KeptUp, PlanRequest
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()


def _order(project: str, request: PlanRequest) -> Order:
    answers: dict[tuple[str, str], dict[str, Answer]] = {}
    for one in request.answers:
        answers.setdefault((one.set, one.target), {})[one.name] = one.answer
    unwanted = [(one.set, one.target, one.role) for one in request.unwanted]
    told = request.model_dump(include={"sets", "targets", "size", "into", "remove"})
    return Order(project, **told, unwanted=unwanted, answers=answers)


@router.post("/projects/{project}/plans")
@written_here
def plan(state: State, project: str, request: PlanRequest) -> list[Plan]:
    """The exact files, before anything is written, each as it stands against the folder it goes to."""
    return plans_of(state.deliverer, _order(project, request))


@router.post("/projects/{project}/deliveries", status_code=201)
def start(state: State, project: str, request: PlanRequest) -> Delivery:
    """Start writing in the background: what changed, into the folder of before, or everything into a new one.

    Files that wait, and files in whose place lies what nobody said may be touched, are not written.
    """
    return get(state, begin(state.deliverer, _order(project, request)))


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
@written_here
def list_all(state: State, project: str) -> list[DeliveryLine]:
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        heads, names = sets.list_heads(conn, box.id), sets.list_names(conn, box.id)
        lying: dict[str, list[deliveries.Lying]] = {}
        for one in deliveries.list_lying(conn, box.id):
            lying.setdefault(one.folder, []).append(one)
        rows = deliveries.list_deliveries(conn, box.id)
        now = {name: (set_id, heads.get(set_id)) for name, set_id in names.items()}
        whole = [lying.get(row.folder, []) if row.state == "done" else [] for row in rows]
        lines = [(_whole(row, own, now) if own else row, _is_overtaken(own, now)) for row, own in zip(rows, whole)]
        return [DeliveryLine(**_told(state, row, heads, is_overtaken=overtaken)) for row, overtaken in lines]


def _is_overtaken(lying: list[deliveries.Lying], now: Mapping[str, tuple[UUID, int | None]]) -> bool:
    """Whether a target that a set which is still there was written for has another table now."""
    return any(one.is_of_other_table and one.sent["set"] in now for one in lying)


def _whole(
    row: deliveries.DeliveryLine, lying: list[deliveries.Lying], now: Mapping[str, tuple[UUID, int | None]]
) -> deliveries.DeliveryLine:
    """The last delivery into a folder stands for all that lies in it: also what it left as those before had written it.

    A set counts as it is ``now`` only where it lies so for every target.
    """
    heads: dict[str, int] = {}
    for one in (one for one in lying if one.sent["set"] in now):
        set_id, head = now[one.sent["set"]]
        then = one.heads.get(str(set_id))
        if then is not None and (str(set_id) not in heads or then != head):
            heads[str(set_id)] = then
    sent = sorted((one.sent | {"delivery": one.id} for one in lying), key=lambda one: (one["set"], one["target"]))
    return replace(row, heads=heads, sent=sent)


@router.get("/projects/{project}/kept-up")
def kept_up(state: State, project: str) -> KeptUp:
    """What the project did by itself."""
    with state.pool.connection() as conn:
        box = projects.project_named(conn, project)
        told = state.follower.told(box.id)
        line = None if told.delivery is None else deliveries.get_delivery(conn, told.delivery)
        delivery = None if line is None else DeliveryLine(**_told(state, line, sets.list_heads(conn, box.id)))
        return KeptUp(heads=dict(told.heads), problems=dict(told.problems), delivery=delivery)


@router.post("/deliveries/{delivery_id}/cancel", status_code=202)
def cancel(state: State, delivery_id: UUID) -> Delivery:
    state.deliverer.cancel(delivery_id)
    return get(state, delivery_id)


def _told(
    state: AppState, row: deliveries.DeliveryLine, heads: Mapping[UUID, int], *, is_overtaken: bool = False
) -> dict[str, Any]:
    now = {str(set_id): head for set_id, head in heads.items()}
    stale = is_overtaken or any(set_id in now and now[set_id] != head for set_id, head in row.heads.items())
    kept = {name: getattr(row, name) for name in DeliveryLine.model_fields if name not in ("stale", "path", "sent")}
    sent = [{"delivery": row.id, **one, "path": state.destinations.path_of(one["place"])} for one in row.sent]
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


def _zipped(files: Mapping[str, Path]) -> Iterator[bytes]:
    pipe = Pipe()
    with zipfile.ZipFile(pipe, "w") as archive:  # type: ignore[arg-type]
        for name, path in files.items():
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), path.read_bytes())
            yield pipe.take()
    yield pipe.take()
