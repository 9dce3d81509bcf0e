"""Material documents written beside the images, as text."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...core.mesh import Shape
from ...core.target import Sheet, Wire
from .gltf import glb_document, gltf_document
from .materialx import materialx_document
from .obj import mtl_document, obj_with_material
from .usd import usd_document

__all__ = ["write_document"]

Load = Callable[[str], bytes]
Body = Shape | None
_WRITERS: dict[str, Callable[[Sheet, Sequence[Wire], Load, Body], bytes]] = {
    "gltf": lambda sheet, wires, load, body: gltf_document(sheet, wires, body),
    "glb": glb_document,
    "materialx": lambda sheet, wires, load, body: materialx_document(sheet, wires),
    "obj": lambda sheet, wires, load, body: obj_with_material(sheet, body),
    "mtl": lambda sheet, wires, load, body: mtl_document(sheet, wires),
    "usd": lambda sheet, wires, load, body: usd_document(sheet, wires, body),
}


def write_document(kind: str, sheet: Sheet, wires: Sequence[Wire], load: Load, body: Body = None) -> bytes:
    """Bytes of a document of one of the kinds of ``DOCUMENTS``; ``load`` gives a delivered file by its name.

    ``body`` is the mesh that wears the set, where there is one; else documents that show it hold a plane.
    """
    return _WRITERS[kind](sheet, wires, load, body)
