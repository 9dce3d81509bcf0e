"""`convert`: read one target's files by its own table and write another's."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import SieveError
from ..core.findings import finding
from ..core.intake.facts import with_measured_rise
from ..core.recipe import Cache, Evaluation
from ..work.deliveries.converting import decoded_recipe, expected_names, match_files
from .delivering import CACHE_BYTES, deliver_into, delivered_rows, reported
from .inputs import Inputs, chosen_target, paths_of
from .say import WRONG_USE, Json, fail

__all__ = ["convert"]


def convert(
    inputs: Inputs,
    source: Annotated[str, typer.Option("--from", help="Key of the target the files were made for")],
    to: Annotated[str, typer.Option(help="Key of the target to write")],
    out: Annotated[Path, typer.Option(help="Folder to write into; with several sets, one folder each in it")],
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Read one target's files by its own table and write another's. Nothing is derived."""
    have, want = chosen_target(source), chosen_target(to)
    paths = paths_of(inputs)
    matched = match_files(have, paths)
    if not matched.sets:
        raise fail(f"no file is named as {have.key} names them: {expected_names(have)}.", WRONG_USE)
    findings = [finding("not-of-target", file=path.name, target=have.title) for path in matched.others]
    answer: dict[str, Any] = {"target": want.key, "set": None, "files": [], "skipped": [], "masters": {}}
    several = len(matched.sets) > 1
    for name, roles in matched.sets.items():
        folder = out / name if several else out
        try:
            recipe, load = decoded_recipe(have, roles)
        except SieveError as problem:
            findings.append(finding("unreadable", file=name, why=problem.message))
            continue
        cache = Cache(CACHE_BYTES)
        recipe = with_measured_rise(Evaluation(recipe, None, load, cache))
        plan, report = deliver_into(Evaluation(recipe, None, load, cache), want, name, folder, replace)
        findings += plan.findings
        row = delivered_rows(plan, report, recipe)
        if several:
            row["files"] = [{**file, "path": f"{name}/{file['path']}"} for file in row["files"]]
        answer["files"] += row["files"]
        answer["skipped"] += row["skipped"]
        answer |= {} if several else {"set": name, "masters": row["masters"]}
    raise reported(answer, findings, out, as_json)
