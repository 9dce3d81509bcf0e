"""Shapes: what a mesh's file holds, how its faces hang together, how its picture lies on it."""

from .shape import Shape
from .tangents import tangents

__all__ = ["Shape", "tangents"]
