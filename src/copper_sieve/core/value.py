"""What all models share: they are values, so they never change, and what is sent of them is sent in full."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

__all__ = ["Told", "Value"]


class Value(BaseModel):
    """A closed value: immutable, finite, and unknown names are refused. Whoever is sent one may count on every field."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True, json_schema_serialization_defaults_required=True
    )


class Told(BaseModel):
    """What the program says, and may read again from what an earlier one kept: names that are gone by then are passed over."""

    model_config = ConfigDict(frozen=True, json_schema_serialization_defaults_required=True)
