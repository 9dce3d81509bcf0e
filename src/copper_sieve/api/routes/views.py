"""Pictures for the screen: previews of masters, the packed answer of the lit view, swatches, single texels."""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from fastapi import APIRouter, Query, Response

from ...core.errors import Cancelled, SieveError, UnknownKey
from ...core.quantities import QUANTITIES, quantity
from ...core.raster import MAX_SIDE, Size
from ...core.recipe import Evaluation, Recipe, check_recipe
from ...core.target import file_size
from ...core.target.storing import StoredChannel, stored_channel
from ...core.tiles import Layout
from ...store import sets
from ...work.deliveries.delivering import masters_for
from ...work.pictures import Maps, channel_picture, difference_picture, laid_out, lit_layers, map_codes, spot_picture, texel
from ...work.pictures import swatch as drawn_swatch
from ...work.proofs import seen_by
from ...work.sets import fixed
from ...work.targets import known_target
from ..models.views import ChannelDifference, PreviewRequest, ProbeAnswer, ProbeRequest, TileChoice
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_SWATCH_PX, _SPOT_OF_PX = 320, 1024
_RAW: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/octet-stream": {}}},
    204: {"description": "A newer request took over"},
}


@router.post("/previews", responses=_RAW, response_class=Response)
def preview(state: State, request: PreviewRequest) -> Response:
    """Raw pixels, width and height in the headers: RGBA bytes for a master, named layers of half-float RGBA for ``lit``."""
    if request.wanted not in (*request.recipe.keys, "lit"):
        raise UnknownKey("wanted", request.wanted, [*request.recipe.keys, "lit"])
    check_recipe(request.recipe)
    cancel = state.views.begin(request.view, request.seq)
    if cancel is None:
        return Response(status_code=204)
    layout = _layout(request.recipe, request.tile)
    evaluation = state.evaluation(request.recipe, _longer(request.recipe, request.size, layout), cancel)
    try:
        if layout is not None:
            maps, size = laid_out(evaluation, layout, lambda one: _maps(state, one, request)[0])
        else:
            maps, size = _maps(state, _shown(evaluation, request.tile), request)
        if request.wanted == "lit":
            names, layers = lit_layers(maps, size)
            body, named = layers.data.cast("B"), {"x-layers": " ".join(names)}
        else:
            codes = map_codes(
                maps(request.wanted), request.wanted, size, request.region.box if request.region is not None else None
            )
            body, size, named = codes.data.cast("B"), Size(codes.shape[1], codes.shape[0]), {}
    except Cancelled:
        return Response(status_code=204)
    headers = {"x-width": str(size.width), "x-height": str(size.height), **named}
    return Response(body, media_type="application/octet-stream", headers=headers)


def _layout(recipe: Recipe, tile: TileChoice) -> Layout | None:
    """How tiles lie where all are wanted; None where one is, or where there are none."""
    return Layout.of(recipe.tiles) if tile == "all" and recipe.tiles else None


def _longer(recipe: Recipe, size: int, layout: Layout | None) -> int:
    """The longer side of a set or tile so that the picture's longer side is at most ``size``."""
    columns, rows = (layout.columns, layout.rows) if layout is not None else (1, 1)
    width, height = recipe.facts.width, recipe.facts.height
    share = max(width, height) / max(width * columns, height * rows)
    return max(1, min(round(size * share), max(width, height)))


def _shown(evaluation: Evaluation, tile: TileChoice) -> Evaluation:
    return evaluation.at(tile if isinstance(tile, int) else None)


def _maps(state: AppState, evaluation: Evaluation, request: PreviewRequest) -> tuple[Maps, Size]:
    return (evaluation.master, evaluation.size) if request.target is None else _seen(state, evaluation, request)


def _seen(state: AppState, evaluation: Evaluation, request: PreviewRequest) -> tuple[Maps, Size]:
    """What the request's target would know of the set."""
    with state.pool.connection() as conn:
        target = known_target(conn, request.target or "")
    found = seen_by(evaluation, target)
    if request.wanted != "lit" and request.wanted not in found:
        has = ", ".join(quantity(key).title.lower() for key in found if key in QUANTITIES)
        raise SieveError(f"{target.title} sees no {quantity(request.wanted).title.lower()}; it sees {has}.")
    rows, columns = next(iter(found.values())).shape[:2]
    return found.get, Size(columns, rows)


