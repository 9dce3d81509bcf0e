"""From a target's table to what a material document says: which channels of which file, and the way back to their numbers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from ..convert.scales import refraction_of
from ..quantities import quantity
from .documents import DOCUMENTS
from .encode import feeds
from .model import Document, MaterialMode, Target, Token

__all__ = ["REFLECTANCE_TOP", "Sheet", "Wire", "offered_documents", "wires", "written_refraction"]

_SOLID = MaterialMode()
REFLECTANCE_TOP = quantity("reflectance").high  # where its map is white


@dataclass(frozen=True)
class Wire:
    """One input of a document: ``value = stored * scale + bias`` per component, of stored values that are 0 to 1 and linear.

    ``letters`` are the channels in the order of the quantity's components; ``stored`` all that the file has.
    """

    input: str
    quantity: str
    file: str
    stored: str
    letters: str
    color: Literal["srgb", "linear", "acescg", "data"]
    scale: tuple[float, ...]
    bias: tuple[float, ...]

    @property
    def is_plain(self) -> bool:
        """Whether stored values are the values."""
        return set(self.scale) == {1.0} and set(self.bias) == {0.0}


@dataclass(frozen=True)
class Sheet:
    """What a document says besides its files.

    ``width`` is that of the plane, in meters where the tile's size is known, else 1; ``rise`` a share of it and ``center`` the
    stored height of the plane itself; ``reflectance`` of what is no metal, None where the usual 4 % holds; ``library`` the
    name of the file that holds the material of an OBJ.
    """

    name: str
    aspect: float
    width: float = 1.0
    rise: float = 0.0
    center: float = 0.5
    material: MaterialMode = _SOLID
    emissive_strength: float = 1.0
    reflectance: float | None = None
    library: str | None = None


def wires(target: Target, document: Document, names: Mapping[str, str]) -> tuple[Wire, ...]:
    """All wires of a document whose files were written.

    Parameters
    ----------
    names : file name by role, of what was written
    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("gltf")
    >>> [wire.input for wire in wires(target, target.documents[0], {"base_color": "Felt_base.png"})]
    ['baseColorTexture']
    """
    return tuple(
        wire
        for slot, role in document.inputs.items()
        if role in names
        for wire in _wires(target, document, slot, role, names[role])
    )


def _wires(target: Target, document: Document, slot: str, role: str, name: str) -> Iterator[Wire]:
    file = next(f for f in target.files if f.role == role)
    fed = feeds(target, file)
    for need in DOCUMENTS[document.kind].inputs[slot]:
        letters = "".join(letter for letter, channel in file.channels.items() if channel.quantity == need.quantity)
        if need.letters is not None and letters != "L":
            letters = need.letters
        parts = [fed[letter] for letter in letters]
        scale = tuple(round(1 / part.gain, 9) for part in parts)
        bias = tuple(round(-part.shift / part.gain, 9) for part in parts)
        color = "acescg" if file.primaries == "acescg" else file.color
        yield Wire(slot, need.quantity, name, "".join(file.channels), letters, color, scale, bias)


def written_refraction(reflectance: float) -> float:
    """Index of refraction by reflectance seen head-on, as documents hold it: of at most 0.99, where it is still a number.

    Examples
    --------
    >>> round(written_refraction(0.04), 3)
    1.5
    """
    return float(refraction_of(min(max(reflectance, 0.0), 0.99)))


def offered_documents(target: Target) -> tuple[Document, ...]:
    """One document of every kind that the target does not write yet and whose color its files can feed, called by the set.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> [document.kind for document in offered_documents(shipped_target("engine-orm-down"))]
    ['materialx', 'usd', 'obj', 'mtl']
    """
    written = {document.kind for document in target.documents}
    offered = []
    for kind in DOCUMENTS.keys() - written:
        document = Document.model_validate({"kind": kind, "role": kind, "name": (Token(part="set"),), "inputs": {}})
        inputs = {slot: role for slot in DOCUMENTS[kind].inputs if (role := _feeding(target, document, slot)) is not None}
        if any(need.quantity == "base_color" for slot in inputs for need in DOCUMENTS[kind].inputs[slot]):
            offered.append(document.model_copy(update={"inputs": inputs}))
    return tuple(sorted(offered, key=lambda document: list(DOCUMENTS).index(document.kind)))


def _feeding(target: Target, document: Document, slot: str) -> str | None:
    """Role of the first file that can feed an input."""
    for file in target.files:
        try:
            target.check_wire(document, slot, file.role)
        except ValueError:
            continue
        return file.role
    return None
