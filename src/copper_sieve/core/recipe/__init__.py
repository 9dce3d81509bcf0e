"""Sources → nodes → masters: which master comes from what, with which parameters."""

from .cache import Cache
from .evaluate import Evaluation, Progress
from .model import Facts, Node, Recipe, Source, node_ref, origin_of, source_ref
from .operations import OPERATIONS, Operation

__all__ = [
    "OPERATIONS",
    "Cache",
    "Evaluation",
    "Facts",
    "Node",
    "Operation",
    "Progress",
    "Recipe",
    "Source",
    "node_ref",
    "origin_of",
    "source_ref",
]
