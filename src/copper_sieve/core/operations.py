"""All operations, gathered from the modules that declare them. The order is the one that origins are offered in."""

from __future__ import annotations

from importlib import import_module
from types import MappingProxyType

from .errors import RecipeInvalid
from .operation import Operation

__all__ = ["OPERATIONS", "operation_at"]

_DECLARED_IN = (
    "derive.height",
    "derive.grooves",
    "derive.normal",
    "derive.occlusion",
    "derive.roughness",
    "convert.workflow",
    "convert.baked_occlusion",
    "derive.integration",
    "derive.curvature",
    "convert.blending",
    "derive.albedo",
    "derive.picks",
    "derive.likeness",
    "derive.alike",
    "derive.gray_height",
    "derive.masks",
    "derive.wear",
    "convert.mixing",
    "derive.constant",
)


def _declared(module: str) -> tuple[Operation, ...]:
    return import_module(f"{__package__}.{module}").OPERATIONS


OPERATIONS = MappingProxyType({row.key: row for module in _DECLARED_IN for row in _declared(module)})


def operation_at(key: str, number: int) -> Operation:
    """The operation ``key`` as it was at ``number``. Raises RecipeInvalid with the list of those there are.

    Examples
    --------
    >>> operation_at("height_from_color", 1).title
    'from color'
    """
    newest = OPERATIONS.get(key)
    if newest is None:
        raise RecipeInvalid(f"operation must be one of {', '.join(OPERATIONS)} (got {key!r}).", op=key)
    return newest.at(number)
