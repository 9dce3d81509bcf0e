"""PLY: points with their properties, and faces as lists; text or binary."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice
from typing import Any

import numpy as np

from ...core.errors import MeshInvalid
from ...core.mesh.shape import MAX_TRIANGLES, Shape
from .text import AT_ONCE, lines_of

__all__ = ["ply_document", "read_ply"]

_TYPES = {
    **dict.fromkeys(("char", "int8"), "i1"),
    **dict.fromkeys(("uchar", "uint8"), "u1"),
    **dict.fromkeys(("short", "int16"), "i2"),
    **dict.fromkeys(("ushort", "uint16"), "u2"),
    **dict.fromkeys(("int", "int32"), "i4"),
    **dict.fromkeys(("uint", "uint32"), "u4"),
    **dict.fromkeys(("float", "float32"), "f4"),
    **dict.fromkeys(("double", "float64"), "f8"),
}
_ORDERS = {"binary_little_endian": "<", "binary_big_endian": ">", "ascii": ""}
_UV = (("u", "v"), ("s", "t"), ("texture_u", "texture_v"))
_LISTS = ("vertex_indices", "vertex_index")


@dataclass(frozen=True)
class _Property:
    name: str
    type: str
    length: str | None = None  # of a list: the type of its length


@dataclass(frozen=True)
class _Element:
    name: str
    count: int
    properties: list[_Property]


def read_ply(content: bytes) -> Shape:
    """The shape in a PLY file. Raises MeshInvalid where the header or what follows cannot be read."""
    order, elements, start = _header(content)
    for element in elements:
        if element.name == "face" and element.count > MAX_TRIANGLES:
            raise MeshInvalid(f"the mesh has {element.count:,} faces; {MAX_TRIANGLES:,} triangles are the most. Reduce it.")
    try:
        read = _text(content[start:], elements) if not order else _binary(content, start, order, elements)
    except (ValueError, IndexError) as problem:
        raise MeshInvalid("the file ends before its header says, or holds what it does not tell of. Export it anew.") from problem
    points, faces = read.get("vertex"), read.get("face")
    listed = next((name for name in _LISTS if faces and name in faces), None)
    if points is None or faces is None or listed is None or not {"x", "y", "z"} <= points.keys():
        raise MeshInvalid("the file holds no points and faces. A cloud of points has no surface to work on.")
    counts, corners = faces[listed]
    uv = next((_columns(points, names) for names in _UV if set(names) <= points.keys()), None)
    normals = _columns(points, ("nx", "ny", "nz")) if {"nx", "ny", "nz"} <= points.keys() else None
    at = corners.astype(np.int64)
    if len(at) and (at.min() < 0 or at.max() >= len(points["x"])):
        raise MeshInvalid(f"a face asks for point {int(at.max())}, and there are {len(points['x'])}. Export it anew.")
    per_corner = faces.get("texcoord")
    if per_corner is not None and len(per_corner[1]) == 2 * len(at):
        own_uv = per_corner[1].reshape(-1, 2).astype(np.float32)
    else:
        own_uv = None if uv is None else uv[at]
    return Shape(
        _columns(points, ("x", "y", "z")),
        at.astype(np.int32),
        counts.astype(np.int32),
        uv=own_uv,
        normals=None if normals is None else normals[at],
    )


def _columns(values: dict[str, Any], names: tuple[str, ...]) -> np.ndarray:
    return np.stack([values[name] for name in names], 1).astype(np.float32)


def _header(content: bytes) -> tuple[str, list[_Element], int]:
    end = content.find(b"end_header")
    if not content.startswith(b"ply") or end < 0:
        raise MeshInvalid("this is no PLY file: its header has no beginning or no end.")
    start = content.index(b"\n", end) + 1
    order, elements = None, []
    try:
        for line in content[:end].decode("latin-1").splitlines():
            match line.split():
                case ["format", form, _]:
                    order = _ORDERS[form]
                case ["element", name, count]:
                    elements.append(_Element(name, int(count), []))
                case ["property", "list", length, kind, name]:
                    elements[-1].properties.append(_Property(name, _TYPES[kind], _TYPES[length]))
                case ["property", kind, name]:
                    elements[-1].properties.append(_Property(name, _TYPES[kind]))
    except (KeyError, ValueError, IndexError) as problem:
        raise MeshInvalid(f"the header of this PLY file cannot be read at {problem}. Export it anew.") from problem
    if order is None:
        raise MeshInvalid("the header of this PLY file does not say how it is written. Export it anew.")
    return order, elements, start


def _text(content: bytes, elements: list[_Element]) -> dict[str, dict[str, Any]]:
    lines, found = lines_of(content), {}
    for element in elements:
        parts, left = [], element.count
        while left:
            some = [line.split() for line in islice(lines, min(left, AT_ONCE))]
            if not some:
                raise ValueError
            parts.append(_of_rows(some, element.properties))
            left -= len(some)
        found[element.name] = {one.name: _joined([part[one.name] for part in parts], one) for one in element.properties}
    return found


def _joined(parts: list[Any], one: _Property) -> Any:
    """One property of rows that were read a piece at a time: its values, and before them how many each row has of a list."""
    if one.length is None:
        return np.concatenate(parts or [np.zeros(0)])
    counts, values = zip(*parts) if parts else ((), ())
    return np.concatenate(counts or [np.zeros(0, int)]), np.concatenate(values or [np.zeros(0)])


def _of_rows(rows: list[list[bytes]], properties: list[_Property]) -> dict[str, Any]:
    if all(one.length is None for one in properties):
        values = np.array(rows, np.float64).reshape(len(rows), -1)
        return {one.name: values[:, k] for k, one in enumerate(properties)}
    counts: dict[str, list[int]] = {one.name: [] for one in properties}
    items: dict[str, list[bytes]] = {one.name: [] for one in properties}
    for row in rows:
        k = 0
        for one in properties:
            many = 1
            if one.length is not None:
                many, k = int(row[k]), k + 1
                counts[one.name].append(many)
            items[one.name] += row[k : k + many]
            k += many
    return {
        one.name: (np.array(counts[one.name]), np.array(items[one.name], np.float64))
        if one.length is not None
        else np.array(items[one.name], np.float64)
        for one in properties
    }


def _binary(content: bytes, at: int, order: str, elements: list[_Element]) -> dict[str, dict[str, Any]]:
    found = {}
    for element in elements:
        if all(one.length is None for one in element.properties):
            row = np.dtype([(one.name, order + one.type) for one in element.properties])
            values = np.frombuffer(content, row, element.count, at)
            found[element.name] = {one.name: values[one.name] for one in element.properties}
            at += row.itemsize * element.count
        else:
            found[element.name], at = _lists(content, at, order, element)
    return found


def _lists(content: bytes, at: int, order: str, element: _Element) -> tuple[dict[str, Any], int]:
    """Rows with lists: at once where all have the length of the first, else one by one."""
    if not element.count:
        return {one.name: (np.zeros(0, int), np.zeros(0)) for one in element.properties}, at
    fields, here = [], at
    for one in element.properties:
        if one.length is None:
            fields.append((one.name, order + one.type))
            here += np.dtype(one.type).itemsize
            continue
        many = int(np.frombuffer(content, order + one.length, 1, here)[0])
        here += np.dtype(one.length).itemsize + many * np.dtype(one.type).itemsize
        fields += [(f"{one.name} count", order + one.length), (one.name, order + one.type, (many,))]
    row = np.dtype(fields)
    if at + row.itemsize * element.count <= len(content):
        values = np.frombuffer(content, row, element.count, at)
        lists = [one for one in element.properties if one.length is not None]
        if all((values[f"{one.name} count"] == values[f"{one.name} count"][0]).all() for one in lists):
            read: dict[str, Any] = {one.name: values[one.name] for one in element.properties if one.length is None}
            read |= {one.name: (values[f"{one.name} count"], values[one.name].ravel()) for one in lists}
            return read, at + row.itemsize * element.count
    return _one_by_one(content, at, order, element)


def _one_by_one(content: bytes, at: int, order: str, element: _Element) -> tuple[dict[str, Any], int]:
    counts: dict[str, list[int]] = {one.name: [] for one in element.properties}
    parts: dict[str, list[np.ndarray]] = {one.name: [] for one in element.properties}
    for _ in range(element.count):
        for one in element.properties:
            many = 1
            if one.length is not None:
                many = int(np.frombuffer(content, order + one.length, 1, at)[0])
                at += np.dtype(one.length).itemsize
                counts[one.name].append(many)
            parts[one.name].append(np.frombuffer(content, order + one.type, many, at))
            at += many * np.dtype(one.type).itemsize
    joined = {name: np.concatenate(values) for name, values in parts.items()}
    return {
        one.name: joined[one.name] if one.length is None else (np.array(counts[one.name]), joined[one.name])
        for one in element.properties
    }, at


def ply_document(shape: Shape) -> bytes:
    """A binary PLY file of a shape: a point for each corner, so that UV and normals stay."""
    names = ["x", "y", "z"]
    columns = [shape.points[shape.corners]]
    if shape.normals is not None:
        columns.append(shape.normals)
        names += ["nx", "ny", "nz"]
    if shape.uv is not None:
        columns.append(shape.uv)
        names += ["s", "t"]
    head = ["ply", "format binary_little_endian 1.0", "comment Copper Sieve", f"element vertex {len(shape.corners)}"]
    head += [f"property float {name}" for name in names]
    head += [f"element face {len(shape.counts)}", "property list int int vertex_indices", "end_header", ""]
    flat = np.empty(len(shape.corners) + len(shape.counts), "<i4")
    is_count = np.zeros(len(flat), bool)
    is_count[shape.starts + np.arange(len(shape.counts))] = True
    flat[is_count], flat[~is_count] = shape.counts, np.arange(len(shape.corners))
    return "\n".join(head).encode() + np.concatenate(columns, 1).astype("<f4").tobytes() + flat.tobytes()
