"""Checks on one file as it came: what it is called, what its channels say of each other, and what it was stored as."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from types import MappingProxyType

import numpy as np

from ..convert.steps import CODE, STEPPED, is_of_8_bits, stepping
from ..findings import Finding, finding
from ..intake import Look, Relation, SourceProfile
from ..intake.floats import SIGNED, plane_of
from ..intake.names import read_name
from ..primaries import PRIMARIES, rec709_from
from ..quantities import quantity
from ..raster import unit_values
from ..target import legal_name

__all__ = ["CHECKS", "SeenFile", "left_to"]

_Y = {"up": "Y+", "down": "Y−"}
_LEAST_PX = 8  # smaller than that there is no neighborhood to derive anything from
_OUTSIDE, _FEW = 1e-3, 0.001  # how far below 0 a color is cut visibly, and the share of texels from which that is told
_NAMED_LAYERS = 6  # the rest is told as …
_COLORED = ("base_color", "photo", "diffuse")
_BLOCKS = MappingProxyType({"jpeg": 8, "dds": 4})  # texels to a side of what these formats store together


@dataclass(frozen=True)
class SeenFile:
    """What a check of a file sees.

    ``letters`` are the file's channels in their order, L gray, RGB color, A alpha; ``notes`` what reading it had to mend;
    ``profile_problem`` why a color profile could not be applied; ``is_header_of_primaries`` whether its header, and not
    its name, tells the primaries of its colors; ``source`` what is known of where it comes from; ``done`` what reading it took,
    ``color_done`` what more it took where it is read as color; ``layers`` what the pictures in it are called, where it holds
    several.
    """

    name: str
    look: Look
    codes: np.ndarray
    letters: str
    format: str
    has_profile: bool
    profile_problem: str | None
    notes: tuple[str, ...]
    source: SourceProfile | None = None
    done: str = ""
    layers: tuple[str, ...] = ()
    is_header_of_primaries: bool = False
    color_done: str = ""


def _name_changed(seen: SeenFile) -> Iterator[Finding]:
    stem = seen.look.stem
    if stem and legal_name(stem) != stem:
        yield finding("name-changed", name=legal_name(stem), given=repr(stem))


def _not_taken(seen: SeenFile) -> Iterator[Finding]:
    if seen.look.kind == "unknown" and seen.look.is_named:
        yield finding("named-otherwise", file=seen.name)
    elif seen.look.kind == "unknown":
        yield finding("surroundings" if seen.look.content.is_around else "unknown-kind", file=seen.name)
    elif seen.look.kind == "object_normal":
        yield finding("object-space", file=seen.name)
    elif not seen.look.reads:
        yield finding("no-channel-table", file=seen.name, kind=seen.look.kind)


def _green(seen: SeenFile) -> Iterator[Finding]:
    green = seen.look.green
    if green is None or seen.look.content.is_constant:  # what leans nowhere is the same either way
        return
    if green.answer == "unsure":
        yield finding("green-unsure", file=seen.name, why=green.reason)
        return
    knows = seen.source if seen.source is not None and seen.look.profile == seen.source.name else None
    said = knows.green if knows is not None else read_name(seen.name).green
    if said is not None and green.answer != said:
        who = knows.name if knows is not None else "its name"
        yield finding("green-contradicts", file=seen.name, who=who, said=_Y[said], found=_Y[green.answer])


def _axes(seen: SeenFile) -> Iterator[Finding]:
    if seen.look.green is not None and "swapped" in seen.look.faults:
        yield finding("axes-swapped", file=seen.name)


def _lossy(seen: SeenFile) -> Iterator[Finding]:
    """Normals that went through a format which stores blocks of texels together."""
    if seen.look.green is None:
        return
    told = next((int(fault[-1]) for fault in seen.look.faults if fault.startswith("blocks")), None)
    blocks = _BLOCKS.get(seen.format, told)
    if blocks is not None:
        yield finding("lossy-normal", file=seen.name, blocks=blocks, how="JPEG" if blocks == 8 else "a block-compressed texture")


def _too_small(seen: SeenFile) -> Iterator[Finding]:
    height, width = seen.codes.shape[:2]
    if max(height, width) < _LEAST_PX:
        yield finding("too-small", file=seen.name, width=width, height=height)


def _alpha(seen: SeenFile) -> Iterator[Finding]:
    if seen.look.kind in _COLORED and seen.look.content.alpha == "gray" and "A" not in seen.look.reads:
        yield finding("alpha-unclear", file=seen.name)
    if seen.look.is_alpha_open:
        yield finding("normal-alpha-open", file=seen.name, why=next(said for said in seen.look.because if "alpha" in said))


def _one_gray(seen: SeenFile) -> Iterator[Finding]:
    """Three channels that are one picture."""
    look = seen.look
    if not look.content.is_gray or len(seen.letters) < 3:
        return
    if look.kind == "packed":
        yield finding("same-channels", file=seen.name)
    elif look.reads and all(quantity(key).channels == 1 for key in look.reads.values()):
        yield finding("gray-as-color", file=seen.name)


def _same_planes(seen: SeenFile) -> Iterator[Finding]:
    """Channels that are read as different maps and are one picture; channels of one value are no pictures."""
    look = seen.look
    if seen.codes.ndim != 3 or look.content.is_gray:
        return
    planes = look.content.planes
    at = {letter: seen.letters.find(letter) for letter in look.reads if len(letter) == 1}
    drawn = [(letter, k) for letter, k in at.items() if 0 <= k < len(planes) and planes[k].spread > 0]
    for (a, first), (b, second) in combinations(drawn, 2):
        if look.reads[a] != look.reads[b] and np.array_equal(seen.codes[..., first], seen.codes[..., second]):
            maps = " and ".join(quantity(look.reads[letter]).title.lower() for letter in (a, b))
            yield finding("same-in-two-channels", file=seen.name, letters=f"{a} and {b}", maps=maps)


def _gray_of_color(seen: SeenFile) -> Iterator[Finding]:
    if not seen.look.content.is_gray:
        for letters, key in seen.look.reads.items():
            if letters in ("RGB", "L") and quantity(key).channels == 1:
                yield finding("gray-of-color", file=seen.name, kind=quantity(key).title.lower())


def _empty_channels(seen: SeenFile) -> Iterator[Finding]:
    for letter, key in seen.look.left_unread:
        yield finding("channel-empty", file=seen.name, letter=letter, kind=quantity(key).title.lower())


def _spanned(key: str, span: tuple[float, float]) -> str | None:
    """What is said of floats that hold more than 0 to 1."""
    low, high = span
    if key in ("normal", "object_normal") and span == SIGNED:
        return "stores vectors with their signs, from −1 to 1, and is read so"
    if key in ("height", "curvature") and (min(span) < 0 or max(span) > 1):
        middle = ", with 0 in the middle" if low == -high else ""
        ends = " to ".join((f"{end:.0f}" if abs(end) >= 1000 else f"{end:.4g}").replace("-", "−") for end in span)
        return f"stores {key} beyond 0 to 1; what runs from {ends} is read as 0 to 1{middle}"
    return None


def _done(seen: SeenFile) -> Iterator[Finding]:
    """What reading the file took that nobody asked for, and what else lies in it."""
    is_color = any(quantity(key).color == "srgb" for key in seen.look.reads.values())
    if done := "; ".join(said for said in (seen.done, is_color and seen.color_done) if said):
        yield finding("read-as", file=seen.name, done=done)
    for letters, span in seen.look.spans.items() if seen.codes.dtype.kind == "f" else ():
        if (said := _spanned(seen.look.reads[letters], span)) is not None:
            yield finding("read-as", file=seen.name, done=said)
    if seen.layers:
        names = ", ".join(seen.layers[:_NAMED_LAYERS]) + (" …" if len(seen.layers) > _NAMED_LAYERS else "")
        yield finding("has-layers", file=seen.name, count=len(seen.layers), names=names)


def _stepped(seen: SeenFile) -> Iterator[Finding]:
    """Heights of 8 bits whose steps would be seen; the file's own codes are asked."""
    letters = next((letters for letters, key in seen.look.reads.items() if key == "height"), None)
    if letters is None or not is_of_8_bits(seen.codes):
        return
    at = max(seen.letters.find(letters[0]), 0)
    plane = unit_values(np.ascontiguousarray(seen.codes if seen.codes.ndim == 2 else seen.codes[..., at]))
    times = stepping(plane, CODE)
    if times >= STEPPED:
        yield finding("stepped-height", file=seen.name, times=times)


