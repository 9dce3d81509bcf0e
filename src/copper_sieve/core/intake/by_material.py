"""What a mesh's own material says of a picture that it reads: as clear a word as there is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

from ..convert.green import WhichGreen
from ..quantities import quantity
from .looks import Look, reads_for
from .materials import Corrections, Reading

__all__ = ["by_material"]

_SURE, _BY_WORD = 0.99, 0.9
_READS: Mapping[str, Mapping[str, str]] = MappingProxyType(
    {
        "baseColorTexture": {"RGB": "base_color"},
        "metallicRoughnessTexture": {"G": "roughness", "B": "metallic"},
        "occlusionTexture": {"R": "occlusion"},
        "normalTexture": {"RGB": "normal"},
        "emissiveTexture": {"RGB": "emissive"},
        "diffuseTexture": {"RGB": "diffuse"},
        "specularGlossinessTexture": {"RGB": "specular", "A": "gloss"},
        "clearcoatTexture": {"R": "own_coat"},
        "clearcoatRoughnessTexture": {"G": "own_coat_roughness"},
        "sheenRoughnessTexture": {"A": "own_sheen_roughness"},
        "transmissionTexture": {"R": "own_transmission"},
        "diffuseTransmissionTexture": {"A": "own_translucency"},
        "iridescenceTexture": {"R": "own_iridescence"},
        "anisotropyTexture": {"B": "own_anisotropy"},
        "thicknessTexture": {"G": "thickness"},
    }
)
# The words of MTL are used for more than they mean: a file's own name goes before them.
_WORDS: Mapping[str, str] = MappingProxyType(
    {
        "map_Kd": "base_color",
        "map_Ks": "specular",
        "map_Ke": "emissive",
        "map_d": "opacity",
        "map_Pr": "roughness",
        "map_Pm": "metallic",
        "map_Ps": "own_sheen",
        "norm": "normal",
        "disp": "height",
    }
)
_BUMP = "map_Bump"  # a height by its word, and as often a normal map
_CHANNELS = {"r": "R", "g": "G", "b": "B", "m": "A", "l": "L", "z": "L"}
_COLORS = ("base_color", "diffuse")
_UP = WhichGreen("up", _SURE, 1.0, 1.0, "A glTF file has green up.")
_UNSAID = WhichGreen("unsure", 0.0, 1.0, 1.0, "Neither the map nor its material tells which way green points.")


def by_material(look: Look, reading: Reading) -> Look:
    """A picture as its material reads it, by the names of its slots: those of glTF 2.0 (3.9) and its extensions, or the words
    of MTL.

    A word of MTL may name a channel after a colon, and without one only says what the picture's own name does not. What is read
    as none of our maps stays for a person to say.

    Green points up by the standard, unless the pixels say otherwise. Of the corrections those of maps that are read go along;
    what else the material does, and is not done here, is told.

    Examples
    --------
    >>> import numpy as np
    >>> from copper_sieve.core.intake import look_at
    >>> packed = look_at("arm.png", np.zeros((8, 8, 3), np.uint8))
    >>> by_material(packed, Reading(("map_Pr:g", "map_Pm:b"), "felt", "felt")).reads
    {'G': 'roughness', 'B': 'metallic'}
    """
    slots, look = reading.slots, replace(look, stem=reading.called or look.stem)
    says = f"the mesh’s material “{reading.material}”" if reading.material else "the mesh’s material"
    if all(slot.partition(":")[0] in (*_WORDS, _BUMP) or slot.startswith("map_") for slot in slots):
        return _by_words(look, slots, says)
    reads = _of_gray({letters: key for slot in slots for letters, key in _READS.get(slot, {}).items()}, look)
    if not reads:
        because = (f"{says} reads it as {', '.join(slots)}, which is none of the maps here",)
        return replace(look, kind="unknown", confidence=0.0, because=because, reads={}, spans={}, green=None, guesses=())
    kind = next(iter(reads.values())) if list(reads) in (["RGB"], ["L"]) else "packed"
    if reading.is_cut and kind in _COLORS and look.content.alpha in ("cut-out", "gray"):
        reads["A"] = "opacity"
    green = look.green if look.green is not None and look.green.answer != "unsure" else _UP
    kept = {key: dict(told) for key, told in reading.corrections.items() if key in reads.values()}
    times = f", and {_said(kept)}, kept as a correction" if kept else ""
    otherwise = f"; not done here: {reading.undone}" if reading.undone else ""
    return replace(_told(look, kind, reads, green, f"{says} reads it so{times}{otherwise}", _SURE), corrections=kept)


def _said(corrections: Corrections) -> str:
    """What a material does, with its numbers."""
    told = []
    for key, numbers in corrections.items():
        title, said = quantity(key).title.lower(), [f"{number:.3g}" for number in numbers.values()]
        words = {"normal": f"scales the slopes of {title} by {said[0]}", "occlusion": f"takes {said[0]} of {title}"}
        told.append(words.get(key, f"multiplies {title} by {' '.join(said)}"))
    return ", ".join(told)


def _by_words(look: Look, slots: Sequence[str], says: str) -> Look:
    """By the words of MTL."""
    channels = {
        _CHANNELS[channel]: _WORDS[word]
        for word, _, channel in (slot.partition(":") for slot in slots)
        if word in _WORDS and channel in _CHANNELS
    }
    if channels and "L" not in channels:
        return _told(look, "packed", channels, None, f"{says} reads its channels so", _SURE)
    kind = next((found for slot in slots if (found := _kind(slot.partition(":")[0], look)) is not None), None)
    is_known = look.is_named and look.kind != "unknown"
    reads = {} if is_known or kind is None else reads_for(kind, len(look.content.planes))
    if not reads or kind is None:
        return look
    if look.content.alpha != "cut-out" and kind in _COLORS:
        reads.pop("A", None)
    return _told(look, kind, reads, look.green or _UNSAID, f"{says} reads it as {slots[0].partition(':')[0]}", _BY_WORD)


def _kind(word: str, look: Look) -> str | None:
    if word == _BUMP:
        return "normal" if look.kind == "normal" or look.content.normal_form is not None else "height"
    return _WORDS.get(word)


def _of_gray(reads: dict[str, str], look: Look) -> dict[str, str]:
    """The same of a file of one channel, which stands for all three; two maps in one channel are none."""
    if len(look.content.planes) > 2:
        return reads
    keys = [key for letters, key in reads.items() if letters != "A"]
    return {"L": keys[0]} if len(keys) == 1 else {}


def _told(look: Look, kind: str, reads: dict[str, str], green: WhichGreen | None, because: str, confidence: float) -> Look:
    return replace(
        look,
        kind=kind,
        confidence=confidence,
        because=(because,),
        reads=reads,
        spans={letters: span for letters, span in look.spans.items() if letters in reads},
        green=green if kind == "normal" else None,
        guesses=(),
        is_named=True,
    )
