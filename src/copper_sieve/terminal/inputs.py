"""What every command is given: files and folders, a source's profile, a target by its key."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import TargetInvalid, UnknownKey
from ..core.intake import SourceProfile
from ..core.target import Target, read_target
from ..targets import shipped_target
from ..work.intake.grouping import read_by_sets
from ..work.intake.hearing import Heard, hear
from ..work.intake.looking import expand, gather
from .say import WRONG_USE, fail

__all__ = ["Inputs", "Profile", "chosen_target", "look_at_all", "paths_of"]

Inputs = Annotated[list[Path], typer.Argument(help="Pictures, folders of them, or zips")]
Profile = Annotated[Path | None, typer.Option(help="A source's profile, as Intake saves it")]


def paths_of(inputs: list[Path]) -> list[Path]:
    missing = [str(path) for path in inputs if not path.exists()]
    if missing:
        raise fail(f"there is no {', '.join(missing)}. Name files or folders that exist.", WRONG_USE)
    paths = expand(inputs)
    if not paths:
        raise fail(f"no pictures in {', '.join(map(str, inputs))}. Name a file, or a folder that holds some.", WRONG_USE)
    return paths


def look_at_all(inputs: list[Path], profile: Path | None = None) -> Heard:
    """Every file, and what meshes among them say."""
    paths = paths_of(inputs)
    heard = hear(list(gather(paths, None if profile is None else _profile(profile), by_name=inputs)), paths)
    return replace(heard, files=read_by_sets(heard.files))


def _profile(path: Path) -> SourceProfile:
    try:
        return SourceProfile.model_validate_json(path.read_text("utf-8"))
    except (OSError, ValueError) as problem:
        raise fail(f"{path} is no source profile: {problem}. Save one in Intake.", WRONG_USE) from problem


def chosen_target(told: str) -> Target:
    """A shipped target by its key, or one of your own by its file."""
    try:
        if told.lower().endswith(".toml"):
            return read_target(Path(told).read_text("utf-8"))
        return shipped_target(told)
    except UnknownKey as problem:
        raise fail(
            f"{problem.message} One of your own is named by its file, as Routing saves it (.toml).", WRONG_USE
        ) from problem
    except (TargetInvalid, OSError, ValueError) as problem:
        raise fail(f"{told} holds no target: {problem}. Save one in Routing.", WRONG_USE) from problem
