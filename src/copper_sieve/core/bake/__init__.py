"""What is cast from a high mesh to a low one, and what a low mesh says of itself, as maps."""

from .baking import bake
from .plan import BakePlan

__all__ = ["BakePlan", "bake"]
