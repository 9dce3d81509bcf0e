"""Meshes as a person asks for them: checked, baked to files, unfolded quickly, given their tangents."""

from .baking import BakeJob, bake_to_files
from .checking import check_mesh, mesh_row
from .unfolding import quick_uv

__all__ = ["BakeJob", "bake_to_files", "check_mesh", "mesh_row", "quick_uv"]
