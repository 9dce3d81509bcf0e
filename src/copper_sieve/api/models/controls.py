"""What a person may tell of a step, as the screen draws it: one row for each parameter of a model."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from .base import Outgoing

__all__ = ["Control", "NamedValue", "Option", "controls_of"]

ControlKind = Literal["number", "whole", "switch", "choice", "color", "bands", "picks", "value"]


class Option(Outgoing):
    """One of several words to choose from."""

    key: str
    title: str


class NamedValue(Outgoing):
    """A name that a person has for a value."""

    name: str
    value: float


class Control(Outgoing):
    """One parameter: what it is called, what it takes, and where it starts."""

    name: str
    title: str
    description: str
    kind: ControlKind
    default: bool | float | str | list[float] | None
    unit: str | None
    scale: float  # from the value to the unit that is shown
    minimum: float | None
    maximum: float | None
    options: list[Option]
    sizes: list[float]  # of each band, as shares of the width
    marks: list[NamedValue]
    is_seldom: bool  # folded away until it was moved
    needs: str | None  # the input without which it would do nothing


def controls_of(params: type[BaseModel]) -> list[Control]:
    """A row for each parameter of a model, in its order.

    >>> from copper_sieve.core.convert.noise import AddedNoise
    >>> [(row.name, row.kind, row.unit) for row in controls_of(AddedNoise)][:2]
    [('kind', 'choice', None), ('amount', 'number', '%')]
    """
    return [_control(name, schema) for name, schema in params.model_json_schema().get("properties", {}).items()]


def _control(name: str, schema: dict[str, Any]) -> Control:
    keys = schema.get("enum", [])
    return Control(
        name=name,
        title=schema["title"],
        description=schema["description"],
        kind=_kind(name, schema),
        default=schema.get("default"),
        unit=schema.get("unit"),
        scale=schema.get("scale", 1),
        minimum=schema.get("minimum"),
        maximum=schema.get("maximum"),
        options=[Option(key=key, title=title) for key, title in zip(keys, schema.get("titles", keys), strict=True)],
        sizes=schema.get("sizes", []),
        marks=[NamedValue(name=mark, value=value) for mark, value in schema.get("marks", [])],
        is_seldom=schema.get("more", False),
        needs=schema.get("needs"),
    )


_KIND_BY_TYPE: dict[str, ControlKind] = {"number": "number", "integer": "whole", "boolean": "switch"}
_KIND_BY_SIGN: dict[str, ControlKind] = {"sizes": "bands", "pick": "color", "enum": "choice"}


def _kind(name: str, schema: dict[str, Any]) -> ControlKind:
    if name == "picks":
        return "picks"
    for sign, kind in _KIND_BY_SIGN.items():
        if sign in schema:
            return kind
    return _KIND_BY_TYPE.get(schema.get("type", ""), "value")
