"""Walk a recipe: compute only what is asked for, once, at the size asked for."""

from __future__ import annotations

import hashlib
import json
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..bands import Cancel
from ..convert.corrections import corrected
from ..convert.normals import widened
from ..convert.steps import without_steps
from ..errors import RecipeInvalid
from ..filters import resize
from ..operation import Fact, Operation, Part, takes_cancel
from ..operations import OPERATIONS
from ..params import Params
from ..quantities import quantity
from ..raster import FloatArray, Gray, Sampling, Size, set_size
from ..vectors import renormalized
from .cache import Cache
from .model import Node, Recipe, Source
from .placement import fitted, placed
from .refs import Ref, master_ref, node_ref
from .sources import read_quantity
from .steps import operation_of, params_of

__all__ = ["WORKING_PX", "Evaluation", "Progress"]

WORKING_PX = 512  # whole-picture statistics are taken here, whatever size is asked for


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
    _digests: dict[Ref, str] = field(default_factory=dict, repr=False)

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
        return self.value(master_ref(key), self.size) if key in self.recipe.masters else None

    def effort(self, keys: tuple[str, ...]) -> int:
        """Work that ``master`` for all ``keys`` will report to progress, counting what they share once."""
        nodes: set[str] = set()
        waiting = [master_ref(key) for key in keys]
        while waiting:
            ref = waiting.pop()
            if ref.kind == "node":
                if ref.name in nodes:
                    continue
                nodes.add(ref.name)
            waiting += self.recipe.below(ref)
        return sum(OPERATIONS[self.recipe.nodes[name].op].effort for name in nodes)

    def value(self, ref: Ref, size: Size) -> FloatArray:
        """Array of any ref at any size, from the cache when it is there."""
        self.cancel.check()
        if ref.kind == "master":
            if ref.name not in self.recipe.masters:
                title = quantity(ref.name).title
                raise RecipeInvalid(f"{title} is needed but absent. Give a file for it, or derive it first.", master=ref.name)
            values = self.value(self.recipe.masters[ref.name], size)
            return self._widened(values, size) if ref.name == "roughness" and self.recipe.facts.keep_shine else values
        key = f"{self.digest(ref)}@{size.width}x{size.height}"
        found = self._kept(key, lambda: self._source(ref, size) if ref.kind == "source" else self._node(ref, size))
        if ref.kind == "node" and self.progress is not None and size == self.size:
            self._count(ref.name)
        return found

    def digest(self, ref: Ref) -> str:
        """Hash of everything a ref depends on: files, operations, parameters, facts. Not the size. Taken once per ref."""
        found = self._digests.get(ref)
        if found is None:
            found = self._digests[ref] = self._digest(ref)
        return found

    def _digest(self, ref: Ref) -> str:
        recipe = self.recipe
        if ref.kind == "master":
            return self.digest(recipe.masters[ref.name]) if ref.name in recipe.masters else "absent"
        if ref.kind == "source":
            told = recipe.sources[ref.name].corrections.get(str(ref.part), {})
            content = [self._stored_digest(ref), told, recipe.facts.edges.model_dump(mode="json") if told else None]
        else:
            node = recipe.nodes[ref.name]
            operation, params = operation_of(node), params_of(node).model_dump(mode="json")
            facts = recipe.facts.model_dump(mode="json", include=set(operation.depends_on))
            below = {slot: self.digest(ref) for slot, ref in sorted(node.inputs.items())}
            ratio = [recipe.facts.width, recipe.facts.height]
            content = [operation.key, operation.number, ref.part, params, facts, ratio, below]
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def _stored_digest(self, ref: Ref) -> str:
        """Hash of what ``stored`` depends on: corrections come after it, so that they cost no reading anew."""
        recipe, source = self.recipe, self.recipe.sources[ref.name]
        frame = recipe.frame.model_dump(mode="json") if recipe.frame is not None else None
        content = [source.model_dump(mode="json", exclude={"name", "place", "corrections"}), ref.part, frame]
        content.append(self._sampling(source))
        content.append(recipe.facts.edges.model_dump(mode="json") if source.smooth_steps else None)
        return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

    def _sampling(self, source: Source) -> Sampling:
        return source.sampling or self.recipe.facts.sampling

    def stored(self, ref: Ref) -> FloatArray:
        """A source's array at the size of its file, moved by the set's geometry, before its corrections."""
        source, recipe, held = self.recipe.sources[ref.name], self.recipe, str(ref.part)

        def read() -> FloatArray:
            values = self._without_steps(source, held, read_quantity(source, self.load(source), held))
            values = fitted(values, source.fit, recipe.frame, recipe.facts)
            return placed(values, recipe.frame, self._sampling(source), is_normal=held == "normal")

        return self._kept(f"{self._stored_digest(ref)}@own", read)

    def _without_steps(self, source: Source, held: str, values: FloatArray) -> FloatArray:
        if not source.smooth_steps or held != "height":
            return values
        edges = (self.recipe.frame or self.recipe.facts).edges
        return without_steps(values, source.step_of(held), edges, cancel=self.cancel)

    def _source(self, ref: Ref, size: Size) -> FloatArray:
        told = self.recipe.sources[ref.name].corrections.get(str(ref.part), {})
        sized = self._kept(f"{self._stored_digest(ref)}@{size.width}x{size.height}", lambda: self._sized(ref, size))
        row = quantity(str(ref.part))
        return corrected(sized, quantity(row.master or row.key), self.recipe.facts.edges, told) if told else sized

    def _sized(self, ref: Ref, size: Size) -> FloatArray:
        own, sampling = self.stored(ref), self._sampling(self.recipe.sources[ref.name])
        sized = resize(own, size, self.recipe.facts.edges, sampling)
        is_mixed = ref.part in ("normal", "object_normal") and sized is not own and sampling == "smooth"
        return renormalized(sized) if is_mixed else sized

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
        return self._kept(f"{self._stored_digest(ref)} {what}", compute)

    def _kept(self, key: str, compute: Callable[[], Any]) -> Any:
        self.cancel.check()
        return self.cache.kept(key, compute, self.cancel)

    def _count(self, name: str) -> None:
        counted: set[str] = self.__dict__.setdefault("_counted", set())
        if name not in counted and self.progress is not None:
            counted.add(name)
            self.progress.advance(OPERATIONS[self.recipe.nodes[name].op].effort)


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
        return self._called(self.operation.make, values, {**told, "params": self.params})

    def part(self, part: Part, size: Size) -> Any:
        """A part of the operation at ``size``, from the cache when it is there; None where its parameters do not ask for it."""
        if not part.is_needed(self.params):
            return None
        if part.is_measured:
            size = self.evaluation.working

        def compute() -> Any:
            values = [self._value(wanted, size) for wanted in part.of]
            return self._called(part.make, values, {**self._facts(part.facts, size), **self._told(part)})

        return self.evaluation._kept(self._key(part, size), compute) if part.is_kept else compute()

    def _value(self, wanted: str | Part, size: Size) -> Any:
        if isinstance(wanted, Part):
            return self.part(wanted, size)
        ref = self.node.inputs.get(wanted)  # only an optional slot may be empty: the recipe was checked
        return None if ref is None else self.evaluation.value(ref, size)

    def _called(self, make: Callable[..., Any], values: list[Any], told: dict[str, Any]) -> Any:
        return make(*values, **told, **({"cancel": self.evaluation.cancel} if takes_cancel(make) else {}))

    def _facts(self, names: Sequence[Fact], size: Size) -> dict[str, Any]:
        return {name: size if name == "size" else getattr(self.evaluation.recipe.facts, name) for name in names}

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
        return f"{wanted} {self.evaluation.digest(self.node.inputs[wanted])}"
