"""`make`: take files in, derive what the target needs, deliver."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import RecipeInvalid
from ..core.findings import finding
from ..core.intake.facts import with_measured_rise
from ..core.recipe import Cache, Evaluation, Recipe, Source, with_value
from ..core.target import legal_name
from ..files import write_bytes
from ..work.deliveries.handing import note_of
from ..work.intake.grouping import recipe_for, sets_of
from ..work.intake.looking import load_codes
from .delivering import CACHE_BYTES, deliver_into, delivered_rows, reported
from .inputs import Inputs, Profile, chosen_target, look_at_all
from .say import WRONG_USE, Json, fail

__all__ = ["make"]


def make(
    inputs: Inputs,
    target: Annotated[str, typer.Option(help="Key of the target, see `copper-sieve targets`")],
    out: Annotated[Path, typer.Option(help="Folder to write into")],
    name: Annotated[str | None, typer.Option(help="The set's name in file names")] = None,
    size: Annotated[int | None, typer.Option(min=1, max=16384, help="Longer side in px; default the set's own")] = None,
    set: Annotated[
        list[str] | None, typer.Option(help="KEY=VALUE: a recipe path such as height.contrast, or a fact such as rise")
    ] = None,
    manifest: Annotated[bool, typer.Option(help="Write manifest.json as well")] = False,
    note: Annotated[Path | None, typer.Option(help="Write the hand-over note to this file: .md, or .html")] = None,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    profile: Profile = None,
    as_json: Json = False,
) -> None:
    """Take files in, derive what the target needs, deliver."""
    chosen = chosen_target(target)
    gathered = look_at_all(inputs, profile)
    groups = sets_of(file.looked for file in gathered)
    if len(groups) > 1:
        raise fail(f"these files belong to {len(groups)} sets: {', '.join(groups)}. Give one set's files at a time.", WRONG_USE)
    findings = [found for file in gathered for found in file.looked.findings]
    stem = next(iter(groups), "unnamed")
    given = name if name is not None else (stem if stem != "unnamed" else inputs[0].resolve().stem)
    set_name = legal_name(given)
    if name is not None and set_name != given:
        findings.append(finding("name-changed", name=set_name, given=repr(given)))
    recipe, problems = recipe_for(groups.get(stem, []))
    findings += problems
    answer: dict[str, Any] = {"target": chosen.key, "set": set_name, "files": [], "skipped": [], "masters": {}}
    if recipe is not None:
        contents, cache = {file.looked.sha256: file.content for file in gathered}, Cache(CACHE_BYTES)

        def load(source: Source) -> Any:
            return load_codes(source, lambda sha256: contents[sha256]())

        recipe = _with_values(with_measured_rise(Evaluation(recipe, None, load, cache)), set or [])
        plan, report = deliver_into(Evaluation(recipe, size, load, cache), chosen, set_name, out, replace)
        findings += plan.findings
        answer |= delivered_rows(plan, report, recipe)
        if report is not None and manifest:
            write_bytes(out / "manifest.json", json.dumps(report.model_dump(), indent=2).encode())
        if report is not None and note is not None:
            written = note_of(plan, chosen, recipe)
            write_bytes(note, (written.html() if note.suffix.lower() in (".html", ".htm") else written.markdown()).encode())
    raise reported(answer, findings, out, as_json)


def _with_values(recipe: Recipe, settings: list[str]) -> Recipe:
    for setting in settings:
        path, equals, text = setting.partition("=")
        if not equals:
            raise fail(f"--set takes KEY=VALUE (got {setting!r}).", WRONG_USE)
        try:
            recipe = with_value(recipe, path.strip(), text.strip())
        except RecipeInvalid as problem:
            raise fail(problem.message, WRONG_USE) from problem
    return recipe
