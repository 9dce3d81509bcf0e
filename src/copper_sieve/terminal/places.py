"""Where several sets for several targets go below one folder, and the one manifest that says what was written there."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from ..files import write_bytes
from ..work import Report

__all__ = ["MANIFEST", "Place", "known_hashes", "manifest_above", "place_of", "write_manifest"]

MANIFEST = "manifest.json"
_LEVELS_UP = 2  # SET/TARGET below the folder that was written into
Place = str  # of one set for one target, below the folder; "" where there is one of each


def place_of(set_name: str, target: str, sets: Sequence[str], targets: Sequence[str]) -> Place:
    """SET/TARGET, of which a level that has one member is left out.

    Examples
    --------
    >>> place_of("felt", "gltf", ["felt"], ["gltf"]), place_of("felt", "gltf", ["felt", "lace"], ["gltf"])
    ('', 'felt')
    """
    levels = [set_name] if len(sets) > 1 else []
    return "/".join([*levels, target] if len(targets) > 1 else levels)


def write_manifest(folder: Path, reports: Sequence[tuple[Place, Report]]) -> None:
    """One set for one target is told as itself; several as a list, each with its place."""
    told: Any = [{"place": place, **report.model_dump(mode="json")} for place, report in reports]
    if [place for place, _ in reports] == [""]:
        told = reports[0][1].model_dump(mode="json")
    write_bytes(folder / MANIFEST, json.dumps(told if isinstance(told, dict) else {"deliveries": told}, indent=2).encode())


def _rows(manifest: Any) -> Iterator[tuple[str, str]]:
    for report in manifest.get("deliveries", [manifest]):
        place = report.get("place", "")
        for file in report["files"]:
            if file["state"] != "left-out":
                yield f"{place}/{file['name']}".lstrip("/"), file["sha256"]


def known_hashes(folder: Path) -> dict[str, str]:
    """sha256 of what a folder's manifest says was written, by its place below the folder; none where there is no manifest."""
    try:
        return dict(_rows(json.loads((folder / MANIFEST).read_text("utf-8"))))
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return {}


def manifest_above(folder: Path) -> tuple[Path, dict[str, str]] | None:
    """The folder whose manifest speaks of this one, itself or up to two above it, and the files that it names below this one."""
    whole = folder.resolve()
    for root in (whole, *whole.parents[:_LEVELS_UP]):
        known = known_hashes(root)
        below = {place: sha for place, sha in known.items() if (root / place).is_relative_to(whole)}
        if below:
            return root, below
    return None
