"""Whether a recipe can be computed: what its nodes are told, what feeds them, and that every map gets the channels it needs."""

from __future__ import annotations

from ..errors import RecipeInvalid
from ..operation import Operation
from ..quantities import quantity
from .model import Node, Recipe
from .refs import Ref
from .steps import operation_of, params_of

__all__ = ["check_recipe"]


def check_recipe(recipe: Recipe) -> None:
    """Refuse what could not be computed. That it names nothing missing and runs in no circle, the recipe itself has checked.

    Raises RecipeInvalid that names the node or master, what it was given and what it takes.
    """
    operations = {name: _known(name, node) for name, node in recipe.nodes.items()}
    for name, node in recipe.nodes.items():
        _check_slots(name, node, operations[name])
    components = _Components(recipe, operations)
    for name, node in recipe.nodes.items():
        for key, ref in node.inputs.items():
            slot = operations[name].slot(key)
            wanted, got = slot.components if slot is not None else None, components.of(ref)
            if wanted is not None and got not in (None, wanted):
                raise RecipeInvalid(f"node {name}: {key} takes {wanted} components (got {got} from {ref}).", node=name)
    for key, ref in recipe.masters.items():
        wanted, got = quantity(key).channels, components.of(ref)
        if got not in (None, wanted):
            raise RecipeInvalid(f"{quantity(key).title} has {wanted} components (got {got} from {ref}).", master=key)


def _known(name: str, node: Node) -> Operation:
    try:
        params_of(node)
        return operation_of(node)
    except RecipeInvalid as problem:
        raise RecipeInvalid(f"node {name}: {problem.message}", node=name) from problem


def _check_slots(name: str, node: Node, operation: Operation) -> None:
    allowed = [slot.key for slot in operation.slots]
    missing = [slot.key for slot in operation.slots if not slot.is_optional and slot.key not in node.inputs]
    if missing or set(node.inputs) - set(allowed):
        takes = ", ".join(allowed) or "nothing"
        raise RecipeInvalid(f"node {name}: {node.op} takes {takes} (got {', '.join(node.inputs) or 'nothing'}).", node=name)


class _Components:
    """How many components each ref has, every node looked at once; None where it is absent."""

    def __init__(self, recipe: Recipe, operations: dict[str, Operation]) -> None:
        self._recipe, self._operations, self._nodes = recipe, operations, dict[str, "int | None"]()

    def of(self, ref: Ref) -> int | None:
        if ref.kind == "source":
            return quantity(str(ref.part)).channels
        if ref.kind == "master":
            return quantity(ref.name).channels if ref.name in self._recipe.masters else None
        outputs = self._operations[ref.name].outputs
        if ref.part is not None and (len(outputs) < 2 or ref.part not in outputs):
            wanted = f"one of {', '.join(outputs)}" if len(outputs) > 1 else "it without a name"
            raise RecipeInvalid(f"{ref}: of node {ref.name} take {wanted}.", node=ref.name)
        if ref.part is None and len(outputs) > 1:
            raise RecipeInvalid(f"{ref}: say which one of {', '.join(outputs)} is meant.", node=ref.name)
        if outputs:
            return quantity(ref.part or outputs[0]).channels
        if ref.name not in self._nodes:
            self._nodes[ref.name] = None
            self._nodes[ref.name] = self._free(self._recipe.nodes[ref.name])
        return self._nodes[ref.name]

    def _free(self, node: Node) -> int | None:
        """Components of what makes no certain master: a mix has those of what it mixes, a constant its value's."""
        mixes = operation_of(node).mixes
        if mixes is None:
            value = node.params.get("value", 0.0)
            return len(value) if isinstance(value, list | tuple) else 1
        both = {self.of(node.inputs[slot.key]) for slot in mixes} - {None}
        if len(both) > 1:
            raise RecipeInvalid(f"{node.op} takes two maps of as many components (got {' and '.join(map(str, both))}).")
        return both.pop() if both else None
