"""`convert`: read one target's files by its own table and write another's."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import SieveError
from ..core.findings import finding
from ..core.intake.first_look import first_look
from ..core.recipe import Cache, Evaluation
from ..work.deliveries.converting import decoded_recipe, expected_names, match_files
from ..work.memory import cache_bytes
from .delivering import deliver_into, delivered_rows, reported
from .inputs import Inputs, chosen_target, paths_of
from .places import place_of, write_manifest
from .say import WRONG_USE, Json, fail
from .told import Told, found_in

__all__ = ["convert"]


def convert(
    inputs: Inputs,
    source: Annotated[str, typer.Option("--from", help="Key of the target the files were made for")],
    to: Annotated[list[str], typer.Option(help="Key of a target to write; may be said several times")],
    out: Annotated[Path, typer.Option(help="Folder to write into; with several sets or targets, SET/TARGET below it")],
    manifest: Annotated[bool, typer.Option(help="Write manifest.json as well")] = False,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Read one target's files by its own table and write others'. Nothing is derived."""
    have, wanted = chosen_target(source), [chosen_target(key) for key in dict.fromkeys(to)]
    matched = match_files(have, paths_of(inputs))
    if not matched.sets:
        raise fail(f"no file is named as {have.key} names them: {expected_names(have)}.", WRONG_USE)
    told = Told()
    told.add(finding("not-of-target", file=path.name, target=have.title) for path in matched.others)
    rows: list[tuple[dict[str, Any], str]] = []
    reports = []
    for name, tiles in matched.sets.items():
        try:
            recipe, load = decoded_recipe(have, tiles)
        except SieveError as problem:
            told.add([finding("unreadable", file=name, why=problem.message)], name)
            continue
        cache = Cache(cache_bytes())
        told.add_tiles(found_in(Evaluation(recipe, None, load, cache)), name)
        recipe = first_look(Evaluation(recipe, None, load, cache))
        for want in wanted:
            place = place_of(name, want.key, list(matched.sets), [one.key for one in wanted])
            plan, report = deliver_into(Evaluation(recipe, None, load, cache), want, name, out, place, replace)
            told.add(plan.findings, name)
            rows.append(({"target": want.key, "set": name, **delivered_rows(plan, report, recipe)}, place))
            reports += [] if report is None else [(place, report)]
    if reports and manifest:
        write_manifest(out, reports)
    nothing = {"target": wanted[0].key, "set": None, "files": [], "skipped": [], "masters": {}}
    raise reported(rows or [(nothing, "")], told, out, as_json)
