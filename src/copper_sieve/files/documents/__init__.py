"""Material documents written beside the images, as text."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...core.target import Sheet, Wire
from .gltf import glb_document, gltf_document
from .materialx import materialx_document
from .usd import usd_document

__all__ = ["write_document"]

Load = Callable[[str], bytes]
_WRITERS: dict[str, Callable[[Sheet, Sequence[Wire], Load], bytes]] = {
    "gltf": lambda sheet, wires, load: gltf_document(sheet, wires),
    "glb": glb_document,
    "materialx": lambda sheet, wires, load: materialx_document(sheet, wires),
    "usd": lambda sheet, wires, load: usd_document(sheet, wires),
}


def write_document(kind: str, sheet: Sheet, wires: Sequence[Wire], load: Load) -> bytes:
    """Bytes of a document of one of the kinds of ``DOCUMENTS``; ``load`` gives a delivered file by its name."""
    return _WRITERS[kind](sheet, wires, load)
