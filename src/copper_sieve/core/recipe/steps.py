"""A node and the operation that it names: which way of it, what it is told, and how an older way is brought up to date."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from ..errors import RecipeInvalid
from ..operation import Operation
from ..operations import OPERATIONS, operation_at
from ..params import Params
from .model import Node, Recipe
from .refs import Ref

__all__ = ["new_node", "older_ways", "operation_of", "params_of", "updated", "with_params"]


def new_node(op: str, inputs: Mapping[str, Ref], params: Mapping[str, Any] = {}) -> Node:
    """A node of the newest way of ``op``."""
    return Node(op=op, algorithm=OPERATIONS[op].number, inputs=dict(inputs), params=dict(params))


def operation_of(node: Node) -> Operation:
    """The operation as it was when the node was made. Raises RecipeInvalid where there is none of that name or number."""
    return operation_at(node.op, node.algorithm)


def params_of(node: Node) -> Params:
    """What the node is told; what it does not say is its own number's default. Raises RecipeInvalid with the reason."""
    try:
        return operation_of(node).params(**node.params)
    except (ValidationError, TypeError) as problem:
        raise RecipeInvalid(f"{node.op}: {_said(problem)}.", op=node.op) from problem


def _said(problem: ValidationError | TypeError) -> str:
    if isinstance(problem, ValidationError):
        return "; ".join(f"{'.'.join(map(str, e['loc']))}: {e['msg']}" for e in problem.errors())
    return str(problem)


def with_params(recipe: Recipe, name: str, params: Mapping[str, Any]) -> Recipe:
    """The recipe whose node ``name`` is told ``params`` and nothing else. Raises RecipeInvalid for what it cannot be told."""
    node = recipe.nodes[name].model_copy(update={"params": dict(params)})
    params_of(node)
    return recipe.model_copy(update={"nodes": {**recipe.nodes, name: node}})


def older_ways(recipe: Recipe) -> dict[str, str]:
    """Nodes that are made by an older way, with what that way is called."""
    found = {name: OPERATIONS[node.op].older_name(node.algorithm) for name, node in recipe.nodes.items()}
    return {name: was for name, was in found.items() if was is not None}


def updated(recipe: Recipe, name: str) -> Recipe:
    """The recipe whose node ``name`` is made by the newest way of its operation.

    What it was told, in so many words or by its number's defaults, stays as far as the newest way still asks for it.
    """
    node = recipe.nodes[name]
    newest = OPERATIONS[node.op]
    told = params_of(node).model_dump(mode="json")
    kept = {field: value for field, value in told.items() if field in newest.params.model_fields}
    changed = node.model_copy(update={"algorithm": newest.number, "params": kept})
    params_of(changed)
    return recipe.model_copy(update={"nodes": {**recipe.nodes, name: changed}})
