"""Sets: where their masters come from, what is found wrong with them, and every step that changes them."""

from __future__ import annotations

from dataclasses import asdict
from functools import cache
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Response

from ...core.checks.fixes import left
from ...core.checks.maps import assay_maps
from ...core.checks.project import density_finding
from ...core.convert.corrections import CORRECTIONS
from ...core.convert.noise import AddedNoise
from ...core.derive.tilt import slope_quantiles
from ...core.findings import FINDINGS, finding
from ...core.intake.facts import heights_of, seams_of
from ...core.operations import OPERATIONS
from ...core.quantities import quantity
from ...core.recipe import Recipe, check_recipe, choices, mask_choices, needs, pick_doubt, with_mask, with_size, with_step
from ...core.target import legal_name, name_of_copy
from ...store import projects, sets
from ...work.pictures import doubt_picture, marked_texels
from ...work.sets import assay_set, derived_anew, fixed, picked_anew, with_rise_measured
from ..answers import changed_set, set_answer, written_here
from ..models.controls import Control, controls_of
from ..models.sets import (
    AssayRow,
    CopyRequest,
    CorrectionRow,
    DensityRow,
    FixRequest,
    MaskRequest,
    MoveRequest,
    OperationRow,
    OriginChoice,
    OriginRequest,
    Origins,
    RecipeWrite,
    RefreshRequest,
    RemovedSet,
    RenameRequest,
    ResizeRequest,
    SeamRow,
    StepRequest,
    TextureSet,
)
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_MOVED = {"crop": "Cropped", "turn": "Rotated", "mirror": "Mirrored", "offset": "Offset"}


def _recipe(state: AppState, set_id: UUID) -> Recipe:
    with state.pool.connection() as conn:
        return sets.get_set(conn, set_id).recipe


@router.get("/projects/{project}/sets")
@written_here
def list_sets(state: State, project: str) -> list[TextureSet]:
    """The sets of a project."""
    with state.pool.connection() as conn:
        rows = sets.list_sets(conn, projects.project_named(conn, project).id)
    return [set_answer(row) for row in rows]


@router.get("/sets/{set_id}")
def get_set(state: State, set_id: UUID) -> TextureSet:
    """One set at its head."""
    with state.pool.connection() as conn:
        return set_answer(sets.get_set(conn, set_id))


@router.get("/sets/{set_id}/origins")
def origins(state: State, set_id: UUID, head: int) -> dict[str, Origins]:
    """For every master, where it may come from and what is missing for more; ``head`` only names the answer, to be kept by."""
    recipe = _recipe(state, set_id)
    offered = {key: [OriginChoice(**asdict(choice)) for choice in choices(recipe, key)] for key in recipe.keys}
    return {key: Origins(choices=rows, needs=needs(recipe, key)) for key, rows in offered.items()}


@router.post("/sets/{set_id}/origins")
def choose_origin(state: State, set_id: UUID, request: OriginRequest) -> TextureSet:
    """Let a master come from elsewhere, as one step of the set's history."""

    def change(recipe: Recipe) -> Recipe:
        return derived_anew(state.evaluation(recipe, None), request.master, request.origin)

    return changed_set(state, set_id, request.expects, change)


@router.get("/sets/{set_id}/masks")
def masks(state: State, set_id: UUID, head: int) -> dict[str, list[OriginChoice]]:
    """For every master that is a mix, where the other map may come in."""
    recipe = _recipe(state, set_id)
    found = {key: mask_choices(recipe, key) for key in recipe.masters}
    return {key: [OriginChoice(**asdict(choice)) for choice in rows] for key, rows in found.items() if rows}


@router.post("/sets/{set_id}/masks")
def choose_mask(state: State, set_id: UUID, request: MaskRequest) -> TextureSet:
    """Limit a mix to where a gray is white, or to picks, as one step of the set's history."""
    before = _recipe(state, set_id)
    limited = with_mask(before, request.master, request.mask)
    now = next(choice.title for choice in mask_choices(limited, request.master) if choice.is_now)
    note = f"{quantity(request.master).title} mixed {now}"
    return changed_set(state, set_id, request.expects, lambda recipe: with_mask(recipe, request.master, request.mask), note)


