"""What every parameter model shares: closed, frozen, and with a unit for each field."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

__all__ = ["Params", "control"]


class Params(BaseModel):
    """Parameters of one derivation: immutable, and unknown names are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def control(default: Any, title: str, unit: str, low: float, high: float, plain: str, **extra: Any) -> Any:
    """A number a person may move: its range, its unit as shown, and one plain sentence."""
    return Field(default, ge=low, le=high, title=title, description=plain, json_schema_extra={"unit": unit, **extra})
