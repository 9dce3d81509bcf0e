"""Walk a recipe: compute only what is asked for, once, at the size asked for."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache, partial
from typing import Any

import numpy as np

from ..bands import Cancel
from ..convert.normals import widened
from ..convert.touches import Touch, touched
from ..errors import RecipeInvalid, UnknownKey
from ..filters import resize
from ..operations import OPERATIONS
from ..prepare.steps import active
from ..quantities import quantity
from ..raster import FloatArray, Gray, Size, set_size
from ..vectors import renormalized
from .cache import Cache
from .given import Given
from .making import Step
from .model import Recipe, Source
from .progress import Progress
from .refs import Ref, master_ref, node_ref
from .steps import operation_of, params_of
from .worn import Meshes, Worn

__all__ = ["WORKING_PX", "Evaluation"]

WORKING_PX = 512  # whole-picture statistics are taken here, whatever size is asked for
_TOUCHES_TOLD = 64


@lru_cache(maxsize=_TOUCHES_TOLD)
def _told(touch: Touch) -> str:
    """A touch as text for keys: of many strokes that takes longer than to compare them, and it is asked for at every look."""
    return json.dumps(touch.model_dump(mode="json"), sort_keys=True)


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

    def of(self, recipe: Recipe) -> Evaluation:
        """The same files by another recipe: what was found out about this one, and its tiles, are not those of the other."""
        return replace(self, recipe=recipe, progress=None, _digests={}, tiles={})

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
            return self.sized_key(node_ref(ref.name), self.size), OPERATIONS[self.recipe.nodes[ref.name].op].effort
        return self.sized_key(ref, self.size), self.given.effort(ref)

    def sized_key(self, ref: Ref, size: Size) -> str:
        """What an array depends on, its size too."""
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
        found = self.made_once(self.sized_key(ref, size), make)
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

        return self.made_once(key(touch), make)

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
        rest = json.dumps([facts.edges.model_dump(mode="json"), facts.seed, facts.width, facts.height], sort_keys=True)
        return hashlib.sha256(f"[{json.dumps(own)}, {_told(touch)}, {rest[1:]}".encode()).hexdigest()

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
        return self.made_once(key, step.made)

    def measured(self, name: str, part: str) -> Any:
        """What a node's operation measures of the whole picture and calls ``part``."""
        step = self._step(name, self.working)
        return step.part(step.operation.measured(part), self.working)

    def _step(self, name: str, size: Size) -> Step:
        node = self.recipe.nodes[name]
        return Step(self, node, operation_of(node), params_of(node), size)

    def kept(self, ref: Ref, what: str, compute: Callable[[], Any]) -> Any:
        """Something that is found out about a source as it is stored, called ``what``; from the cache when it is there."""
        return self.made_once(f"{self.given.stored_digest(ref)} {what}", compute)

    def kept_of_file(self, ref: Ref, what: str, compute: Callable[[FloatArray], Any]) -> Any:
        """The same about a source as its file gives it, before it was moved: ``compute`` gets its array."""
        return self.made_once(f"{self.given.read_digest(ref)} {what}", lambda: compute(self.given.read(ref)))

    def made_once(self, key: str, compute: Callable[[], Any]) -> Any:
        """What ``compute`` makes, from the cache when it is there."""
        self.cancel.check()
        return self.cache.kept(key, compute, self.cancel)
