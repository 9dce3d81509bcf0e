"""Delivered files held against the masters they were made from."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Response

from ...core.errors import SieveError
from ...core.recipe import Evaluation, Recipe
from ...core.target import Target
from ...standins import BALL_PX, Ball
from ...store import deliveries
from ...work import Plan
from ...work.deliveries.running import target_of
from ...work.pictures import ball_layers
from ...work.proofs import BallProof, FileProof, balls, prove_file
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_KEPT = 4  # proofs whose balls are kept; one is two small pictures
_RAW: dict[int | str, dict[str, Any]] = {200: {"content": {"application/octet-stream": {}}}}
SetName = Annotated[str, Query(alias="set")]


@dataclass(frozen=True)
class _Delivered:
    evaluation: Evaluation
    target: Target
    plan: Plan
    folder: Path


def _delivered(state: AppState, delivery_id: UUID, set_name: str, target: str, tile: int | None) -> _Delivered:
    """One set for one target; of a set in tiles one of them, by default the first."""
    with state.pool.connection() as conn:
        row, job = deliveries.job_of(conn, delivery_id, set_name, target)
    if row.state != "done":
        raise SieveError("This delivery has no files to prove: it did not finish. Deliver again.")
    plan = Plan.model_validate(job["plan"])
    evaluation = state.evaluation(Recipe.model_validate(job["recipe"]), max(plan.width, plan.height)).at(tile)
    return _Delivered(evaluation, target_of(job), plan.of(evaluation.tile), state.destinations.folder(row.folder, plan))


@router.get("/deliveries/{delivery_id}/proof/files")
def file(state: State, delivery_id: UUID, role: str, set_name: SetName, target: str, tile: int | None = None) -> FileProof:
    """One delivered image read from disk by the target's stand-in, against the masters at the file's size."""
    found = _delivered(state, delivery_id, set_name, target, tile)
    return prove_file(found.evaluation, found.target, found.plan, role, found.folder)


@router.get("/deliveries/{delivery_id}/proof/ball")
def ball(state: State, delivery_id: UUID, set_name: SetName, target: str, tile: int | None = None) -> BallProof:
    """What differs on a ball under three lamps; what the target cannot carry."""
    return _balls(state, delivery_id, set_name, target, tile)[0]


@router.get("/deliveries/{delivery_id}/proof/ball/pictures", responses=_RAW, response_class=Response)
def ball_pictures(state: State, delivery_id: UUID, set_name: SetName, target: str, tile: int | None = None) -> Response:
    """(2, 3, N, N, 3) float16 as a display shows them: the target's and the masters', by lamp; N in the header."""
    _, theirs, masters = _balls(state, delivery_id, set_name, target, tile)
    return Response(ball_layers(theirs, masters), media_type="application/octet-stream", headers={"x-width": str(BALL_PX)})


def _balls(state: AppState, delivery_id: UUID, set_name: str, target: str, tile: int | None) -> tuple[BallProof, Ball, Ball]:
    key = (delivery_id, set_name, target, tile)
    kept = state.balls.get(key)
    if kept is None:
        found = _delivered(state, delivery_id, set_name, target, tile)
        kept = balls(found.evaluation, found.target, found.plan, found.folder)
        state.balls[key] = kept
        while len(state.balls) > _KEPT:
            state.balls.pop(next(iter(state.balls)), None)
    return kept
