"""OBJ with MTL: the mesh, or a plane, as triangles; and its material with the images by their use, in the PBR words of MTL."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ...core.mesh import Shape
from ...core.mesh.made import as_triangles, upright
from ...core.target.wiring import Sheet, Wire, written_refraction
from ..meshes.obj import obj_document

__all__ = ["mtl_document", "obj_with_material"]

_CHANNELS = {"R": "r", "G": "g", "B": "b", "A": "m", "L": "l"}  # what -imfchan calls them
_PLAIN = {
    "map_Kd": "Kd 1 1 1",
    "map_Ke": "Ke {glow:g} {glow:g} {glow:g}",
    "map_Pr": "Pr 1",
    "map_Pm": "Pm 1",
    "map_Ps": "Ps 1",
    "map_d": "d 1",
}


def obj_with_material(sheet: Sheet, body: Shape | None) -> bytes:
    """The body in triangles, y up, its one material called by the set; ``sheet.library`` is the file that says what it wears."""
    shape = as_triangles(upright(body if body is not None else _plane(sheet)))
    named = replace(shape, material=np.zeros(len(shape.counts), np.int32), materials=(_named(sheet),))
    return obj_document(named, sheet.library)


def mtl_document(sheet: Sheet, wires: Sequence[Wire]) -> bytes:
    """The material: a line for each image, with the channel that is meant of those that hold several.

    Convention: normals are Y+; a height is moved by its length in units of the mesh.
    """
    lines = ["# Copper Sieve", f"newmtl {_named(sheet)}"]
    if sheet.reflectance is not None:
        lines.append(f"Ni {written_refraction(sheet.reflectance):.6g}")
    for wire in wires:
        if wire.input in _PLAIN:
            lines.append(_PLAIN[wire.input].format(glow=sheet.emissive_strength))
        lines.append(" ".join([wire.input, *_options(sheet, wire), wire.file]))
    return ("\n".join(lines) + "\n").encode()


def _options(sheet: Sheet, wire: Wire) -> list[str]:
    found = []
    if wire.quantity == "height":
        gain = sheet.rise * sheet.width
        found.append(f"-mm {-sheet.center * gain:.6g} {gain:.6g}")
    if len(wire.letters) == 1 and wire.stored != "L":
        found.append(f"-imfchan {_CHANNELS[wire.letters]}")
    return found


def _named(sheet: Sheet) -> str:
    return "_".join(sheet.name.split())


def _plane(sheet: Sheet) -> Shape:
    uv = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    at = (uv - 0.5) * np.array([sheet.width, sheet.width * sheet.aspect], np.float32)
    normals = np.tile(np.array([0, 0, 1], np.float32), (4, 1))
    return Shape(np.pad(at, ((0, 0), (0, 1))), np.arange(4, dtype=np.int32), np.array([4], np.int32), uv=uv, normals=normals)