def _profile(seen: SeenFile) -> Iterator[Finding]:
    colors = {quantity(key).color for key in seen.look.reads.values()}
    if seen.has_profile and colors == {"data"}:
        yield finding("profile-on-data", file=seen.name)
    if seen.profile_problem is not None and "srgb" in colors:
        yield finding("profile-not-applied", file=seen.name, why=seen.profile_problem)


def _primaries(seen: SeenFile) -> Iterator[Finding]:
    """Colors that are told in other primaries than they are kept in."""
    primaries = seen.look.primaries
    letters = next((letters for letters, key in seen.look.reads.items() if quantity(key).color == "srgb"), None)
    if primaries in (None, "rec709") or letters != "RGB" or seen.codes.ndim != 3:
        return
    colors = rec709_from(seen.codes[..., :3].astype(np.float32), primaries)
    outside = float((colors.min(-1) < -_OUTSIDE).mean())
    who = "its header" if seen.is_header_of_primaries else "its name"
    cut = f"; {outside:.1%} of the picture lies outside of these and is cut" if outside >= _FEW else ""
    yield finding("other-primaries", file=seen.name, title=PRIMARIES[primaries].title, who=who, cut=cut)


def _beyond(seen: SeenFile) -> Iterator[Finding]:
    """Floats outside of what their map can be, which nobody said how to read."""
    if seen.codes.dtype.kind != "f":
        return
    for letters, key in seen.look.reads.items():
        row = quantity(key)
        if letters in seen.look.spans or key in ("normal", "object_normal", "position"):
            continue
        values = plane_of(seen.codes, letters)
        share = float(((values < -_OUTSIDE) | (values > 1 + _OUTSIDE)).mean())
        if share >= _FEW:
            told = {"share": share, "map": row.title.lower(), "low": float(values.min()), "high": float(values.max())}
            yield finding("beyond-range", file=seen.name, **told)


def _mended(seen: SeenFile) -> Iterator[Finding]:
    yield from (finding("broken-values", file=seen.name, why=note) for note in seen.notes if note != "palette")


CHECKS: tuple[Callable[[SeenFile], Iterator[Finding]], ...] = (
    _name_changed,
    _not_taken,
    _green,
    _axes,
    _lossy,
    _too_small,
    _alpha,
    _one_gray,
    _same_planes,
    _gray_of_color,
    _empty_channels,
    _stepped,
    _profile,
    _primaries,
    _beyond,
    _mended,
    _done,
)

_LEFT: Mapping[Relation, str] = MappingProxyType(
    {"copy": "copy-left-out", "worse": "worse-left-out", "rival": "rival-maps", "preview": "preview-left-out"}
)


def left_to(relation: Relation, file: str, better: str, keys: Sequence[str]) -> Finding:
    """What is said of a file whose maps ``keys`` are taken from a ``better`` one."""
    maps = " and ".join(quantity(key).title.lower() for key in dict.fromkeys(keys))
    return finding(_LEFT[relation], file=file, better=better, maps=maps)
