"""Pictures for the screen: maps as codes, the packed layers of the lit view, swatches, and files before they are in a set.

Nothing here reaches a delivered file.
"""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterable
from typing import Any, Literal

import cv2
import numpy as np

from ..core import derive
from ..core.checks.maps import Marked
from ..core.color import encode_srgb_codes, linear_from_srgb_codes
from ..core.convert.normal_faults import telling_patch
from ..core.derive.roughness import light_and_dark_spot
from ..core.errors import SieveError, UnknownKey
from ..core.intake.content import smaller
from ..core.intake.floats import SIGNED, height_span, on_span, signed_vectors, spans_of
from ..core.prepare.cutting import graph_cut
from ..core.quantities import MASTERS, quantity
from ..core.raster import FloatArray, Gray, Size, eight_bit, floats
from ..core.recipe import Evaluation, Source, master_ref
from ..core.recipe.model import Letters
from ..core.recipe.sources import read_quantity
from ..core.swatch_shader import shade_relief, shade_square
from ..core.target.storing import StoredChannel
from ..core.tiles import Layout
from ..files import Picture, encode
from ..standins import Ball
from .hatching import hatched

__all__ = [
    "Maps",
    "Region",
    "ball_layers",
    "channel_picture",
    "difference_picture",
    "doubt_picture",
    "laid_out",
    "lit_layers",
    "map_codes",
    "marked_texels",
    "normals_under_a_lamp",
    "spot_picture",
    "swatch",
    "texel",
    "thumbnail",
    "warm_up",
]

Maps = Callable[[str], FloatArray | None]  # a map by its key, None where there is none
Region = tuple[int, int, int, int]  # left, top, width, height in texels
_LIT = ("base_color", "opacity", "normal", "height", "occlusion", "roughness", "metallic", "reflectance", "emissive")
_SPOT_SHARE, _SPOT_PX = 0.12, 168  # of the width that is seen around a spot
_MARK = (255, 0, 200, 150)
_SURE, _UNSURE = 0.3, (255, 0, 200)
_THUMBNAIL_PX, _LIGHT_PX, _TELLING_PX = 96, 300, 1024
_DIFFERENCE_GAIN = 0.5  # half a step of the file shows as half of white


def _png(codes: np.ndarray) -> bytes:
    return encode(np.ascontiguousarray(codes), "png")


def _whole(values: FloatArray | None, key: str, size: Size) -> FloatArray:
    row = quantity(key)
    if values is None:
        shape = (size.height, size.width, row.channels) if row.channels > 1 else (size.height, size.width)
        return np.broadcast_to(row.absent_value(), shape)
    return values


def map_codes(values: FloatArray | None, key: str, size: Size, region: Region | None = None) -> np.ndarray:
    """RGBA codes as a file of that map would look: color in sRGB, data straight; of its region alone when one is given."""
    values, row = _whole(values, key, size), quantity(key)
    if region is not None:
        left, top, width, height = region
        values = values[top : top + height, left : left + width]
        if 0 in values.shape:
            raise SieveError(f"the region starts at {left}, {top}, beyond the picture of {size.width} × {size.height} px.")
    if row.color == "srgb":
        codes = encode_srgb_codes(np.ascontiguousarray(values))
    else:
        scale = 255 / (row.high - row.low)
        codes = cv2.convertScaleAbs(np.ascontiguousarray(values) - np.float32(row.low), alpha=scale)
    return cv2.cvtColor(codes, cv2.COLOR_GRAY2RGBA if codes.ndim == 2 else cv2.COLOR_RGB2RGBA)


def lit_layers(maps: Maps, size: Size) -> tuple[list[str], np.ndarray]:
    """The names of the layers that the lit view reads, and the layers, (count, H, W, 4) float16.

    color: base + opacity; shape: normal + height; shine: occlusion · roughness · metallic · reflectance; glow: emissive; mirror,
    where a target reads diffuse and specular: its specular color, while its base is the diffuse and its metallic 0; coat, where
    there is one: coat · coat roughness.
    """
    specular, diffuse, coat = maps("specular"), maps("diffuse"), maps("own_coat")
    is_split = specular is not None or diffuse is not None
    names = ["color", "shape", "shine", "glow", *(["mirror"] if is_split else []), *(["coat"] if coat is not None else [])]
    layers = np.zeros((len(names), size.height, size.width, 4), np.float16)
    get = {key: _whole(maps(key), key, size) for key in _LIT}
    none = np.zeros((size.height, size.width), np.float32)
    _lay(layers[0], get["base_color"] if diffuse is None else diffuse, get["opacity"])
    _lay(layers[1], get["normal"], get["height"])
    _lay(layers[2], get["occlusion"], get["roughness"], none if is_split else get["metallic"], get["reflectance"])
    if maps("emissive") is not None:
        _lay(layers[3], get["emissive"], none)
    if is_split:
        _lay(layers[4], _whole(specular, "specular", size), none)
    if coat is not None:
        _lay(layers[-1], coat, _whole(maps("own_coat_roughness"), "own_coat_roughness", size), none, none)
    return names, layers


