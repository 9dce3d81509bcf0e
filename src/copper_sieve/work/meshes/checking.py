"""One mesh file looked at: what is in it, and everything that was found."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from ...core.checks.mesh import SeenMesh, mesh_checks_for
from ...core.errors import SieveError
from ...core.findings import Finding, finding
from ...core.mesh import tangents
from ...core.mesh.made import low_of, only
from ...core.mesh.shape import Shape
from ...core.mesh.topology import edges_of
from ...core.mesh.unfold import borders_of
from ...files.meshes import MeshFile, glb_of, read_mesh

__all__ = ["borders", "check_mesh", "found_on", "mesh_row", "of_material", "worn"]


def found_on(file: str, read: MeshFile, px: int) -> list[Finding]:
    """Everything that is found on a mesh; on one that is only baked from, less can be wrong."""
    seen = SeenMesh(file, low_of(read.shape), px, read.missing, read.outside, read.layings)
    return [found for check in mesh_checks_for(Path(file).stem, read.shape.parts) for found in check(seen)]


def check_mesh(path: Path, px: int = 2048) -> tuple[Shape | None, list[Finding]]:
    """A mesh as it was read, and everything that was found; None where it cannot be read, and the finding says why.

    ``px`` is the size of the maps that it will wear, which margins are judged at.
    """
    try:
        read = read_mesh(path)
    except (SieveError, OSError) as problem:
        why = (
            problem.message if isinstance(problem, SieveError) else f"{path.name} cannot be read: {problem.strerror or problem}."
        )
        return None, [finding("mesh-unreadable", why=why)]
    return read.shape, found_on(path.name, read, px)


def mesh_row(path: Path, shape: Shape | None, findings: Sequence[Finding]) -> dict[str, Any]:
    """One file as the terminal's JSON has it."""
    return {
        "path": str(path),
        "parts": [] if shape is None else [name for name in shape.parts if name],
        "triangles": 0 if shape is None else len(shape.triangles),
        "materials": [] if shape is None else [name for name in shape.materials if name],
        "findings": [found.model_dump(include={"id", "grade", "text", "numbers", "where"}) for found in findings],
    }


def of_material(shape: Shape, material: int) -> Shape:
    """What of a shape wears one of its materials. Raises MeshInvalid where nothing does."""
    low = low_of(shape)
    return only(low, low.material == material)


def worn(shape: Shape) -> bytes:
    """A shape as the screen puts it on: triangles with normals, UV and tangents of the common standard."""
    has_frame = shape.uv is not None and bool(np.isfinite(shape.uv).all())
    return glb_of(shape, tangents(shape) if has_frame else None)


def borders(shape: Shape) -> list[tuple[float, float, float, float]]:
    """The borders of its islands over a picture: from and to, in shares from the upper left."""
    if shape.uv is None or not np.isfinite(shape.uv).all():
        return []
    _, ends = borders_of(shape, shape.uv, edges_of(shape))
    rows = (ends * np.array([1, -1]) + np.array([0, 1])).reshape(-1, 4).round(5)
    return [(a, b, c, d) for a, b, c, d in rows.tolist()]
