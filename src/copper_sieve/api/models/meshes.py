"""Meshes as the screen sees them."""

from __future__ import annotations

from ...core.findings import Finding
from ...core.value import Told

__all__ = ["MeshLook", "MeshMaterial"]


class MeshMaterial(Told):
    """One material of a mesh; it has a picture of its own."""

    name: str
    triangles: int


class MeshLook(Told):
    """What is in a mesh, and everything that was found on it."""

    sha256: str
    name: str
    triangles: int
    parts: list[str]
    materials: list[MeshMaterial]
    has_uv: bool
    findings: list[Finding]
