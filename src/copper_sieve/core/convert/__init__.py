"""One meaning to another."""

from .green import WhichGreen, which_green
from .normals import renormalized, to_green_down, to_green_up

__all__ = ["WhichGreen", "renormalized", "to_green_down", "to_green_up", "which_green"]
