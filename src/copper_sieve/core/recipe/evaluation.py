"""Walk a recipe: compute only what is asked for, once, at the size asked for."""

from __future__ import annotations

import hashlib
import json
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np

from ..bands import Cancel
from ..convert.normals import widened
from ..errors import RecipeInvalid
from ..filters import resize
from ..quantities import quantity
from ..raster import FloatArray, Size, set_size
from ..vectors import renormalized
from .cache import Cache
from .model import Facts, Node, Recipe, Source, source_ref
from .operations import OPERATIONS
from .placement import fitted, placed
from .sources import read_quantity

__all__ = ["WORKING_PX", "Evaluation", "Progress"]

WORKING_PX = 512  # whole-picture statistics are taken here, whatever size is asked for
Found = TypeVar("Found")


class Progress:
    """Counts work done out of work known. ``report`` is called with (done, total) after every step."""

    def __init__(self, total: int, report: Callable[[int, int], None] = lambda done, total: None) -> None:
        self.done, self.total = 0, total
        self._report = report
        self._lock = threading.Lock()

    def advance(self, amount: int) -> None:
        with self._lock:  # reports come in order, whichever thread was first
            self.done += amount
            self._report(self.done, self.total)


@dataclass
class Evaluation:
    """One recipe at one size. ``load`` returns a source's codes as stored, upright and in sRGB if colored."""

    recipe: Recipe
    longer_px: int | None
    load: Callable[[Source], np.ndarray]
    cache: Cache
    cancel: Cancel = field(default_factory=Cancel)
    progress: Progress | None = None
    _digests: dict[str, str] = field(default_factory=dict, repr=False)

    @property
    def size(self) -> Size:
        facts = self.recipe.facts
        return set_size(facts.width, facts.height, self.longer_px)

    @property
    def working(self) -> Size:
        facts = self.recipe.facts
        return set_size(facts.width, facts.height, min(WORKING_PX, max(facts.width, facts.height)))

    def master(self, key: str) -> FloatArray | None:
        """Array of a master at this size, or None when it is absent."""
        return self.value(f"master:{key}", self.size) if key in self.recipe.masters else None

    def effort(self, keys: tuple[str, ...]) -> int:
        """Work that ``master`` for all ``keys`` will report to progress, counting what they share once."""
        nodes: set[str] = set()
        for key in keys:
            self._gather(f"master:{key}", nodes)
        return sum(OPERATIONS[self.recipe.nodes[name].op].effort for name in nodes)

    def _gather(self, ref: str, nodes: set[str]) -> None:
        kind, name, *_ = ref.split(":")
        if kind == "master" and name in self.recipe.masters:
            self._gather(self.recipe.masters[name], nodes)
        elif kind == "node" and name not in nodes:
            nodes.add(name)
            for below in self.recipe.nodes[name].inputs.values():
                self._gather(below, nodes)

    def value(self, ref: str, size: Size) -> FloatArray:
        """Array of any ref at any size, from the cache when it is there."""
        self.cancel.check()
        kind, name, *rest = ref.split(":")
        if kind == "master":
            if name not in self.recipe.masters:
                raise RecipeInvalid(
                    f"{quantity(name).title} is needed but absent. Give a file for it, or derive it first.", master=name
                )
            values = self.value(self.recipe.masters[name], size)
            return self._widened(values, size) if name == "roughness" and self.recipe.facts.keep_shine else values
        key = f"{self.digest(ref)}@{size.width}x{size.height}"
        found = self.cache.get(key)
        if found is None:
            found = self._source(name, rest[0], size) if kind == "source" else self._node(name, size, *rest)
            self.cache.put(key, found)
        if kind == "node" and self.progress is not None and size == self.size:
            self._count(name)
        return found

    def digest(self, ref: str) -> str:
        """Hash of everything a ref depends on: files, operations, parameters, facts. Not the size. Taken once per ref."""
        found = self._digests.get(ref)
        if found is None:
            found = self._digests[ref] = self._digest(ref)
        return found

    def _digest(self, ref: str) -> str:
        kind, name, *rest = ref.split(":")
        if kind == "master":
            return self.digest(self.recipe.masters[name]) if name in self.recipe.masters else "absent"
        if kind == "source":
            source = self.recipe.sources[name]
            frame = self.recipe.frame.model_dump(mode="json") if self.recipe.frame is not None else None
            content = [source.model_dump(mode="json", exclude={"name", "place"}), rest[0], frame, self.recipe.facts.sampling]
        else:
            node = self.recipe.nodes[name]
            operation = OPERATIONS[node.op]
            facts = self.recipe.facts.model_dump(mode="json")
            below = {slot: self.digest(ref) for slot, ref in sorted(node.inputs.items())}
            params = operation.params(**node.params).model_dump(mode="json")
            ratio = [facts["width"], facts["height"]]
            content = [node.op, rest, operation.algorithm, params, [facts[f] for f in operation.facts], ratio, below]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def stored(self, ref: str) -> FloatArray:
        """A source's array at the size of its file, moved by the set's geometry."""
        _, name, quantity_key = ref.split(":")
        key = f"{self.digest(ref)}@own"
        own = self.cache.get(key)
        if own is None:
            source, recipe = self.recipe.sources[name], self.recipe
            read = fitted(read_quantity(source, self.load(source), quantity_key), source.fit, recipe.frame, recipe.facts)
            own = placed(read, recipe.frame, recipe.facts, is_normal=quantity_key == "normal")
            self.cache.put(key, own)
        return own

    def _source(self, name: str, key: str, size: Size) -> FloatArray:
        facts = self.recipe.facts
        own = self.stored(source_ref(name, key))
        sized = resize(own, size, facts.edges, facts.sampling)
        is_mixed = key == "normal" and sized is not own and facts.sampling == "smooth"
        return renormalized(sized) if is_mixed else sized

    def _widened(self, roughness: FloatArray, size: Size) -> FloatArray:
        """``roughness`` with what the given normals lost by shrinking to the set's size; unchanged if they did not shrink."""
        facts, ref = self.recipe.facts, self.recipe.masters.get("normal", "")
        if not ref.startswith("source:") or facts.sampling != "smooth":
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

    def _node(self, name: str, size: Size, output: str | None = None) -> FloatArray:
        node = self.recipe.nodes[name]
        operation = OPERATIONS[node.op]
        params = operation.params(**node.params)
        if output is None:
            return operation.compute(Step(self, node, size), params)
        if output not in operation.makes:
            raise RecipeInvalid(f"node {name} makes {', '.join(operation.makes)} (asked for {output!r}).", node=name)
        return getattr(self.several(name, size), output)

    def several(self, name: str, size: Size) -> Any:
        """All that a node of several outputs makes, as its operation returns it."""
        node = self.recipe.nodes[name]
        operation = OPERATIONS[node.op]
        step = Step(self, node, size)
        params = operation.params(**node.params)
        part = f"all of {node.op}/{operation.algorithm}"
        return step.stage(part, size, lambda: operation.compute(step, params), reads=tuple(node.inputs), by=params)

    def _count(self, name: str) -> None:
        counted: set[str] = self.__dict__.setdefault("_counted", set())
        if name not in counted and self.progress is not None:
            counted.add(name)
            self.progress.advance(OPERATIONS[self.recipe.nodes[name].op].effort)


