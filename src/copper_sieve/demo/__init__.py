"""The wardrobe of the puppet theatre: made-up materials from seeded code, with analytic truth for their heights."""

from .load import load_demo

__all__ = ["load_demo"]