@router.put("/sets/{set_id}/recipe")
def write_recipe(state: State, set_id: UUID, request: RecipeWrite) -> TextureSet:
    """Put another recipe in place, as one step of the set's history."""
    check_recipe(request.recipe)  # before it is told what changed

    def change(recipe: Recipe) -> Recipe:
        return picked_anew(state.evaluation(request.recipe, None), recipe)

    return changed_set(state, set_id, request.expects, change, request.note)


@router.post("/sets/{set_id}/step")
def step(state: State, set_id: UUID, request: StepRequest) -> TextureSet:
    """Undo or redo."""
    with state.pool.connection() as conn:
        sets.move_head(conn, set_id, expects=request.expects, step=request.step)
        return set_answer(sets.get_set(conn, set_id))


@router.post("/sets/{set_id}/moves")
def move(state: State, set_id: UUID, request: MoveRequest) -> TextureSet:
    """Crop, turn, mirror or offset a set: every map at once."""
    note = _MOVED[request.move.kind]
    return changed_set(state, set_id, request.expects, lambda recipe: with_step(recipe, request.move), note)


@router.post("/sets/{set_id}/size")
def size(state: State, set_id: UUID, request: ResizeRequest) -> TextureSet:
    """Give a set another size; its sources stay as they are."""
    return changed_set(state, set_id, request.expects, lambda recipe: with_size(recipe, request.size), "Resized")


@router.get("/sets/{set_id}/assay")
def read_assay(state: State, set_id: UUID, head: int) -> list[AssayRow]:
    """Everything found on a set; ``head`` only names the answer, so that it may be kept."""
    recipe = _recipe(state, set_id)
    changed = [finding("source-changed", file=file.name) for file in state.folders.changed(recipe)]
    added = [finding("source-added", file=place.rpartition("/")[2]) for place in state.folders.added(recipe)]
    found = [(None, f) for f in (*changed, *added)] + assay_set(state.evaluation(recipe, None))
    return [AssayRow(finding=f, fix=FINDINGS[f.id].fix, leave=FINDINGS[f.id].leave, tile=tile) for tile, f in found]


@router.get("/projects/{project}/density")
def read_density(state: State, project: str) -> list[DensityRow]:
    """What is found of the sets of a project whose texels are much larger or smaller than those of the others."""
    with state.pool.connection() as conn:
        known = sets.sets_of_known_width(conn, projects.project_named(conn, project).id)
    found = {key: density_finding(recipe, [r for other, r in known.items() if other != key]) for key, recipe in known.items()}
    return [DensityRow(set=key, finding=f, fix=FINDINGS[f.id].fix) for key, f in found.items() if f is not None]


def _others(state: AppState, set_id: UUID) -> list[Recipe]:
    with state.pool.connection() as conn:
        known = sets.sets_of_known_width(conn, sets.project_of(conn, set_id))
    return [recipe for key, recipe in known.items() if key != set_id]


