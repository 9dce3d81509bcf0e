"""Whether a recipe can be computed: what its nodes are told, what feeds them, and that every map gets the channels it needs."""

from __future__ import annotations

from pydantic import ValidationError

from ..errors import RecipeInvalid
from ..quantities import quantity
from .model import Node, Recipe
from .operations import OPERATIONS, Operation

__all__ = ["check_recipe"]

_OPTIONAL = {"mixed": ("mask",), "mixed_normals": ("mask",), "blend_normals": ("mask",)}
_SLOT_CHANNELS = {  # how many components feed a slot; those of a mix are its master's
    "color": 3, "own_color": 3, "photo": 3, "diffuse": 3, "specular": 3, "normal": 3, "base": 3, "detail": 3,
    "height": 1, "gray": 1, "occlusion": 1, "opacity": 1, "own_opacity": 1, "mask": 1,
}  # fmt: skip


def check_recipe(recipe: Recipe) -> None:
    """Refuse what could not be computed. That it names nothing missing and runs in no circle, the recipe itself has checked.

    Raises RecipeInvalid that names the node or master, what it was given and what it takes.
    """
    for name, node in recipe.nodes.items():
        operation = _known(name, node)
        _check_slots(name, node, operation)
    channels = _Channels(recipe)
    for name, node in recipe.nodes.items():
        for slot, ref in node.inputs.items():
            wanted, got = _SLOT_CHANNELS.get(slot), channels.of(ref)
            if wanted is not None and got not in (None, wanted):
                raise RecipeInvalid(f"node {name}: {slot} takes {wanted} components (got {got} from {ref}).", node=name)
    for key, ref in recipe.masters.items():
        wanted, got = quantity(key).channels, channels.of(ref)
        if got not in (None, wanted):
            raise RecipeInvalid(f"{quantity(key).title} has {wanted} components (got {got} from {ref}).", master=key)


def _known(name: str, node: Node) -> Operation:
    operation = OPERATIONS.get(node.op)
    if operation is None:
        raise RecipeInvalid(f"node {name}: operation must be one of {', '.join(OPERATIONS)} (got {node.op!r}).", node=name)
    if node.algorithm > operation.algorithm:
        newest = f"there are {operation.algorithm} ways of {node.op}"
        raise RecipeInvalid(f"node {name}: {newest} (got number {node.algorithm}); a newer program made it.", node=name)
    try:
        operation.params(**node.params)
    except (ValidationError, TypeError) as problem:
        said = (
            "; ".join(f"{'.'.join(map(str, e['loc']))}: {e['msg']}" for e in problem.errors())
            if isinstance(problem, ValidationError)
            else str(problem)
        )
        raise RecipeInvalid(f"node {name}: {said}.", node=name) from problem
    return operation


def _check_slots(name: str, node: Node, operation: Operation) -> None:
    allowed = (*operation.inputs, *_OPTIONAL.get(node.op, ()))
    missing, unknown = set(operation.inputs) - set(node.inputs), set(node.inputs) - set(allowed)
    if missing or unknown:
        takes = ", ".join(allowed) or "nothing"
        raise RecipeInvalid(f"node {name}: {node.op} takes {takes} (got {', '.join(node.inputs) or 'nothing'}).", node=name)


class _Channels:
    """How many components each ref has, every node looked at once; None where it is absent."""

    def __init__(self, recipe: Recipe) -> None:
        self._recipe, self._nodes = recipe, dict[str, "int | None"]()

    def of(self, ref: str) -> int | None:
        kind, name, *rest = ref.split(":")
        if kind == "source":
            return quantity(rest[0]).channels
        if kind == "master":
            return quantity(name).channels if name in self._recipe.masters else None
        node = self._recipe.nodes[name]
        makes = OPERATIONS[node.op].makes
        if rest and (len(makes) < 2 or rest[0] not in makes):
            wanted = f"one of {', '.join(makes)}" if len(makes) > 1 else "it without a name"
            raise RecipeInvalid(f"{ref}: of node {name} take {wanted}.", node=name)
        if not rest and len(makes) > 1:
            raise RecipeInvalid(f"{ref}: say which one of {', '.join(makes)} is meant.", node=name)
        if makes:
            return quantity(rest[0] if rest else makes[0]).channels
        if name not in self._nodes:
            self._nodes[name] = None
            self._nodes[name] = self._free(node)
        return self._nodes[name]

    def _free(self, node: Node) -> int | None:
        """Components of what makes no certain master: a constant has its value's, a mix those of what it mixes."""
        if node.op == "constant":
            value = node.params.get("value", 0.0)
            return len(value) if isinstance(value, list | tuple) else 1
        both = {self.of(node.inputs[slot]) for slot in ("own", "other")} - {None}
        if len(both) > 1:
            raise RecipeInvalid(f"{node.op} takes two maps of as many components (got {' and '.join(map(str, both))}).")
        return both.pop() if both else None
