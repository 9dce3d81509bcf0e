"""Steps in words, for the history, the account and the screen."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from ..raster import Size
from .decision import Repeat, Seen
from .lattice import HAS_LATTICE
from .light import light_of
from .moves import Crop, Mirror, Offset, Turn
from .spots import Spots
from .steps import GeometryStep
from .straighten import Straighten
from .variant import Variant

__all__ = ["changed_steps", "how_seen", "step_said"]

_HARDLY, _WORST_HARDLY, _WORST_PLACES = 1.1, 1.75, 2.6
_WEAK = 0.8
_LOOKED_AT = Size(16, 16)
_MOVED = 0.001  # of the picture: less is not told
_NARROW = 0.13  # of the tile: less overlap leaves the line little choice


def how_seen(seen: Seen) -> str:
    """How much a line shows, in words.

    Examples
    --------
    >>> how_seen(Seen(mean=0.96, most=1.02, worst=1.3)), how_seen(Seen(mean=1.0, most=1.1, worst=2.2))
    ('hardly seen', 'seen in places')
    """
    if seen.mean <= _HARDLY and seen.worst <= _WORST_HARDLY:
        return "hardly seen"
    return "seen in places" if seen.mean <= 1.5 * _HARDLY and seen.worst <= _WORST_PLACES else "a seam shows"


def _repeat(step: Repeat) -> str:
    sides = " × ".join("all" if join is None else f"{join.side * 100:.0f} %" for join in (step.x, step.y))
    parts = [f"made to repeat: {sides} of the picture, {how_seen(step.seen)}"]
    if step.is_square and step.x is not None and step.y is not None:
        parts.append("square")
    if step.even is not None:
        light = light_of(step.even, _LOOKED_AT)
        parts.append(f"its light evened first, which was {float(light.max() / light.min()):.1f} × brighter in places")
    joins = [join for join in (step.x, step.y) if join is not None]
    if min(join.overlap for join in joins) < _NARROW:
        parts.append("little of the picture overlaps")
    if step.fit > _WEAK and step.structure >= HAS_LATTICE:
        parts.append("its pattern fits nowhere")
    if any(step.period):
        parts.append(f"{_times(step)} of its pattern's repeats")
    if step.painted_at is not None and (moved := max(abs(a - b) for a, b in zip(step.tile, step.painted_at))) > _MOVED:
        parts.append(f"what is painted over it now lies up to {moved * 100:.1f} % of the picture elsewhere")
    return ", ".join(parts)


def _times(step: Repeat) -> str:
    pairs = [(side / period, axis) for side, period, axis in zip(step.tile, step.period, ("across", "down")) if period]
    return " and ".join(f"{times:.3g} {axis}" for times, axis in pairs)


def _spots(step: Spots) -> str:
    count = len(step.spots)
    if not count:
        return "no spot taken out yet"
    return f"{count} {'spot' if count == 1 else 'spots'} taken out, {'' if count == 1 else 'each '}filled from another place"


def _variant(step: Variant) -> str:
    told = f"another picture of the same stuff (seed {step.seed})"
    if step.pieces is None:
        return f"{told}, {step.cells} places across blended"
    return f"{told}, {step.cells} pieces across, their borders {how_seen(step.pieces.seen)}"


def _straighten(step: Straighten) -> str:
    bulge = f", lens bulge {step.bulge * 100:+.0f} %" if step.bulge else ""
    return f"straightened, {'sides estimated' if step.aspect is None else f'sides {step.aspect:.3g} : 1'}{bulge}"


_SAID: Mapping[type, Callable[[Any], str]] = MappingProxyType(
    {
        Crop: lambda step: f"cropped to {step.width} × {step.height} px",
        Turn: lambda step: f"rotated by {step.quarters * 90}°",
        Mirror: lambda step: "mirrored left to right" if step.axis == "x" else "mirrored top to bottom",
        Offset: lambda step: f"moved by {step.right}, {step.down} px",
        Straighten: _straighten,
        Spots: _spots,
        Repeat: _repeat,
        Variant: _variant,
    }
)


def step_said(step: GeometryStep) -> str:
    """One step in words.

    Examples
    --------
    >>> step_said(Turn(quarters=1)), step_said(Spots())
    ('rotated by 90°', 'no spot taken out yet')
    """
    return _SAID[type(step)](step) + ("" if step.is_on else " (off)")


def changed_steps(before: Sequence[GeometryStep], after: Sequence[GeometryStep]) -> str:
    """What became of a list of steps, in words: what is new in it, or else what is gone.

    Examples
    --------
    >>> changed_steps([], [Turn(quarters=2)]), changed_steps([Spots()], [])
    ('rotated by 180°', 'no longer: no spot taken out yet')
    """
    gone = next((step for step in before if step not in after), None)
    come = next((step for step in after if step not in before), None)
    if come is not None:
        return step_said(come)
    return f"no longer: {step_said(gone)}" if gone is not None else "the order of the steps"
