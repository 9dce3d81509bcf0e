"""Delivering from the terminal: into a folder that may hold files already, and what is printed of it."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import typer

from ..core.quantities import quantity
from ..core.recipe import Evaluation, Recipe, origin_of
from ..core.target import Target
from ..work import Plan, Report, deliver, plan_delivery
from .places import Place, known_hashes
from .say import STOPPED, fail, print_json
from .told import Told

__all__ = ["deliver_into", "delivered_rows", "reported", "rise_row"]


def reported(rows: Sequence[tuple[dict[str, Any], Place]], told: Told, out: Path, as_json: bool) -> typer.Exit:
    """Say of every set and target what went out and what was found, and how to leave. One of each is told as itself."""
    placed = [_placed(row, place) for row, place in rows]
    if as_json:
        one = placed[0] if len(placed) == 1 else {"deliveries": placed, "files": [f for row in placed for f in row["files"]]}
        print_json({**one, "findings": told.rows()})
        return typer.Exit(told.code)
    told.say(len({row["set"] for row in placed}) > 1)
    for row in placed:
        if len(placed) > 1:
            print(f"{row['set']}, {row['target']}: {len(row['files'])} written, {len(row['skipped'])} left out")
        for file in row["files"]:
            print(out / file["path"])
        for line in dict.fromkeys((*_derived(row), *_filled(row), *_left_out(row))):
            print(line)
    return typer.Exit(told.code)


def _derived(row: dict[str, Any]) -> Iterator[str]:
    """The maps that no file gives as they are and that these files carry, and of what they are made."""
    for key, how in row.get("made", {}).items():
        yield f"derived: {quantity(key).title.lower()}, {how}"


def _filled(row: dict[str, Any]) -> Iterator[str]:
    """Channels that a value stands in, each said of the first of the tiles that it does in."""
    alike: dict[tuple[str, ...], list[str]] = {}
    for file in row["files"]:
        for letter, channel in file["channels"].items():
            if channel["content"] == "fill":
                told = f"{letter}: {channel['value']} everywhere, {channel['why']}"
                alike.setdefault((file["role"], told), []).append(file["path"])
    for (_, told), (first, *others) in alike.items():
        yield f"filled: {first}, {told}" + (f"; likewise in {len(others)} more of its tiles" if others else "")


def _left_out(row: dict[str, Any]) -> Iterator[str]:
    for skipped in row["skipped"]:
        yield f"left out: {skipped['role']}, {skipped['why']}"


def _placed(row: dict[str, Any], place: Place) -> dict[str, Any]:
    return row if not place else {**row, "files": [{**file, "path": f"{place}/{file['path']}"} for file in row["files"]]}


def deliver_into(
    evaluation: Evaluation, target: Target, set_name: str, out: Path, place: Place, replace: bool
) -> tuple[Plan, Report | None]:
    """Deliver one set for one target into its place below ``out``; nothing where no file of it can go."""
    plan = plan_delivery(evaluation, target, set_name)
    if not any(file.is_written for file in plan.files):
        return plan, None
    folder = out / place
    if folder.exists() and not replace:
        foreign = _foreign(evaluation, target, plan, out, place)
        if foreign:
            raise fail(f"{', '.join(foreign)} in {folder} would be replaced. Choose another folder, or say --replace.", STOPPED)
    return plan, deliver(evaluation, target, plan, folder)


def _foreign(evaluation: Evaluation, target: Target, plan: Plan, out: Path, place: Place) -> list[str]:
    """Files already there whose bytes would change and that our manifest does not name."""
    folder = out / place
    there = sorted({f.name for f in plan.files if f.is_written and (folder / f.name).exists()})
    if not there:
        return []
    known = set(known_hashes(out).values())
    with tempfile.TemporaryDirectory() as scratch:  # what would be written, to compare bytes
        report = deliver(evaluation, target, plan, Path(scratch) / "new")
    new = {f.name: f.sha256 for f in report.files}
    hashes = {name: hashlib.sha256((folder / name).read_bytes()).hexdigest() for name in there}
    return [name for name in there if hashes[name] not in known and hashes[name] != new[name]]


def delivered_rows(plan: Plan, report: Report | None, recipe: Recipe) -> dict[str, Any]:
    files = []
    for file in plan.files:
        if report is None or not file.is_written:
            continue
        row = file.model_dump(include={"role", "width", "height", "depth", "format", "color"})
        channels = {
            c.letter: c.model_dump(include={"quantity", "component", "invert", "constant", "content", "value", "why"})
            for c in file.channels
        }
        files.append({"path": file.name, **row, "channels": channels})
    return {
        "files": files,
        "skipped": [{"role": f.role, "why": f.why} for f in plan.files if not f.is_written],
        "masters": {key: origin_of(recipe, key) for key in recipe.keys},
        "made": {} if report is None else report.made,
        "rise": rise_row(recipe),
    }


def rise_row(recipe: Recipe) -> dict[str, Any] | None:
    """How far the height rises, as a share of the width, and how that is known; None without a height.

    A rise that was fitted to a derived height counts as told: it was made with that height.
    """
    facts = recipe.facts
    if origin_of(recipe, "height") == "absent":
        return None
    state = "told" if facts.rise_from == "fitted" else facts.rise_from
    return {"value": facts.rise, "state": state, "correlation": facts.rise_fit}
