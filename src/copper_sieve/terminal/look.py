"""`look`: what each file is, with the reason, and everything that was found."""

from __future__ import annotations

from typing import Any

import typer

from ..core.findings import Finding
from ..core.intake import Look
from ..core.intake.first_look import first_look
from ..core.intake.names import tile_of
from ..core.recipe import Cache, Evaluation, Source
from ..work.intake.grouping import claims_of, recipe_for, sets_of
from ..work.intake.looking import Gathered, Looked, load_codes
from ..work.memory import cache_bytes
from .delivering import rise_row
from .inputs import Inputs, Profile, look_at_all
from .say import Json, print_json
from .told import Told, found_on

__all__ = ["look"]


def look(inputs: Inputs, profile: Profile = None, as_json: Json = False) -> None:
    """Say what each file is, with the reason, and everything that was found, on files and on the sets they make."""
    gathered = look_at_all(inputs, profile).files
    sets = _set_rows(gathered)
    told = Told()
    told.add(found for file in gathered for found in file.looked.findings)
    for row in sets:
        told.add(row["findings"], row["name"])
    if as_json:
        rows = [{**row, "findings": [found.model_dump() for found in row["findings"]]} for row in sets]
        print_json({"files": [_look_row(file.label, file.looked) for file in gathered], "sets": rows})
    else:
        for file in gathered:
            p, what = file.looked.header, file.looked.look
            if p is None or what is None:
                continue  # its finding says why
            print(
                f"{file.label}: {_kind_said(what)}, {p.width} × {p.height}, {p.depth} bit, {p.letters}; {'; '.join(what.because)}"
            )
        told.say(len(sets) > 1)
    raise typer.Exit(told.code)


def _kind_said(what: Look) -> str:
    if what.kind == "unknown" and what.guesses:
        return f"perhaps {' or '.join(what.guesses)}"
    if len(what.reads) > 1:
        return f"{what.kind} ({', '.join(f'{letters} {key}' for letters, key in what.reads.items())})"
    return what.kind


def _look_row(label: str, file: Looked) -> dict[str, Any]:
    row: dict[str, Any] = {"path": label}
    if file.header is None or file.look is None:
        row |= {"width": None, "height": None, "depth": None, "channels": None, "kind": "unknown", "kind_confidence": 0.0}
        row |= {"green": None, "green_confidence": None, "packed": None}
    else:
        picture, what = file.header, file.look
        packed = what.reads if len(what.reads) > 1 else None
        row |= {
            "width": picture.width,
            "height": picture.height,
            "depth": picture.depth,
            "channels": picture.channels,
            "kind": what.kind,
            "kind_confidence": round(what.confidence, 3),
            "because": list(what.because),
            "green": what.green.answer if what.green else None,
            "green_confidence": round(what.green.confidence, 3) if what.green else None,
            "green_reason": what.green.reason if what.green else None,
            "packed": packed,
            "spans": what.spans,
            "corrections": {key: dict(told) for key, told in what.corrections.items()},
            "primaries": what.primaries,
            "guess": what.guess,
            "guesses": list(what.guesses),
            "faults": list(what.faults),
            "profile": what.profile,
            "statistics": {"mean": what.content.mean, "low": what.content.low, "high": what.content.high},
        }
    return {**row, "findings": [found.model_dump() for found in file.findings]}


def _set_rows(gathered: list[Gathered]) -> list[dict[str, Any]]:
    """Sets with the best file per kind, all sources, those that lost, and the findings on the set as a whole."""
    by_id = {id(file.looked): file for file in gathered}
    rows = []
    for name, files in sets_of(file.looked for file in gathered).items():
        claims = claims_of(files)
        maps = {key: by_id[id(claim.file)].label for claim in claims for key in claim.entry.reads.values()}
        rivals = [by_id[id(claim.file)].label for claim in claims if claim.lost_to is not None]
        sources = [
            {"path": by_id[id(f)].label, "tile": tile_of(f.name), "channels": f.look.reads if f.look else {}} for f in files
        ]
        rise, findings = _judged([by_id[id(file)] for file in files])
        told = {"sources": sources, "rivals": sorted(rivals), "rise": rise, "findings": findings}
        rows.append({"name": name, "maps": maps, **told})
    return rows


def _judged(files: list[Gathered]) -> tuple[dict[str, Any] | None, list[Finding]]:
    """The rise of the set that these files make, and what is found on it as a whole."""
    recipe, findings = recipe_for(file.looked for file in files)
    if recipe is None:
        return None, [found for found in findings if found.id != "nothing-usable"]  # each file has said why by itself
    contents = {file.looked.sha256: file.content for file in files}

    def load(source: Source) -> Any:
        return load_codes(source, lambda sha256: contents[sha256]())

    evaluation = Evaluation(recipe, None, load, Cache(cache_bytes()))
    made = first_look(evaluation)
    return rise_row(made), [*findings, *found_on(evaluation.of(made))]