def _lay(layer: np.ndarray, *channels: FloatArray) -> None:
    """Channels into a layer of half floats; numpy's own conversion takes five times as long."""
    whole = cv2.merge([np.ascontiguousarray(channel) for channel in channels])
    cv2.addWeighted(whole, 1, whole, 0, 0, dst=layer, dtype=cv2.CV_16F)


def laid_out(evaluation: Evaluation, layout: Layout, maps_of: Callable[[Evaluation], Maps]) -> tuple[Maps, Size]:
    """The maps of all tiles of a set as they lie beside each other; where there is no tile, there is a hole."""
    size = evaluation.size
    whole = Size(size.width * layout.columns, size.height * layout.rows)
    maps = {tile: maps_of(evaluation.at(tile)) for tile in layout.at}

    def get(key: str) -> FloatArray | None:
        parts = {tile: values for tile, of in maps.items() if (values := of(key)) is not None}
        if not parts and key != "opacity":
            return None
        row = quantity(key)
        shape = (whole.height, whole.width, row.channels) if row.channels > 1 else (whole.height, whole.width)
        values = np.full(shape, 0 if key == "opacity" else row.absent_value(), np.float32)
        for tile, (column, line) in layout.at.items():
            inside = values[line * size.height : (line + 1) * size.height, column * size.width : (column + 1) * size.width]
            inside[:] = parts[tile] if tile in parts else row.absent_value()
        return values

    return get, whole


def swatch(evaluation: Evaluation, show: str) -> bytes:
    """A PNG of a set as a flat square lit from the upper left (``show`` is "lit"), or of one of its masters.

    Raises UnknownKey.
    """
    size = evaluation.size
    if show != "lit":
        if show not in evaluation.recipe.keys:
            raise UnknownKey("show", show, ["lit", *evaluation.recipe.keys])
        return encode(np.ascontiguousarray(map_codes(evaluation.master(show), show, size)[..., :3]), "png", color="srgb")
    masters = {key: values for key in MASTERS if (values := evaluation.master(key)) is not None}
    codes = encode_srgb_codes(shade_square(masters, size))
    if "opacity" in masters:
        codes = _over_checker(codes, masters["opacity"], size)
    return encode(np.ascontiguousarray(codes), "png", color="srgb")


def spot_picture(evaluation: Evaluation, which: Literal["light", "dark"]) -> bytes:
    """A PNG of what surrounds a spot of the base color that is typical of what is light in it, or dark. Raises UnknownKey."""
    color, edges = evaluation.master("base_color"), evaluation.recipe.facts.edges
    if color is None:
        raise UnknownKey("map", "base_color", list(evaluation.recipe.masters))
    small = evaluation.value(master_ref("base_color"), evaluation.working)
    x, y = light_and_dark_spot(small, edges)[0 if which == "light" else 1]
    rows, columns = color.shape[:2]
    side = max(1, min(rows, columns, round(_SPOT_SHARE * columns)))
    left, top = (min(max(round(at * whole - side / 2), 0), whole - side) for at, whole in ((x, columns), (y, rows)))
    codes = encode_srgb_codes(np.ascontiguousarray(color[top : top + side, left : left + side]))
    return encode(cv2.resize(codes, (_SPOT_PX, _SPOT_PX), interpolation=cv2.INTER_CUBIC), "png", color="srgb")


def _over_checker(codes: np.ndarray, opacity: Gray, size: Size) -> np.ndarray:
    rows, columns = np.indices((size.height, size.width)) // 10
    checker = np.where((rows + columns) % 2, 150, 190)[..., None]
    return (codes * opacity[..., None] + checker * (1 - opacity[..., None]) + 0.5).astype(np.uint8)


def marked_texels(found: Iterable[Marked], finding_id: str, master: str) -> bytes:
    """A PNG whose alpha is the texels that a finding is about. Raises UnknownKey with the findings that have texels."""
    masks = {(m.finding.id, m.finding.master): m.mask for m in found if m.mask is not None}
    mask = masks.get((finding_id, master))
    if mask is None:
        raise UnknownKey("finding", f"{finding_id} of {master}", [f"{id} of {key}" for id, key in masks])
    codes = np.zeros((*mask.shape, 4), np.uint8)
    codes[mask] = _MARK
    return _png(codes)


def doubt_picture(doubt: Gray) -> bytes:
    """A PNG to lay over a picture, hatched the more strongly the more unsure picks leave it."""
    return _png(hatched(np.clip((doubt - _SURE) / (1 - _SURE), 0, 1), _UNSURE))


