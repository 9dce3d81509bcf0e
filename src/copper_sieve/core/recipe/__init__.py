"""Sources → nodes → masters: which master comes from what, with which parameters."""

from .cache import Cache
from .changes import changes
from .evaluate import Evaluation, Progress
from .fixes import FIXES, mended
from .geometry import SizeRequest, with_size, with_step
from .model import Facts, Frame, Node, Recipe, Source, node_ref, origin_of, source_ref
from .operations import OPERATIONS, Operation
from .origins import choices, with_origin
from .ways import Ways, ways_of, with_ways

__all__ = [
    "FIXES",
    "OPERATIONS",
    "Cache",
    "Evaluation",
    "Facts",
    "Frame",
    "Node",
    "Operation",
    "Progress",
    "Recipe",
    "SizeRequest",
    "Source",
    "Ways",
    "changes",
    "choices",
    "mended",
    "node_ref",
    "origin_of",
    "source_ref",
    "ways_of",
    "with_origin",
    "with_size",
    "with_step",
    "with_ways",
]
