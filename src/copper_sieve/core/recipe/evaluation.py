"""Walk a recipe: compute only what is asked for, once, at the size asked for."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import partial
from typing import Any

import numpy as np

from ..bands import Cancel
from ..convert.normals import widened
from ..convert.touches import Touch, touched
from ..errors import RecipeInvalid, UnknownKey
from ..filters import resize
from ..operation import Fact, Operation, Part, takes_cancel
from ..operations import OPERATIONS
from ..params import Params
from ..prepare.steps import active
from ..quantities import quantity
from ..raster import Edges, FloatArray, Gray, Joined, Size, set_size
from ..vectors import renormalized
from .cache import Cache
from .given import Given
from .joining import joined, joined_edges, touching
from .model import Node, Recipe, Source
from .progress import Progress
from .refs import Ref, master_ref, node_ref
from .steps import operation_of, params_of
from .worn import Meshes, Worn

__all__ = ["WORKING_PX", "Evaluation"]

WORKING_PX = 512  # whole-picture statistics are taken here, whatever size is asked for


@dataclass
class Evaluation:
    """One recipe at one size. ``load`` returns a source's codes as stored, upright and in sRGB if colored.

    A set in tiles is asked tile by tile, through ``at``; ``tile`` then is the number and ``tiles`` are all of its evaluations,
    so that operations see the tiles that touch and statistics are taken over all of them.
    """

    recipe: Recipe
    longer_px: int | None
    load: Callable[[Source], np.ndarray]
    cache: Cache
    cancel: Cancel = field(default_factory=Cancel)
    progress: Progress | None = None
    tile: int | None = None
    tiles: Mapping[int, Evaluation] = field(default_factory=dict, repr=False)
    meshes: Meshes | None = field(default=None, repr=False)
    _digests: dict[Ref, str] = field(default_factory=dict, repr=False)

    def at(self, tile: int | None) -> Evaluation:
        """The same set as one of its tiles; itself where it has none. Raises UnknownKey for a tile that it has not."""
        if not self.recipe.tiles:
            return self
        if not self.tiles:
            tiles: dict[int, Evaluation] = {}
            for number in self.recipe.tiles:
                own = {"recipe": self.recipe.at(number), "tile": number, "tiles": tiles, "_digests": {}}
                tiles[number] = replace(self, **own)
            self.tiles = tiles
        found = self.tiles.get(self.recipe.tiles[0] if tile is None else tile)
        if found is None:
            raise UnknownKey("tile", str(tile), [str(number) for number in self.recipe.tiles])
        for one in self.tiles.values():
            one.progress = self.progress
        return found

    def sized(self, longer_px: int | None) -> Evaluation:
        """The same at another size; one of a set's tiles stays that, among the others."""
        if self.tile is None:
            return replace(self, longer_px=longer_px, _digests=dict(self._digests), tiles={}, progress=None)
        tiles: dict[int, Evaluation] = {}
        for number, one in self.tiles.items():
            tiles[number] = replace(one, longer_px=longer_px, tiles=tiles, progress=None)
        return tiles[self.tile]

    @property
    def each(self) -> tuple[Evaluation, ...]:
        """Every tile in order; itself where there are none."""
        return tuple(self.at(tile) for tile in self.recipe.tiles) or (self,)

    @property
    def size(self) -> Size:
        facts = self.recipe.facts
        return set_size(facts.width, facts.height, self.longer_px)

    @property
    def working(self) -> Size:
        facts = self.recipe.facts
        return set_size(facts.width, facts.height, min(WORKING_PX, max(facts.width, facts.height)))

    @property
    def worn(self) -> Worn | None:
        """The mesh that wears the set, where its pictures lie on it as they are and were not moved."""
        recipe = self.recipe
        is_moved = recipe.frame is not None and bool(active(recipe.frame.steps))
        return None if self.meshes is None or is_moved else recipe.worn

    @property
    def is_worn(self) -> bool:
        """Whether something of the mesh wears the set, or this tile of it. Of a set without tiles the mesh is not read for it."""
        worn, own = self.worn, self.recipe.tiles if self.tile is None else (self.tile,)
        return worn is not None and self.meshes is not None and (not own or bool({*own} & {*self.meshes.tiles(worn)}))

    def nearest(self, size: Size) -> np.ndarray | None:
        """Row and column of the nearest texel that the set's mesh shows, (2, H, W); None where there is nothing to pad by."""
        worn = self.worn
        return None if worn is None or self.meshes is None or not worn.is_padded else self.meshes.nearest(worn, size, self.tile)

    def master(self, key: str) -> FloatArray | None:
        """Array of a master at this size, or None when it is absent."""
        return self.value(master_ref(key), self.size) if key in self.recipe.masters else None

    def work(self, keys: tuple[str, ...]) -> dict[str, int]:
        """Effort of all that ``master`` for ``keys`` computes, of all tiles, by what makes it one: others may share it."""
        if self.recipe.tiles:
            return {key: effort for tile in self.each for key, effort in tile.work(keys).items()}
        found: dict[str, int] = {}
        waiting = [master_ref(key) for key in keys]
        while waiting:
            ref = waiting.pop()
            if ref.kind != "master":
                key, effort = self._piece(ref)
                if key in found:
                    continue
                found[key] = effort
            waiting += self.recipe.below(ref)
        return found

    def _piece(self, ref: Ref) -> tuple[str, int]:
        """A source or a node, all of its parts, as work: what makes it one, and its effort."""
        if ref.kind == "node":
            return self._sized_key(node_ref(ref.name), self.size), OPERATIONS[self.recipe.nodes[ref.name].op].effort
        return self._sized_key(ref, self.size), self.given.effort(ref)

    def _sized_key(self, ref: Ref, size: Size) -> str:
        return f"{self.digest(ref)}@{size.width}x{size.height}"

    def value(self, ref: Ref, size: Size) -> FloatArray:
        """Array of any ref at any size, from the cache when it is there."""
        self.cancel.check()
        if ref.kind == "master":
            if ref.name not in self.recipe.masters:
                title = quantity(ref.name).title
                raise RecipeInvalid(f"{title} is needed but absent. Give a file for it, or derive it first.", master=ref.name)
            values = self._touched(ref, self.value(self.recipe.masters[ref.name], size), size)
            return self._widened(values, size) if ref.name == "roughness" and self.recipe.facts.keep_shine else values
        make = partial(self.given.value if ref.kind == "source" else self._node, ref, size)
        found = self._kept(self._sized_key(ref, size), make)
        if self.progress is not None and size == self.size:
            self.progress.made(*self._piece(ref))
        return found

    def _touched(self, ref: Ref, values: FloatArray, size: Size) -> FloatArray:
        """A master with what is laid over it."""
        touch, facts = self.recipe.touches.get(ref.name), self.recipe.facts
        if touch is None or not touch.is_any:
            return values

        def key(touch: Touch) -> str:
            own = self.digest(self.recipe.masters[ref.name])
            return f"{self._touched_digest(own, touch)} touched@{size.width}x{size.height}"

        def make() -> FloatArray:
            before = self.cache.get(key(touch.before_last)) if len(touch.strokes) > 1 else None
            told = {"tile": self.tile, "before": before, "cancel": self.cancel}
            return touched(values, quantity(ref.name), touch, facts.edges, facts.seed, **told)

        return self._kept(key(touch), make)

    def digest(self, ref: Ref) -> str:
        """Hash of everything a ref depends on: files, operations, parameters, facts, the other tiles. Not the size."""
        if not self.tiles or self.tile is None or ref.kind == "source":
            return self._own_digest(ref)
        return f"{self.tile} of {self.pooled(ref)}"

    def pooled(self, ref: Ref) -> str:
        """Hash of everything that a ref depends on in all tiles; its own where there are none."""
        if not self.tiles:
            return self._own_digest(ref)
        return hashlib.sha256(json.dumps([one._own_digest(ref) for one in self.tiles.values()]).encode()).hexdigest()

    def _own_digest(self, ref: Ref) -> str:
        """Taken once per ref; other tiles left aside."""
        found = self._digests.get(ref)
        if found is None:
            found = self._digests[ref] = self._digest(ref)
        return found

    def _digest(self, ref: Ref) -> str:
        recipe = self.recipe
        if not self.has(ref):
            return "absent"
        if ref.kind == "master":
            own, touch = self._own_digest(recipe.masters[ref.name]), recipe.touches.get(ref.name)
            return own if touch is None or not touch.is_any else self._touched_digest(own, touch)
        if ref.kind == "source":
            return self.given.digest(ref)
        node = recipe.nodes[ref.name]
        operation, params = operation_of(node), params_of(node).model_dump(mode="json")
        facts = recipe.facts.model_dump(mode="json", include=set(operation.depends_on))
        below = {slot: self._own_digest(ref) for slot, ref in sorted(node.inputs.items())}
        ratio = [recipe.facts.width, recipe.facts.height]
        content = [operation.key, operation.number, ref.part, params, facts, ratio, below]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def _touched_digest(self, own: str, touch: Touch) -> str:
        facts = self.recipe.facts
        told = [own, touch.model_dump(mode="json"), facts.edges.model_dump(mode="json"), facts.seed, facts.width, facts.height]
        return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()

    def has(self, ref: Ref) -> bool:
        """Whether the recipe holds what the ref names; a tile may lack what others have."""
        recipe = self.recipe
        return ref.name in {"master": recipe.masters, "source": recipe.sources, "node": recipe.nodes}[ref.kind]

    @property
    def given(self) -> Given:
        """What the set's files give."""
        return Given(self.recipe, self.load, self.cache, self.cancel)

    def stored(self, ref: Ref) -> FloatArray:
        """A source's array at the size of its file, moved by the set's geometry, before its corrections."""
        return self.given.stored(ref)

    def _widened(self, roughness: Gray, size: Size) -> FloatArray:
        """``roughness`` with what the given normals lost by shrinking to the set's size; unchanged if they did not shrink."""
        facts, ref = self.recipe.facts, self.recipe.masters.get("normal")
        if ref is None or ref.kind != "source" or facts.sampling != "smooth":
            return roughness
        key = f"{self.digest(ref)} lost@{facts.width}x{facts.height}"
        length = self.cache.get(key)
        if length is None:
            own = self.stored(ref)
            if own.shape[0] <= facts.height or own.shape[1] <= facts.width:
                return roughness
            mean = resize(renormalized(own), Size(facts.width, facts.height), facts.edges)
            length = np.sqrt(np.einsum("...i,...i->...", mean, mean))
            self.cache.put(key, length)
        return widened(roughness, resize(length, size, facts.edges))

    def _node(self, ref: Ref, size: Size) -> FloatArray:
        made = self.several(ref.name, size) if ref.part is not None else self._step(ref.name, size).made()
        return made if ref.part is None else getattr(made, ref.part)

    def several(self, name: str, size: Size) -> Any:
        """All that a node of several outputs makes, as its operation returns it."""
        step = self._step(name, size)
        key = f"{self.digest(node_ref(name))} all@{size.width}x{size.height}"
        return self._kept(key, step.made)

    def measured(self, name: str, part: str) -> Any:
        """What a node's operation measures of the whole picture and calls ``part``."""
        step = self._step(name, self.working)
        return step.part(step.operation.measured(part), self.working)

    def _step(self, name: str, size: Size) -> _Step:
        node = self.recipe.nodes[name]
        return _Step(self, node, operation_of(node), params_of(node), size)

    def kept(self, ref: Ref, what: str, compute: Callable[[], Any]) -> Any:
        """Something that is found out about a source as it is stored, called ``what``; from the cache when it is there."""
        return self._kept(f"{self.given.stored_digest(ref)} {what}", compute)

    def kept_of_file(self, ref: Ref, what: str, compute: Callable[[FloatArray], Any]) -> Any:
        """The same about a source as its file gives it, before it was moved: ``compute`` gets its array."""
        return self._kept(f"{self.given.read_digest(ref)} {what}", lambda: compute(self.given.read(ref)))

    def _kept(self, key: str, compute: Callable[[], Any]) -> Any:
        self.cancel.check()
        return self.cache.kept(key, compute, self.cancel)


