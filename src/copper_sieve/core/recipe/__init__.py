"""Sources → nodes → masters: which master comes from what, with which parameters."""

from .cache import Cache
from .evaluate import Evaluation, Progress
from .fixes import FIXES, mended
from .model import Facts, Node, Recipe, Source, node_ref, origin_of, source_ref
from .operations import OPERATIONS, Operation

__all__ = [
    "FIXES",
    "OPERATIONS",
    "Cache",
    "Evaluation",
    "Facts",
    "Node",
    "Operation",
    "Progress",
    "Recipe",
    "Source",
    "mended",
    "node_ref",
    "origin_of",
    "source_ref",
]
