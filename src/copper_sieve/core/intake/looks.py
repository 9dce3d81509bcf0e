"""The answer to "what is this file?": kind, evidence, confidence, convention."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Literal

import numpy as np

from ..convert.green import WhichGreen, which_green
from ..convert.normal_faults import against_height, block_period, is_swapped
from ..primaries import Primaries
from ..quantities import is_known, quantity
from ..raster import unit_values
from .channels import Guess, guess_gray, guess_packed
from .content import TILING, Content, measure_content, smaller
from .floats import as_shares, signed_vectors, spans_of
from .names import NOT_HELD, NameReading, channel_words, is_beyond, kind_in_color, packed_reads, read_name
from .profile import Ending, SourceProfile

__all__ = ["Look", "NormalFault", "look_at", "reads_for"]

_LEFT_AT_ONE_VALUE = 0.004
_SIGN = {"up": "+", "down": "−"}
_BY_NAME_ALONE = 0.6
_BY_PROFILE = 0.98
_HARDLY_SAID = 0.7  # a word of a name that the picture may outweigh
_TAKEN_FROM = 0.6  # a guess from pixels alone is taken from this confidence up, offered below
_COLORS = ("base_color", "photo", "diffuse")
_IN_PAIRS = MappingProxyType({"own_coat": ("own_coat", "own_coat_roughness")})  # in red and green of one file
_NEVER_BLACK = ("occlusion", "roughness", "opacity")  # all closed, all mirror, all hole: an empty channel rather
_CLOSES_WELL = 3.0  # slopes that close so much better one way are those of a surface, with its axes where they belong
_BESIDE_PX = 512  # an alpha is held against the normals beside it at this size
_LEAST_LEAN = 0.004  # spread of red and green, on the stored scale, from which normals lean at all
_SAME_SLOPES, _OTHER_SLOPES = 0.975, 0.6  # correlation from which two maps are one relief, and under which they are not
_MOSTLY_SHADES = 0.5  # black or white on less than that
_CUT_AROUND = 0.99  # of the outermost texels are holes
_PLANE = MappingProxyType({"G": 1, "B": 2, "A": -1})
_LOOK_PX = 512  # the middle of a map tells of swapped axes and of blocks as well as the whole

NormalFault = Literal["swapped", "blocks-4", "blocks-8"]


@dataclass(frozen=True)
class Look:
    """``kind`` is a quantity's key, or packed, unknown. ``reads`` may be empty then.

    ``guesses`` are what a picture of unknown kind may be, the likeliest first; ``spans`` and ``corrections`` are as in a
    recipe's source.
    """

    kind: str
    confidence: float
    because: tuple[str, ...]
    stem: str
    reads: dict[str, str]
    green: WhichGreen | None
    content: Content
    spans: dict[str, tuple[float, float]]
    guesses: tuple[str, ...] = ()
    faults: tuple[NormalFault, ...] = ()
    profile: str | None = None
    left_unread: tuple[tuple[str, str], ...] = ()  # letter and kind of packed channels that are black and cannot be that
    is_alpha_open: bool = False  # a normal's alpha that is neither height nor gloss
    is_named: bool = True  # whether the name says the map; else the set's name is all of the file's
    corrections: Mapping[str, Mapping[str, float]] = field(default_factory=dict)  # what its material makes of it
    primaries: Primaries | None = None  # of its colors, where anything says so

    @property
    def guess(self) -> str | None:
        """The likeliest of the guesses."""
        return self.guesses[0] if self.guesses else None

    @property
    def tiles(self) -> tuple[bool, bool]:
        """Whether the picture repeats without a seam, per axis. What is cut out all around stands alone."""
        planes = self.content.planes
        if any(key == "opacity" and planes[_PLANE.get(at, 0)].dark_rim > _CUT_AROUND for at, key in self.reads.items()):
            return False, False
        return self.content.seam[0] <= TILING, self.content.seam[1] <= TILING


def reads_for(kind: str, channels: int, word: str = "") -> dict[str, str]:
    """How the channels of a file of ``kind`` are read; {} for kinds that cannot be taken in by themselves yet."""
    if kind == "packed":
        reads = packed_reads(word) if word and channels >= 3 else {}
        if channels == 3 and "A" in reads:  # metallic with gloss in an alpha that is not there, or a fourth map
            return {letter: key for letter, key in reads.items() if letter != "A"} if len(reads) > 2 else {}
        return reads
    if kind == "unknown":
        return {}
    if kind == "normal" and channels < 3:
        return {}
    reads = {"L" if channels < 3 else "RGB": kind}
    if kind == "opacity" and channels in (2, 4):
        return {"A": "opacity"} if channels == 4 else {"L": "opacity"}
    if kind in ("base_color", "photo", "diffuse") and channels == 4:
        reads["A"] = "opacity"
    return reads


@dataclass(frozen=True)
class _Settled:
    """Kind with its evidence, and its channels where they are already known."""

    kind: str
    confidence: float
    because: tuple[str, ...]
    reads: dict[str, str] | None = None
    word: str = ""
    guess: str | None = None


def _going_on(sentence: str) -> str:
    """A sentence as one reason among others."""
    return sentence[:1].lower() + sentence[1:].rstrip(".")


def look_at(file_name: str, codes: np.ndarray, profile: SourceProfile | None = None) -> Look:
    """Recognize one file by its source's profile, its name and its content, in this order.

    Parameters
    ----------
    codes : (H, W[, C]) uint8, uint16 or float32, as stored
    """
    name = read_name(file_name)
    signed = signed_vectors(codes, are_normals=name.kind == "normal")
    stored, codes = codes, as_shares(codes, signed)
    content = measure_content(codes)
    ending = profile.ending(file_name) if profile is not None else None
    if profile is not None and ending is not None:
        look = _by_profile(file_name, codes, content, profile, ending)
        return replace(look, spans={**spans_of(stored, look.reads, signed), **look.spans})
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    if name.alpha is not None and channels < 3:  # the second of the two maps that its name has a word for
        name = replace(name, kind=name.alpha, alpha=None)
    found = _settle(name, content)
    reads = reads_for(found.kind, channels, found.word) if found.reads is None else dict(found.reads)
    because = found.because
    if found.kind in _COLORS and content.alpha != "cut-out":
        reads.pop("A", None)  # an alpha that cuts nothing out is no opacity
    alpha_open = False
    if name.alpha is not None and found.kind == name.kind and content.alpha in ("cut-out", "gray"):
        reads |= {"A": name.alpha}
    elif found.kind == "normal" and reads and content.alpha in ("cut-out", "gray"):
        held, why = _alpha_of_normal(codes, content)
        because, alpha_open = (*because, why), held is None
        reads |= {} if held is None else {"A": held}
    green, faults = _normal_look(codes, content, name.green, "its name") if found.kind == "normal" and reads else (None, ())
    if green is not None and green.answer != "unsure":
        because = (*because, _going_on(green.reason))  # a finding says why it cannot be told
    stem = name.stem if name.kind and (name.stem or found.kind != "photo") else _whole(file_name)
    empty = tuple((letter, key) for letter, key in reads.items() if found.kind == "packed" and _is_empty(content, letter, key))
    reads = {letter: key for letter, key in reads.items() if (letter, key) not in empty}
    confidence, guess = found.confidence, found.guess
    is_told = name.kind is not None and is_beyond(name.kind)  # then it is no photo
    guesses = tuple(g for g in (guess, *(() if is_told else _also(found.kind, content))) if g is not None)
    return Look(
        found.kind,
        confidence,
        because,
        stem,
        reads,
        green,
        content,
        spans_of(stored, reads, signed),
        guesses,
        faults,
        None,
        empty,
        alpha_open,
        bool(name.kind),
        primaries=name.primaries if codes.dtype.kind == "f" else None,
    )


def _also(kind: str, content: Content) -> tuple[str, ...]:
    """What else a picture of unknown kind may be: every picture of shades may be a photo without color."""
    return ("photo",) if kind == "unknown" and not content.is_constant else ()


def _alpha_of_normal(codes: np.ndarray, content: Content) -> tuple[str | None, str]:
    """What the alpha beside normals holds: height where its slopes are theirs, gloss where it is shades that have none of them.

    What is shiny often follows the relief, so that slopes which agree only somewhat tell nothing: the alpha is left unread then.
    """
    alpha = np.ascontiguousarray(codes[..., 3])
    beside = against_height(smaller(np.ascontiguousarray(codes[..., :3]), _BESIDE_PX), unit_values(smaller(alpha, _BESIDE_PX)))
    fits, most = (of(abs(beside.across), abs(beside.down)) for of in (min, max))
    if max(plane.spread for plane in content.planes[:2]) < _LEAST_LEAN:
        return None, "its normals are too flat to tell whether its alpha is height or gloss; it is left unread"
    if fits >= _SAME_SLOPES:
        return "height", f"its alpha slopes as the normals lean (correlation {fits:.2f}): height"
    if most < _OTHER_SLOPES and content.planes[3].settled < _MOSTLY_SHADES:
        return "gloss", f"its alpha is shades that do not slope as the normals lean (correlation {most:.2f}): gloss"
    if most < _OTHER_SLOPES:
        return (
            None,
            f"its alpha fits neither height (correlation {most:.2f} with the normals' slopes) nor gloss, and is left unread",
        )
    return None, f"its alpha follows the normals only somewhat (correlation {fits:.2f}): height or gloss, it is left unread"


def _is_empty(content: Content, letter: str, key: str) -> bool:
    """Whether a channel is black everywhere though it is read as what is never so."""
    at = "RGBA".find(letter)
    return key in _NEVER_BLACK and 0 <= at < len(content.planes) and content.planes[at].mean == 0


def _by_profile(file_name: str, codes: np.ndarray, content: Content, profile: SourceProfile, ending: str) -> Look:
    """What the profile says goes; only the direction of green is still measured, to be told when it contradicts."""
    row: Ending = profile.endings[ending]
    because: tuple[str, ...] = (f"{profile.name} has “{ending}” for {_title(row.kind)}",)
    green, faults = None, ()
    if row.kind == "normal":
        green, faults = _normal_look(codes, content, profile.green, profile.name)
        because = because if green.answer == "unsure" else (*because, _going_on(green.reason))
    text = _whole(file_name)
    stem = text[: text.rindex(ending)].rstrip(" _-.") or text
    reads, spans = dict(row.reads), dict(row.spans)
    return Look(row.kind, _BY_PROFILE, because, stem, reads, green, content, spans, (), faults, profile.name)  # type: ignore[arg-type]


def _title(kind: str) -> str:
    return quantity(kind).title.lower() if is_known(kind) else f"a {kind} file"


def _normal_look(
    codes: np.ndarray, content: Content, said: Literal["up", "down"] | None, who: str
) -> tuple[WhichGreen, tuple[NormalFault, ...]]:
    """Which way green points, from the pixels or else from what was ``said``, and what else can be seen."""
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    if channels < 3:
        return WhichGreen("unsure", 0.0, 1.0, 1.0, "The file has no three channels."), ()
    middle = _middle(codes)
    period = block_period(middle)
    vectors = _with_z(codes[..., :3]) if content.normal_form == "two-channel" else codes[..., :3]
    green = which_green(vectors, is_worn=period is not None)
    if green.answer == "unsure" and said is not None:
        reason = f"The map does not tell which way green points; {who} says Y{_SIGN[said]}."
        green = replace(green, answer=said, confidence=_BY_NAME_ALONE, reason=reason)
    faults: list[NormalFault] = []
    closes_well = max(green.ratio_up, green.ratio_down) >= _CLOSES_WELL * min(green.ratio_up, green.ratio_down)
    if content.normal_form == "tangent" and not closes_well and is_swapped(middle[..., :3]):
        faults.append("swapped")
    if period is not None:
        faults.append("blocks-4" if period == 4 else "blocks-8")
    return green, tuple(faults)


def _middle(codes: np.ndarray) -> np.ndarray:
    """The middle of a map, cut at a multiple of 8 so that blocks stay where they are."""
    top, left = ((max(0, n - _LOOK_PX) // 2) // 8 * 8 for n in codes.shape[:2])
    return codes[top : top + _LOOK_PX, left : left + _LOOK_PX]


def _with_z(codes: np.ndarray) -> np.ndarray:
    """Vectors of a map that stores x and y alone."""
    top = np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1
    xy = codes[..., :2].astype(np.float32) * np.float32(2 / top) - 1
    z = np.sqrt(np.maximum(0, 1 - (xy * xy).sum(-1)))
    return np.dstack([xy, z])


def _whole(file_name: str) -> str:
    return file_name.rpartition(".")[0] or file_name


def _settle(name: NameReading, content: Content) -> _Settled:
    """Kind, confidence and evidence, from both witnesses."""
    by_name, confidence = name.kind, name.confidence
    if by_name is not None and confidence <= _HARDLY_SAID and _is_contradicted(by_name, content):
        by_name = kind_in_color(name.word) if name.stem and name.word.islower() else None  # WoodG is one of several
    says = (f"its name says “{name.word}”",) if by_name else ()
    pair = _IN_PAIRS.get(by_name or "")
    if pair is not None and len(content.planes) == 3 and not content.is_gray and content.planes[2].mean == 0:
        seen = "it holds two grays in red and green and nothing in blue, as glTF lays a coat and its roughness"
        return _Settled("packed", 0.9, (*says, seen), dict(zip("RG", pair)))
    if by_name is not None and is_beyond(by_name) and (by_name == NOT_HELD or not content.is_gray):
        colored = "" if by_name == NOT_HELD else " in color"
        return _Settled("unknown", 0.0, (f"its name says “{name.word}”, and no map here holds that{colored}",))
    if by_name in (None, "normal") and content.normal_form is not None:
        return _settled_normal(by_name, confidence, says, content)
    if content.looks_normal and by_name is not None:
        seen = f"but it looks like a normal map: blue-violet, unit length on {content.unit_share:.0%}"
        return _named(by_name, min(confidence, 0.6), (*says, seen))
    if by_name == "normal" and content.is_blue_violet:
        seen = f"blue-violet, but of unit length on {content.unit_share:.0%} only"
        return _Settled("normal", min(confidence, 0.8), (*says, seen))
    if by_name == "normal":
        return _Settled("normal", min(confidence, 0.4), (*says, "but it is not blue-violet"))
    if by_name is not None and not content.is_gray and _is_gray_kind(by_name):
        if not name.stem:  # the whole name is that word: it names the thing in the picture
            return _Settled("photo", 0.6, (f"a color picture of what may be called “{name.word}”",))
        other = kind_in_color(name.word)
        if other is not None:
            return _Settled(other, 0.7, (*says, "and it is in color"))
        return _gray_in_color(by_name, confidence, says, content)
    if by_name is not None:
        flat = ("the same value everywhere",) if content.is_constant else ()
        found = _named(by_name, confidence, (*says, *flat))
        if found.kind != "packed":
            return found
        return _pair_as_drawn(found, content) if packed_reads(found.word) else _with_channels_guessed(found, content)
    if content.is_around:
        guess = "height" if content.is_gray else None
        return _Settled("unknown", 0.0, ("twice as wide as high, and brighter than white",), guess=guess)
    if content.looks_packed:
        guess = guess_packed(content.planes)
        reads = guess.reads if guess.confidence >= _TAKEN_FROM else {}
        return _Settled("packed", min(guess.confidence, 0.75), (guess.because,), reads)
    if not content.is_gray:
        return _Settled("photo", 0.6, ("a color picture whose name says no map",))
    return _from_gray(guess_gray(content.planes[0]))


def _is_contradicted(by_name: str, content: Content) -> bool:
    """Whether the picture cannot be what a weak word of its name says."""
    if by_name == "normal":
        return content.normal_form is None and not content.is_blue_violet
    if by_name.startswith("packed"):
        return content.is_gray or not content.looks_packed
    return not content.is_gray and _is_gray_kind(by_name)


def _gray_in_color(by_name: str, confidence: float, says: tuple[str, ...], content: Content) -> _Settled:
    """A picture in color whose name says a gray map: channels that are unrelated are several maps, whatever it is called."""
    if content.looks_packed or content.are_channels_apart:
        guess = guess_packed(content.planes)
        reads = guess.reads if content.looks_packed and guess.confidence >= _TAKEN_FROM else {}
        seen = "but its channels are different pictures: several maps in one file"
        return _Settled("packed", min(guess.confidence, confidence, 0.6) if reads else 0.4, (*says, seen), reads)
    if by_name == "opacity":
        return _Settled("unknown", 0.0, (*says, "but it is in color, which no mask is"), guess="photo")
    return _named(by_name, min(confidence, 0.6), (*says, "but it is in color"))


def _named(kind: str, confidence: float, because: tuple[str, ...]) -> _Settled:
    kind, _, word = kind.partition(":")
    return _Settled(kind, confidence, because, word=word)


def _settled_normal(by_name: str | None, confidence: float, says: tuple[str, ...], content: Content) -> _Settled:
    if content.normal_form == "tangent":
        seen = f"blue-violet, unit length on {content.unit_share:.0%}"
        return _Settled("normal", max(0.9, min(0.99, confidence + 0.05)), (*says, seen))
    if content.normal_form == "object":
        seen = f"vectors of unit length on {content.unit_share:.0%}, but they point all ways: object space"
        return _Settled("object_normal", max(0.8, confidence), (*says, seen), {"RGB": "object_normal"})
    seen = "x and y in red and green, blue left at one value: z is rebuilt"
    if by_name is None:
        return _Settled("normal", 0.65, (seen,), {"RG": "normal"})
    return _Settled("normal", 0.9, (*says, seen), {"RG": "normal"})


def _pair_as_drawn(found: _Settled, content: Content) -> _Settled:
    """Roughness and metallic in two channels: in green and blue as the open standard has it, unless blue is left empty."""
    words = channel_words(found.word.lower())
    if set(words) != {"roughness", "metallic"} or len(content.planes) < 3:
        return found
    spreads = [plane.spread for plane in content.planes[:3]]
    if spreads[2] > _LEFT_AT_ONE_VALUE or spreads[0] <= _LEFT_AT_ONE_VALUE:
        return found
    reads: dict[str, str] = dict(zip("RG", words))
    return replace(found, because=(*found.because, "blue is one value everywhere, so the two lie in red and green"), reads=reads)


def _with_channels_guessed(found: _Settled, content: Content) -> _Settled:
    """A packed file whose name does not say what its channels hold: its pixels may."""
    if len(content.planes) < 3:
        return found
    guess = guess_packed(content.planes)
    if not content.looks_packed or guess.confidence < _TAKEN_FROM:
        return found
    return replace(
        found, confidence=min(found.confidence, guess.confidence), because=(*found.because, guess.because), reads=guess.reads
    )


def _from_gray(guess: Guess) -> _Settled:
    kind = guess.reads.get("L")
    if kind is not None and guess.confidence >= _TAKEN_FROM:
        return _Settled(kind, guess.confidence, (f"its name says no map; {guess.because}",))
    return _Settled("unknown", 0.0, (f"a gray picture whose name says no map: {guess.because}",), guess=kind)


def _is_gray_kind(kind: str) -> bool:
    return is_known(kind) and quantity(kind).channels == 1
