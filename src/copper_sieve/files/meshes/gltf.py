"""glTF 2.0, as text or in one binary file: every mesh that a node shows, moved to where the node stands."""

from __future__ import annotations

import base64
import binascii
import json
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote

import numpy as np

from ...core.errors import MeshInvalid
from ...core.mesh.shape import MAX_TRIANGLES, Shape
from .laying import Laying

__all__ = ["gltf_images", "gltf_parts", "gltf_whole", "read_gltf"]

Near = Callable[[str], bytes | None]  # what lies beside a file, by its relative name; None where nothing does

_GLB, _JSON, _BIN = 0x46546C67, 0x4E4F534A, 0x004E4942
_TYPES = {5120: "i1", 5121: "u1", 5122: "i2", 5123: "u2", 5125: "u4", 5126: "f4"}
_WIDE = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
_TRIANGLES, _STRIP, _FAN = 4, 5, 6
_DEEPEST = 200
_PACKED = ("KHR_draco_mesh_compression", "EXT_meshopt_compression")


def read_gltf(content: bytes, near: Near, layings: Sequence[Laying | None] = ()) -> Shape:
    """The shape in a .gltf or .glb file; a part for each node that shows a mesh, v turned to point up.

    ``layings`` are how its materials lay their pictures on it, in their order: its UV come out as these want them.

    Raises
    ------
    MeshInvalid : the document or a buffer cannot be read, or its geometry is packed in a way we do not read
    """
    document, chunk = gltf_parts(content)
    packed = [name for name in _PACKED if name in document.get("extensionsRequired", [])]
    if packed:
        raise MeshInvalid(f"its geometry is packed ({packed[0]}), which is not read here. Export it unpacked.")
    try:
        reader = _Reader(document, chunk, near)
        collected = _Collected()
        for node, matrix in _nodes(document):
            if "mesh" in node:
                mesh = document["meshes"][node["mesh"]]
                collected.part(node.get("name") or mesh.get("name") or "", matrix)
                for primitive in mesh["primitives"]:
                    at = primitive.get("material")
                    laying = layings[at] if isinstance(at, int) and 0 <= at < len(layings) else None
                    _add(collected, reader, document, primitive, matrix, laying or Laying())
        return collected.shape()
    except (KeyError, IndexError, TypeError, ValueError) as problem:
        raise MeshInvalid(f"the document names something that is not in it ({problem}). Export it anew.") from problem


def gltf_images(document: dict[str, Any]) -> list[str]:
    """The image files that a document names, as relative names."""
    uris = [image.get("uri", "") for image in document.get("images", []) if isinstance(image, dict)]
    return [unquote(uri) for uri in uris if uri and not uri.startswith("data:")]


def gltf_whole(content: bytes, near: Near) -> bytes:
    """The same document with the buffers that lie beside it inside; as it is where it needs none."""
    document, _ = gltf_parts(content)
    rows = [row for row in document.get("buffers", []) if isinstance(row, dict) and _is_beside(row.get("uri"))]
    for row in rows:
        found = near(unquote(row["uri"]))
        if found is not None:
            row["uri"] = f"data:application/octet-stream;base64,{base64.b64encode(found).decode()}"
    return json.dumps(document, ensure_ascii=False).encode() if rows else content


def _is_beside(uri: object) -> bool:
    return isinstance(uri, str) and not uri.startswith("data:")


def gltf_parts(content: bytes) -> tuple[dict[str, Any], bytes | None]:
    """The document itself, and the buffer that comes with it in a .glb. Raises MeshInvalid."""
    chunk = None
    if content[:4] == b"glTF":
        found: dict[int, bytes] = {}
        at = 12
        while at + 8 <= len(content):
            length, kind = (int.from_bytes(content[at + k : at + k + 4], "little") for k in (0, 4))
            found.setdefault(kind, content[at + 8 : at + 8 + length])
            at += 8 + length
        if at != len(content) or _JSON not in found:
            raise MeshInvalid("this .glb file ends before its header says: it was cut off. Export it anew.")
        content, chunk = found[_JSON], found.get(_BIN)
    try:
        document = json.loads(content)
    except ValueError as problem:
        raise MeshInvalid(f"this is no glTF document: {problem}. Export it anew.") from problem
    if not isinstance(document, dict) or str(document.get("asset", {}).get("version", "")).split(".")[0] != "2":
        raise MeshInvalid("this is no glTF 2.0 document. Export it as glTF 2.0.")
    return document, chunk


