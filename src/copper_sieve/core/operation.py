"""What the declaration of an operation says. Everything else that is known of an operation follows from it.

A declaration is data beside the function that it names. From it come the check of a recipe, the origins that a master can
have, the keys of the cache, the sentence of a step, the controls on screen and the tests that run over all operations.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal

from .errors import RecipeInvalid
from .params import Params
from .quantities import quantity

__all__ = [
    "Fact",
    "Feed",
    "Gone",
    "Operation",
    "Part",
    "Slot",
    "USUAL_REACH",
    "any_gray",
    "given",
    "mask",
    "master",
    "mixed_in",
    "read_as",
    "takes_cancel",
]

# Of the set; ``size`` is the one that is computed at, ``tiles`` the numbers of the tiles that lie one below the other in what
# is measured of a whole set in tiles, none where there are no tiles.
Fact = Literal["rise", "edges", "size", "tiles"]
USUAL_REACH = 1 / 16  # of the width: what an operation that reads a neighborhood sees of the tiles that touch
# What feeds a slot: the set's master; a file that is read as exactly that; the master as its file gives it, whatever is made
# of it since; a gray of a person's own, else the opacity; whatever a person mixes in; a gray that limits.
Feed = Literal["master", "file", "given", "gray", "mixed", "mask"]


@dataclass(frozen=True)
class Slot:
    """One input: its name, what feeds it, and of which quantity (None: any, of as many components as its fellows)."""

    key: str
    feed: Feed
    quantity: str | None = None
    is_optional: bool = False

    @property
    def components(self) -> int | None:
        """How many components are taken, None for as many as the other input has."""
        if self.quantity is not None:
            return quantity(self.quantity).channels
        return 1 if self.feed in ("gray", "mask") else None


def master(key: str, of: str | None = None) -> Slot:
    """A slot that the set's master ``of`` feeds; by default the one that it is named for."""
    return Slot(key, "master", of or key)


def read_as(key: str, of: str | None = None) -> Slot:
    """A slot that a file feeds which is read as ``of``."""
    return Slot(key, "file", of or key)


def given(key: str, of: str | None = None) -> Slot:
    """A slot that takes the master ``of`` as its file gives it, so that an operation may rework a map that is given."""
    return Slot(key, "given", of)


def any_gray(key: str) -> Slot:
    """A slot for a gray of a person's own."""
    return Slot(key, "gray")


def mixed_in(key: str, of: str | None = None) -> Slot:
    """A slot for the other map of a mix."""
    return Slot(key, "mixed", of)


def mask(key: str = "mask") -> Slot:
    """A slot for a gray that limits a mix; it may stay empty."""
    return Slot(key, "mask", is_optional=True)


def _always(params: Any) -> bool:
    return True


def _usual_reach(params: Any) -> float:
    return USUAL_REACH


@dataclass(frozen=True)
class Part:
    """A result on the way, kept between the moves of a control and shared by all operations that name it.

    ``make`` gets the values ``of`` which it is made, in their order, and by name the ``facts`` and those parameters ``by``
    which it is made, and nothing else: so the key that these make up cannot forget what the result depends on.
    Whoever changes what it computes counts up the number in ``key``.
    """

    key: str
    make: Callable[..., Any]
    of: tuple[str | Part, ...]
    by: tuple[str, ...] = ()
    facts: tuple[Fact, ...] = ()
    is_measured: bool = False  # of the whole picture, at the working size, so that every size agrees; over all tiles
    is_of_tile: bool = False  # of each tile by itself where it is measured, as it is a map and no statistic
    merge: Callable[[Sequence[Any]], Any] | None = None  # brings together what was made of each tile
    is_needed: Callable[[Any], bool] = _always  # by these parameters; else None stands in its place
    is_kept: bool = True


@dataclass(frozen=True)
class Gone:
    """A number of an operation whose computation is no longer there, and what it was called."""

    number: int
    was: str


