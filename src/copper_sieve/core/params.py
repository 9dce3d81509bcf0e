"""What every parameter model shares: closed, frozen, and with a unit for each field."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import Field

from .value import Value

__all__ = ["Params", "choice", "control"]


class Params(Value):
    """Parameters of one derivation: immutable, and unknown names are refused."""


def control(
    default: Any, title: str, unit: str, low: float, high: float, plain: str, *, example: float | None = None, **extra: Any
) -> Any:
    """A number a person may move: its range, its unit as shown, and one plain sentence.

    ``extra`` goes to the screen: ``scale`` from the value to the unit, ``more`` for what is seldom moved and shown on demand.
    ``example`` is a value at which more happens than at the default, for the tests that run over all operations.
    """
    examples = None if example is None else [example]
    extras = {"unit": unit, **extra}
    return Field(default, ge=low, le=high, title=title, description=plain, examples=examples, json_schema_extra=extras)


def choice(default: str, title: str, plain: str, titles: Iterable[str], **extra: Any) -> Any:
    """One of several words; ``titles`` are what a person reads, in the order of the field's type."""
    return Field(default, title=title, description=plain, json_schema_extra={"titles": list(titles), **extra})
