"""What goes out is a noun; what comes in says its purpose and takes nothing else."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

__all__ = ["Incoming", "Outgoing"]


class Incoming(BaseModel):
    """What is sent to us: unknown names are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Outgoing(BaseModel):
    """What we send: every field is there."""

    model_config = ConfigDict(from_attributes=True, json_schema_serialization_defaults_required=True)