@dataclass(frozen=True)
class Operation:
    """One step that a recipe may hold.

    ``make`` is called as ``make(*of, **facts, params=params, cancel=cancel)``, where ``of`` names slots and parts (all slots
    by default) and an empty slot is None; ``cancel`` only where it takes one. Of several ``outputs`` it returns an object with
    an attribute for each; none at all means that it makes what it is fed.

    ``number`` counts how the formula, or a default, has changed. ``older`` holds the ways before: the ones that are still
    there as operations of their own with ``was``, the name they go by now, and the ones that are gone.

    ``reach`` says how far around a texel it looks with these parameters, as a share of the width; asked only where it depends
    on the edges, as only then it looks around at all.
    """

    key: str
    title: str
    make: Callable[..., Any]
    params: type[Params]
    slots: tuple[Slot, ...]
    outputs: tuple[str, ...]
    of: tuple[str | Part, ...] | None = None
    facts: tuple[Fact, ...] = ()
    effort: int = 1  # nanoseconds a texel / 10 on two cores, by `python -m bench.efforts`: for progress, and how long it takes
    number: int = 1
    was: str = ""
    older: tuple[Operation | Gone, ...] = ()
    reach: Callable[[Any], float] = _usual_reach

    def __post_init__(self) -> None:
        unknown = {name for name in self._named() if name not in {slot.key for slot in self.slots}}
        if unknown:
            raise ValueError(f"{self.key} is made of {', '.join(sorted(unknown))}, which is none of its slots")

    @property
    def takes(self) -> tuple[str | Part, ...]:
        """What ``make`` is handed, in order."""
        return tuple(slot.key for slot in self.slots) if self.of is None else self.of

    @property
    def parts(self) -> tuple[Part, ...]:
        """Every part that it stands on, however deep."""
        return tuple(dict.fromkeys(_parts(self.takes)))

    @property
    def depends_on(self) -> tuple[Fact, ...]:
        """Every fact of the set that the result depends on, its size and its tiles apart."""
        facts: dict[Fact, None] = dict.fromkeys((*self.facts, *(fact for part in self.parts for fact in part.facts)))
        return tuple(fact for fact in facts if fact not in ("size", "tiles"))

    @property
    def reworks_given(self) -> bool:
        """Whether it takes the map that it makes as a file gives it."""
        return any(slot.feed == "given" for slot in self.slots)

    @property
    def mixes(self) -> tuple[Slot, Slot] | None:
        """The slots of the given map and of the one that is mixed in, None unless it is a mix."""
        own = next((slot for slot in self.slots if slot.feed == "given"), None)
        other = next((slot for slot in self.slots if slot.feed == "mixed"), None)
        return (own, other) if own is not None and other is not None else None

    def slot(self, key: str) -> Slot | None:
        """One slot by its name."""
        return next((slot for slot in self.slots if slot.key == key), None)

    def measured(self, name: str) -> Part:
        """The part that is called ``name``, whatever its number and kind."""
        return next(part for part in self.parts if part.key.split("/")[0].startswith(name))

    def at(self, number: int) -> Operation:
        """The operation as it was at ``number``; the newest where that is gone. Raises RecipeInvalid for what never was."""
        if not 1 <= number <= self.number:
            ways = "one way" if self.number == 1 else f"{self.number} ways"
            raise RecipeInvalid(f"there is {ways} of {self.key} (got number {number}); a newer program made it.")
        return next((way for way in self.older if isinstance(way, Operation) and way.number == number), self)

    @property
    def ways(self) -> tuple[Operation, ...]:
        """Every way that is still there, the newest first."""
        return (self, *(way for way in self.older if isinstance(way, Operation)))

    def older_name(self, number: int) -> str | None:
        """What the way of that number is called, None for the newest."""
        return next((way.was for way in self.older if way.number == number), None)

    def _named(self) -> Iterator[str]:
        for group in (self.takes, *(part.of for part in self.parts)):
            yield from (name for name in group if isinstance(name, str))


def _parts(group: tuple[str | Part, ...]) -> Iterator[Part]:
    for part in group:
        if isinstance(part, Part):
            yield part
            yield from _parts(part.of)


@cache
def takes_cancel(make: Callable[..., Any]) -> bool:
    """Whether a function polls a flag while it works."""
    return "cancel" in inspect.signature(make).parameters
