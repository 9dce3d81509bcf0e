"""What one press does about a finding on a mesh: another mesh beside the one that came, which is never changed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import PurePath
from types import MappingProxyType

from ...core.checks.mesh import QUICK_UV
from ...core.errors import UnknownKey
from ...core.mesh import tangents
from ...core.mesh.made import as_triangles, turned_over, upright
from ...core.mesh.pairing import role_of
from ...core.mesh.shape import Shape
from ...files.meshes import glb_of
from .unfolding import quick_uv

__all__ = ["MENDS", "mended", "unfolded"]


def _as_it_is(shape: Shape) -> Shape:
    """Whatever its nodes do to it is done as it is read, so that writing it leaves nothing to do."""
    return shape


MENDS: Mapping[str, Callable[[Shape], Shape]] = MappingProxyType(
    {
        **dict.fromkeys(("mesh-no-uv", "mesh-uv-empty", "mesh-uv-broken"), quick_uv),
        "mesh-polygons": as_triangles,
        **dict.fromkeys(("mesh-scale", "mesh-scale-uneven", "mesh-scale-negative"), _as_it_is),
        "mesh-tangents-differ": _as_it_is,
        "mesh-inside-out": turned_over,
    }
)


def mended(shape: Shape, name: str, finding: str) -> tuple[str, bytes]:
    """A mesh without what was found, as a .glb: its name and its bytes, with tangents of the common standard.

    Raises
    ------
    UnknownKey : nothing can be done here about that finding
    MeshInvalid : it cannot be done with this mesh
    """
    mend = MENDS.get(finding)
    if mend is None:
        raise UnknownKey("finding that can be mended", finding, list(MENDS))
    return _written(mend(shape), _called(PurePath(name).stem, mend is quick_uv))


def unfolded(shape: Shape, name: str, way: str, *, second: bool) -> tuple[str, bytes]:
    """A mesh with UV made by the machine, as a .glb: its name and its bytes. The name tells where they are the first UV.

    Raises MeshInvalid as ``quick_uv`` does.
    """
    return _written(quick_uv(shape, way, second=second), _called(PurePath(name).stem, not second))


def _written(shape: Shape, stem: str) -> tuple[str, bytes]:
    made = upright(replace(shape, scales=(), given_tangents=None))
    return f"{stem}.glb", glb_of(made, tangents(made) if made.uv is not None else None)


def _called(name: str, is_quick: bool) -> str:
    """The name, with what is to be known of its UV before the word that says what it is for."""
    stem, role = role_of(name)
    if not is_quick or QUICK_UV in name:
        return name
    return f"{stem} {QUICK_UV}{name[len(stem) :] if role else ''}"
