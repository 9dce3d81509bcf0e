"""Pictures that show a material beside its maps: called as the set itself, or by a word for such pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .candidate import Candidate
from .names import without_suffix, words_of_thing

__all__ = ["Shown", "previews"]

_COLORS = ("base_color", "diffuse", "shaded_color")
_LEAST_MAPS = 3  # from which a set is whole enough that another picture of its name is none of its maps


@dataclass(frozen=True)
class Shown:
    """The set that a picture shows, and which of the files gives that set its color."""

    set_name: str
    color: int


def previews(files: Sequence[Candidate]) -> dict[int, Shown]:
    """Files, by their number, that are no maps but show a set among the others.

    Such a picture's name says no map; sizes and words such as “preview” apart it is called as a set that has a color and at least
    two more maps by their names, in its folder or below it. One that is called “preview” and nothing else shows the only set
    there. Without such a word it is in color: a gray one may be a map.
    """
    colors: dict[tuple[str, str], int] = {}
    maps: dict[tuple[str, str], set[str]] = {}
    for k, file in enumerate(files):
        at = file.set_name, file.folder
        if file.is_named:
            maps.setdefault(at, set()).update(file.maps)
            if file.maps & set(_COLORS):
                colors.setdefault(at, k)
    whole = {at: k for at, k in colors.items() if len(maps[at]) >= _LEAST_MAPS}
    called: dict[tuple[str, ...], list[tuple[str, str]]] = {}
    for at in whole:
        called.setdefault(words_of_thing(at[0])[0], []).append(at)
    found: dict[int, Shown] = {}
    for k, file in enumerate(files):
        if file.kind not in ("photo", "unknown") or file.is_named or file.is_set_told:
            continue
        words, is_called_so = words_of_thing(without_suffix(file.name))
        if not is_called_so and (not words or file.kind != "photo"):
            continue
        alike = [at for at in (called.get(words, ()) if words else whole) if _is_within(at[1], file.folder)]
        if len(alike) == 1:
            found[k] = Shown(alike[0][0], whole[alike[0]])
    return found


def _is_within(folder: str, above: str) -> bool:
    return folder == above or above == "" or folder.startswith(f"{above}/")
