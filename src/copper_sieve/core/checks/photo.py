"""Checks on a set that starts from a photo: its light, its noise, its contrast, and what was guessed from it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np

from ..color import linear_from_srgb, srgb_from_linear
from ..derive.detail import HANDLES
from ..derive.grain import LEFT_OUT
from ..derive.grooves import line_skewness
from ..derive.height import NEARLY_PLAIN, HeightFromColor, gray_spectrum, hues_in_relief, relief_contrast
from ..derive.masks import MaskByRange, MaskFromColor
from ..derive.roughness import GuessedRoughness
from ..derive.split import background_of, light_split
from ..derive.streaks import looks_like_wood
from ..derive.tilt import tilt_of
from ..findings import Finding, finding
from ..intake.facts import lamp_of, light_of, noise_of, of_color, stands_alone, usual_tilt
from ..prepare.marks import marks_step
from ..raster import FloatArray, Gray
from ..recipe import Evaluation, Ref, master_ref, params_of, photo_ref, source_ref
from .fixes import LIGHT_IS_HIGH

__all__ = ["CHECKS"]

_LIGHT_LINES = 0.2  # skewness from which thin lines are light
_FEW_PLACES = 0.75  # of the usual tilt: where more is steep, as joints are, the whole leans as usual
_SEVERAL_HUES = 0.25  # of the relief's detail: shade is of one, stones and fibers of many differ less than materials do
_CLIPPED = 0.02  # of the texels
_WHITE, _BLACK = (float(ends) for ends in linear_from_srgb(np.array([254.5, 0.5]) / 255))  # all three components, in light
_PLAIN_ROW = 1 / 255  # deviation of a row or column that is one value
_LEAST_BORDER, _MOST_BORDER = 2, 0.2  # rows; share of a side
_LOOK_PX = 1024  # rows or columns that are looked at
_MARKED_PX = 2048  # of the middle, in which marks are looked for
_NOWHERE = (0, 0)
_DARKEST_SHADOW = 12.0  # times: what is darker yet is paint, as the sky lights what the sun does not
_FROM = ("the right", "the upper right", "above", "the upper left", "the left")  # by eighths of a turn
_SIDES = ("left", "top", "right", "bottom")


def _is_from_color(op: str) -> bool:
    """Whether an operation reads relief straight from a color."""
    return op in LIGHT_IS_HIGH or op == "normal_from_color"


def _light(seen: Evaluation) -> Iterator[Finding]:
    """A photo whose light is uneven: evened out, which the eye may refuse, or still in the color."""
    photo, made = photo_ref(seen.recipe), seen.recipe.node_of("base_color")
    if made is not None and made[1].op == "albedo_from_photo":
        across = light_of(seen, made[1].inputs["photo"])
        if across.stands_out:
            yield finding("light-evened", master="base_color", ratio=across.ratio)
    elif photo is not None and light_of(seen, photo).stands_out:
        yield finding("uneven-light", master="base_color", ratio=light_of(seen, photo).ratio)
    if photo is not None and 1 < light_of(seen, photo).toned < _DARKEST_SHADOW:
        yield finding("darker-part", master="base_color", ratio=light_of(seen, photo).toned)


def _is_light_high(seen: Evaluation) -> bool:
    """Whether the height is read from a color as light is high, of which it is not known that a lamp shades it."""
    made = seen.recipe.node_of("height")
    if made is None or made[1].op not in LIGHT_IS_HIGH or not seen.has(master_ref("base_color")):
        return False
    params = params_of(made[1])
    return not getattr(params, LIGHT_IS_HIGH[made[1].op]) and getattr(params, "shading", 0) == 0


def _lit_from_a_side(seen: Evaluation) -> Iterator[Finding]:
    """A relief read from light as high, of a picture whose light and dark look like the flanks of its shapes."""
    lamp = _lamp(seen)
    if lamp is not None:
        yield finding("lit-from-a-side", master="height", side=_FROM[round(lamp / 45)])


def _lamp(seen: Evaluation) -> float | None:
    """Where a lamp seems to stand, as long as nobody has said that the tones are no light and shade."""
    photo = photo_ref(seen.recipe)
    is_alone = photo is not None and seen.has(photo) and stands_alone(seen, photo)
    is_settled = "lit-from-a-side" in seen.recipe.answered
    return None if is_settled or is_alone or not _is_light_high(seen) else lamp_of(seen)


def _light_lines(seen: Evaluation) -> Iterator[Finding]:
    """A relief read from light as high, of a picture whose thin lines are light: they may be joints."""
    if _is_light_high(seen) and _lamp(seen) is None and _has_light_lines(seen):
        yield finding("light-lines", master="height")


def _has_light_lines(seen: Evaluation) -> bool:
    skewness = of_color(seen, "lines", lambda color, edges: line_skewness(gray_spectrum(color, edges, gray="lightness")))
    return skewness > _LIGHT_LINES


def _is_grainy(seen: Evaluation) -> bool:
    """Whether even the middle sizes of a photo's detail are mostly noise, whose hues say nothing."""
    return any(noise_of(seen, photo)[len(HANDLES) // 2] >= LEFT_OUT for _, photo in _photos(seen))


def _relief_or_color(seen: Evaluation) -> Iterator[Finding]:
    """A relief that may be only color: a few thin or sharp places make it too steep to rise as usual, its tones are of several
    hues, or it looks like wood.
    """
    made, facts = seen.recipe.node_of("height"), seen.recipe.facts
    if made is None or made[1].op not in LIGHT_IS_HIGH or facts.rise_from != "fitted":
        return
    if getattr(params_of(made[1]), "shading", 0) > 0 or _lamp(seen) is not None:
        return
    leans, usual = tilt_of(seen.value(master_ref("height"), seen.working), facts.rise, facts.edges), usual_tilt(seen)
    if leans.steepest > usual.steepest - 1 and leans.mean < _FEW_PLACES * usual.mean:
        yield finding("relief-or-color", master="height", sign="A few thin or sharp places carry the relief.")
    elif made[1].op == "height_from_color" and _is_light_high(seen) and not (_has_light_lines(seen) or _is_grainy(seen)):
        if of_color(seen, "hues", hues_in_relief) > _SEVERAL_HUES:
            yield finding("relief-or-color", master="height", sign="High and low differ in hue, as paint and rust do.")
        elif of_color(seen, "wood", looks_like_wood):
            yield finding("relief-or-color", master="height", sign="Brown streaks side by side, as the grain of smooth wood has.")


def _nearly_plain(seen: Evaluation) -> Iterator[Finding]:
    """A relief read from a color in which there is hardly anything to read."""
    made = seen.recipe.node_of("height") or seen.recipe.node_of("normal")
    if made is None or not _is_from_color(made[1].op) or not seen.has(master_ref("base_color")):
        return
    contrast = of_color(seen, "contrast", relief_contrast).reach
    if contrast < NEARLY_PLAIN:
        yield finding("nearly-plain", master="height", contrast=contrast, least=NEARLY_PLAIN)


def _noise(seen: Evaluation) -> Iterator[Finding]:
    """A photo whose finest detail is mostly noise, which the height leaves out."""
    for name, photo in _photos(seen):
        made = seen.recipe.node_of("height")
        params = None if made is None else params_of(made[1])
        if not isinstance(params, HeightFromColor):
            return
        share = noise_of(seen, photo)[-1]
        if share >= LEFT_OUT and params.detail[-1] == 0:
            yield finding("noisy-photo", master="height", file=name, share=share)


def _roughness(seen: Evaluation) -> Iterator[Finding]:
    """A roughness that follows the color, of which nobody has said how."""
    made = seen.recipe.node_of("roughness")
    params = None if made is None else params_of(made[1])
    if isinstance(params, GuessedRoughness) and params.spread > 0 and not params.invert:
        yield finding("roughness-guessed", master="roughness")


def _opacity(seen: Evaluation) -> Iterator[Finding]:
    """What of the color an opacity that is made of it calls a hole, where that is the picture's own split or a guess."""
    made = seen.recipe.node_of("opacity")
    if made is None or made[1].op not in ("opacity_by_range", "opacity_from_color"):
        return
    params, color = params_of(made[1]), made[1].inputs["own_color"]
    if not seen.has(color):
        return
    values = seen.value(color, seen.working)
    if isinstance(params, MaskByRange):
        around = background_of(values)
        if around is not None and params.invert and params.color == around.color:
            yield finding("opacity-around", master="opacity", color=around.color)
        elif params.color is None or not made[1].params:
            is_open = params.color is None
            what = "Everything is solid until a color is picked" if is_open else f"What is near {params.color} is solid for now"
            yield finding("opacity-assumed", master="opacity", what=what)
    elif isinstance(params, MaskFromColor):
        between = light_split(values)
        if between is not None and params.threshold == between.threshold:
            solid = "dark" if params.invert else "light"
            yield finding("opacity-between", master="opacity", threshold=params.threshold, solid=solid)
        elif not made[1].params:
            yield finding(
                "opacity-assumed", master="opacity", what=f"What is lighter than {params.threshold:.0%} is solid for now"
            )


def _plain_ground(seen: Evaluation) -> Iterator[Finding]:
    """A thing on a plain ground that nobody has cut out."""
    photo = photo_ref(seen.recipe)
    if photo is not None and not seen.has(master_ref("opacity")) and stands_alone(seen, photo):
        yield finding("plain-ground", master="opacity")


def _clipped(seen: Evaluation) -> Iterator[Finding]:
    for name, photo in _photos(seen):
        shares = seen.kept(photo, "clipped", lambda photo=photo: _clipped_shares(seen.stored(photo)))
        for share, end in zip(shares, ("white", "black")):
            if share > _CLIPPED:
                yield finding("clipped", master="base_color", file=name, share=share, end=end)


def _clipped_shares(photo: FloatArray) -> tuple[float, float]:
    """Shares of white and of black, from every so many rows and columns: they are the same of an 8K photo."""
    rows, columns = (slice(None, None, max(1, side // _LOOK_PX)) for side in photo.shape[:2])
    red, green, blue = (photo[rows, columns, k] for k in range(3))
    least, most = np.minimum(np.minimum(red, green), blue), np.maximum(np.maximum(red, green), blue)
    return float((least >= _WHITE).mean()), float((most <= _BLACK).mean())


def _framed(seen: Evaluation) -> Iterator[Finding]:
    """A photo with rows of one color along its sides, as scans and prints have."""
    for name, photo in _photos(seen):
        if stands_alone(seen, photo):
            continue
        widths = seen.kept(photo, "border", lambda photo=photo: _borders(seen.stored(photo)))
        found = [f"{width} px {side}" for width, side in zip(widths, _SIDES) if width]
        if found:
            yield finding("framed", master="base_color", file=name, sides=", ".join(found))


def _borders(photo: FloatArray) -> tuple[int, ...]:
    """How many rows of one color lie along the left, upper, right and lower side; 0 where fewer than count, or all do."""
    across = np.swapaxes(photo, 0, 1)
    return tuple(_plain_rows(lines) for lines in (across, photo, across[::-1], photo[::-1]))


def _plain_rows(photo: FloatArray) -> int:
    """How many of the first rows are of one color, told by every so many texels of them."""
    rows = photo[:, :: max(1, photo.shape[1] // _LOOK_PX)]
    most = int(_MOST_BORDER * len(rows))
    for count in range(most + 1):
        if srgb_from_linear(np.ascontiguousarray(rows[count])).std(axis=0).max() > _PLAIN_ROW:
            return count if count >= _LEAST_BORDER else 0
    return 0


def _marked(seen: Evaluation) -> Iterator[Finding]:
    """A photo with a watermark that comes again and again over it. A single one is not found."""
    for name, photo in _photos(seen):
        step = seen.kept_of_file(photo, "marks", lambda values: marks_step(_middle(values)) or _NOWHERE)
        if step != _NOWHERE:
            yield finding("watermarked", master="base_color", file=name, step=round(math.hypot(*step)))


def _middle(photo: FloatArray) -> Gray:
    """The middle of a photo, as a file stores it, in gray. It is not shrunk: marks would not come again to the texel."""
    rows, columns = photo.shape[:2]
    top, left = max(0, rows - _MARKED_PX) // 2, max(0, columns - _MARKED_PX) // 2
    stored = srgb_from_linear(photo[top : top + _MARKED_PX, left : left + _MARKED_PX])
    return (stored[..., 0] + stored[..., 1] + stored[..., 2]) / 3


def _photos(seen: Evaluation) -> Iterator[tuple[str, Ref]]:
    """Every source that is read as a photo, with its file's name."""
    for name, source in seen.recipe.sources.items():
        if "photo" in source.reads.values():
            yield source.name, source_ref(name, "photo")


CHECKS: tuple[Callable[[Evaluation], Iterator[Finding]], ...] = (
    _plain_ground,
    _lit_from_a_side,
    _relief_or_color,  # before which way is up: what is flat has none
    _light_lines,
    _light,
    _roughness,
    _nearly_plain,
    _noise,
    _opacity,
    _clipped,
    _framed,
    _marked,
)
