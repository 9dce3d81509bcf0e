"""Sources → nodes → masters: which master comes from what, with which parameters."""

from .account import account_of, rise_known, told
from .cache import Cache
from .evaluation import Evaluation, Progress
from .history import changes
from .model import Facts, Frame, Node, Recipe, Source, node_ref, origin_of, source_ref
from .operations import OPERATIONS, Operation
from .origins import choices, mask_choices, with_mask, with_origin
from .placement import SizeRequest, with_size, with_step
from .sources import check_reads
from .starts import Start, starts, with_start
from .validation import check_recipe
from .ways import Ways, ways_of, with_ways

__all__ = [
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
    "Start",
    "Ways",
    "account_of",
    "changes",
    "check_reads",
    "check_recipe",
    "choices",
    "mask_choices",
    "node_ref",
    "origin_of",
    "rise_known",
    "source_ref",
    "starts",
    "told",
    "ways_of",
    "with_mask",
    "with_origin",
    "with_size",
    "with_start",
    "with_step",
    "with_ways",
]