@router.get("/sets/{set_id}/swatch", response_class=Response)
def swatch(
    state: State,
    set_id: UUID,
    head: int,
    show: str = "lit",
    px: int = Query(_SWATCH_PX, ge=16, le=_SWATCH_PX),
    tile: int | None = None,
    fix: str | None = Query(default=None, description="A finding: the picture is what it would be once that was mended"),
    of: str = Query(default="", description="The master that the finding is about"),
) -> Response:
    """A PNG of the material as a flat square, lit from the upper left, or of one master."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
    if fix is not None:
        recipe = fixed(state.evaluation(recipe, None), fix, of, list)
    size = min(px, max(recipe.facts.width, recipe.facts.height))
    picture = drawn_swatch(state.evaluation(recipe, size).at(tile), show)
    return Response(picture, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.get("/sets/{set_id}/spots", response_class=Response)
def spot(state: State, set_id: UUID, head: int, which: Literal["light", "dark"], tile: int | None = None) -> Response:
    """A PNG of what surrounds a spot of the base color that a person is asked about; ``head`` only names the answer."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id).recipe
    picture = spot_picture(state.evaluation(recipe, _SPOT_OF_PX).at(tile), which)
    return Response(picture, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.get("/sets/{set_id}/channels", response_class=Response)
def channel(
    state: State,
    set_id: UUID,
    head: int,
    target: str,
    role: str,
    letter: str,
    show: Literal["channel", "difference"] = "channel",
    tile: int | None = None,
) -> Response:
    """A PNG of one channel of one file, in gray, as that target would get it, or of its difference from its source; 320 px.

    The difference is that of the file at its own size; a pixel shows the largest of the texels that it stands for.
    """
    if show == "channel":
        picture = channel_picture(_stored(state, set_id, target, role, letter, _SWATCH_PX, tile))
    else:
        picture = difference_picture(_stored(state, set_id, target, role, letter, None, tile), _SWATCH_PX)
    return Response(picture, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.get("/sets/{set_id}/channels/difference")
def channel_difference(
    state: State, set_id: UUID, head: int, target: str, role: str, letter: str, tile: int | None = None
) -> ChannelDifference:
    """How far a channel of a file, at its own size, reads back from its source, in the source's own units."""
    stored = _stored(state, set_id, target, role, letter, None, tile)
    return ChannelDifference(largest=stored.largest, mean=stored.mean, step=stored.step)


def _stored(
    state: AppState, set_id: UUID, target: str, role: str, letter: str, longer_px: int | None, tile: int | None
) -> StoredChannel:
    """One channel as it is stored, at most so large, or of the file at its own size."""
    with state.pool.connection() as conn:
        table = known_target(conn, target)
        row = sets.get_set(conn, set_id)
    file = next((f for f in table.files if f.role == role and letter in f.channels), None)
    if file is None:
        raise UnknownKey("channel", f"{role} {letter}", [f"{f.role} {c}" for f in table.files for c in f.channels])
    facts = row.recipe.facts
    evaluation = state.evaluation(row.recipe, min(longer_px or MAX_SIDE, max(facts.width, facts.height))).at(tile)
    kept = f"stored {set_id} {row.head} {table.key} {table.version} {role} {letter} {longer_px} {tile}"
    found = state.cache.get(kept)
    if found is None:
        size = file_size(table, file, evaluation.size) if longer_px is None else evaluation.size
        found = stored_channel(table, file, letter, masters_for(evaluation, table, file, size), size)
        state.cache.put(kept, found)
    return found


@router.post("/probes")
def probe(state: State, request: ProbeRequest) -> ProbeAnswer:
    """Decoded values of every master at one texel."""
    check_recipe(request.recipe)
    own = max(request.recipe.facts.width, request.recipe.facts.height)
    evaluation = state.evaluation(request.recipe, min(request.size, own))
    across, down, tile = request.x, request.y, request.tile
    layout = _layout(request.recipe, tile)
    if layout is not None:
        tile, across, down = layout.under(across, down)
        if tile is None:
            return ProbeAnswer(x=0, y=0, size=0, masters={}, codes={})
    shown = _shown(evaluation, tile)
    masters, codes = texel(shown, int(across * shown.size.width), int(down * shown.size.height))
    facts = request.recipe.facts
    x, y = int(across * facts.width), int(down * facts.height)
    return ProbeAnswer(x=x, y=y, size=max(shown.size.width, shown.size.height), masters=masters, codes=codes, tile=shown.tile)
