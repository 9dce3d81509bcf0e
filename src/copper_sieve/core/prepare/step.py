"""What every step of the list has in common."""

from __future__ import annotations

from ..value import Value

__all__ = ["Step"]


class Step(Value):
    """A step stays in the list while it is off, so that nothing that it was told is lost."""

    is_on: bool = True