class _Reader:
    """Accessors as arrays."""

    def __init__(self, document: dict[str, Any], chunk: bytes | None, near: Near) -> None:
        self._document, self._chunk, self._near = document, chunk, near
        self._buffers: dict[int, bytes] = {}

    def array(self, index: int) -> np.ndarray:
        """(count, width), integers that mean shares of 1 as floats."""
        row = self._document["accessors"][index]
        wide, kind = _WIDE[row["type"]], np.dtype("<" + _TYPES[row["componentType"]])
        count = int(row["count"])
        if count > 3 * MAX_TRIANGLES:
            raise MeshInvalid(f"the mesh tells of {count:,} corners; {MAX_TRIANGLES:,} triangles are the most. Reduce it.")
        values = np.zeros((count, wide), kind)
        if "bufferView" in row:
            values = self._view(row["bufferView"], row.get("byteOffset", 0), count, wide, kind)
        if "sparse" in row:
            sparse, values = row["sparse"], values.copy()
            of, put = sparse["indices"], sparse["values"]
            at = self._view(
                of["bufferView"], of.get("byteOffset", 0), sparse["count"], 1, np.dtype("<" + _TYPES[of["componentType"]])
            )
            values[at[:, 0]] = self._view(put["bufferView"], put.get("byteOffset", 0), sparse["count"], wide, kind)
        if row.get("normalized") and kind.kind != "f":
            top = np.iinfo(kind).max
            return np.maximum(values.astype(np.float32) / np.float32(top), np.float32(-1 if kind.kind == "i" else 0))
        return values

    def _view(self, index: int, offset: int, count: int, wide: int, kind: np.dtype) -> np.ndarray:
        view = self._document["bufferViews"][index]
        buffer = self._buffer(view["buffer"])
        stride = view.get("byteStride") or wide * kind.itemsize
        start = view.get("byteOffset", 0) + offset
        if start + stride * (count - 1) + wide * kind.itemsize > len(buffer):
            raise MeshInvalid("a buffer of the document is shorter than it says: it was cut off. Export it anew.")
        return np.ndarray((count, wide), kind, buffer, start, (stride, kind.itemsize))

    def _buffer(self, index: int) -> bytes:
        if index not in self._buffers:
            uri = self._document["buffers"][index].get("uri")
            content = self._chunk if uri is None else _inside(uri) if uri.startswith("data:") else self._near(unquote(uri))
            if content is None:
                raise MeshInvalid(f"its buffer {unquote(uri) if uri else ''} does not lie beside it. Bring it along, or a .glb.")
            self._buffers[index] = content
        return self._buffers[index]


def _inside(uri: str) -> bytes | None:
    try:
        return base64.b64decode(uri.partition(",")[2], validate=True)
    except binascii.Error:
        return None


def _nodes(document: dict[str, Any]) -> Iterator[tuple[dict[str, Any], np.ndarray]]:
    """Every node of the scene with the matrix that it stands by, parents first."""
    nodes = document.get("nodes", [])
    scenes = document.get("scenes")
    roots = scenes[document.get("scene", 0)].get("nodes", []) if scenes else range(len(nodes))
    waiting = [(index, np.eye(4), 0) for index in reversed(list(roots))]
    while waiting:
        index, above, depth = waiting.pop()
        if depth > _DEEPEST:
            raise MeshInvalid("its nodes stand within each other without end. Export it anew.")
        matrix = above @ _matrix(nodes[index])
        yield nodes[index], matrix
        waiting += [(child, matrix, depth + 1) for child in reversed(nodes[index].get("children", []))]


def _matrix(node: dict[str, Any]) -> np.ndarray:
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    x, y, z, w = node.get("rotation", (0, 0, 0, 1))
    turn = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )
    matrix = np.eye(4)
    matrix[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)), float)
    matrix[:3, 3] = node.get("translation", (0, 0, 0))
    return matrix


@dataclass
class _Collected:
    """Primitives as they are put together."""

    points: list[np.ndarray] = field(default_factory=list)
    corners: list[np.ndarray] = field(default_factory=list)
    values: dict[str, list[np.ndarray | None]] = field(default_factory=dict)
    material_of: list[np.ndarray] = field(default_factory=list)
    part_of: list[np.ndarray] = field(default_factory=list)
    materials: dict[str, int] = field(default_factory=dict)
    parts: list[str] = field(default_factory=list)
    scales: list[tuple[float, float, float]] = field(default_factory=list)
    many: int = 0

    def part(self, name: str, matrix: np.ndarray) -> None:
        sides = np.linalg.norm(matrix[:3, :3], axis=0)
        if np.linalg.det(matrix[:3, :3]) < 0:
            sides = -sides
        self.parts.append(name)
        self.scales.append((float(sides[0]), float(sides[1]), float(sides[2])))

    def shape(self) -> Shape:
        if not self.points:
            raise MeshInvalid("no node of the document shows a mesh of triangles. Export the objects themselves.")
        values = {name: self._whole(name) for name in ("TEXCOORD_0", "TEXCOORD_1", "NORMAL", "TANGENT")}
        triangles = sum(map(len, self.material_of))
        return Shape(
            np.concatenate(self.points).astype(np.float32),
            np.concatenate(self.corners).astype(np.int32),
            np.full(triangles, 3, np.int32),
            uv=values["TEXCOORD_0"],
            second_uv=values["TEXCOORD_1"],
            normals=values["NORMAL"],
            given_tangents=values["TANGENT"],
            material=np.concatenate(self.material_of),
            materials=tuple(self.materials),
            part=np.concatenate(self.part_of),
            parts=tuple(self.parts),
            scales=tuple(self.scales),
        )

    def _whole(self, name: str) -> np.ndarray | None:
        """What every primitive has; where some lack UV theirs are 0, where some lack normals or tangents nobody has any."""
        found = self.values.get(name, [])
        if all(one is None for one in found) or (any(one is None for one in found) and not name.startswith("TEX")):
            return None
        filled = [np.zeros((len(c), 2), np.float32) if one is None else one for one, c in zip(found, self.corners)]
        return np.concatenate(filled).astype(np.float32)


