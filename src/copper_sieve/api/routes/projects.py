"""Health, projects, sets and the history of their recipes, targets, operations."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import asdict
from typing import Annotated, Any
from uuid import UUID

import numpy as np
from fastapi import APIRouter, Query, Response

from ... import __version__
from ...core.checks.fixes import FIXES, mended
from ...core.errors import RecipeInvalid, UnknownKey
from ...core.findings import finding
from ...core.intake.facts import seams_of, with_measured_rise
from ...core.quantities import quantity
from ...core.recipe import OPERATIONS, Node, Recipe, changes, check_recipe, choices, mask_choices, origin_of, with_mask
from ...files import encode
from ...store import sets
from ...store.database import answers
from ...targets import shipped_targets
from ...work.assaying import assay_maps, assay_set
from ...work.sets import derived_anew
from ..models import (
    AssayRow,
    FixRequest,
    Health,
    MaskRequest,
    MasterRow,
    MixedNode,
    OperationRow,
    OriginChoice,
    OriginRequest,
    Project,
    ProjectRequest,
    RecipeWrite,
    RefreshRequest,
    SeamRow,
    StepRequest,
    TextureSet,
)
from ..state import State

__all__ = ["router", "set_answer"]

router = APIRouter()
_MEASURABLE = "rise-measurable"
_MARK = (255, 0, 200, 150)


@router.get("/health", responses={503: {"model": Health, "description": "The database does not answer"}})
def health(state: State, response: Response) -> Health:
    """Whether everything answers; a thread of deliveries that died is started again on the way."""
    is_there = answers(state.pool)
    were_running = state.deliverer.keep_alive()
    response.status_code = 200 if is_there else 503
    return Health(
        status="ok" if is_there else "database-gone",
        version=__version__,
        database="answers" if is_there else "gone, started again by itself",
        deliveries="running" if were_running else "started again",
    )


@router.get("/projects")
def list_projects(state: State) -> list[Project]:
    with state.pool.connection() as conn:
        return [Project(**row) for row in sets.list_projects(conn)]


@router.post("/projects", status_code=201)
def create_project(state: State, request: ProjectRequest) -> Project:
    plain = unicodedata.normalize("NFKD", request.title).encode("ascii", "ignore").decode().lower()
    name = re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or "project"
    with state.pool.connection() as conn:
        return Project(**sets.create_project(conn, name=name, title=request.title))


@router.get("/projects/{project}/sets")
def list_sets(state: State, project: str) -> list[TextureSet]:
    with state.pool.connection() as conn:
        rows = sets.list_sets(conn, sets.project_named(conn, project)["id"])
    return [set_answer(row) for row in rows]


@router.get("/sets/{set_id}")
def get_set(state: State, set_id: UUID) -> TextureSet:
    with state.pool.connection() as conn:
        return set_answer(sets.get_set(conn, set_id))


@router.get("/sets/{set_id}/origins")
def origins(state: State, set_id: UUID, head: int) -> dict[str, list[OriginChoice]]:
    """For every master, where it may come from; ``head`` only names the answer, so that it may be kept."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    return {key: [OriginChoice(**asdict(choice)) for choice in choices(recipe, key)] for key in recipe.keys}


@router.post("/sets/{set_id}/origins")
def choose_origin(state: State, set_id: UUID, request: OriginRequest) -> TextureSet:
    """Let a master come from elsewhere, as one step of the set's history."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    changed = derived_anew(state.evaluation(recipe, None), request.master, request.origin)
    note = changes(recipe, changed)
    with state.pool.connection() as conn:
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=changed, note=note)
        return set_answer(sets.get_set(conn, set_id))


@router.get("/sets/{set_id}/masks")
def masks(state: State, set_id: UUID, head: int) -> dict[str, list[OriginChoice]]:
    """For every master that is a mix, where the other map may come in."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    found = {key: mask_choices(recipe, key) for key in recipe.masters}
    return {key: [OriginChoice(**asdict(choice)) for choice in rows] for key, rows in found.items() if rows}


@router.post("/sets/{set_id}/masks")
def choose_mask(state: State, set_id: UUID, request: MaskRequest) -> TextureSet:
    """Limit a mix to where a gray is white, or to picks, as one step of the set's history."""
    with state.pool.connection() as conn:
        recipe = with_mask(sets.get_set(conn, set_id)["recipe"], request.master, request.mask)
        note = f"{quantity(request.master).title} mixed {next(c.title for c in mask_choices(recipe, request.master) if c.is_now)}"
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=recipe, note=note)
        return set_answer(sets.get_set(conn, set_id))


@router.put("/sets/{set_id}/recipe")
def write_recipe(state: State, set_id: UUID, request: RecipeWrite) -> TextureSet:
    check_recipe(request.recipe)  # before it is told what changed
    with state.pool.connection() as conn:
        note = request.note or changes(sets.get_set(conn, set_id)["recipe"], request.recipe)
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=request.recipe, note=note)
        return set_answer(sets.get_set(conn, set_id))


@router.post("/sets/{set_id}/step")
def step(state: State, set_id: UUID, request: StepRequest) -> TextureSet:
    """Undo or redo."""
    with state.pool.connection() as conn:
        sets.move_head(conn, set_id, expects=request.expects, step=request.step)
        return set_answer(sets.get_set(conn, set_id))