def channel_picture(stored: StoredChannel) -> bytes:
    """A PNG of one channel of a file, in gray."""
    return _png(eight_bit(np.ascontiguousarray(stored.codes)))


def difference_picture(stored: StoredChannel, longer_px: int) -> bytes:
    """A PNG of how far a channel is off, at most so large; a pixel shows the largest of the texels that it stands for."""
    off = np.zeros(stored.codes.shape, np.float32) if stored.difference is None else stored.difference
    return _png(eight_bit(_largest_of(off, longer_px) * np.float32(_DIFFERENCE_GAIN / max(stored.step / 2, 1e-9))))


def _largest_of(values: FloatArray, longer_px: int) -> FloatArray:
    """(H, W) brought to at most ``longer_px`` by the largest value of each block."""
    block = -(-max(values.shape) // longer_px)
    rows, columns = (np.arange(0, n, block) for n in values.shape)
    return np.maximum.reduceat(np.maximum.reduceat(values, rows, 0), columns, 1) if block > 1 else values


def texel(evaluation: Evaluation, x: int, y: int) -> tuple[dict[str, list[float]], dict[str, str]]:
    """Decoded values of every master at one texel, and the colors among them as sRGB codes, #RRGGBB."""
    found, codes = {}, {}
    for key in evaluation.recipe.keys:
        values = evaluation.master(key)
        if values is None:
            continue
        found[key] = [float(v) for v in np.atleast_1d(values[y, x])]
        if quantity(key).color == "srgb":
            one = encode_srgb_codes(np.ascontiguousarray(values[y : y + 1, x : x + 1]))
            codes[key] = "#" + one.tobytes().hex().upper()
    return found, codes


def ball_layers(theirs: Ball, masters: Ball) -> bytes:
    """(2, 3, N, N, 3) float16 as a display shows them: the target's and the masters', by lamp."""
    return np.stack([theirs.pictures, masters.pictures]).astype(np.float16).tobytes()


def thumbnail(codes: np.ndarray) -> bytes:
    """A small PNG of a file, or of one channel, as it is stored; without its alpha."""
    small = smaller(codes, _THUMBNAIL_PX)
    span = SIGNED if signed_vectors(codes) is not None else height_span(codes) if codes.ndim == 2 else None
    small = eight_bit(small if span is None else on_span(small, span))
    return _png(small[..., : 3 if small.shape[2] == 4 else 1] if small.ndim == 3 and small.shape[2] in (2, 4) else small)


def normals_under_a_lamp(picture: Picture, letters: Letters) -> bytes:
    """A PNG of normals as clay under a lamp above: Y+ whole, Y+ at the most telling place, then the same as Y−; 300 px each."""
    spans = spans_of(picture.codes, {letters: "normal"}, signed_vectors(picture.codes, are_normals=True))
    told: dict[str, Any] = {"width": picture.width, "height": picture.height, "reads": {letters: "normal"}, "spans": spans}
    source = Source(sha256="0" * 64, name="the file", **told)
    normal = read_quantity(source, picture.codes, "normal")
    left, top, right, bottom = telling_patch(smaller(normal, _TELLING_PX))
    rows = slice(int(top * picture.height), max(1, int(bottom * picture.height)))
    columns = slice(int(left * picture.width), max(1, int(right * picture.width)))
    turned = [normal * np.array([1, sign, 1], np.float32) for sign in (1, -1)]
    squares = [_square(part) for whole in turned for part in (whole, whole[rows, columns])]
    return _png(encode_srgb_codes(np.ascontiguousarray(np.concatenate(squares, 1))))


def _square(normal: np.ndarray) -> np.ndarray:
    """Shaded (300, 300), the middle of what is not square; texels stay sharp when they grow."""
    side = min(normal.shape[:2])
    top, left = ((n - side) // 2 for n in normal.shape[:2])
    middle = np.ascontiguousarray(normal[top : top + side, left : left + side])
    way = cv2.INTER_AREA if side > _LIGHT_PX else cv2.INTER_NEAREST
    return shade_relief(floats(cv2.resize(middle, (_LIGHT_PX, _LIGHT_PX), interpolation=way)))


def warm_up() -> None:
    """Compile (or load) the kernels on a tiny picture, so that the first slider is quick."""
    color = linear_from_srgb_codes(np.arange(48, dtype=np.uint8).reshape(4, 4, 3))
    height = derive.height_from_color(color)
    derive.normal_from_height(height)
    derive.occlusion_from_height(height)
    derive.roughness_from_color(color)
    encode_srgb_codes(color)
    free = np.zeros(color.shape[:2], np.int32)
    graph_cut(color, color, free > 0, free, False)  # the first repeat would wait 4 s for it
    gc.collect()
    gc.freeze()  # the compiler's objects stay for good: looking through them took the event loop 140 ms at a time
