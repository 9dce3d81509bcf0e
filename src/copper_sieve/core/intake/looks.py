"""The answer to "what is this file?": kind, evidence, confidence, convention."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..convert.green import WhichGreen, which_green
from ..quantities import QUANTITIES, quantity
from .content import Content, measure_content
from .names import NameReading, packed_reads, read_name

__all__ = ["Look", "look_at", "reads_for"]

_SIGN = {"up": "+", "down": "−"}
_BY_NAME_ALONE = 0.6
_COLORS = ("base_color", "photo", "diffuse")
_TILING = 2.2  # a border jump up to this many times the inner one counts as tiling


@dataclass(frozen=True)
class Look:
    """``kind`` is a master's key, or diffuse, specular, gloss, photo, packed, unknown. ``reads`` may be empty then."""

    kind: str
    confidence: float
    because: tuple[str, ...]
    stem: str
    reads: dict[str, str]
    green: WhichGreen | None
    content: Content

    @property
    def tiles(self) -> tuple[bool, bool]:
        """Whether the picture repeats without a seam, per axis."""
        return self.content.seam[0] <= _TILING, self.content.seam[1] <= _TILING


def reads_for(kind: str, codes: np.ndarray, word: str = "") -> dict[str, str]:
    """How the channels of a file of ``kind`` are read; {} for kinds that cannot be taken in by themselves yet."""
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    if kind == "packed":
        reads = packed_reads(word) if word and channels >= 3 else {}
        return reads if channels == 4 or "A" not in reads else {}
    if kind == "unknown":
        return {}
    reads = {"L" if channels < 3 else "RGB": kind}
    if kind == "opacity" and channels in (2, 4):
        return {"A": "opacity"} if channels == 4 else {"L": "opacity"}
    if kind in ("base_color", "photo", "diffuse") and channels == 4:
        reads["A"] = "opacity"
    return reads


def look_at(file_name: str, codes: np.ndarray) -> Look:
    """Recognize one file by its name and its content.

    Parameters
    ----------
    codes : (H, W[, C]) uint8, uint16 or float32, as stored
    """
    name, content = read_name(file_name), measure_content(codes)
    kind, confidence, because = _settle(name, content)
    word = kind.partition(":")[2]
    kind = kind.partition(":")[0]
    reads = reads_for(kind, codes, word)
    if kind in _COLORS and content.alpha != "cut-out":
        reads.pop("A", None)  # an alpha that cuts nothing out is no opacity
    if kind == "normal" and content.alpha in ("cut-out", "gray"):
        reads["A"] = "height"
        because = (*because, "its alpha holds a gray picture, taken for height")
    green = None
    if kind == "normal" and codes.ndim == 3 and codes.shape[2] >= 3:
        green = which_green(codes[..., :3])
        if green.answer == "unsure" and name.green is not None:
            says = f"The map does not tell which way green points; its name says Y{_SIGN[name.green]}."
            green = replace(green, answer=name.green, confidence=_BY_NAME_ALONE, reason=says)
        because = because if green.answer == "unsure" else (*because, green.reason)  # a finding says why it cannot be told
    stem = name.stem if name.kind and (name.stem or kind != "photo") else _whole(file_name)
    return Look(kind, confidence, because, stem, reads, green, content)


def _whole(file_name: str) -> str:
    return file_name.rpartition(".")[0] or file_name


def _settle(name: NameReading, content: Content) -> tuple[str, float, tuple[str, ...]]:
    """Kind, confidence and evidence, from both witnesses."""
    by_name, confidence = name.kind, name.confidence
    says = (f"name ends in “{name.word}”",) if by_name else ()
    if content.looks_normal:
        seen = f"blue-violet, unit length on {content.unit_share:.0%}"
        if by_name in (None, "normal"):
            return "normal", max(0.9, min(0.99, confidence + 0.05)), (*says, seen)
        return by_name, min(confidence, 0.6), (*says, f"but it looks like a normal map: {seen}")
    if by_name == "normal":
        return "normal", min(confidence, 0.4), (*says, "but it is not blue-violet")
    if by_name is not None and not content.is_gray and _is_gray_kind(by_name):
        if not name.stem:  # the whole name is that word: it names the thing in the picture
            return "photo", 0.6, (f"a color picture of what may be called “{name.word}”",)
        return by_name, min(confidence, 0.6), (*says, "but it is in color")
    if by_name is not None:
        flat = ("the same value everywhere",) if content.is_constant else ()
        return by_name, confidence, (*says, *flat)
    if not content.is_gray:
        return "photo", 0.6, ("a color picture whose name says no map",)
    return "unknown", 0.0, ("a gray picture whose name says no map",)


def _is_gray_kind(kind: str) -> bool:
    return kind in QUANTITIES and quantity(kind).channels == 1
