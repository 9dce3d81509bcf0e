"""What is cast from a high mesh to a low one, and what a low mesh says of itself, as maps."""

from .baking import bake
from .entering import BakedPicture, with_baked
from .islands import grown, nearest_shown
from .plan import BakePlan

__all__ = ["BakePlan", "BakedPicture", "bake", "grown", "nearest_shown", "with_baked"]