@dataclass(frozen=True)
class _Step:
    """One node at one size: hands its operation what that declares, and nothing else."""

    evaluation: Evaluation
    node: Node
    operation: Operation
    params: Params
    size: Size

    def made(self) -> Any:
        values = [self._value(wanted, self.size) for wanted in self.operation.takes]
        told = self._facts(self.operation.facts, self.size)
        made = self._called(self.operation.make, values, {**told, "params": self.params})
        edges = self._edges(self.size)
        return _inside(made, edges, self.size) if isinstance(edges, Joined) else made

    def part(self, part: Part, size: Size) -> Any:
        """A part of the operation at ``size``, from the cache when it is there; None where its parameters do not ask for it."""
        if not part.is_needed(self.params):
            return None
        size = self.evaluation.working if part.is_measured else size
        is_of_all = part.is_measured and not part.is_of_tile and self.evaluation.tiles
        step = _Stacked(self.evaluation, self.node, self.operation, self.params, size) if is_of_all else self
        return step._kept(part, size, "", lambda: step._merged(part, size) if part.merge else step._made_part(part, size))

    def _merged(self, part: Part, size: Size) -> Any:
        """What a part makes of every tile, brought together."""
        assert part.merge is not None
        tiles = [replace(self, evaluation=one) for one in self.evaluation.tiles.values() if self._is_in(one)] or [self]
        return part.merge([tile._kept(part, size, " alone", partial(tile._made_part, part, size)) for tile in tiles])

    def _kept(self, part: Part, size: Size, which: str, make: Callable[[], Any]) -> Any:
        return self.evaluation._kept(self._key(part, size) + which, make) if part.is_kept else make()

    def _made_part(self, part: Part, size: Size) -> Any:
        values = [self._value(wanted, size) for wanted in part.of]
        return self._called(part.make, values, {**self._facts(part.facts, size), **self._told(part)})

    def _value(self, wanted: str | Part, size: Size) -> Any:
        if isinstance(wanted, Part):
            return self.part(wanted, size)
        ref = self.node.inputs.get(wanted)  # only an optional slot may be empty: the recipe was checked
        return None if ref is None else self._slot(ref, size)

    def _slot(self, ref: Ref, size: Size) -> Any:
        """What feeds a slot, with as much of the tiles that touch this one as the operation looks around."""
        own, tiles = partial(self.evaluation.value, ref, size), self.evaluation.tiles
        return joined(own, self._edges(size), lambda tile: tiles[tile].value(ref, size), self._around) if self._around else own()

    def _is_in(self, other: Evaluation) -> bool:
        """Whether another tile has everything that the node is made of."""
        return all(map(other.has, self.node.inputs.values()))

    @property
    def _around(self) -> Mapping[tuple[int, int], int]:
        """Numbers of the tiles that touch this one and have what the node is made of, by where; none where it looks at none."""
        evaluation = self.evaluation
        if evaluation.tile is None or "edges" not in self.operation.depends_on or not self.node.inputs:
            return {}
        found = touching(evaluation.tile, evaluation.tiles)
        return {where: tile for where, tile in found.items() if self._is_in(evaluation.tiles[tile])}

    def _edges(self, size: Size) -> Edges:
        edges = self.evaluation.recipe.facts.edges
        return joined_edges(edges, self._around, self.operation.reach(self.params), size) if self._around else edges

    def _called(self, make: Callable[..., Any], values: list[Any], told: dict[str, Any]) -> Any:
        return make(*values, **told, **({"cancel": self.evaluation.cancel} if takes_cancel(make) else {}))

    def _facts(self, names: Sequence[Fact], size: Size) -> dict[str, Any]:
        told: dict[str, Any] = {"size": size, "edges": self._edges(size), "tiles": self._stacked}
        return {name: told[name] if name in told else getattr(self.evaluation.recipe.facts, name) for name in names}

    @property
    def _stacked(self) -> tuple[int, ...]:
        return ()

    def _told(self, part: Part) -> dict[str, Any]:
        return {name: getattr(self.params, name) for name in part.by}

    def _key(self, part: Part, size: Size) -> str:
        """All that a part depends on: what it is made of, the facts and parameters it is handed, and the size."""
        at = self.evaluation.working if part.is_measured else size
        below = [self._below(wanted, at) for wanted in part.of]
        return f"{part.key}|{self._told(part)!r}|{self._facts(part.facts, at)!r}|{below}@{at.width}x{at.height}"

    def _below(self, wanted: str | Part, size: Size) -> str:
        if isinstance(wanted, Part):
            return self._key(wanted, size) if wanted.is_needed(self.params) else "none"
        return f"{wanted} {self._digest(self.node.inputs[wanted])}"

    def _digest(self, ref: Ref) -> str:
        return self.evaluation.digest(ref)


@dataclass(frozen=True)
class _Stacked(_Step):
    """One node over a whole set: its tiles lie one below the other, in the order of their numbers."""

    def _slot(self, ref: Ref, size: Size) -> Any:
        return np.concatenate([self.evaluation.tiles[tile].value(ref, size) for tile in self._stacked])

    @property
    def _around(self) -> Mapping[tuple[int, int], int]:
        return {}

    @property
    def _stacked(self) -> tuple[int, ...]:
        return tuple(tile for tile, one in self.evaluation.tiles.items() if self._is_in(one))

    def _digest(self, ref: Ref) -> str:
        return self.evaluation.pooled(ref)


def _inside(made: Any, edges: Joined, size: Size) -> Any:
    """What an operation made, without what it saw of other tiles; of several outputs, each."""
    if isinstance(made, np.ndarray):
        return made if made.shape[:2] == (size.height, size.width) else edges.inside(made)
    return replace(made, **{field.name: _inside(getattr(made, field.name), edges, size) for field in fields(made)})
