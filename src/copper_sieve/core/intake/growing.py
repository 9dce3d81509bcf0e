"""More files for a set that is there: added beside what it has, or in the place of it."""

from __future__ import annotations

from collections.abc import Sequence

from ..errors import RecipeInvalid
from ..quantities import quantity
from ..recipe.model import Recipe, Source, without_fitted_rise
from ..recipe.refs import Ref, node_ref, source_ref
from .plan import FileEntry, gathered

__all__ = ["grown"]


def grown(recipe: Recipe, entries: Sequence[FileEntry], *, replace: bool) -> Recipe:
    """The recipe with these files as well.

    A map that was derived, constant or absent comes from its file from now on. One that a file gives already keeps that file,
    and the new one lies beside it unused; or, where they ``replace``, the new one gives it and the old one goes when nothing
    else is read of it. Raises RivalMaps when two of the files are read as one map, RecipeInvalid where nothing can be read.

    Examples
    --------
    >>> from ..recipe import Facts
    >>> bare = Recipe(facts=Facts(width=8, height=8))
    >>> entry = FileEntry("0" * 64, "felt_rough.png", 8, 8, 8, {"L": "roughness"})
    >>> grown(bare, [entry], replace=False).masters
    {'roughness': 'source:s1:roughness'}
    """
    if not any(entry.reads for entry in entries):
        raise RecipeInvalid("none of these files is read as a map. Say what at least one of them is.")
    names = _free_names(recipe, len(entries))
    made, fed = gathered([entry for entry in entries if entry.reads], names)
    sources: dict[str, Source] = {**recipe.sources, **made}
    masters: dict[str, Ref] = dict(recipe.masters)
    for master, ref in fed.items():
        before = masters.get(master)
        if before is None or before.kind != "source" or replace:
            masters[master] = ref
    grown = recipe.model_copy(update={"sources": sources, "masters": masters})
    return without_fitted_rise(_without_leavings(grown, set(recipe.sources) if replace else set()))


def _free_names(recipe: Recipe, count: int) -> list[str]:
    number, found = 1, []
    while len(found) < count:
        if f"s{number}" not in recipe.sources:
            found.append(f"s{number}")
        number += 1
    return found


def _without_leavings(recipe: Recipe, old: set[str]) -> Recipe:
    """Without steps that feed nothing any more, and without those of the ``old`` files that nothing is read of."""
    used: set[Ref] = set()
    waiting = [ref.whole for ref in recipe.masters.values()]
    while waiting:
        ref = waiting.pop()
        if ref not in used:
            used.add(ref)
            waiting += [below.whole for below in recipe.below(ref)]
    nodes = {name: node for name, node in recipe.nodes.items() if node_ref(name) in used}
    sources = {name: source for name, source in recipe.sources.items() if name not in old or _is_used(name, source, used)}
    return recipe.model_copy(update={"nodes": nodes, "sources": sources})


def _is_used(name: str, source: Source, used: set[Ref]) -> bool:
    return any(source_ref(name, key) in used or quantity(key).master is None for key in source.reads.values())
