"""One target's files read by its own table, as a set that any other target can be written from."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

import numpy as np

from ...core.errors import SieveError
from ...core.intake.names import tile_of, tileless
from ...core.quantities import quantity
from ...core.raster import FloatArray
from ...core.recipe import Facts, Recipe, Source, TileFile, source_ref
from ...core.target import FORMATS, Target, decode, name_pattern
from ...files import read

__all__ = ["Matched", "decoded_recipe", "expected_names", "match_files"]


@dataclass
class Matched:
    """Files by set, tile (None: of no tile) and role, and those whose names the target does not know."""

    sets: dict[str, dict[int | None, dict[str, Path]]] = field(default_factory=dict)
    others: list[Path] = field(default_factory=list)


def match_files(target: Target, paths: Iterable[Path]) -> Matched:
    """Sort files by the names that ``target`` would give them, with or without a tile's number; of any picture's ending."""
    patterns = [(file.role, name_pattern(target, file)) for file in target.files]
    patterns.sort(key=lambda row: -len(row[1].pattern))  # the longest name is the surest
    matched = Matched()
    for path in paths:
        found = _found(patterns, path)
        if found is None:
            matched.others.append(path)
            continue
        name, tile, role = found
        matched.sets.setdefault(name, {}).setdefault(tile, {})[role] = path
    return matched


def _found(patterns: Sequence[tuple[str, re.Pattern[str]]], path: Path) -> tuple[str, int | None, str] | None:
    """The set, the tile and the role that a file's name says; None where it is no name of the target's."""
    for name, tile in ((path.stem, None), (tileless(path.name), tile_of(path.name))):
        for role, pattern in patterns:
            if hit := pattern.fullmatch(name):
                return hit.groupdict().get("set") or "unnamed", tile, role
    return None


def decoded_recipe(
    target: Target, tiles: Mapping[int | None, Mapping[str, Path]]
) -> tuple[Recipe, Callable[[Source], np.ndarray]]:
    """A recipe whose masters are what ``target``'s files carry, and the loader that goes with it.

    Parameters
    ----------
    tiles : files by role, of each tile; what belongs to no tile is shared by all
    Raises
    ------
    SieveError : a file cannot be read, or its channels are not the table's
    """
    parts = {tile: _decoded(target, tiles[tile]) for tile in sorted(tiles, key=lambda tile: tile or 0)}
    sources: dict[str, Source] = {}
    for tile, (made, _) in parts.items():
        for key, source in made.items():
            first = sources.get(key)
            if first is None or first.tile is None:
                sources[key] = source.model_copy(update={"tile": tile})
            else:
                beside = {**first.beside, tile: TileFile(**source.model_dump(include=set(TileFile.model_fields)))}
                sources[key] = first.model_copy(update={"beside": beside})
    lead = sources.get("base_color") or max(sources.values(), key=lambda s: s.width * s.height)
    recipe = Recipe(
        facts=Facts(
            width=lead.width,
            height=lead.height,
            rise_from="assumed" if "height" in sources else "told",
            edges_from="guessed",
        ),
        sources=sources,
        masters={key: source_ref(key, key) for key in sources},
    )
    units = {(source.sha256, key): units[key] for made, units in parts.values() for key, source in made.items()}
    return recipe, lambda source: units[source.sha256, next(iter(source.reads.values()))]


def _decoded(target: Target, paths: Mapping[str, Path]) -> tuple[dict[str, Source], dict[str, FloatArray]]:
    """What one tile's files carry: a source for each master, and its values as a file holds them."""
    pictures = {role: read(path) for role, path in paths.items()}
    carried = {file.role: file.masters() for file in target.files}
    masters = decode(target, {role: picture.codes for role, picture in pictures.items()})
    if target.height.stored == "meters" and "height" in masters and float(masters["height"].min()) < 0:
        masters = {**masters, "height": _share_of(masters["height"])}
    if not masters:
        raise SieveError(f"{', '.join(p.name for p in paths.values())} carry no master of {target.key}.")
    digest = hashlib.sha256(b"".join(path.read_bytes() for path in paths.values())).hexdigest()
    sources = {}
    for key, values in masters.items():
        deepest = max((role for role in pictures if key in carried[role]), key=lambda role: pictures[role].depth)
        sources[key] = _source(key, values, digest, paths[deepest].name, pictures[deepest].depth)
    return sources, {key: _unit(key, values) for key, values in masters.items()}


def _share_of(meters: FloatArray) -> FloatArray:
    """Heights in meters from the surface as 0..1 with the surface in the middle; how many meters that is, no file says."""
    return meters / np.float32(2 * max(float(np.abs(meters).max()), 1e-9)) + np.float32(0.5)


def _source(key: str, values: FloatArray, digest: str, name: str, depth: Literal[8, 16, 32]) -> Source:
    height, width = values.shape[:2]
    letters = "L" if values.ndim == 2 else "RGB"
    green = "up" if key == "normal" else None  # decoded vectors are
    return Source(sha256=digest, name=name, width=width, height=height, depth=depth, reads={letters: key}, green=green)


def _unit(key: str, values: FloatArray) -> FloatArray:
    """Values as a float file holds them: the natural range on 0..1, colors linear as they are."""
    row = quantity(key)
    return values if (row.low, row.high) == (0, 1) else (values - np.float32(row.low)) / np.float32(row.high - row.low)


def expected_names(target: Target) -> str:
    """What the target's files are called, for messages."""
    names = []
    for file in target.files:
        parts = [part if isinstance(part, str) else {"map": file.word}.get(part.part, part.part.upper()) for part in file.name]
        names.append("".join(parts) + FORMATS[file.format].suffix)
    return ", ".join(names)
