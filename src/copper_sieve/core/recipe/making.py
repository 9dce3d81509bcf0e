"""One node of a recipe: its operation is handed what that declares, and what it makes on the way is kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import partial
from typing import Any, Protocol

import numpy as np

from ..bands import Cancel
from ..operation import Fact, Operation, Part, takes_cancel
from ..params import Params
from ..raster import Edges, FloatArray, Joined, Size
from .cache import Cache
from .joining import Where, is_seen, joined, joined_edges, strip, touching
from .model import Node, Recipe
from .refs import Ref, master_ref

__all__ = ["Evaluated", "Step"]

_WORK_BYTES = 32  # a texel: what most operations hold at most while they work, beside what they are made of


class Evaluated(Protocol):
    """What a step asks of the evaluation that it is a step of, or of that of another tile."""

    recipe: Recipe
    cache: Cache
    cancel: Cancel
    tile: int | None

    @property
    def tiles(self) -> Mapping[int, Evaluated]: ...
    @property
    def working(self) -> Size: ...
    def value(self, ref: Ref, size: Size) -> FloatArray: ...
    def has(self, ref: Ref) -> bool: ...
    def digest(self, ref: Ref) -> str: ...
    def pooled(self, ref: Ref) -> str: ...
    def sized_key(self, ref: Ref, size: Size) -> str: ...
    def made_once(self, key: str, compute: Callable[[], Any]) -> Any: ...


@dataclass(frozen=True)
class Step:
    """One node at one size: hands its operation what that declares, and nothing else."""

    evaluation: Evaluated
    node: Node
    operation: Operation
    params: Params
    size: Size

    def made(self) -> Any:
        """What the operation makes of what feeds it; of a tile, that tile alone."""
        values = [self._value(wanted, self.size) for wanted in self.operation.takes]
        told = self._facts(self.operation.facts, self.size)
        return self._called(self.operation.make, values, {**told, "params": self.params}, self.size, self._edges(self.size))

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
        return self.evaluation.made_once(self._key(part, size) + which, make) if part.is_kept else make()

    def _made_part(self, part: Part, size: Size) -> Any:
        values = [self._value(wanted, size) for wanted in part.of]
        return self._called(part.make, values, {**self._facts(part.facts, size), **self._told(part)}, size)

    def _value(self, wanted: str | Part, size: Size) -> Any:
        if isinstance(wanted, Part):
            return self.part(wanted, size)
        ref = self.node.inputs.get(wanted)  # only an optional slot may be empty: the recipe was checked
        return None if ref is None else self._slot(ref, size)

    def _slot(self, ref: Ref, size: Size) -> Any:
        """What feeds a slot, with as much of the tiles that touch this one as the operation looks around."""
        own, edges = partial(self.evaluation.value, ref, size), self._edges(size)
        return joined(own, edges, partial(self._strip, edges, ref, size), self._around) if isinstance(edges, Joined) else own()

    def _strip(self, edges: Joined, ref: Ref, size: Size, where: Where) -> FloatArray:
        """What this tile sees of the one that lies there. All that touch that one get theirs at once, as its whole map is made
        for it and may be let go of before the next of them comes."""
        tiles = self.evaluation.tiles
        other = self._around[where]
        found = self.evaluation.cache.get(self._strip_key(ref, size, where))
        if found is not None:
            return found
        whole = tiles[other].value(ref, size)
        for tile in touching(other, tiles).values():
            if self._is_in(tiles[tile]):
                replace(self, evaluation=tiles[tile])._keep_strip(ref, size, other, whole)
        return strip(whole, edges, where)

    def _keep_strip(self, ref: Ref, size: Size, other: int, whole: FloatArray) -> None:
        edges = self._edges(size)
        where = next((where for where, tile in self._around.items() if tile == other), None)
        if where is not None and isinstance(edges, Joined) and is_seen(edges, where):
            self.evaluation.cache.put(self._strip_key(ref, size, where), strip(whole, edges, where), lasts=True)

    def _strip_key(self, ref: Ref, size: Size, where: Where) -> str:
        other, facts = self.evaluation.tiles[self._around[where]], self.evaluation.recipe.facts
        shine = f"{facts.keep_shine} {other.digest(master_ref('normal'))}" if ref.name == "roughness" else ""
        return f"{other.sized_key(ref, size)} {shine} beyond {where} {self._edges(size)!r}"

    def _is_in(self, other: Evaluated) -> bool:
        """Whether another tile has everything that the node is made of."""
        return all(map(other.has, self.node.inputs.values()))

    @property
    def _around(self) -> Mapping[Where, int]:
        """Numbers of the tiles that touch this one and have what the node is made of, by where; none where it looks at none."""
        evaluation = self.evaluation
        if evaluation.tile is None or "edges" not in self.operation.depends_on or not self.node.inputs:
            return {}
        found = touching(evaluation.tile, evaluation.tiles)
        return {where: tile for where, tile in found.items() if self._is_in(evaluation.tiles[tile])}

    def _edges(self, size: Size) -> Edges:
        edges = self.evaluation.recipe.facts.edges
        return joined_edges(edges, self._around, self.operation.reach(self.params), size) if self._around else edges

    def _called(
        self, make: Callable[..., Any], values: list[Any], told: dict[str, Any], size: Size, edges: Edges | None = None
    ) -> Any:
        """What ``make`` returns, of a tile what lies inside of the ``edges``."""
        cancel = self.evaluation.cancel
        with self.evaluation.cache.room(_WORK_BYTES * size.width * size.height, cancel):
            made = make(*values, **told, **({"cancel": cancel} if takes_cancel(make) else {}))
            return _inside(made, edges, size) if isinstance(edges, Joined) else made

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
class _Stacked(Step):
    """One node over a whole set: its tiles lie one below the other, in the order of their numbers."""

    def _slot(self, ref: Ref, size: Size) -> Any:
        return np.concatenate([self.evaluation.tiles[tile].value(ref, size) for tile in self._stacked])

    @property
    def _around(self) -> Mapping[Where, int]:
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
