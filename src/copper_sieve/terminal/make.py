"""`make`: take files in, derive what the target needs, deliver."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from itertools import product
from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import RecipeInvalid
from ..core.findings import Finding, finding
from ..core.intake import with_values
from ..core.intake.first_look import first_look
from ..core.prepare.said import step_said
from ..core.prepare.variant import Variant
from ..core.recipe import (
    Cache,
    Evaluation,
    Recipe,
    Settings,
    Source,
    steps_of,
    variant_for,
    with_repeat,
    with_settings,
    with_steps,
    with_value,
)
from ..core.target import legal_name, name_of_copy
from ..files import write_bytes
from ..work.deliveries.handing import note_of
from ..work.intake.grouping import recipe_for, sets_of, spared
from ..work.intake.looking import load_codes
from ..work.memory import cache_bytes
from .delivering import deliver_into, delivered_rows, reported
from .inputs import Inputs, Profile, chosen_target, look_at_all
from .places import place_of, write_manifest
from .say import WRONG_USE, Json, fail
from .told import Told, found_on

__all__ = ["make"]

_PIECES = Variant().cells  # across, as the bench begins


def make(
    inputs: Inputs,
    target: Annotated[
        list[str], typer.Option(help="Key of a target, see `copper-sieve targets`, or a file of one; may be said several times")
    ],
    out: Annotated[Path, typer.Option(help="Folder to write into; with several sets or targets, SET/TARGET below it")],
    name: Annotated[str | None, typer.Option(help="The set's name in file names")] = None,
    size: Annotated[int | None, typer.Option(min=1, max=16384, help="Longer side in px; default the set's own")] = None,
    set: Annotated[
        list[str] | None, typer.Option(help="KEY=VALUE: a recipe path such as height.contrast, or a fact such as rise")
    ] = None,
    recipe: Annotated[Path | None, typer.Option(help="Settings of a set, as the bench saves them")] = None,
    repeat: Annotated[bool, typer.Option(help="Make the pictures of each set repeat before maps are made of them")] = False,
    variants: Annotated[
        int,
        typer.Option(min=0, max=99, help="Beside each set so many others of the same stuff; it has to repeat"),
    ] = 0,
    manifest: Annotated[bool, typer.Option(help="Write manifest.json as well")] = False,
    note: Annotated[Path | None, typer.Option(help="Write the hand-over note to this file: .md, or .html")] = None,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    profile: Profile = None,
    as_json: Json = False,
) -> None:
    """Take files in, derive what the targets need, deliver: one set or many, to one target or several."""
    targets = [chosen_target(key) for key in dict.fromkeys(target)]
    settings = None if recipe is None else _settings(recipe)
    heard = look_at_all(inputs, profile)
    gathered = heard.files
    groups = sets_of(file.looked for file in gathered)
    names = _names(groups, name, inputs[0])
    if note is not None and len(names) * len(targets) * (1 + variants) > 1:
        raise fail("--note takes one set for one target.", WRONG_USE)
    told = Told()
    unused = spared(groups.values())
    told.add(found for file in gathered if id(file.looked) not in unused for found in file.looked.findings)
    if name is not None and list(names.values()) != [name]:
        told.add([finding("name-changed", name=legal_name(name), given=repr(name))])
    contents, rows, reports = {file.looked.sha256: file.content for file in gathered}, [], []
    others = _others(names.values(), variants)
    every = [*names.values(), *(other for copies in others.values() for other in copies)]

    def load(source: Source) -> Any:
        return load_codes(source, lambda sha256: contents[sha256]())

    for stem, set_name in names.items():
        made, problems = recipe_for(groups.get(stem, []))
        told.add(problems, set_name)
        if made is None:
            rows += [({"target": one.key, "set": set_name, "files": [], "skipped": [], "masters": {}}, "") for one in targets]
            continue
        made, cache = with_values(made, heard.values.get(stem, {})), Cache(cache_bytes())
        if repeat:
            made, problems = _repeating(Evaluation(made, None, load, cache), set_name)
            told.add(problems, set_name)
        made = first_look(Evaluation(made, None, load, cache))
        made = _with_values(made if settings is None else with_settings(made, settings)[0], set or [])
        told.add(found_on(Evaluation(made, None, load, cache)), set_name)
        varied, problems = _varied(Evaluation(made, None, load, cache), set_name, others[set_name])
        told.add(problems, set_name)
        for (called, wanted), one in product([(set_name, made), *varied], targets):
            place = place_of(called, one.key, every, [t.key for t in targets])
            plan, report = deliver_into(Evaluation(wanted, size, load, cache), one, called, out, place, replace)
            told.add(plan.findings, called)
            rows.append(({"target": one.key, "set": called, **delivered_rows(plan, report, wanted)}, place))
            if report is not None:
                reports.append((place, report))
            if report is not None and note is not None:
                written = note_of(plan, one, wanted)
                write_bytes(note, (written.html() if note.suffix.lower() in (".html", ".htm") else written.markdown()).encode())
    if reports and manifest:
        write_manifest(out, reports)
    raise reported(rows, told, out, as_json)


def _names(groups: Mapping[str, object], name: str | None, first: Path) -> dict[str, str]:
    """The sets' names in file names by what their files are called; one set may be named by hand, or for its folder."""
    if name is not None and len(groups) > 1:
        raise fail(f"these files belong to {len(groups)} sets: {', '.join(groups)}. --name takes one set's files.", WRONG_USE)
    if name is not None:
        return {next(iter(groups), "unnamed"): legal_name(name)}
    return {stem: stem if stem != "unnamed" else legal_name(first.resolve().stem) for stem in groups or ("unnamed",)}


def _repeating(seen: Evaluation, name: str) -> tuple[Recipe, list[Finding]]:
    """The recipe made to repeat, and how that came out; as it was, and why, where it cannot be."""
    try:
        made = with_repeat(seen)
    except RecipeInvalid as problem:
        return seen.recipe, [finding("not-repeated", name=name, why=problem.message)]
    return made, [finding("repeated", name=name, how=step_said(steps_of(made)[-1]))]


def _others(names: Iterable[str], count: int) -> dict[str, list[str]]:
    """What the variants of every set are called."""
    taken, others = [*names], dict[str, list[str]]()
    for name in tuple(taken):
        others[name] = []
        for _ in range(count):
            others[name].append(name_of_copy(name, taken))
            taken.append(others[name][-1])
    return others


def _varied(seen: Evaluation, name: str, others: Sequence[str]) -> tuple[list[tuple[str, Recipe]], list[Finding]]:
    """Variants by their names, the first of seed 1, and how each came out; none, and why, where they cannot be."""
    made, findings, steps = [], [], steps_of(seen.recipe)
    for seed, called in enumerate(others, 1):
        try:
            variant = variant_for(seen, seed, _PIECES, len(steps))
        except RecipeInvalid as problem:
            return [], [finding("not-varied", name=name, why=problem.message)]
        made.append((called, with_steps(seen.recipe, [*steps, variant])))
        findings.append(finding("varied", name=called, how=step_said(variant)))
    return made, findings


def _settings(path: Path) -> Settings:
    try:
        return Settings.model_validate_json(path.read_text("utf-8"))
    except (OSError, ValueError) as problem:
        raise fail(f"{path} holds no settings of a set: {problem}. Save them on the bench.", WRONG_USE) from problem


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