def _add(
    into: _Collected,
    reader: _Reader,
    document: dict[str, Any],
    primitive: dict[str, Any],
    matrix: np.ndarray,
    laying: Laying,
) -> None:
    mode = primitive.get("mode", _TRIANGLES)
    if mode not in (_TRIANGLES, _STRIP, _FAN) or "POSITION" not in primitive["attributes"]:
        return  # points and lines have no surface
    attributes = {name: reader.array(index) for name, index in primitive["attributes"].items() if name in _READ}
    at = attributes["POSITION"].astype(np.float64)
    order = reader.array(primitive["indices"])[:, 0].astype(np.int64) if "indices" in primitive else np.arange(len(at))
    if mode == _STRIP:
        k = np.arange(max(len(order) - 2, 0))
        order = np.where(k[:, None] % 2, order[np.c_[k + 1, k, k + 2]], order[np.c_[k, k + 1, k + 2]]).ravel()
    elif mode == _FAN:
        k = np.arange(1, max(len(order) - 1, 1))
        order = order[np.c_[np.zeros_like(k), k, k + 1]].ravel()
    order = order[: len(order) // 3 * 3]
    if len(order) and order.max() >= len(at):
        raise MeshInvalid(f"a face asks for point {int(order.max())}, and there are {len(at)}. Export it anew.")
    inner = matrix[:3, :3]
    if np.linalg.det(inner) < 0:
        order = order.reshape(-1, 3)[:, ::-1].ravel()  # a mirrored node turns its faces over
    moved: dict[str, np.ndarray | None] = dict.fromkeys(("TEXCOORD_0", "TEXCOORD_1", "NORMAL", "TANGENT"))
    for name, uv in _uv_of(attributes, laying).items():
        moved[name] = (uv * [1, -1] + [0, 1])[order]
    if "NORMAL" in attributes:
        moved["NORMAL"] = _unit(attributes["NORMAL"] @ np.linalg.pinv(inner))[order]
    if "TANGENT" in attributes and laying.keeps_directions:
        given = attributes["TANGENT"].astype(np.float64)
        # the bitangent is w · (N × T) in the file too, where v points down: it is that of v up turned over
        moved["TANGENT"] = np.c_[_unit(given[:, :3] @ inner.T), given[:, 3] * np.sign(np.linalg.det(inner))][order]
    name = document["materials"][primitive["material"]].get("name", "") if "material" in primitive else ""
    number = into.materials.setdefault(
        name or (f"material {primitive['material']}" if "material" in primitive else ""), len(into.materials)
    )
    into.points.append(at @ inner.T + matrix[:3, 3])
    into.corners.append(order + into.many)
    into.many += len(at)
    for key, values in moved.items():
        into.values.setdefault(key, []).append(values)
    into.material_of.append(np.full(len(order) // 3, number, np.int32))
    into.part_of.append(np.full(len(order) // 3, len(into.parts) - 1, np.int32))


def _uv_of(attributes: dict[str, np.ndarray], laying: Laying) -> dict[str, np.ndarray]:
    """The UV that pictures lie on first; what is second only because a material reads by the other stays as it is."""
    names = ("TEXCOORD_0", "TEXCOORD_1")
    read = names[::-1] if laying.channel and names[1] in attributes else names
    found = {to: attributes[name] for to, name in zip(names, read) if name in attributes}
    return found | ({names[0]: laying.on(found[names[0]])} if names[0] in found and laying.said else {})


_READ = ("POSITION", "NORMAL", "TANGENT", "TEXCOORD_0", "TEXCOORD_1")


def _unit(vectors: np.ndarray) -> np.ndarray:
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.where(length > 1e-12, vectors / np.maximum(length, 1e-12), (0.0, 0.0, 1.0))
