"""Pictures for the screen: previews of masters, the packed answer of the lit view, swatches, single texels."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal
from uuid import UUID

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response

from ...core.color import encode_srgb_codes
from ...core.errors import Cancelled, SieveError, UnknownKey
from ...core.quantities import MASTERS, QUANTITIES, quantity
from ...core.raster import MAX_SIDE, FloatArray, Size, eight_bit
from ...core.recipe import Evaluation, check_recipe
from ...core.swatch_shader import shade_square
from ...core.target import file_size
from ...core.target.storing import StoredChannel, stored_channel
from ...files import encode
from ...store import sets
from ...work.deliveries.delivering import masters_for
from ...work.proofs import seen_by
from ..models import ChannelDifference, PreviewRequest, ProbeAnswer, ProbeRequest, Region
from ..state import AppState, State, known_target

__all__ = ["router"]

router = APIRouter()
_SWATCH_PX = 320
_LIT = ("base_color", "opacity", "normal", "height", "occlusion", "roughness", "metallic", "reflectance", "emissive")
_RAW: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/octet-stream": {}}},
    204: {"description": "A newer request took over"},
}


@router.post("/previews", responses=_RAW, response_class=Response)
def preview(state: State, request: PreviewRequest) -> Response:
    """Raw pixels, width and height in the headers: RGBA bytes for a master, half-float RGBA layers for ``lit``."""
    if request.wanted not in (*request.recipe.keys, "lit"):
        raise UnknownKey("wanted", request.wanted, [*request.recipe.keys, "lit"])
    check_recipe(request.recipe)
    cancel = state.views.begin(request.view, request.seq)
    if cancel is None:
        return Response(status_code=204)
    own = max(request.recipe.facts.width, request.recipe.facts.height)
    evaluation = state.evaluation(request.recipe, min(request.size, own), cancel)
    try:
        maps, size = _maps(evaluation) if request.target is None else _seen(state, evaluation, request)
        if request.wanted == "lit":
            layers = lit_layers(maps, size)
            body, counted = layers.tobytes(), {"x-layers": str(len(layers))}
        else:
            codes = _display(maps(request.wanted), request.wanted, size, request.region)
            body, size, counted = codes.tobytes(), Size(codes.shape[1], codes.shape[0]), {}
    except Cancelled:
        return Response(status_code=204)
    headers = {"x-width": str(size.width), "x-height": str(size.height), **counted}
    return Response(body, media_type="application/octet-stream", headers=headers)


Maps = Callable[[str], FloatArray | None]  # a map by its key, None where there is none


def _maps(evaluation: Evaluation) -> tuple[Maps, Size]:
    return evaluation.master, evaluation.size


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


def _whole(values: FloatArray | None, key: str, size: Size) -> FloatArray:
    row = quantity(key)
    if values is None:
        shape = (size.height, size.width, row.channels) if row.channels > 1 else (size.height, size.width)
        return np.broadcast_to(row.absent_value(), shape)
    return values


def _display(values: FloatArray | None, key: str, size: Size, region: Region | None = None) -> np.ndarray:
    """RGBA codes as a file of that map would look: color in sRGB, data straight; of its region alone when one is given."""
    values, row = _whole(values, key, size), quantity(key)
    if region is not None:
        values = values[region.y : region.y + region.height, region.x : region.x + region.width]
        if 0 in values.shape:
            raise SieveError(
                f"the region starts at {region.x}, {region.y}, beyond the picture of {size.width} × {size.height} px."
            )
    if row.color == "srgb":
        codes = encode_srgb_codes(np.ascontiguousarray(values))
    else:
        scale = 255 / (row.high - row.low)
        codes = cv2.convertScaleAbs(np.ascontiguousarray(values) - np.float32(row.low), alpha=scale)
    return cv2.cvtColor(codes, cv2.COLOR_GRAY2RGBA if codes.ndim == 2 else cv2.COLOR_RGB2RGBA)


def lit_layers(maps: Maps, size: Size) -> np.ndarray:
    """Base + opacity, normal + height, occlusion · roughness · metallic · reflectance, emissive: (4, H, W, 4) float16.

    A target that reads diffuse and specular has a fifth, its specular color; its base is the diffuse, and its metallic 0.
    """
    specular, diffuse = maps("specular"), maps("diffuse")
    is_split = specular is not None or diffuse is not None
    layers = np.zeros((5 if is_split else 4, size.height, size.width, 4), np.float16)
    get = {key: _whole(maps(key), key, size) for key in _LIT}
    layers[0, ..., :3], layers[0, ..., 3] = get["base_color"] if diffuse is None else diffuse, get["opacity"]
    layers[1, ..., :3], layers[1, ..., 3] = get["normal"], get["height"]
    for k, key in enumerate(("occlusion", "roughness", "metallic", "reflectance")):
        layers[2, ..., k] = get[key]
    layers[3, ..., :3] = get["emissive"]
    if is_split:
        layers[2, ..., 2] = 0
        layers[4, ..., :3] = _whole(specular, "specular", size)
    return layers


@router.get("/sets/{set_id}/swatch", response_class=Response)
def swatch(
    state: State, set_id: UUID, head: int, show: str = "lit", px: int = Query(_SWATCH_PX, ge=16, le=_SWATCH_PX)
) -> Response:
    """A PNG of the material as a flat square, lit from the upper left, or of one master."""
    with state.pool.connection() as conn:
        recipe = sets.get_set(conn, set_id)["recipe"]
    size = min(px, max(recipe.facts.width, recipe.facts.height))
    evaluation = state.evaluation(recipe, size)
    if show == "lit":
        masters = {key: values for key in MASTERS if (values := evaluation.master(key)) is not None}
        codes = encode_srgb_codes(shade_square(masters, evaluation.size))
        if "opacity" in masters:
            codes = _over_checker(codes, masters["opacity"], evaluation.size)
    else:
        if show not in recipe.keys:
            raise UnknownKey("show", show, ["lit", *recipe.keys])
        codes = _display(evaluation.master(show), show, evaluation.size)[..., :3]
    return Response(encode(codes, "png", color="srgb"), media_type="image/png", headers={"cache-control": "max-age=86400"})


_DIFFERENCE_GAIN = 0.5  # half a step of the file shows as half of white


@router.get("/sets/{set_id}/channels", response_class=Response)
def channel(
    state: State,
    set_id: UUID,
    head: int,
    target: str,
    role: str,
    letter: str,
    show: Literal["channel", "difference"] = "channel",
) -> Response:
    """A PNG of one channel of one file, in gray, as that target would get it, or of its difference from its source; 320 px.

    The difference is that of the file at its own size; a pixel shows the largest of the texels that it stands for.
    """
    if show == "channel":
        codes = _stored(state, set_id, target, role, letter, _SWATCH_PX).codes
    else:
        stored = _stored(state, set_id, target, role, letter, None)
        off = np.zeros(stored.codes.shape, np.float32) if stored.difference is None else stored.difference
        codes = _largest_of(off, _SWATCH_PX) * np.float32(_DIFFERENCE_GAIN / max(stored.step / 2, 1e-9))
    body = encode(eight_bit(np.ascontiguousarray(codes)), "png")
    return Response(body, media_type="image/png", headers={"cache-control": "max-age=86400"})


@router.get("/sets/{set_id}/channels/difference")
def channel_difference(state: State, set_id: UUID, head: int, target: str, role: str, letter: str) -> ChannelDifference:
    """How far a channel of a file, at its own size, reads back from its source, in the source's own units."""
    stored = _stored(state, set_id, target, role, letter, None)
    return ChannelDifference(largest=stored.largest, mean=stored.mean, step=stored.step)