@dataclass(frozen=True)
class Step:
    """What an operation sees of the evaluation it runs in."""

    evaluation: Evaluation
    node: Node
    size: Size

    @property
    def cancel(self) -> Cancel:
        return self.evaluation.cancel

    @property
    def facts(self) -> Facts:
        return self.evaluation.recipe.facts

    @property
    def working(self) -> Size:
        return self.evaluation.working

    def input(self, slot: str, size: Size) -> FloatArray:
        """Input ``slot`` of the node at ``size``."""
        return self.evaluation.value(self.node.inputs[slot], size)

    def stage(self, part: str, size: Size, compute: Callable[[], Found], *, reads: Sequence[str], by: object = None) -> Found:
        """A part result, shared between nodes, operations and moves.

        Its key is all that it depends on: its own name and version (``"waves/1"``: whoever changes what it computes counts
        up), the parameters ``by`` which it is computed, what feeds the slots that it ``reads``, the edges, and the size.
        """
        inputs = {slot: self.evaluation.digest(self.node.inputs[slot]) for slot in reads}
        key = f"{part}|{by!r}|{inputs}|{self.facts.edges}@{size.width}x{size.height}"
        found = self.evaluation.cache.get(key)
        if found is None:
            self.cancel.check()
            found = compute()
            self.evaluation.cache.put(key, found)
        return found
