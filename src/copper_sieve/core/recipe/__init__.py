"""Sources → nodes → masters: which master comes from what, with which parameters."""

from .account import account_of, guess_in, how_made, maps_made, rise_known, told
from .cache import Cache
from .doubt import pick_doubt
from .evaluation import Evaluation
from .history import changes
from .model import Facts, Frame, Node, Recipe, Source, TileFile, origin_of
from .origins import choices, given_ref, mask_choices, needs, photo_ref, with_mask, with_origin, works
from .paths import with_value
from .placement import SizeRequest, with_size, with_step, with_steps
from .preparing import repeat_for, spots_for, steps_by_pattern, steps_of, variant_for, with_repeat
from .progress import Progress
from .refs import Ref, master_ref, node_ref, source_ref
from .settings import Fit, Settings, fit_of, settings_of, with_settings
from .sources import check_reads
from .starts import Start, starts, with_start
from .steps import new_node, older_ways, operation_of, params_of, updated
from .validation import check_recipe
from .worn import BakedFrom, Meshes, MeshRef, Worn

__all__ = [
    "BakedFrom",
    "MeshRef",
    "Meshes",
    "Worn",
    "Cache",
    "Evaluation",
    "Facts",
    "Frame",
    "Node",
    "Progress",
    "Recipe",
    "Ref",
    "SizeRequest",
    "Source",
    "Start",
    "TileFile",
    "Fit",
    "Settings",
    "fit_of",
    "account_of",
    "changes",
    "check_reads",
    "check_recipe",
    "choices",
    "mask_choices",
    "needs",
    "master_ref",
    "new_node",
    "node_ref",
    "older_ways",
    "operation_of",
    "given_ref",
    "origin_of",
    "params_of",
    "pick_doubt",
    "photo_ref",
    "guess_in",
    "how_made",
    "maps_made",
    "rise_known",
    "source_ref",
    "starts",
    "told",
    "updated",
    "settings_of",
    "with_mask",
    "with_origin",
    "works",
    "with_size",
    "with_start",
    "with_step",
    "with_steps",
    "with_repeat",
    "repeat_for",
    "spots_for",
    "steps_by_pattern",
    "steps_of",
    "variant_for",
    "with_value",
    "with_settings",
]