@router.get("/sets/{set_id}/assay")
def read_assay(state: State, set_id: UUID, head: int) -> list[AssayRow]:
    """Everything found on a set; ``head`` only names the answer, so that it may be kept."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    changed = [finding("source-changed", file=recipe.sources[name].name) for name in state.folders.changed(recipe)]
    found = [*changed, *assay_set(state.evaluation(recipe, None))]
    fixes = {
        "source-changed": "Take the newer files",
        _MEASURABLE: "Measure it",
        **{id: title for id, (title, _) in FIXES.items()},
    }
    return [AssayRow(finding=f, fix=fixes.get(f.id)) for f in found]


@router.get("/sets/{set_id}/marks", response_class=Response)
def marks(state: State, set_id: UUID, head: int, found_id: Annotated[str, Query(alias="finding")], master: str) -> Response:
    """A PNG whose alpha is the texels that a finding is about, in a color that no material has by chance."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    found = assay_maps(state.evaluation(recipe, None))
    mask = next((m.mask for m in found if (m.finding.id, m.finding.master) == (found_id, master) and m.mask is not None), None)
    if mask is None:
        places = [f"{m.finding.id} of {m.finding.master}" for m in found if m.mask is not None]
        raise UnknownKey("finding", f"{found_id} of {master}", places)
    codes = np.zeros((*mask.shape, 4), np.uint8)
    codes[mask] = _MARK
    return Response(encode(codes, "png"), media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.post("/sets/{set_id}/fixes")
def fix(state: State, set_id: UUID, request: FixRequest) -> TextureSet:
    """Apply the fix of a finding, as one step that can be undone."""
    if request.finding == _MEASURABLE:
        return measure_rise(state, set_id, RefreshRequest(expects=request.expects))
    with state.pool.connection() as conn:
        recipe = mended(sets.get_set(conn, set_id)["recipe"], request.finding, request.master or "")
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=recipe, note=FIXES[request.finding][0])
        return set_answer(sets.get_set(conn, set_id))


@router.post("/sets/{set_id}/rise")
def measure_rise(state: State, set_id: UUID, request: RefreshRequest) -> TextureSet:
    """Measure the rise on the normals that came with the height, as one step of the set's history."""
    with state.pool.connection() as conn:
        before: Recipe = sets.get_set(conn, set_id)["recipe"]
    asked = before.model_copy(update={"facts": before.facts.model_copy(update={"rise_from": "assumed", "rise_fit": None})})
    recipe = with_measured_rise(state.evaluation(asked, None))
    if recipe.facts.rise_from != "measured":
        raise RecipeInvalid("the rise cannot be measured: it takes a height and normals from files that fit each other.")
    with state.pool.connection() as conn:
        sets.write_recipe(conn, set_id, expects=request.expects, recipe=recipe, note=changes(before, recipe))
        return set_answer(sets.get_set(conn, set_id))


@router.get("/sets/{set_id}/seams")
def seams(state: State, set_id: UUID, head: int) -> list[SeamRow]:
    """How much more every given map jumps over its borders than beside them; ``head`` only names the answer."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    rows = seams_of(state.evaluation(recipe, None))
    return [SeamRow(master=row.master, title=quantity(row.master).title, across=row.across, down=row.down) for row in rows]


@router.delete("/sets/{set_id}", status_code=204)
def remove_set(state: State, set_id: UUID) -> None:
    with state.pool.connection() as conn:
        sets.remove_set(conn, set_id, removed=True)


@router.post("/sets/{set_id}/restore", status_code=204)
def restore_set(state: State, set_id: UUID) -> None:
    with state.pool.connection() as conn:
        sets.remove_set(conn, set_id, removed=False)


@router.get("/operations")
def list_operations() -> list[OperationRow]:
    return [
        OperationRow(key=op.key, title=op.title, makes=list(op.makes), params=op.params.model_json_schema())
        for op in OPERATIONS.values()
    ]


def set_answer(row: dict[str, Any]) -> TextureSet:
    """A stored set as the screen sees it."""
    recipe: Recipe = row["recipe"]
    return TextureSet(
        id=row["id"],
        name=row["name"],
        head=row["head"],
        recipe=recipe,
        before=row["before"],
        can_undo=row["parent"] is not None,
        can_redo=row["next"] is not None,
        masters=[_master(recipe, key) for key in recipe.keys],
    )


def _mixed(recipe: Recipe, node: Node) -> list[MixedNode]:
    """The nodes that a mix has controls of besides its own: what it mixes in, and the picks that limit it."""
    refs = [node.inputs.get(slot, "") for slot in ("other", "detail", "mask")]
    names = [ref.split(":")[1] for ref in refs if ref.startswith("node:")]
    return [MixedNode(node=name, op=recipe.nodes[name].op) for name in names]


def _master(recipe: Recipe, key: str) -> MasterRow:
    made = recipe.node_of(key)
    ref = recipe.masters.get(key, "")
    source = recipe.sources[ref.split(":")[1]].name if ref.startswith("source:") else None
    return MasterRow(
        key=key,
        title=quantity(key).title,
        plain=quantity(key).plain,
        origin=origin_of(recipe, key),
        parent=recipe.parent_of(key),
        source=source,
        node=made[0] if made else None,
        op=made[1].op if made else None,
        mixed=_mixed(recipe, made[1]) if made else [],
        low=quantity(key).low,
        high=quantity(key).high,
        usual=list(usual) if (usual := quantity(key).usual) is not None else None,
        absent=list(quantity(key).absent),
        targets=[target.key for target in shipped_targets().values() if key in target.masters()],
    )
