"""Projects, their usual targets and where those are sent."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from pydantic import Field

from .base import Incoming, Outgoing

__all__ = [
    "DestinationRequest",
    "Environment",
    "Health",
    "Project",
    "ProjectChange",
    "ProjectDestinations",
    "ProjectRequest",
    "ProjectWeight",
    "UsualRequest",
]


class Health(Outgoing):
    status: Literal["ok", "database-gone"]
    version: str
    database: str
    deliveries: str


class Project(Outgoing):
    name: str
    title: str
    usual: list[str] = Field(description="Keys of the targets that it usually delivers to, in their order")
    is_away: bool = Field(description="Put away: it keeps all that is in it, and is listed apart")
    takes_newer: bool = Field(description="Newer files of linked folders are taken without a press")
    delivers_changes: bool = Field(description="What was delivered is delivered again without a press when its set changes")


class ProjectWeight(Outgoing):
    """What goes when a project is deleted for good."""

    sets: int = Field(description="Those that were taken off the tray too")
    bytes: int = Field(description="Of files as they came that no other project uses")


class UsualRequest(Incoming):
    usual: list[str] = Field(max_length=100)


class DestinationRequest(Incoming):
    """Where the files of a target go: below a named folder of the server."""

    root: str = Field(description="Name of a folder that the server was started with")
    below: str = Field(default="", max_length=400, description="A path in that folder, its parts with slashes between them")
    each: list[Literal["project", "set", "target"]] = Field(
        default=["set"], max_length=3, description="What gets a folder of its own there, from the outermost"
    )


class Environment(Outgoing):
    """A picture of the surroundings, as it is kept."""

    id: UUID
    name: str
    width: int
    height: int
    is_bounded: bool = Field(description="Its file held nothing brighter than white: lamps in it shine less than they did")


class ProjectDestinations(Outgoing):
    roots: list[str] = Field(description="Names of the folders that this server may deliver into")
    targets: dict[str, DestinationRequest] = Field(description="By the keys of the targets that have one")


class ProjectRequest(Incoming):
    title: str = Field(min_length=1, max_length=120)


class ProjectChange(Incoming):
    """What of a project is to be otherwise; what is left out stays."""

    title: str | None = Field(default=None, min_length=1, max_length=120)
    is_away: bool | None = None
    takes_newer: bool | None = None
    delivers_changes: bool | None = None
