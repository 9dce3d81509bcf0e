"""How findings are told: a line each on stderr, the same words once, and the exit status that they make."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from typing import Any

from ..core.checks.maps import assay_maps
from ..core.checks.tiles import said_once
from ..core.findings import Finding
from ..core.recipe import Evaluation
from ..work.sets import assay_set
from .say import DONE, OUR_FAULT, STOPPED

__all__ = ["Told", "found_in", "found_on", "grade_code", "tell"]

_GRADE_WORDS = {"stop": "Stops", "look": "Check", "note": "Note"}
_NAMES_SAID = 6  # of the sets that a sentence is about


class Told:
    """What was found on files and on sets. Said of several sets in the same words, it is one line with their names."""

    def __init__(self) -> None:
        self._rows: dict[str, tuple[Finding, list[str]]] = {}

    def add(self, findings: Iterable[Finding], of_set: str | None = None) -> None:
        for found in findings:
            names = self._rows.setdefault(found.text, (found, []))[1]
            if of_set is not None and of_set not in names:
                names.append(of_set)

    def add_tiles(self, findings: Iterable[tuple[int | None, Finding]], of_set: str) -> None:
        """Findings on tiles of a set, those that are the same once."""
        self.add((found for _, found in said_once(findings)), of_set)

    @property
    def code(self) -> int:
        return grade_code(found for found, _ in self._rows.values())

    def rows(self) -> list[dict[str, Any]]:
        """For ``--json``: each finding with the sets that it is about; none where it is about a file."""
        return [{**found.model_dump(), "sets": names} for found, names in self._rows.values()]

    def say(self, is_of_several: bool) -> None:
        """Each on a line, with the sets where there are several and the sentence does not name the one."""
        for found, names in self._rows.values():
            is_named = len(names) == 1 and names[0] in found.text
            _line(found, f" ({_listed(names)})" if is_of_several and names and not is_named else "")


def found_on(evaluation: Evaluation) -> list[Finding]:
    """What the bench would find on a set, but for a color that it lacks: a delivery says which of its files wait."""
    return [found for _, found in assay_set(evaluation) if found.id != "no-base-color"]


def found_in(evaluation: Evaluation) -> list[tuple[int | None, Finding]]:
    """What the maps of a set show by themselves, tile by tile."""
    return [(one.tile, marked.finding) for one in evaluation.each for marked in assay_maps(one)]


def _listed(names: list[str]) -> str:
    more = len(names) - _NAMES_SAID
    return ", ".join(names) if more <= 1 else f"{', '.join(names[:_NAMES_SAID])} and {more} more"


def _line(found: Finding, ending: str = "") -> None:
    print(f"{_GRADE_WORDS[found.grade]}: {found.text}{ending}", file=sys.stderr)


def tell(findings: Iterable[Finding]) -> None:
    for found in findings:
        _line(found)


def grade_code(findings: Iterable[Finding]) -> int:
    """How to leave: our own fault outranks what a file did wrong."""
    told = list(findings)
    if any(found.id == "our-fault" for found in told):
        return OUR_FAULT
    return STOPPED if any(found.grade == "stop" for found in told) else DONE
