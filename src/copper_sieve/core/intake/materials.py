"""What the materials of meshes say of files that came along: which they read, as what, and the values where they read none."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from .folders import lies_at

__all__ = ["MOST_PICTURES", "Corrections", "Hearing", "PictureBeside", "Reading", "ValuesTold", "called_after", "readings_of"]

MOST_PICTURES = 400  # of one mesh that are looked for: of more, no person has made the materials

Corrections = Mapping[str, Mapping[str, float]]  # by what a file is read as, the parameters that correct it
_TELLS_NOTHING = re.compile(r"(material|mat|default|standard|surface|none|unnamed|untitled|lambert|phong|blinn)?[ ._#-]*[0-9]*")


def called_after(material: str, mesh: str, *, is_only: bool) -> str:
    """What the set of a mesh's material is called: as the material, or as the mesh where that is a name that tells nothing.

    Examples
    --------
    >>> called_after("Felt", "hat", is_only=True), called_after("Material.001", "hat", is_only=True)
    ('Felt', 'hat')
    >>> called_after("Material.001", "hat", is_only=False)
    'hat Material.001'
    """
    if not _TELLS_NOTHING.fullmatch(material.casefold()):
        return material
    return mesh if is_only or not material else f"{mesh} {material}"


@dataclass(frozen=True)
class Reading:
    """How materials read one file, together; it is of no one material where several share it.

    ``slots`` are the words of the mesh's format, with the channel after a colon where one is named; ``called`` is what the
    material's set is called; ``is_cut``: the alpha of its color cuts holes. ``corrections`` are what the material makes of the
    maps that it reads, as a recipe's source has them; ``undone`` says in words what else it does.
    """

    slots: tuple[str, ...]
    material: str
    called: str
    is_cut: bool = False
    corrections: Corrections = field(default_factory=dict)
    undone: str = ""


@dataclass(frozen=True)
class PictureBeside:
    """A picture in a file of its own, as one material reads it.

    ``folder`` is the path that the material gives, from the folder on that the mesh came in where that is known, else as it
    stands; empty where there is none.
    """

    name: str
    folder: str
    reading: Reading


@dataclass(frozen=True)
class ValuesTold:
    """The masters that a material has one value for and no picture, in their own units: colors in linear light."""

    material: str
    called: str
    values: Mapping[str, tuple[float, ...]]


@dataclass(frozen=True)
class Hearing:
    """A file as materials may tell of it: its name, the folders that it came in, the set that it belongs to without them."""

    name: str
    folder: str
    set_name: str


def readings_of(files: Sequence[Hearing], pictures: Iterable[PictureBeside]) -> list[tuple[Reading | None, str]]:
    """For each file how materials read it that read these pictures, and the set that it then belongs to.

    Of several files of one name the one counts that lies where the material says; where several lie so, none does.
    What several materials share keeps its set; what none reads goes along with the others of its set, where these are all of
    one material.

    Examples
    --------
    >>> wool = PictureBeside("Wool.png", "", Reading(("map_Kd",), "felt", "felt"))
    >>> found = readings_of([Hearing("wool.png", "", "wool"), Hearing("n.png", "", "wool")], [wool])
    >>> [(reading and reading.slots, set_name) for reading, set_name in found]
    [(('map_Kd',), 'felt'), (None, 'felt')]
    """
    uses: dict[str, list[PictureBeside]] = {}
    for picture in pictures:
        uses.setdefault(picture.name.casefold(), []).append(picture)
    alike: dict[str, list[Hearing]] = {}
    for file in files:
        alike.setdefault(file.name.casefold(), []).append(file)
    readings = [_reading(file, uses.get(file.name.casefold(), []), alike[file.name.casefold()]) for file in files]
    goes_to: dict[str, set[str]] = {}
    for file, reading in zip(files, readings):
        if reading is not None:
            goes_to.setdefault(file.set_name, set()).add(reading.called)
    return [(reading, _set_of(file, reading, goes_to.get(file.set_name, set()))) for file, reading in zip(files, readings)]


def _reading(file: Hearing, uses: Sequence[PictureBeside], alike: Sequence[Hearing]) -> Reading | None:
    """By the ``uses`` of its name; ``alike`` are the files of that name."""
    own = [use for use in uses if len(alike) == 1 or lies_at(file.folder, use.folder)]
    if not own or any(sum(lies_at(other.folder, use.folder) for other in alike) > 1 for use in own):
        return None
    told = [use.reading for use in own]
    slots = tuple(dict.fromkeys(slot for one in told for slot in one.slots))
    is_shared = len({one.called for one in told}) > 1
    material, called = ("", file.set_name) if is_shared else (told[0].material, told[0].called)
    undone, corrections = list(dict.fromkeys(one.undone for one in told if one.undone)), told[0].corrections
    if any(one.corrections != corrections for one in told):
        undone, corrections = [*undone, "each of its materials multiplies it by other numbers"], {}
    return Reading(slots, material, called, any(one.is_cut for one in told), corrections, "; ".join(undone))


def _set_of(file: Hearing, reading: Reading | None, goes_to: set[str]) -> str:
    if reading is not None:
        return reading.called
    return next(iter(goes_to)) if len(goes_to) == 1 else file.set_name
