"""What the files of a set say: how far its height rises, where its maps repeat, how a photo is lit and how noisy it is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from ..color import gray_of, srgb_from_linear
from ..convert.rise import MeasuredRise, measured_rise
from ..derive.grain import noise_by_size
from ..derive.height import NEARLY_PLAIN, Contrast, relief_contrast
from ..derive.shape_from_shading import lamp_side
from ..derive.split import is_lone_thing
from ..derive.tilt import STEEPEST, USUAL_TILT, Tilt, rise_for_tilt
from ..filters import resize
from ..prepare.light import LightAcross, light_across
from ..quantities import quantity
from ..raster import Edges, Gray, Rgb, Size
from ..recipe import Evaluation, Recipe, Ref, master_ref, origin_of
from .content import seams

__all__ = [
    "Seam",
    "heights_of",
    "lamp_of",
    "light_of",
    "noise_of",
    "of_color",
    "rise_said",
    "seams_of",
    "stands_alone",
    "usual_tilt",
    "with_fitted_rise",
    "with_known_rise",
    "with_measured_rise",
]

Found = TypeVar("Found")
_USUAL = Contrast(reach=0.06, bulk=0.038)  # of lightness: photos of surfaces that lean as usual reach 0.08 and more
_LEAST_SHARE = 0.01  # so that there is a tilt to fit
_MEASURED_PX = 2048  # longer side: more would say the same


@dataclass(frozen=True)
class Seam:
    """How much more a given map jumps over its borders, left to right and top to bottom, than beside them."""

    master: str
    across: float
    down: float


def seams_of(evaluation: Evaluation) -> list[Seam]:
    """The seam of every given map as it lies now, the worst first."""
    recipe, found = evaluation.recipe, []
    for key in recipe.masters:
        if origin_of(recipe, key) != "given":
            continue
        values = evaluation.stored(recipe.masters[key])
        row = quantity(key)
        stored = (
            srgb_from_linear(values) if row.color == "srgb" else (values - np.float32(row.low)) / np.float32(row.high - row.low)
        )
        across, down = seams(stored)  # as files have them, which is how intake saw them
        found.append(Seam(key, round(across, 2), round(down, 2)))
    return sorted(found, key=lambda seam: -max(seam.across, seam.down))


def rise_said(evaluation: Evaluation) -> MeasuredRise | None:
    """What a given height and given normals say of the rise; None where they are not both there."""
    recipe = evaluation.recipe
    if any(origin_of(recipe, key) != "given" for key in ("height", "normal")):
        return None
    normal, height = (evaluation.stored(recipe.masters[key]) for key in ("normal", "height"))
    rows, columns = min(normal.shape[:2], height.shape[:2])
    scale = min(1.0, _MEASURED_PX / max(rows, columns))
    size = Size(max(1, round(columns * scale)), max(1, round(rows * scale)))
    edges = recipe.facts.edges
    return measured_rise(resize(normal, size, edges), resize(height, size, edges), edges)


def with_measured_rise(evaluation: Evaluation) -> Recipe:
    """The recipe with the rise that its files say, where nobody has told it and they agree; else as it is."""
    recipe = evaluation.recipe
    said = rise_said(evaluation) if recipe.facts.rise_from not in ("told", "baked") else None
    if said is None or not said.is_believed:
        return recipe
    facts = {"rise": said.rise, "rise_from": "measured", "rise_fit": round(min(said.fit, 1.0), 4)}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=facts)})


def heights_of(evaluation: Evaluation) -> list[Gray]:
    """The height at the working size, of every tile that has one; none where it is absent."""
    ref = master_ref("height")
    return [one.value(ref, one.working) for one in evaluation.each if one.has(ref)]


def with_fitted_rise(evaluation: Evaluation, tilt: float | None = None) -> Recipe:
    """The recipe with the rise at which its height leans by ``tilt`` degrees on average; as it is where no height leans.

    Where no tilt is asked for, as usual. It is limited, so that nothing grows steeper than surfaces are.
    """
    recipe = evaluation.recipe
    heights = [height for height in heights_of(evaluation) if np.ptp(height) > 0]
    if not heights:
        return recipe
    wanted = usual_tilt(evaluation)
    if tilt is not None:
        wanted = Tilt(tilt * min(_share(one.reach, NEARLY_PLAIN) for one in _contrasts(evaluation)), STEEPEST)
    rise = min(rise_for_tilt(height, wanted.mean, recipe.facts.edges, steepest=wanted.steepest) for height in heights)
    facts = {"rise": rise, "rise_from": "fitted", "rise_fit": None}
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update=facts)})


def usual_tilt(evaluation: Evaluation) -> Tilt:
    """How far the height is to lean: as surfaces do, and the less, the less contrast its color has, as what hardly shades hardly
    leans. Where few places hold that contrast, as pores in concrete or veins in marble do, those are less steep as well.
    """
    contrasts = _contrasts(evaluation)
    mean = min(_share(one.reach, _USUAL.reach) * _spread(one) for one in contrasts)
    return Tilt(USUAL_TILT * mean, _less_steep(STEEPEST, min(map(_spread, contrasts))))


def _contrasts(evaluation: Evaluation) -> list[Contrast]:
    """The contrast of the color of every tile that the height is read from; the usual one of any other height."""
    made, color = evaluation.recipe.node_of("height"), master_ref("base_color")
    if made is None or "color" not in made[1].inputs:
        return [_USUAL]
    return [of_color(one, "contrast", relief_contrast) if one.has(color) else _USUAL for one in evaluation.each]


def _share(contrast: float, enough: float) -> float:
    return min(max(contrast / enough, _LEAST_SHARE), 1.0)


def _spread(contrast: Contrast) -> float:
    """1 where contrast is all over a picture, as much less as few places hold it."""
    reach = min(contrast.reach, _USUAL.reach)
    return _share(contrast.bulk / _USUAL.bulk, reach / _USUAL.reach) if reach > 0 else 1.0


def _less_steep(degrees: float, share: float) -> float:
    return float(np.degrees(np.arctan(np.tan(np.radians(degrees)) * share)))


def stands_alone(seen: Evaluation, photo: Ref) -> bool:
    """Whether a photo shows one thing on a plain ground, looked at once."""
    return seen.kept(photo, "stands alone", lambda: is_lone_thing(seen.value(photo, seen.working)))


def light_of(seen: Evaluation, photo: Ref) -> LightAcross:
    """How unevenly a photo is lit, measured once. That a picture repeats is a guess that light may have to overrule.

    A plain ground around a thing shows that the light is even: what the thing differs by is its own color.
    """
    if stands_alone(seen, photo):
        return LightAcross(1.0, False, "side")
    facts = seen.recipe.facts
    edges = facts.edges if facts.edges_from == "told" else Edges(x="mirror", y="mirror")
    key = f"light across {edges.x} {edges.y}"
    return seen.kept(photo, key, lambda: light_across(seen.value(photo, seen.working), edges))


def lamp_of(seen: Evaluation) -> float | None:
    """Where a lamp seems to stand that lights the base color from a side, in degrees, looked at once; None where none does."""
    return of_color(seen, "lamp", lambda color, edges: (lamp_side(gray_of(color, "lightness"), edges),))[0]


def of_color(seen: Evaluation, what: str, look: Callable[[Rgb, Edges], Found]) -> Found:
    """Something that is found out about the base color at the working size, called ``what``, looked at once."""
    color, edges = master_ref("base_color"), seen.recipe.facts.edges
    key = f"{seen.sized_key(color, seen.working)} {what} {edges.x} {edges.y}"
    return seen.made_once(key, lambda: look(seen.value(color, seen.working), edges))


def noise_of(seen: Evaluation, photo: Ref) -> tuple[float, ...]:
    """What of a photo's detail is noise, size by size, measured once, at the size of its file."""
    return seen.kept(photo, "noise", lambda: noise_by_size(seen.stored(photo)))


def with_known_rise(evaluation: Evaluation) -> Recipe:
    """The recipe with the rise that its files say; of a derived height that nobody has told, the one that leans as usual."""
    recipe = evaluation.recipe
    if recipe.facts.rise_from == "assumed" and origin_of(recipe, "height") not in ("given", "absent"):
        return with_fitted_rise(evaluation)
    return with_measured_rise(evaluation)
