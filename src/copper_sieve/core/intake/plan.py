"""From files to a first recipe: what is given stays, what is missing is derived, and nothing is asked twice."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any, Literal

from pydantic import ValidationError

from ..errors import RecipeInvalid, SieveError
from ..primaries import Primaries
from ..quantities import is_known, quantity
from ..raster import Edges
from ..recipe.model import Facts, Fit, Node, Recipe, Source, TileFile
from ..recipe.refs import Ref, master_ref, node_ref, source_ref
from ..recipe.steps import new_node

__all__ = ["FileEntry", "Joined", "RivalMaps", "gathered", "joined", "plan_set", "with_levels", "with_values"]

# Pits finer than this share of the width are mostly grain of the photo, and would speckle the occlusion.
_FINEST = 0.004  # of the width: what is finer in a photo is grain, not shade
# Of a relief that is guessed: its grain does not shade, and its rise is on the careful side, so its shade is drawn darker.
_GUESSED_OCCLUSION = MappingProxyType({"finest": _FINEST, "darkness": 1.5})
_LONGEST_LIST = 200
_UNSHADE = "unshade"
_SPLIT, _SPLIT_MAKES = "split", ("base_color", "metallic", "reflectance")
_DEFAULT_GREEN: Literal["up"] = "up"


class RivalMaps(SieveError):
    """Two files claim the same map of one set."""

    code = "rival-maps"


@dataclass(frozen=True)
class FileEntry:
    """One file as a person (or the recognizer) said it is to be read."""

    sha256: str
    name: str
    width: int
    height: int
    depth: Literal[8, 16, 32]
    reads: dict[str, str]
    green: Literal["up", "down"] | None = None
    tiles: tuple[bool, bool] = (True, True)
    spans: dict[str, tuple[float, float]] = field(default_factory=dict)
    corrections: Mapping[str, Mapping[str, float]] = field(default_factory=dict)  # by map; of what is not read none is kept
    fit: Fit | None = None  # how it is brought to the set's shape
    place: str | None = None  # where it lies in a linked folder
    tile: int | None = None  # its UDIM number in a set of tiles
    beside: Mapping[int, TileFile] = field(default_factory=dict)  # the files of the map's other tiles
    primaries: Primaries | None = None  # of its colors


def plan_set(entries: Sequence[FileEntry], **facts: Any) -> Recipe:
    """First recipe of a set. Raises RivalMaps when two files are read as the same map, RecipeInvalid for what cannot be read so.

    Convention: the size follows the base color or photo, else the largest file; the set repeats where its worst map does. How
    far a height rises is assumed until somebody tells it, or it is measured or fitted (``intake.facts``).
    """
    try:
        return _planned(entries, facts)
    except ValidationError as problem:
        said = "; ".join(error["msg"].removeprefix("Value error, ") for error in problem.errors())
        names = ", ".join(entry.name for entry in entries)
        raise RecipeInvalid(f"{names[:_LONGEST_LIST]} cannot be taken in so: {said}.") from problem


def _planned(entries: Sequence[FileEntry], facts: Mapping[str, Any]) -> Recipe:
    sources, masters = gathered(with_levels(entries), [f"s{number}" for number in range(1, len(entries) + 1)])
    nodes: dict[str, Node] = {}
    for made in joined(sources):
        nodes[made.name] = made.node
        masters = {**made.masters, **masters}
    lead = _lead(entries)
    in_tiles = any(entry.tile is not None for entry in entries)  # of an atlas, which does not repeat
    across, down = (not in_tiles and all(entry.tiles[k] for entry in entries) for k in (0, 1))
    edges = Edges(x="wrap" if across else "mirror", y="wrap" if down else "mirror")
    for key, node in _missing(set(masters), from_photo="photo" in {q for e in entries for q in e.reads.values()}):
        nodes[key] = node
        masters[key] = node_ref(key)
    is_rise_known = "rise" in facts or "height" not in masters
    known: dict[str, Any] = {"width": lead.width, "height": lead.height, "edges": edges, "edges_from": "guessed"}
    known["rise_from"] = "told" if is_rise_known else "assumed"
    whole = Facts(**known | dict(facts))
    return Recipe(facts=whole, sources=sources, nodes=nodes, masters=masters)


def with_values(recipe: Recipe, values: Mapping[str, Sequence[float]]) -> Recipe:
    """The recipe in which masters that come of no file are these values, in the masters' own units.

    What is guessed from another map gives way; what files give, alone or two together, stays.

    Raises RecipeInvalid for one that is no master, or has another count of components.

    Examples
    --------
    >>> from copper_sieve.core.raster import Edges
    >>> recipe = with_values(Recipe(facts=Facts(width=8, height=8, edges=Edges())), {"roughness": [0.4]})
    >>> recipe.node_of("roughness")[1].params
    {'value': 0.4}
    """
    for master, value in values.items():
        is_master = is_known(master) and quantity(master).master == master
        if not is_master or len(value) != quantity(master).channels:
            raise RecipeInvalid(f"{master} cannot be told by {len(value)} numbers.", master=master)
        ref, made = recipe.masters.get(master), recipe.node_of(master)
        if ref is None or (made is not None and all(one.kind == "master" for one in made[1].inputs.values())):
            name = f"one_{master}"
            node = new_node("constant", {}, {"value": value[0] if len(value) == 1 else list(value)})
            nodes, masters = {**recipe.nodes, name: node}, {**recipe.masters, master: node_ref(name)}
            recipe = recipe.model_copy(update={"nodes": nodes, "masters": masters})
    return recipe


def gathered(entries: Sequence[FileEntry], names: Sequence[str]) -> tuple[dict[str, Source], dict[str, Ref]]:
    """Sources by these names, and the masters that they give. Raises RivalMaps."""
    sources: dict[str, Source] = {}
    masters: dict[str, Ref] = {}
    claimed: dict[str, str] = {}
    given = {key for entry in entries for key in entry.reads.values()}
    has_specular, has_occlusion = "specular" in given, "occlusion" in given
    for name, entry in zip(names, entries):
        has_normal = "normal" in entry.reads.values()
        has_color = any(quantity(key).color == "srgb" for key in entry.reads.values())
        sources[name] = Source(
            sha256=entry.sha256,
            name=entry.name,
            width=entry.width,
            height=entry.height,
            depth=entry.depth,
            reads=entry.reads,  # type: ignore[arg-type]
            spans=entry.spans,  # type: ignore[arg-type]
            corrections={key: dict(told) for key, told in entry.corrections.items() if key in entry.reads.values()},
            place=entry.place,
            fit=entry.fit,
            tile=entry.tile,
            beside=dict(entry.beside),
            primaries=(entry.primaries or "rec709") if has_color else "rec709",
            green=(entry.green or _DEFAULT_GREEN) if has_normal else None,
            sampling="nearest" if "id" in entry.reads.values() else None,
        )
        for key in entry.reads.values():
            master = quantity(key).master or key
            if (key == "diffuse" and not has_specular) or (key == "shaded_color" and not has_occlusion):
                master = "base_color"  # what scatters, or is seen, is then all the color there is
            if master in claimed:
                raise RivalMaps(
                    f"{claimed[master]} and {entry.name} are both read as {quantity(master).title.lower()}."
                    " Say what one of them is, or leave it out.",
                    master=master,
                    files=[claimed[master], entry.name],
                )
            claimed[master] = entry.name
            if quantity(master).master == master:
                masters[master] = source_ref(name, key)
    return sources, masters


def with_levels(entries: Sequence[FileEntry], beside: Collection[str] = ()) -> list[FileEntry]:
    """Entries in which a gray specular beside a base color, without the diffuse it would need, is a level of reflectance.

    ``beside`` is what other files of the set are read as.
    """
    given = {*beside, *(key for entry in entries for key in entry.reads.values())}
    if "diffuse" in given or not {"base_color", "photo"} & given or {"reflectance", "specular_level"} & given:
        return list(entries)
    return [replace(entry, reads={"L": "specular_level"}) if entry.reads == {"L": "specular"} else entry for entry in entries]


@dataclass(frozen=True)
class Joined:
    """A step that two files make masters by together: its name, the readings that it needs, and the masters it gives."""

    name: str
    keys: frozenset[str]
    node: Node
    masters: dict[str, Ref]


def joined(sources: Mapping[str, Source]) -> Iterator[Joined]:
    """What files that need one another make: diffuse and specular a metallic set, a color with its occlusion in one without.

    Examples
    --------
    >>> read = {"d": "diffuse", "s": "specular"}
    >>> files = {k: Source(sha256="0" * 64, name=k, width=8, height=8, reads={"RGB": key}) for k, key in read.items()}
    >>> [sorted(made.masters) for made in joined(files)]
    [['base_color', 'metallic', 'reflectance']]
    """
    refs = {key: source_ref(name, key) for name, source in sources.items() for key in source.reads.values()}
    if {"diffuse", "specular"} <= set(refs):
        pair = new_node("metallic_from_specular", {slot: refs[slot] for slot in ("diffuse", "specular")})
        yield Joined(_SPLIT, frozenset(pair.inputs), pair, {key: node_ref(_SPLIT, key) for key in _SPLIT_MAKES})
    if {"shaded_color", "occlusion"} <= set(refs):
        node = new_node("color_without_occlusion", {"color": refs["shaded_color"], "occlusion": master_ref("occlusion")})
        yield Joined(_UNSHADE, frozenset({"shaded_color", "occlusion"}), node, {"base_color": node_ref(_UNSHADE)})


def _lead(entries: Sequence[FileEntry]) -> FileEntry:
    colored = [e for e in entries if {"base_color", "photo", "diffuse", "shaded_color"} & set(e.reads.values())]
    return max(colored or entries, key=lambda e: e.width * e.height)


def _missing(given: set[str], *, from_photo: bool) -> list[tuple[str, Node]]:
    """Nodes for the masters that can be derived from what is there, parents first. What cannot is left absent, not made up."""
    nodes: list[tuple[str, Node]] = []
    color = "base_color" in given
    has_height = "height" in given
    if not has_height and color and "normal" not in given:
        nodes.append(("height", new_node("height_from_color", {"color": master_ref("base_color")})))
        has_height = True
    if has_height and "normal" not in given:
        nodes.append(("normal", new_node("normal_from_height", {"height": master_ref("height")})))
    if has_height and "occlusion" not in given:
        params = dict(_GUESSED_OCCLUSION) if "height" not in given else {"finest": _FINEST} if from_photo else {}
        nodes.append(("occlusion", new_node("occlusion_from_height", {"height": master_ref("height")}, params)))
    if "roughness" not in given and color:
        nodes.append(("roughness", new_node("roughness_from_color", {"color": master_ref("base_color")})))
    return nodes
