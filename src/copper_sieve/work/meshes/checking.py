"""One mesh file looked at: what is in it, and everything that was found."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from ...core.checks.mesh import MESH_CHECKS, SeenMesh
from ...core.errors import SieveError
from ...core.findings import Finding, finding
from ...core.mesh.shape import Shape
from ...files.meshes import MeshFile, read_mesh

__all__ = ["check_mesh", "found_on", "mesh_row"]


def found_on(file: str, read: MeshFile, px: int) -> list[Finding]:
    """Everything that is found on a mesh."""
    seen = SeenMesh(file, read.shape, px, read.missing, read.outside)
    return [found for check in MESH_CHECKS for found in check(seen)]


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
