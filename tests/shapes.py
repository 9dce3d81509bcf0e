"""Shapes made by code, whose maps are known by formula."""

import base64
import json
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from copper_sieve.core.mesh.shape import Shape
from copper_sieve.files.meshes import glb_of

TILED_FROM = 0.0625
RING, TUBE, RELIEF, WAVES = 1.0, 0.4, 0.02, (24, 10)
Surface = Callable[[np.ndarray, np.ndarray], np.ndarray]


def torus_at(u: np.ndarray, v: np.ndarray, relief: float = 0.0) -> np.ndarray:
    a, b = 2 * np.pi * (u % 1), 2 * np.pi * (v % 1)
    tube = TUBE + relief * np.sin(WAVES[0] * a) * np.sin(WAVES[1] * b)
    away = RING + tube * np.cos(b)
    return np.stack([away * np.cos(a), away * np.sin(a), tube * np.sin(b)], -1)


def sphere_at(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    a, b = 2 * np.pi * (u % 1), np.pi * (v - 0.5)
    return np.stack([np.cos(b) * np.cos(a), np.cos(b) * np.sin(a), np.sin(b)], -1)


def normal_at(surface: Surface, u: np.ndarray, v: np.ndarray, step: float = 1e-5) -> np.ndarray:
    across = surface(u + step, v) - surface(u - step, v)
    along = surface(u, v + step) - surface(u, v - step)
    n = np.cross(across, along)
    return n / np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-30)


def sheet(surface: Surface, columns: int, rows: int, *, quads: bool = False, shaded: bool = True) -> Shape:
    """A surface over the unit square as a grid, with the normals of its formula."""
    u, v = np.meshgrid(np.arange(columns + 1) / columns, np.arange(rows + 1) / rows)
    points, uv = surface(u, v).reshape(-1, 3).round(12), np.stack([u, v], -1).reshape(-1, 2)
    y, x = np.divmod(np.arange(columns * rows), columns)
    i = y * (columns + 1) + x
    quad = np.stack([i, i + 1, i + columns + 2, i + columns + 1], 1)
    corners = quad if quads else np.stack([quad[:, [0, 1, 2]], quad[:, [0, 2, 3]]], 1).reshape(-1, 3)
    flat = corners.ravel().astype(np.int32)
    normals = normal_at(surface, uv[:, 0], uv[:, 1]).astype(np.float32)[flat] if shaded else None
    counts = np.full(len(corners), corners.shape[1], np.int32)
    return Shape(points.astype(np.float32), flat, counts, uv=uv.astype(np.float32)[flat], normals=normals)


def torus(columns: int, rows: int, relief: float = 0.0, **kind: bool) -> Shape:
    return sheet(lambda u, v: torus_at(u, v, relief), columns, rows, **kind)


def tiled(shape: Shape) -> Shape:
    """The same over two UDIM tiles: what lay in the left half of the picture fills 1001, the right half 1002 but for margins."""
    uv = shape.uv * np.array([2, 1], np.float32)
    is_right = np.repeat(np.add.reduceat(uv[:, 0], shape.starts) / shape.counts > 1, shape.counts)
    uv[is_right, 1] = TILED_FROM + uv[is_right, 1] * (1 - 2 * TILED_FROM)
    return replace(shape, uv=uv)


def box(side: float = 1.0, *, hard: bool = True) -> Shape:
    """A cube of six islands, 3 × 2 in the picture, with a margin; none is mirrored."""
    points, uv, normals = [], [], []
    for k in range(6):
        axis, sign = k // 2, 1 if k % 2 else -1
        u, v, n = sign * np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3], sign * np.eye(3)[axis]
        for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
            points.append((n + a * u + b * v) * side / 2)
            uv.append(((k % 3 + 0.5 + 0.4 * a) / 3, (k // 3 + 0.5 + 0.4 * b) / 2))
            normals.append(n if hard else points[-1] / np.linalg.norm(points[-1]))
    at, index = (np.array(part, np.float32) for part in (points, normals))
    four = np.full(6, 4, np.int32)
    return Shape(at, np.arange(24, dtype=np.int32), four, uv=np.array(uv, np.float32), normals=index)


def flat_shaded(shape: Shape) -> Shape:
    """Every triangle for itself, with its own normal."""
    at = shape.at.astype(np.float64)
    n = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-30)
    uv = None if shape.uv is None else shape.uv[shape.triangles].reshape(-1, 2)
    many = len(at)
    return Shape(
        shape.points,
        np.ascontiguousarray(shape.faces.ravel()),
        np.full(many, 3, np.int32),
        uv=uv,
        normals=np.repeat(n, 3, 0).astype(np.float32),
    )


def gltf_apart(shape: Shape, buffer: str, **more: object) -> tuple[bytes, bytes]:
    """A shape as a document of text, and the buffer that lies beside it under that name."""
    glb = glb_of(shape)
    long = int.from_bytes(glb[12:16], "little")
    document = json.loads(glb[20 : 20 + long]) | more
    document["buffers"][0]["uri"] = buffer
    return json.dumps(document).encode(), glb[28 + long :]


def gltf_with_pictures(shape: Shape, images: list[dict], materials: list[dict], **more: object) -> bytes:
    """A shape as one document of text with the pictures of its materials inside; an image's ``png`` are its bytes."""
    document, buffer = gltf_apart(shape, "")
    inside = [{**{k: v for k, v in row.items() if k != "png"}, "uri": _uri(row["png"], "image/png")} for row in images]
    told = {"images": inside, "textures": [{"source": k} for k in range(len(images))], "materials": materials, **more}
    whole = json.loads(document) | told
    whole["buffers"][0]["uri"] = _uri(buffer, "application/octet-stream")
    return json.dumps(whole).encode()


def _uri(content: bytes, kind: str) -> str:
    return f"data:{kind};base64,{base64.b64encode(content).decode()}"
