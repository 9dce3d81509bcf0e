"""`deliver`: sets that were saved as a file, to targets."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..core.recipe import Cache, Evaluation
from ..work.deliveries.running import load_from
from ..work.memory import cache_bytes
from ..work.meshes import KeptMeshes
from ..work.saved_sets import open_sets
from .delivering import deliver_into, delivered_rows, reported
from .inputs import chosen_target
from .places import place_of, write_manifest
from .say import WRONG_USE, Json, fail
from .told import Told

__all__ = ["deliver"]


def deliver(
    saved: Annotated[Path, typer.Argument(help="Sets as the tray or the bench saves them (.zip)")],
    target: Annotated[
        list[str],
        typer.Option(help="Key of a target, see `copper-sieve targets`, or a file of one; may be said several times"),
    ],
    out: Annotated[Path, typer.Option(help="Folder to write into; with several sets or targets, SET/TARGET below it")],
    set: Annotated[list[str] | None, typer.Option(help="Only the set of this name; may be said several times")] = None,
    size: Annotated[int | None, typer.Option(min=1, max=16384, help="Longer side in px; default each set's own")] = None,
    manifest: Annotated[bool, typer.Option(help="Write manifest.json as well")] = False,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Deliver saved sets as they are: with every setting, stroke and step that the bench gave them."""
    if not saved.is_file():
        raise fail(f"there is no file {saved}. Save sets on the tray, or on the bench.", WRONG_USE)
    targets = [chosen_target(key) for key in dict.fromkeys(target)]
    opened = open_sets(saved)
    names = [name for name, _ in opened.rows]
    unknown = [name for name in set or () if name not in names]
    if unknown:
        raise fail(f"{saved.name} holds no set {', '.join(unknown)}. It holds {', '.join(names)}.", WRONG_USE)
    wanted = [(name, recipe) for name, recipe in opened.rows if not set or name in set]
    every, keys = [name for name, _ in wanted], [one.key for one in targets]
    told, rows, reports = Told(), [], []
    for name, recipe in wanted:
        cache = Cache(cache_bytes())
        meshes = KeptMeshes(opened.content, cache)
        for one in targets:
            place = place_of(name, one.key, every, keys)
            evaluation = Evaluation(recipe, size, load_from(opened.content), cache, meshes=meshes)
            plan, report = deliver_into(evaluation, one, name, out, place, replace)
            told.add(plan.findings, name)
            rows.append(({"target": one.key, "set": name, **delivered_rows(plan, report, recipe)}, place))
            if report is not None:
                reports.append((place, report))
    if reports and manifest:
        write_manifest(out, reports)
    raise reported(rows, told, out, as_json)
