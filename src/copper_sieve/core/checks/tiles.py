"""Checks on a set in tiles as a whole: what single tiles lack; and what is found on several of them, said once."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator

from ..findings import Finding, finding
from ..recipe import Evaluation
from ..tiles import runs

__all__ = ["CHECKS", "said_once"]


def _missing(seen: Evaluation) -> Iterator[Finding]:
    """Maps that have no file for some of the tiles that others have one for."""
    whole = seen.recipe.tiles
    for name, source in seen.recipe.sources.items():
        gone = [tile for tile in whole if source.tiles and tile not in source.tiles]
        if gone:
            fed = (key for key, ref in seen.recipe.masters.items() if (ref.kind, ref.name) == ("source", name))
            yield finding("tile-missing", master=next(fed, None), file=source.said, tiles=runs(gone))


def said_once(found: Iterable[tuple[int | None, Finding]]) -> list[tuple[int | None, Finding]]:
    """What is the same on several tiles but for numbers is told of the first of them, with the others named.

    Parameters
    ----------
    found : findings, each with the tile it is of
    """
    alike: dict[tuple[str, str], list[tuple[int | None, Finding]]] = {}
    for tile, one in found:
        alike.setdefault((one.id, re.sub(r"\d[\d.,]*", "#", one.text)), []).append((tile, one))
    return [_first(group) for group in alike.values()]


def _first(group: list[tuple[int | None, Finding]]) -> tuple[int | None, Finding]:
    tile, first = group[0]
    others = sorted({other for other, one in group if other not in (None, tile) and one.text != first.text})  # type: ignore[type-var]
    if not others:
        return tile, first
    return tile, first.model_copy(update={"text": f"{first.text} Likewise in {runs(others)}."})  # type: ignore[arg-type]


CHECKS: tuple[Callable[[Evaluation], Iterator[Finding]], ...] = (_missing,)