def _largest_of(values: FloatArray, longer_px: int) -> FloatArray:
    """(H, W) brought to at most ``longer_px`` by the largest value of each block."""
    block = -(-max(values.shape) // longer_px)
    rows, columns = (np.arange(0, n, block) for n in values.shape)
    return np.maximum.reduceat(np.maximum.reduceat(values, rows, 0), columns, 1) if block > 1 else values


def _stored(state: AppState, set_id: UUID, target: str, role: str, letter: str, longer_px: int | None) -> StoredChannel:
    """One channel as it is stored, at most so large, or of the file at its own size."""
    with state.pool.connection() as conn:
        table = known_target(conn, target)
        row = sets.get_set(conn, set_id)
    file = next((f for f in table.files if f.role == role and letter in f.channels), None)
    if file is None:
        raise UnknownKey("channel", f"{role} {letter}", [f"{f.role} {c}" for f in table.files for c in f.channels])
    facts = row["recipe"].facts
    evaluation = state.evaluation(row["recipe"], min(longer_px or MAX_SIDE, max(facts.width, facts.height)))
    kept = f"stored {set_id} {row['head']} {table.key} {table.version} {role} {letter} {longer_px}"
    found = state.cache.get(kept)
    if found is None:
        size = file_size(table, file, evaluation.size) if longer_px is None else evaluation.size
        masters = {key: np.ascontiguousarray(values) for key, values in masters_for(evaluation, table, file, size).items()}
        found = stored_channel(table, file, letter, masters, size)
        state.cache.put(kept, found)
    return found


def _over_checker(codes: np.ndarray, opacity: FloatArray, size: Size) -> np.ndarray:
    rows, columns = np.indices((size.height, size.width)) // 10
    checker = np.where((rows + columns) % 2, 150, 190)[..., None]
    return (codes * opacity[..., None] + checker * (1 - opacity[..., None]) + 0.5).astype(np.uint8)


@router.post("/probes")
def probe(state: State, request: ProbeRequest) -> ProbeAnswer:
    """Decoded values of every master at one texel."""
    check_recipe(request.recipe)
    own = max(request.recipe.facts.width, request.recipe.facts.height)
    evaluation = state.evaluation(request.recipe, min(request.size, own))
    x, y = int(request.x * evaluation.size.width), int(request.y * evaluation.size.height)
    found, codes = {}, {}
    for key in request.recipe.keys:
        values = evaluation.master(key)
        if values is None:
            continue
        found[key] = [float(v) for v in np.atleast_1d(values[y, x])]
        if quantity(key).color == "srgb":
            texel = encode_srgb_codes(np.ascontiguousarray(values[y : y + 1, x : x + 1]))
            codes[key] = "#" + texel.tobytes().hex().upper()
    return ProbeAnswer(x=x, y=y, masters=found, codes=codes)
