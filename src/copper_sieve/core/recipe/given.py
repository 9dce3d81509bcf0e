"""What the files of a set give: read, moved by the set's geometry, brought to a size and corrected, each once."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..bands import Cancel
from ..convert.corrections import corrected
from ..convert.steps import without_steps
from ..filters import resize
from ..prepare.steps import NOWHERE, GeometryStep, active, counts_texels, effort_of, is_prepared, size_after
from ..quantities import quantity
from ..raster import FloatArray, Sampling, Size
from ..vectors import renormalized
from .cache import Cache
from .model import Frame, Recipe, Source
from .placement import fitted, kind_of, placed
from .refs import Ref
from .sources import read_quantity

__all__ = ["Given"]

_VECTORS = ("normal", "object_normal")
_READ_BYTES = 24  # a texel of a file: its codes and what is made of them
_READING = 1  # effort of a channel of a file
_KEPT_BETWEEN = 1 << 26  # bytes of a map up to which what each step gives is kept: what a person looks at, not what is delivered
_SMALL = 0.5  # of the set's size: at and under it, what is prepared is prepared small


@dataclass(frozen=True)
class Given:
    """The sources of a recipe. ``load`` returns a source's codes as stored, upright and in sRGB if colored."""

    recipe: Recipe
    load: Callable[[Source], np.ndarray]
    cache: Cache
    cancel: Cancel

    def digest(self, ref: Ref) -> str:
        """Hash of everything that a source's array depends on, its size apart."""
        told = self._source(ref).corrections.get(str(ref.part), {})
        return _hash(self.stored_digest(ref), told, self.recipe.facts.edges.model_dump(mode="json") if told else None)

    def stored_digest(self, ref: Ref) -> str:
        """Hash of what ``stored`` depends on: corrections come after it, so that they cost no reading anew."""
        frame = self.recipe.frame
        return _hash(self.read_digest(ref), frame.model_dump(mode="json") if frame is not None else None)

    def read_digest(self, ref: Ref) -> str:
        """Hash of what a file's array depends on before it is moved: so that a step that changes costs no reading anew."""
        recipe, source, whole = self.recipe, self._source(ref), self._whole
        content = source.model_dump(mode="json", exclude={"name", "place", "corrections", "tile", "beside", "baked"})
        if source.primaries == "rec709":  # as it was before others could be told
            del content["primaries"]
        if not source.black_is_flat:  # likewise
            del content["black_is_flat"]
        edges = whole.edges.model_dump(mode="json") if source.smooth_steps else None
        shape = [whole.width, whole.height] if source.fit == "crop" else None
        return _hash(content, ref.part, source.sampling or recipe.facts.sampling, edges, shape)

    def value(self, ref: Ref, size: Size) -> FloatArray:
        """A source's array at a size, corrected."""
        told = self._source(ref).corrections.get(str(ref.part), {})
        sized = self._kept(f"{self.stored_digest(ref)}@{size.width}x{size.height}", lambda: self._sized(ref, size))
        row = quantity(str(ref.part))
        return corrected(sized, quantity(row.master or row.key), self.recipe.facts.edges, told) if told else sized

    def effort(self, ref: Ref) -> int:
        """Work of reading a source and moving it, in the unit of an operation's effort."""
        channels = quantity(str(ref.part)).channels
        return channels * _READING + effort_of(self._whole.steps, channels)

    def stored(self, ref: Ref) -> FloatArray:
        """A source's array at the size of its file, moved by the set's geometry, before its corrections."""
        if not active(self._whole.steps):
            return self.read(ref)
        return self._kept(f"{self.stored_digest(ref)}@own", lambda: self._placed(self.read(ref), ref))

    def _sized(self, ref: Ref, size: Size) -> FloatArray:
        sampling = self._sampling(ref)
        own = self._stored_small(ref, size) if self._may_be_small(size, sampling) else self.stored(ref)
        sized = resize(own, size, self.recipe.facts.edges, sampling)
        return renormalized(sized) if ref.part in _VECTORS and sized is not own and sampling == "smooth" else sized

    def _may_be_small(self, size: Size, sampling: Sampling) -> bool:
        """Whether preparing a small picture gives what the large one, made small, would show."""
        steps, facts = self._whole.steps, self.recipe.facts
        is_small = max(size.width, size.height) <= _SMALL * max(facts.width, facts.height)
        return is_small and sampling == "smooth" and is_prepared(steps) and not counts_texels(steps)

    def _stored_small(self, ref: Ref, size: Size) -> FloatArray:
        """The source read, made so small that its steps give about ``size``, and moved."""
        whole = self._whole
        after = size_after(Size(whole.width, whole.height), whole.steps)
        scale = max(size.width / after.width, size.height / after.height)
        wanted = Size(max(1, round(whole.width * scale)), max(1, round(whole.height * scale)))

        def small() -> FloatArray:
            values = self.read(ref)
            if values.shape[0] <= wanted.height or values.shape[1] <= wanted.width:
                return values
            made = resize(values, wanted, whole.edges)
            return renormalized(made) if ref.part in _VECTORS else made

        read = self._kept(f"{self.read_digest(ref)} read@{wanted.width}x{wanted.height}", small)
        return self._placed(read, ref)

    def read(self, ref: Ref) -> FloatArray:
        """A source's array as its file gives it, in the shape of the set's files."""
        return self._kept(f"{self.read_digest(ref)} read", lambda: self._decoded(ref))

    def _decoded(self, ref: Ref) -> FloatArray:
        source, held = self._source(ref), str(ref.part)
        with self.cache.room(_READ_BYTES * source.width * source.height, self.cancel):
            values = read_quantity(source, self.load(source), held)
        if source.smooth_steps and held == "height":
            values = without_steps(values, source.step_of(held), self._whole.edges, cancel=self.cancel)
        return fitted(values, source.fit, self.recipe.frame, self.recipe.facts)

    def _placed(self, values: FloatArray, ref: Ref) -> FloatArray:
        steps, sampling = self._whole.steps, self._sampling(ref)
        came = _hash(self.read_digest(ref), values.shape, counts_texels(steps), self._whole.edges.model_dump(mode="json"))
        between = _Between(self.cache, came, self.cancel)
        told = {"between": between if values.nbytes <= _KEPT_BETWEEN else NOWHERE, "cancel": self.cancel}
        with self.cache.room(2 * values.nbytes, self.cancel):
            made = placed(values, self.recipe.frame, sampling, kind_of(str(ref.part)), **told)
        is_mixed = ref.part == "object_normal" and is_prepared(steps) and sampling == "smooth"
        return renormalized(made) if is_mixed else made

    def _source(self, ref: Ref) -> Source:
        return self.recipe.sources[ref.name]

    def _sampling(self, ref: Ref) -> Sampling:
        return self._source(ref).sampling or self.recipe.facts.sampling

    @property
    def _whole(self) -> Frame:
        facts = self.recipe.facts
        return self.recipe.frame or Frame(width=facts.width, height=facts.height, edges=facts.edges)

    def _kept(self, key: str, compute: Callable[[], Any]) -> Any:
        self.cancel.check()
        return self.cache.kept(key, compute, self.cancel)


@dataclass(frozen=True)
class _Between:
    """What a source is after the first of its steps, in the cache."""

    cache: Cache
    came: str
    cancel: Cancel

    def _key(self, steps: tuple[GeometryStep, ...]) -> str:
        return f"{self.came} after {_hash([step.model_dump(mode='json') for step in steps])}"

    def get(self, steps: tuple[GeometryStep, ...]) -> FloatArray | None:
        return self.cache.get(self._key(steps))

    def kept(self, steps: tuple[GeometryStep, ...], make: Callable[[], FloatArray]) -> FloatArray:
        return self.cache.kept(self._key(steps), make, self.cancel)


def _hash(*content: Any) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
