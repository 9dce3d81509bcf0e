"""More files for a set that is there: added beside what it has, or in the place of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..errors import RecipeInvalid
from ..quantities import QUANTITIES, quantity
from ..recipe.model import Node, Recipe, Source, without_fitted_rise
from ..recipe.refs import Ref, node_ref, source_ref
from .plan import FileEntry, Joined, gathered, joined, with_levels

__all__ = ["grown", "held"]

_COLORS = ("diffuse", "shaded_color")  # are the base color where there is no other
_SPECULAR = {"specular"}


def grown(recipe: Recipe, entries: Sequence[FileEntry], *, replace: bool) -> Recipe:
    """The recipe with these files as well.

    A map that was derived, constant or absent comes from its file from now on; two files that need one another, as diffuse and
    specular, do so together. A map that files give already keeps them, and the new one lies beside it unused; or, where they
    ``replace``, the new one gives it and the old one goes when nothing else is read of it. Raises RivalMaps when two of the files
    are read as one map, RecipeInvalid where nothing can be read.

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
    names, there = _free_names(recipe, len(entries)), _readings(recipe.sources)
    made, fed = gathered(with_levels([entry for entry in entries if entry.reads], there), names)
    sources: dict[str, Source] = {**recipe.sources, **made}
    masters: dict[str, Ref] = dict(recipe.masters)
    nodes: dict[str, Node] = dict(recipe.nodes)
    told = _told(recipe)
    for master, ref in fed.items():
        if replace or master not in told:
            masters[master] = ref
    new = _readings(made)
    for step in joined(sources):
        if step.keys & new and (replace or not step.keys <= there):
            before = nodes.get(step.name)
            nodes[step.name] = step.node if before is None else before.model_copy(update={"inputs": step.node.inputs})
            is_whole = replace and step.keys <= new
            for master, ref in step.masters.items():
                if is_whole or master not in told or _is_part(masters[master], step):
                    masters[master] = ref
    grown = recipe.model_copy(update={"sources": sources, "masters": masters, "nodes": nodes})
    return without_fitted_rise(_without_leavings(grown, set(recipe.sources) if replace else set(), new))


def held(recipe: Recipe) -> dict[str, str]:
    """What files of a set are read as, or could be, with the master or the reading that a further one of it would rival.

    Examples
    --------
    >>> from ..recipe import Facts
    >>> shine = Source(sha256="0" * 64, name="felt_gloss.png", width=8, height=8, reads={"L": "gloss"})
    >>> whole = Recipe(facts=Facts(width=8, height=8), sources={"g": shine}, masters={"roughness": source_ref("g", "gloss")})
    >>> sorted(held(whole))
    ['gloss', 'roughness', 'roughness_squared', 'shine_power']
    """
    told = _told(recipe)
    rivals = {key: row.master for key, row in QUANTITIES.items() if row.master in told}
    if "base_color" in told:
        rivals |= dict.fromkeys(_COLORS, "base_color")
    return {key: master for key, master in rivals.items() if master is not None} | {
        key: key for key in _SPECULAR & _readings(recipe.sources)
    }


def _readings(sources: Mapping[str, Source]) -> set[str]:
    return {key for source in sources.values() for key in source.reads.values()}


def _told(recipe: Recipe) -> set[str]:
    """Masters that files give, by themselves or through a step that reads them as what they are: evened, mixed, parted."""
    return {key for key in recipe.masters if any(_tells(ref, key) for ref in _direct(recipe, key))}


def _direct(recipe: Recipe, master: str) -> tuple[Ref, ...]:
    ref, made = recipe.masters[master], recipe.node_of(master)
    return (ref,) if made is None else tuple(made[1].inputs.values())


def _tells(ref: Ref, master: str) -> bool:
    if ref.kind != "source":
        return False
    read = quantity(str(ref.part))
    return master in (read.key, *read.made_of)


def _is_part(before: Ref, step: Joined) -> bool:
    """Whether a master came from the step itself, or from one file of it alone."""
    return before.part in step.keys if before.kind == "source" else before.whole == node_ref(step.name)


def _free_names(recipe: Recipe, count: int) -> list[str]:
    number, found = 1, []
    while len(found) < count:
        if f"s{number}" not in recipe.sources:
            found.append(f"s{number}")
        number += 1
    return found


def _without_leavings(recipe: Recipe, old: set[str], new: set[str]) -> Recipe:
    """Without steps that feed nothing any more, and without those of the ``old`` files that nothing is read of.

    What waits for another file, as a specular color does for a diffuse one, stays unless it is among the ``new`` readings too.
    """
    used: set[Ref] = set()
    waiting = [ref.whole for ref in recipe.masters.values()]
    while waiting:
        ref = waiting.pop()
        if ref not in used:
            used.add(ref)
            waiting += [below.whole for below in recipe.below(ref)]
    nodes = {name: node for name, node in recipe.nodes.items() if node_ref(name) in used}
    sources = {name: source for name, source in recipe.sources.items() if name not in old or _is_used(name, source, used, new)}
    return recipe.model_copy(update={"nodes": nodes, "sources": sources})


def _is_used(name: str, source: Source, used: set[Ref], new: set[str]) -> bool:
    waits = {key for key in source.reads.values() if quantity(key).master is None and key not in new}
    return bool(waits) or any(source_ref(name, key) in used for key in source.reads.values())
