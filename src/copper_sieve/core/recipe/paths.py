"""Setting one value of a recipe by its dotted path."""

from __future__ import annotations

import json
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from ..errors import RecipeInvalid
from .model import Facts, Recipe
from .steps import operation_of, params_of, with_params

__all__ = ["settable_paths", "with_value"]

_NOT_TOLD = ("width", "height", "rise_from", "rise_fit", "edges_from")
Model = TypeVar("Model", bound=BaseModel)


def settable_paths(recipe: Recipe) -> list[str]:
    """All paths that ``with_value`` takes for this recipe."""
    facts = [name for name in Facts.model_fields if name not in _NOT_TOLD]
    params = [
        f"{master}.{field}"
        for master in recipe.masters
        if (made := recipe.node_of(master)) is not None
        for field in operation_of(made[1]).params.model_fields
    ]
    return facts + params


def with_value(recipe: Recipe, path: str, text: str) -> Recipe:
    """The recipe with one parameter or fact set to ``text``, JSON where it is JSON, else a word.

    A path is ``rise``, ``height.contrast`` or ``height.detail.2``. Raises RecipeInvalid that lists what can be set, or says why
    the value is refused.

    Examples
    --------
    >>> with_value(Recipe(facts=Facts(width=8, height=8)), "rise", "0.05").facts.rise
    0.05
    """
    known = settable_paths(recipe)
    head, *rest = path.split(".")
    if head in known:
        facts = _replaced(recipe.facts, [head, *rest], _parsed(text), path)
        told = {f"{head}_from": "told"} if head in ("rise", "edges") else {}
        facts = facts.model_copy(update={**told, **({"rise_fit": None} if head == "rise" else {})})
        return recipe.model_copy(update={"facts": facts})
    if not rest or f"{head}.{rest[0]}" not in known:
        raise RecipeInvalid(f"nothing to set at {path!r}; there is: {', '.join(known)}.", path=path, known=known)
    made = recipe.node_of(head)
    assert made is not None  # settable_paths lists only masters that a node makes
    name, node = made
    return with_params(recipe, name, _replaced(params_of(node), rest, _parsed(text), path).model_dump(mode="json"))


def _parsed(text: str) -> Any:
    try:
        return json.loads(text)
    except json.JSONDecodeError:
        return text


def _replaced(model: Model, path: list[str], value: Any, shown: str) -> Model:
    content = model.model_dump(mode="json")
    place: Any = content
    for step in path[:-1]:
        place = place[int(step)] if isinstance(place, list) else place[step]
    try:
        if isinstance(place, list):
            place[int(path[-1])] = value
        else:
            place[path[-1]] = value
        return model.__class__.model_validate(content)
    except (ValidationError, IndexError, ValueError, TypeError) as problem:
        why = problem.errors()[0]["msg"] if isinstance(problem, ValidationError) else str(problem)
        raise RecipeInvalid(f"{shown} cannot be {value!r}: {why}.", path=shown) from problem
