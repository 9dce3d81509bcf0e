"""Plans and deliveries."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from .base import Incoming, Outgoing

__all__ = ["Answered", "Delivery", "DeliveryLine", "KeptUp", "PlanRequest", "Unwanted"]


class Unwanted(Incoming):
    """One file of one set for one target that a person leaves out of a delivery."""

    set: UUID
    target: str
    role: str


class Answered(Incoming):
    """What is done with a file that lies in the place of ours and is not as we left it."""

    set: str
    target: str
    name: str
    answer: Literal["keep", "beside", "replace"]


class PlanRequest(Incoming):
    sets: list[UUID]
    targets: list[str]
    size: int | None = Field(default=None, ge=1, le=16384, description="Longer side in px; left out: the set's own")
    unwanted: list[Unwanted] = []
    into: Literal["own", "new"] = Field(default="own", description="On in the folder that these went to last, or a new one")
    answers: list[Answered] = []
    remove: list[str] = Field(default=[], description="Places in the folder of files that are ours and no more of the set")


class Sent(Outgoing):
    """One set that is delivered to one target; ``place`` is below a named folder, null in the delivery's own.

    ``delivery`` is the one that wrote it last in its folder.
    """

    delivery: UUID

    set: str
    target: str
    target_title: str
    place: str | None
    path: str | None = Field(description="That place on this computer, where the server has that folder now")


class DeliveryLine(Outgoing):
    """A delivery as a list shows it."""

    id: UUID
    state: Literal["waiting", "running", "done", "cancelled", "failed"]
    folder: str
    path: str = Field(description="The folder on this computer")
    sent: list[Sent]
    done_units: int
    total_units: int
    problem: str | None
    created: datetime
    heads: dict[str, int] = Field(description="The version of every set that was delivered, by the set's id")
    stale: bool = Field(description="Whether a set, or the table of a target of one's own, has changed since")


class KeptUp(Outgoing):
    """What a project did by itself since the server was started."""

    heads: dict[UUID, int] = Field(description="Of sets that newer files were taken of: the head that was made")
    problems: dict[UUID, str] = Field(description="What was not done of a set, and why")
    delivery: DeliveryLine | None = Field(description="The last delivery that was begun so")


class Delivery(DeliveryLine):
    """A delivery and how far each of its files is."""

    rows: dict[str, str] = Field(description="By SET/TARGET/FILE")
