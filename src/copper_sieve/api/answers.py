"""Stored rows as the screen sees them, and how they are written."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar, get_args, get_type_hints
from uuid import UUID

from fastapi import Response
from pydantic import TypeAdapter

from ..core.convert.corrections import correction_of
from ..core.intake import held
from ..core.prepare.decision import Repeat
from ..core.prepare.said import how_seen, step_said
from ..core.prepare.steps import GeometryStep
from ..core.prepare.variant import Variant
from ..core.quantities import quantity
from ..core.recipe import BakedFrom, Node, Recipe, Worn, changes, given_ref, operation_of, origin_of, steps_of
from ..store import sets
from ..store.sets import SetRow
from ..targets import carriers_of
from .models.sets import BakedMap, GivenMap, MasterRow, MixedNode, MixPart, PreparedStep, TextureSet
from .state import AppState

__all__ = ["changed_set", "set_answer", "written_here"]


P = ParamSpec("P")
Row = TypeVar("Row")


def written_here(endpoint: Callable[P, list[Row]]) -> Callable[P, Response]:
    """Let a list of hundreds be written as JSON in the thread of its endpoint, a row at a time, so that others come between.

    FastAPI writes an answer on the event loop, which stood still for 45 ms over 500 sets.
    """
    (row_type,) = get_args(get_type_hints(endpoint)["return"])
    rows = TypeAdapter(row_type)

    @wraps(endpoint)
    def answer(*args: P.args, **kwargs: P.kwargs) -> Response:
        told = b",".join(rows.dump_json(row, by_alias=True) for row in endpoint(*args, **kwargs))
        return Response(b"[" + told + b"]", media_type="application/json")

    return answer


def changed_set(
    state: AppState, set_id: UUID, expects: int, change: Callable[[Recipe], Recipe], note: str | None = None
) -> TextureSet:
    """Read a set, change its recipe, append that as one step, and answer the set as it is then.

    ``change`` runs without a transaction, as it may compute; ``note`` is the step's sentence, by default what has changed.
    Raises what ``change`` raises, and HeadMoved where somebody else was first.
    """
    with state.pool.connection() as conn:
        row = sets.get_set(conn, set_id)
    before, after = row.recipe, change(row.recipe)
    if after == before and row.head == expects:
        return set_answer(row)  # what changes nothing is no step
    with state.pool.connection() as conn:
        sets.write_recipe(conn, set_id, expects=expects, recipe=after, note=note or changes(before, after))
        return set_answer(sets.get_set(conn, set_id))


def set_answer(row: SetRow) -> TextureSet:
    """A stored set as the screen sees it."""
    return TextureSet(
        id=row.id,
        name=row.name,
        head=row.head,
        recipe=row.recipe,
        before=row.before,
        can_undo=row.parent is not None,
        can_redo=row.next is not None,
        masters=[_master(row.recipe, key) for key in row.recipe.keys],
        steps=[_prepared(step) for step in steps_of(row.recipe)],
        tiles=list(row.recipe.tiles),
        held=held(row.recipe),
    )


def _prepared(step: GeometryStep) -> PreparedStep:
    pieces = step.pieces if isinstance(step, Variant) else None
    borders = step.seen if isinstance(step, Repeat) else pieces and pieces.seen
    seen = how_seen(borders) if borders else None
    return PreparedStep(kind=step.kind, said=step_said(step.model_copy(update={"is_on": True})), is_on=step.is_on, seen=seen)


def _master(recipe: Recipe, key: str) -> MasterRow:
    made, source, what = recipe.node_of(key), recipe.source_of(key), quantity(key)
    return MasterRow(
        key=key,
        title=what.title,
        plain=what.plain,
        origin=origin_of(recipe, key),
        parent=recipe.parent_of(key),
        source=source[1].said if source is not None else None,
        given=_given(recipe, key),
        node=made[0] if made else None,
        op=made[1].op if made else None,
        number=made[1].algorithm if made else None,
        mixed=_mixed(recipe, made[1]) if made else [],
        low=what.low,
        high=what.high,
        usual=None if what.usual is None else list(what.usual),
        absent=list(what.absent),
        targets=list(carriers_of(key)),
    )


def _given(recipe: Recipe, key: str) -> GivenMap | None:
    ref = given_ref(recipe, key)
    if ref is None:
        return None
    row = quantity(str(ref.part))
    kind, source = correction_of(quantity(row.master or row.key)), recipe.sources[ref.name]
    baked = None if source.baked is None else _baked(source.baked, recipe.worn)
    return GivenMap(source=ref.name, file=source.said, held=row.key, correction=kind, baked=baked)


def _baked(made: BakedFrom, worn: Worn | None) -> BakedMap:
    where = {"missed_map": made.missed_map, "missed_in_tiles": made.missed_in_tiles}
    return BakedMap(map=made.map, missed=made.missed, **where, stale=list(made.stale(worn)))


def _mixed(recipe: Recipe, node: Node) -> list[MixedNode]:
    """The nodes that a mix has controls of besides its own: what it lies over, what it mixes in, and what limits it."""
    mixes = operation_of(node).mixes
    if mixes is None:
        return []
    slots: dict[MixPart, str] = {"under": mixes[0].key, "in": mixes[1].key, "mask": "mask"}
    found: list[MixedNode] = []
    for part, slot in slots.items():
        ref = node.inputs.get(slot)
        if ref is not None and ref.kind == "node":
            made = recipe.nodes[ref.name]
            found.append(MixedNode(node=ref.name, op=made.op, number=made.algorithm, part=part))
    return found
