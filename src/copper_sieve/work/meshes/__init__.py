"""Meshes as a person asks for them: checked, baked to files, unfolded quickly, given their tangents."""

from .baking import BakeJob, bake_to_files
from .checking import borders, check_mesh, found_on, mesh_row, of_material, worn
from .keeping import KeptMeshes
from .running import Baker
from .taking import TakenMesh, meshes_in_zip, taken
from .unfolding import quick_uv

__all__ = [
    "BakeJob",
    "Baker",
    "KeptMeshes",
    "TakenMesh",
    "bake_to_files",
    "borders",
    "check_mesh",
    "found_on",
    "mesh_row",
    "meshes_in_zip",
    "of_material",
    "quick_uv",
    "taken",
    "worn",
]
