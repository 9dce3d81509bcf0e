"""Source profiles: what files from one source are like; and files read as a target names them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path

from ...core.errors import TargetInvalid
from ...core.intake import Ending, SourceProfile, Taught, learned, matching
from ...core.intake.looks import reads_for
from ...core.target import Target, TargetFile, reading_of
from ...store.profiles import forget_profile, keep_profile, list_profiles, profile_named
from ...store.targets import list_own_targets
from ...targets import shipped_targets
from ..models import FileReading, IntakeEntry, NamesRequest, ProfileLesson, ProfileMatch
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/profiles")
def every_profile(state: State) -> list[SourceProfile]:
    with state.pool.connection() as conn:
        return list_profiles(conn)


@router.get("/profiles/{name}")
def one_profile(state: State, name: str) -> SourceProfile:
    with state.pool.connection() as conn:
        return profile_named(conn, name)


@router.put("/profiles/{name}")
def learn(state: State, name: Annotated[str, Path(min_length=1, max_length=80)], lesson: ProfileLesson) -> SourceProfile:
    """Learn a source's ways from sets as they were agreed to, in place of what was known under that name."""
    profile = learned(name, [[_taught(entry) for entry in entries] for entries in lesson.sets])
    with state.pool.connection() as conn:
        keep_profile(conn, profile)
    return profile


def _taught(entry: IntakeEntry) -> Taught:
    reads = entry.reads or reads_for(entry.kind, 3)
    return Taught(entry.name, Ending(kind=entry.kind, reads=reads, spans=entry.spans), entry.green)  # type: ignore[arg-type]


@router.delete("/profiles/{name}", status_code=204)
def forget(state: State, name: str) -> None:
    with state.pool.connection() as conn:
        forget_profile(conn, name)


@router.post("/profiles/match")
def match(state: State, request: NamesRequest) -> ProfileMatch:
    """The profile that knows nearly all of these names, if any."""
    with state.pool.connection() as conn:
        found = matching(list_profiles(conn), request.names)
    known = sum(found.ending(name) is not None for name in request.names) if found is not None else 0
    return ProfileMatch(profile=found.name if found is not None else None, known=known)


@router.get("/readings")
def readings(state: State) -> list[FileReading]:
    """Every file of every target that a dropped file can be taken for, people's own targets first."""
    with state.pool.connection() as conn:
        targets = [*list_own_targets(conn), *shipped_targets().values()]
    return [row for target in targets for file in target.files if (row := _reading(target, file))]


def _reading(target: Target, file: TargetFile) -> FileReading | None:
    try:
        read = reading_of(target, file)
    except TargetInvalid:
        return None
    return FileReading(
        key=target.key,
        target=target.title,
        role=file.role,
        title=file.title,
        channels=len(file.channels),
        reads=read.reads,
        spans=read.spans,
        green=read.green,
    )
