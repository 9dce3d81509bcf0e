"""Delivering from the terminal: into a folder that may hold files already, and what is printed of it."""

from __future__ import annotations

import hashlib
import json
import tempfile
from pathlib import Path
from typing import Any

import typer

from ..core.findings import Finding
from ..core.recipe import Evaluation, Recipe, origin_of
from ..core.target import Target
from ..work import Plan, Report, deliver, plan_delivery
from .inputs import grade_code, tell
from .say import STOPPED, fail, print_json

__all__ = ["CACHE_BYTES", "deliver_into", "delivered_rows", "reported"]

CACHE_BYTES = 4 << 30


def reported(answer: dict[str, Any], findings: list[Finding], out: Path, as_json: bool) -> typer.Exit:
    """Say what was written, left out and found, and how to leave."""
    answer["findings"] = [found.model_dump() for found in findings]
    if as_json:
        print_json(answer)
    else:
        tell(findings)
        for file in answer["files"]:
            print(out / file["path"])
        for file in answer["files"]:
            for letter, channel in file["channels"].items():
                if channel["content"] == "fill":
                    print(f"filled: {file['path']}, {letter}: {channel['value']} everywhere, {channel['why']}")
        for skipped in answer["skipped"]:
            print(f"left out: {skipped['role']}, {skipped['why']}")
    return typer.Exit(grade_code(findings))


def deliver_into(evaluation: Evaluation, target: Target, set_name: str, out: Path, replace: bool) -> tuple[Plan, Report | None]:
    plan = plan_delivery(evaluation, target, set_name)
    if plan.stops:
        return plan, None
    if out.exists() and not replace:
        foreign = _foreign(evaluation, target, plan, out)
        if foreign:
            raise fail(f"{', '.join(foreign)} in {out} would be replaced. Choose another folder, or say --replace.", STOPPED)
    return plan, deliver(evaluation, target, plan, out)


def _foreign(evaluation: Evaluation, target: Target, plan: Plan, out: Path) -> list[str]:
    """Files already there whose bytes would change and that our manifest does not name."""
    there = [f.name for f in plan.files if f.is_written and (out / f.name).exists()]
    if not there:
        return []
    known: set[str] = set()
    manifest = out / "manifest.json"
    if manifest.is_file():
        try:
            known = {f["sha256"] for f in json.loads(manifest.read_text())["files"]}
        except (ValueError, KeyError, TypeError):
            known = set()
    with tempfile.TemporaryDirectory() as folder:  # what would be written, to compare bytes
        report = deliver(evaluation, target, plan, Path(folder) / "new")
    new = {f.name: f.sha256 for f in report.files}
    hashes = {name: hashlib.sha256((out / name).read_bytes()).hexdigest() for name in there}
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
    }
