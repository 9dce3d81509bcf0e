"""A shape as glTF holds it: triangles alone, with normals, UV, a second UV and tangents."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

from ...core.mesh.made import upright
from ...core.mesh.shape import Shape, welded
from ...core.raster import FloatArray

__all__ = ["glb_of", "packed", "scene_of"]

_FLIP, _UP = np.array([1, -1], np.float32), np.array([0, 1], np.float32)  # v down in the file
_FLOAT, _UINT = 5126, 5125
_VERTICES, _INDICES = 34962, 34963


class _Buffer:
    """Views and accessors as they are put together."""

    def __init__(self) -> None:
        self.content = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, content: bytes, target: int | None = None) -> int:
        self.content += bytes(-len(self.content) % 4)
        row = {"buffer": 0, "byteOffset": len(self.content), "byteLength": len(content)}
        self.views.append(row | ({"target": target} if target else {}))
        self.content += content
        return len(self.views) - 1

    def add(self, values: np.ndarray, kind: str, *, with_range: bool = False) -> int:
        is_index = kind == "SCALAR"
        values = np.ascontiguousarray(values, "<u4" if is_index else "<f4")
        row: dict[str, Any] = {"bufferView": self.view(values.tobytes(), _INDICES if is_index else _VERTICES)}
        row |= {"componentType": _UINT if is_index else _FLOAT, "count": len(values), "type": kind}
        if with_range:
            row |= {"min": values.min(0).tolist(), "max": values.max(0).tolist()}
        self.accessors.append(row)
        return len(self.accessors) - 1


def scene_of(shape: Shape, tangents: FloatArray | None = None) -> tuple[dict[str, Any], bytes]:
    """A shape as the parts of a glTF document that are its own, and the buffer that they lie in.

    A node for each part, a primitive for each of its materials, whose numbers are their places in ``shape.materials``.

    Parameters
    ----------
    tangents : (T, 3, 4) for the corners of ``shape.triangles``, written as they are
    Notes
    -----
    Corners that are equal in everything become one vertex. A shape with z up is turned, as the format has y up.
    """
    turns = shape.up != "y"
    shape = upright(shape)
    buffer = _Buffer()
    corner = shape.triangles.ravel()
    columns: dict[str, np.ndarray] = {"POSITION": shape.points[shape.corners[corner]], "NORMAL": _unit(shape.shading[corner])}
    for name, uv in (("TEXCOORD_0", shape.uv), ("TEXCOORD_1", shape.second_uv)):
        if uv is not None:
            columns[name] = uv[corner] * _FLIP + _UP
    if tangents is not None:
        flat = tangents.reshape(-1, 4)
        way = flat[:, [0, 2, 1]] * np.array([1, 1, -1], np.float32) if turns else flat[:, :3]
        columns["TANGENT"] = np.c_[_unit(way), flat[:, 3]].astype(np.float32)
    material, part = (np.repeat(rows[shape.polygon_of], 3) for rows in (shape.material, shape.part))
    meshes, nodes = [], []
    for p, name in enumerate(shape.parts):
        primitives = [
            _primitive(buffer, columns, (part == p) & (material == m), m if shape.materials[m] else None)
            for m in range(len(shape.materials))
            if ((part == p) & (material == m)).any()
        ]
        if primitives:
            nodes.append({"name": name or "mesh", "mesh": len(meshes)})
            meshes.append({"name": name or "mesh", "primitives": primitives})
    scene = {
        "scene": 0,
        "scenes": [{"nodes": list(range(len(nodes)))}],
        "nodes": nodes,
        "meshes": meshes,
        "accessors": buffer.accessors,
        "bufferViews": buffer.views,
        "buffers": [{"byteLength": len(buffer.content)}],
    }
    return scene, bytes(buffer.content)


def glb_of(shape: Shape, tangents: FloatArray | None = None) -> bytes:
    """One .glb file of a shape alone, with its materials by name; as ``scene_of`` says."""
    scene, buffer = scene_of(shape, tangents)
    document = {"asset": {"version": "2.0", "generator": "Copper Sieve"}, **scene}
    if any("material" in primitive for mesh in scene["meshes"] for primitive in mesh["primitives"]):
        document["materials"] = [{"name": name} for name in shape.materials]
    return packed(document, buffer)


def packed(document: dict[str, Any], buffer: bytes) -> bytes:
    """A glTF document and its buffer as one binary file."""
    text = json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    inside = buffer + bytes(-len(buffer) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(inside), b"BIN\0") + inside
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _primitive(buffer: _Buffer, columns: dict[str, np.ndarray], which: np.ndarray, material: int | None) -> dict[str, Any]:
    rows = {name: values[which] for name, values in columns.items()}
    index = welded(np.concatenate(list(rows.values()), 1))
    first = np.zeros(int(index.max()) + 1, np.int64)
    first[index[::-1]] = np.arange(len(index))[::-1]
    kinds = {2: "VEC2", 3: "VEC3", 4: "VEC4"}
    attributes = {
        name: buffer.add(values[first], kinds[values.shape[1]], with_range=name == "POSITION") for name, values in rows.items()
    }
    primitive: dict[str, Any] = {"attributes": attributes, "indices": buffer.add(index, "SCALAR")}
    return primitive | ({} if material is None else {"material": material})


def _unit(vectors: np.ndarray) -> np.ndarray:
    length = np.linalg.norm(vectors.astype(np.float64), axis=1, keepdims=True)
    return np.where(length > 1e-12, vectors / np.maximum(length, 1e-12), (0.0, 0.0, 1.0)).astype(np.float32)
