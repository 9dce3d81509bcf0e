"""Checks on meshes that belong together: parts and their partners, a low mesh and its cage."""

from __future__ import annotations

import numpy as np

from ..findings import Finding, finding
from ..mesh.pairing import paired, role_of
from ..mesh.shape import Shape

__all__ = ["cage_findings", "pair_findings"]


def pair_findings(names: list[str]) -> list[Finding]:
    """Parts that say what they are for and have no partner; nothing where all are for one side.

    Examples
    --------
    >>> [found.numbers["name"] for found in pair_findings(["clasp_low", "clasp_high", "strap_high"])]
    ['strap_high']
    """
    if not {"low", "high"} <= {role_of(name)[1] for name in names}:
        return []
    alone = [name for name in paired(names).alone if role_of(name)[1] is not None]
    return [finding("mesh-unpaired", name=name, why="no part of that name is there for the other side") for name in alone]


def cage_findings(file: str, low: Shape, cage: Shape) -> list[Finding]:
    """Whether a cage is the low mesh, grown: as many corners, in the same order, with the same UV."""
    for what, ours, theirs in (
        ("faces", len(low.counts), len(cage.counts)),
        ("points", len(low.points), len(cage.points)),
        ("corners", len(low.corners), len(cage.corners)),
    ):
        if ours != theirs:
            return [finding("mesh-cage-counts", file=file, what=what, low=ours, cage=theirs)]
    found = []
    corners = int((low.corners != cage.corners).sum())
    if corners:
        found.append(finding("mesh-cage-differs", file=file, what="corners", count=corners))
    diagonals = int((low.triangles != cage.triangles).any(1).sum())
    if diagonals and not corners:
        found.append(finding("mesh-cage-differs", file=file, what="diagonals", count=diagonals))
    if low.uv is not None and cage.uv is not None:
        apart = int((np.abs(low.uv - cage.uv) > 1e-6).any(1).sum())
        if apart:
            found.append(finding("mesh-cage-differs", file=file, what="UV", count=apart))
    return found
