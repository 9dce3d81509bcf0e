"""What a mesh's own material says of a picture inside of it: as clear a word as there is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

from ..convert.green import WhichGreen
from .looks import Look

__all__ = ["by_material"]

_SURE = 0.99
_READS: Mapping[str, Mapping[str, str]] = MappingProxyType(
    {
        "baseColorTexture": {"RGB": "base_color"},
        "metallicRoughnessTexture": {"G": "roughness", "B": "metallic"},
        "occlusionTexture": {"R": "occlusion"},
        "normalTexture": {"RGB": "normal"},
        "emissiveTexture": {"RGB": "emissive"},
        "diffuseTexture": {"RGB": "diffuse"},
        "specularGlossinessTexture": {"RGB": "specular", "A": "gloss"},
    }
)
_COLORS = ("base_color", "diffuse")


def by_material(look: Look, slots: Sequence[str], material: str, *, is_cut: bool = False) -> Look:
    """A picture as its material reads it, by the standard's names of ``slots`` (glTF 2.0, 3.9).

    What is read as none of our maps stays for a person to say.

    ``is_cut`` says that the alpha of its color cuts holes. Green points up by the standard, unless the pixels say otherwise.
    """
    reads = {letters: key for slot in slots for letters, key in _READS.get(slot, {}).items()}
    if not reads:
        because = (f"the mesh’s material “{material}” reads it as {', '.join(slots)}, which is none of the maps here",)
        return replace(look, kind="unknown", confidence=0.0, because=because, stem=material, reads={}, green=None, guesses=())
    kind = next(iter(reads.values())) if list(reads) == ["RGB"] else "packed"
    if is_cut and kind in _COLORS and look.content.alpha in ("cut-out", "gray"):
        reads["A"] = "opacity"
    green = look.green if look.green is not None and look.green.answer != "unsure" else None
    return replace(
        look,
        kind=kind,
        confidence=_SURE,
        because=(f"the mesh’s material “{material}” reads it so",),
        stem=material,
        reads=reads,
        green=(green or WhichGreen("up", _SURE, 1.0, 1.0, "A glTF file has green up.")) if kind == "normal" else None,
        guesses=(),
        is_named=True,
    )
