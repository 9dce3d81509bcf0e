"""Source profiles: what files from one source are like; and files read as a target names them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import ValidationError

from ...core.errors import RecipeInvalid, TargetInvalid
from ...core.intake import Ending, SourceProfile, Taught, learned, matched
from ...core.intake.looks import reads_for
from ...core.target import NamedFile, Target, TargetFile, offered, reading_of
from ...store.profiles import forget_profile, keep_profile, list_profiles, profile_named
from ...store.targets import list_own_targets
from ...targets import shipped_targets
from ..models.intake import (
    FileReading,
    IntakeEntry,
    NamesRequest,
    Offer,
    OfferedFile,
    OfferedReading,
    OffersRequest,
    ProfileLesson,
    ProfileMatch,
)
from ..state import AppState, State

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
    try:
        ending = Ending.model_validate({"kind": entry.kind, "reads": reads, "spans": entry.spans})
    except ValidationError as problem:
        raise RecipeInvalid(f"{entry.name}: {problem.errors()[0]['msg']}.") from problem
    return Taught(entry.name, ending, entry.green)


@router.delete("/profiles/{name}", status_code=204)
def forget(state: State, name: str) -> None:
    with state.pool.connection() as conn:
        forget_profile(conn, name)


@router.post("/profiles/match")
def match(state: State, request: NamesRequest) -> list[ProfileMatch]:
    """The profiles that know nearly all names of a group of these, each with its group; the largest group first."""
    with state.pool.connection() as conn:
        found = matched(list_profiles(conn), request.names)
    groups: dict[str, list[str]] = {}
    for name, profile in found.items():
        groups.setdefault(profile.name, []).append(name)
    rows = [ProfileMatch(profile=profile, names=names) for profile, names in groups.items()]
    return sorted(rows, key=lambda row: -len(row.names))


def _targets(state: AppState) -> list[Target]:
    """People's own first."""
    with state.pool.connection() as conn:
        return [*list_own_targets(conn), *shipped_targets().values()]


@router.post("/readings/offers")
def offer(state: State, request: OffersRequest) -> list[Offer]:
    """Targets whose files these look like by name and channels, and how their tables would read them; the best fit first.

    Only what would read some file otherwise than it is read now is offered.
    """
    files = [NamedFile(file.name, file.channels) for file in request.files]
    now = {file.name: file for file in request.files}
    offers = [_offer(target, found, now) for target, found in offered(_targets(state), files)]
    return [one for one in offers if one.changes]


def _offer(target: Target, found: Mapping[str, tuple[str, TargetFile]], now: Mapping[str, OfferedFile]) -> Offer:
    rows = []
    for name, (set_name, file) in found.items():
        read, file_now = reading_of(target, file), now[name]
        reads = {letters: key for letters, key in read.reads.items() if letters != "A" or file_now.channels == 4}
        green = file_now.green or read.green if "normal" in read.reads.values() else None
        beyond = {letters: span for letters, span in file_now.spans.items() if min(span) < 0 or max(span) > 1}
        spans = {**read.spans, **{letters: beyond[letters] for letters in beyond if letters in reads}}  # what floats hold, stays
        same = (reads, spans, green) == (file_now.reads, file_now.spans, file_now.green)
        row = {"name": name, "set": set_name, "title": file.title, "reads": reads, "spans": spans, "green": green}
        rows.append(OfferedReading.model_validate({**row, "is_change": not same}))
    return Offer(target=target.key, title=target.title, files=rows, changes=sum(row.is_change for row in rows))


@router.get("/readings")
def readings(state: State) -> list[FileReading]:
    """Every file of every target that a dropped file can be taken for, people's own targets first."""
    targets = _targets(state)
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
