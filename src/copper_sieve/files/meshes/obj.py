"""OBJ: positions, UV and normals apart, faces that name them; materials and objects by name."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from typing import Any

import numpy as np

from ...core.errors import MeshInvalid
from ...core.mesh.shape import MAX_TRIANGLES, Shape
from ...core.raster import FloatArray
from .text import AT_ONCE, in_pieces, lines_of

__all__ = ["obj_document", "obj_libraries", "read_obj"]

_VALUES = {b"v": 3, b"vt": 2, b"vn": 3}


def read_obj(content: bytes) -> Shape:
    """The shape in an OBJ file.

    Faces may count from the end (negative numbers). Parts are objects, or groups where there are no objects.

    Raises
    ------
    MeshInvalid : a line cannot be read, or an index leads outside
    """
    rows: dict[bytes, list[np.ndarray]] = {key: [] for key in _VALUES}
    faces = _Faces()
    has_objects = content.startswith(b"o ") or b"\no " in content
    for kind, lines, number in _blocks(content):
        if kind in rows:
            rows[kind].append(_numbers(kind, lines, number))
        elif kind == b"f":
            faces.add(lines, number, {key: sum(map(len, rows[key])) for key in rows})
        elif kind == b"usemtl":
            faces.material = _name(lines[-1])
        elif kind == b"o" or (kind == b"g" and not has_objects):
            faces.part = _name(lines[-1])
    points, uv, normals = (np.concatenate(rows[key]) if rows[key] else None for key in _VALUES)
    if points is None or not faces.indices:
        raise MeshInvalid("the file holds no points and faces: it is no OBJ mesh, or it was cut off.")
    index = np.concatenate(faces.indices)
    counts = np.concatenate(faces.counts)
    material, part = (np.repeat(*np.array(which, np.int32).T).astype(np.int32) for which in (faces.material_of, faces.part_of))
    return Shape(
        points.astype(np.float32),
        index[:, 0].astype(np.int32),
        counts,
        uv=_picked(uv, index[:, 1], "UV"),
        normals=_unit(_picked(normals, index[:, 2], "normals")),
        material=material,
        materials=tuple(faces.materials) or ("",),
        part=part,
        parts=tuple(faces.parts) or ("",),
    )


def obj_libraries(content: bytes) -> list[str]:
    """The material files that an OBJ names."""
    return [_name(line) for line in lines_of(content) if line.startswith(b"mtllib ")]


def _blocks(content: bytes) -> Iterator[tuple[bytes, list[bytes], int]]:
    """Lines that follow each other and are of one kind, so many at most, with the number of the first."""
    kind, block, first = b"", [], 1
    whole = content.replace(b"\\\r\n", b" ").replace(b"\\\n", b" ") if b"\\" in content else content
    for number, line in enumerate(lines_of(whole), 1):
        line = line.strip()
        if not line or line.startswith(b"#"):
            continue
        here = line.split(None, 1)[0]
        if block and (here != kind or len(block) == AT_ONCE):
            yield kind, block, first
            block = []
        if not block:
            kind, first = here, number
        block.append(line)
    if block:
        yield kind, block, first


def _name(line: bytes) -> str:
    parts = line.split(None, 1)
    return parts[1].decode("utf-8", "replace").strip() if len(parts) > 1 else ""


def _numbers(kind: bytes, lines: list[bytes], number: int) -> np.ndarray:
    wide = _VALUES[kind]
    try:
        per = len(lines[0].split()) - 1
        flat = np.array(b" ".join(line[len(kind) :] for line in lines).split(), np.float64)
        if per < wide or flat.size != per * len(lines):
            flat = np.array([line.split()[1 : 1 + wide] for line in lines], np.float64)
            per = wide
        return flat.reshape(len(lines), per)[:, :wide]
    except ValueError as problem:
        raise MeshInvalid(
            f"from line {number} on, “{kind.decode()}” is not followed by {wide} numbers. Export it anew."
        ) from problem


class _Faces:
    """Faces as they come: indices from 0, −1 where a corner has none; counts; materials and parts as (number, faces) in turn."""

    def __init__(self) -> None:
        self.indices: list[np.ndarray] = []
        self.counts: list[np.ndarray] = []
        self.materials: dict[str, int] = {}
        self.parts: dict[str, int] = {}
        self.material_of: list[tuple[int, int]] = []
        self.part_of: list[tuple[int, int]] = []
        self.material = self.part = ""
        self._triangles = 0

    def add(self, lines: list[bytes], number: int, so_far: dict[bytes, int]) -> None:
        counts = np.array([len(line.split()) - 1 for line in lines], np.int32)
        self._triangles += int(counts.sum()) - 2 * len(counts)
        if self._triangles > MAX_TRIANGLES:
            raise MeshInvalid(f"the mesh has more than {MAX_TRIANGLES:,} triangles, the most there may be. Reduce it.")
        tokens = b" ".join(line[1:] for line in lines).split()
        try:
            index = _indices(tokens)
        except ValueError as problem:
            raise MeshInvalid(f"from line {number} on, a face is not made of numbers. Export the mesh anew.") from problem
        totals = np.array([so_far[key] for key in _VALUES])
        index = np.where(index < 0, index + totals, index - 1)
        if (index < -1).any() or (index[:, 0] < 0).any() or (index >= totals).any():
            raise MeshInvalid(f"from line {number} on, a face asks for a point, UV or normal that is not there. Export it anew.")
        self.indices.append(index)
        self.counts.append(counts)
        self.material_of.append((self.materials.setdefault(self.material, len(self.materials)), len(lines)))
        self.part_of.append((self.parts.setdefault(self.part, len(self.parts)), len(lines)))


def _indices(tokens: list[bytes]) -> np.ndarray:
    """(C, 3) of position, UV, normal, as written; 0 where a corner has none."""
    slashes = {token.count(b"/") for token in set(tokens[:64])} | {tokens[-1].count(b"/")}
    joined = b" ".join(tokens)
    if len(slashes) == 1 and joined.count(b"/") == slashes.copy().pop() * len(tokens):
        per = slashes.pop() + 1
        flat = np.array(joined.replace(b"//", b"/0/").replace(b"/ ", b"/0 ").replace(b"/", b" ").split(), np.int64)
        if flat.size == per * len(tokens):
            return np.pad(flat.reshape(-1, per), ((0, 0), (0, 3 - per)))
    rows = [[int(part or 0) for part in token.split(b"/")] for token in tokens]
    return np.array([row + [0] * (3 - len(row)) for row in rows], np.int64)


def _picked(values: np.ndarray | None, index: np.ndarray, what: str) -> Any:
    """What corners point at; None where none does. A corner without one where others have one gets the first."""
    if values is None or (index < 0).all():
        return None
    found = values[np.maximum(index, 0)].astype(np.float32)
    if what == "UV":
        found[index < 0] = 0
    return found


def _unit(normals: Any) -> Any:
    if normals is None:
        return None
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    return np.where(length > 1e-12, normals / np.maximum(length, 1e-12), (0.0, 0.0, 1.0)).astype(np.float32)


def obj_document(shape: Shape, library: str | None = None) -> bytes:
    """An OBJ file of a shape, polygons as they were read, materials and parts by name; equal UV and normals are told once."""
    lines = _lines(shape, library)
    return b"".join("\n".join([*some, ""]).encode() for some in iter(lambda: list(islice(lines, AT_ONCE)), []))


def _lines(shape: Shape, library: str | None) -> Iterator[str]:
    yield "# Copper Sieve"
    if library:
        yield f"mtllib {library}"
    for some in in_pieces(shape.points):
        yield from (f"v {x:.9g} {y:.9g} {z:.9g}" for x, y, z in some.tolist())
    corners = [shape.corners]
    for name, values in (("vt", shape.uv), ("vn", shape.normals)):
        if values is None:
            continue
        first, which = _told_once(values)
        for some in in_pieces(values[first]):
            yield from (f"{name} " + " ".join(f"{part:.9g}" for part in row) for row in some.tolist())
        corners.append(which)
    pattern, told = _CORNER[shape.uv is not None, shape.normals is not None], (-1, -1)
    index, faces = np.stack(corners, 1) + 1, np.stack([shape.starts, shape.counts, shape.part, shape.material], 1)
    for some in in_pieces(faces):
        begin, end = some[0, 0], some[-1, :2].sum()
        said = [pattern.format(*corner) for corner in index[begin:end].tolist()]
        for first, count, part, material in (some - [begin, 0, 0, 0]).tolist():
            if (part, material) != told:
                if part != told[0]:
                    yield f"o {shape.parts[part] or 'mesh'}"
                if shape.materials[material]:
                    yield f"usemtl {shape.materials[material]}"
                told = part, material
            yield "f " + " ".join(said[first : first + count])


_CORNER = {(True, True): "{}/{}/{}", (True, False): "{}/{}", (False, True): "{}//{}", (False, False): "{}"}


def _told_once(values: FloatArray) -> tuple[np.ndarray, np.ndarray]:
    """Where each different row of (N, K) float32 stands first, in the order of the file; and which of these each row is."""
    first, which = np.zeros(1, np.int64), np.zeros(len(values), np.int64)
    for bits in (values + np.float32(0)).view(np.uint32).T.astype(np.int64):  # no -0
        _, first, which = np.unique((which << 32) | bits, return_index=True, return_inverse=True)
    order = np.argsort(first)
    place = np.empty_like(order)
    place[order] = np.arange(len(order))
    return first[order], place[which]
