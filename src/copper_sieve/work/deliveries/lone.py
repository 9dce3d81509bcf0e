"""One map of a set as a file of its own."""

from __future__ import annotations

from ...core.errors import SieveError, UnknownKey
from ...core.quantities import quantity
from ...core.recipe import Evaluation
from ...core.target import FORMATS, file_name
from ...core.target.lone import lone_target, writings_of
from .delivering import FILE_EFFORT, image_content

__all__ = ["lone_file", "lone_work"]


def lone_work(evaluation: Evaluation, master: str) -> float:
    """Work of ``lone_file`` in units × texels, as a delivery's is counted; in a set of tiles that of one tile."""
    return float((sum(evaluation.work((master,)).values()) + FILE_EFFORT) * evaluation.size.width * evaluation.size.height)


def lone_file(evaluation: Evaluation, set_name: str, master: str, way: str, stored: str) -> tuple[str, bytes]:
    """Name and bytes of a master's file at the set's own size, as every target's files are made.

    In a set of tiles the evaluation is that of one tile. Raises SieveError where the set has no such map, UnknownKey for a way of
    writing or storing that is none.
    """
    known = evaluation.recipe.masters
    if master not in known:
        raise SieveError(f"{set_name} has no {quantity(master).title.lower()} to save. Say first where it comes from.")
    ways = {one.key: one for one in writings_of(master, known)}
    if way not in ways:
        raise UnknownKey("way of writing", way, list(ways))
    target = lone_target(ways[way], stored)
    (file,) = target.files
    _, content = image_content(evaluation, target, file, evaluation.size)
    suffix, size = FORMATS[file.format].suffix, str(evaluation.size.width)
    tile = "" if evaluation.tile is None else str(evaluation.tile)
    return file_name(file.name, suffix=suffix, word=file.word, target=target, set_name=set_name, size=size, tile=tile), content