@router.get("/sets/{set_id}/marks", response_class=Response)
def marks(
    state: State,
    set_id: UUID,
    head: int,
    found_id: Annotated[str, Query(alias="finding")],
    master: str,
    tile: int | None = None,
) -> Response:
    """A PNG whose alpha is the texels that a finding is about, in a color that no material has by chance."""
    picture = marked_texels(assay_maps(state.evaluation(_recipe(state, set_id), None).at(tile)), found_id, master)
    return Response(picture, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.get("/sets/{set_id}/doubt", response_class=Response)
def doubt(state: State, set_id: UUID, head: int, master: str, tile: int | None = None) -> Response:
    """A PNG to lay over the picture, stronger the less the picks of a master say of it; ``head`` only names the answer."""
    picture = doubt_picture(pick_doubt(state.evaluation(_recipe(state, set_id), None).at(tile), master))
    return Response(picture, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.post("/sets/{set_id}/fixes")
def fix(state: State, set_id: UUID, request: FixRequest) -> TextureSet:
    """Apply the fix of a finding, or leave what was asked as it is: one step that can be undone."""

    def change(recipe: Recipe) -> Recipe:
        if request.leave:
            return left(recipe, request.finding)
        return fixed(state.evaluation(recipe, None), request.finding, request.master or "", lambda: _others(state, set_id))

    row = FINDINGS.get(request.finding)
    note = None if row is None else row.leave if request.leave else row.fix
    return changed_set(state, set_id, request.expects, change, note)


@router.post("/sets/{set_id}/rise")
def measure_rise(state: State, set_id: UUID, request: RefreshRequest) -> TextureSet:
    """Measure the rise on the normals that came with the height, as one step of the set's history."""
    return changed_set(state, set_id, request.expects, lambda recipe: with_rise_measured(state.evaluation(recipe, None)))


@router.get("/sets/{set_id}/slopes")
def slopes(state: State, set_id: UUID, head: int) -> list[float]:
    """A hundred slopes of the height at a rise of one width, flattest first, each for a hundredth of its texels.

    They are those of the working size, and of every tile alike; ``head`` only names the answer.
    """
    recipe = _recipe(state, set_id)
    found = [slope_quantiles(height, recipe.facts.edges) for height in heights_of(state.evaluation(recipe, None))]
    return [sum(row) / len(found) for row in zip(*found)]


@router.get("/sets/{set_id}/seams")
def seams(state: State, set_id: UUID, head: int) -> list[SeamRow]:
    """How much more every given map jumps over its borders than beside them; ``head`` only names the answer."""
    rows = seams_of(state.evaluation(_recipe(state, set_id), None))
    return [SeamRow(master=row.master, title=quantity(row.master).title, across=row.across, down=row.down) for row in rows]


@router.put("/sets/{set_id}/name")
def rename(state: State, set_id: UUID, request: RenameRequest) -> TextureSet:
    """Call a set otherwise; what was delivered keeps its names."""
    with state.pool.connection() as conn:
        sets.rename_set(conn, set_id, legal_name(request.name))
        return set_answer(sets.get_set(conn, set_id))


@router.post("/sets/{set_id}/copies", status_code=201)
def copy(state: State, set_id: UUID, request: CopyRequest) -> TextureSet:
    """Another set made as this one is now, from the same files; its history begins here."""
    with state.pool.connection() as conn:
        kept, project_id = sets.get_set(conn, set_id), sets.project_of(conn, set_id)
        if request.project is not None:
            project_id = projects.project_named(conn, request.project).id
        taken = [row.name for row in sets.list_sets(conn, project_id)]
        is_free = kept.name.lower() not in {name.lower() for name in taken}
        name = legal_name(request.name or (kept.name if is_free else name_of_copy(kept.name, taken)))
        note = f"copied from {kept.name}"
        made = sets.create_set(conn, project_id=project_id, name=name, recipe=kept.recipe, note=note)
        return set_answer(sets.get_set(conn, made))


@router.get("/projects/{project}/removed")
def list_removed(state: State, project: str) -> list[RemovedSet]:
    """Sets that were taken off the tray, the last first."""
    with state.pool.connection() as conn:
        return [RemovedSet.model_validate(row) for row in sets.list_removed(conn, projects.project_named(conn, project).id)]


@router.delete("/sets/{set_id}", status_code=204)
def remove_set(state: State, set_id: UUID) -> None:
    """Put a set away; nothing is lost."""
    with state.pool.connection() as conn:
        sets.remove_set(conn, set_id, removed=True)


@router.post("/sets/{set_id}/restore", status_code=204)
def restore_set(state: State, set_id: UUID) -> None:
    """Bring back a set that was put away."""
    with state.pool.connection() as conn:
        sets.remove_set(conn, set_id, removed=False)


@router.get("/corrections")
def list_corrections() -> list[CorrectionRow]:
    """What can be corrected of a given map, by its kind."""
    return [CorrectionRow(kind=kind, params=controls_of(row.params)) for kind, row in CORRECTIONS.items()]


@router.get("/noise")
def noise_controls() -> list[Control]:
    """What can be told of noise over a map."""
    return controls_of(AddedNoise)


@router.get("/operations")
def list_operations() -> list[OperationRow]:
    """Every way of every operation, the newest of each first."""
    return _operations()


@cache
def _operations() -> list[OperationRow]:
    return [
        OperationRow(
            key=way.key,
            number=way.number,
            was=way.was,
            title=way.title,
            makes=list(way.outputs),
            params=controls_of(way.params),
        )
        for operation in OPERATIONS.values()
        for way in operation.ways
    ]
