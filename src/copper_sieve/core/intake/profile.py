"""What a source's files are like, learned from one delivery that a person looked at, so that the next one needs no questions."""

from __future__ import annotations

import os
import re
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from ..errors import RecipeInvalid
from ..recipe.model import Letters, Span
from ..value import Value
from .names import read_name, without_suffix

__all__ = ["Ending", "SourceProfile", "Taught", "learned", "matched"]

_SIZES = re.compile(r"([\s_.\-]+(\d{1,2}k|\d{2,5}(x\d{2,5})?|v\d{1,3}|\d{1,2}bit))+$", re.IGNORECASE)  # 2k, 2048, v02, 16bit
_LEAST_SHARE = 0.8  # of a drop's files must end as the profile knows; the rest is then told as usual
_LEAST_FILES = 2
_SEPARATORS = " _-."


def _telling(file_name: str) -> str:
    """A name without its format and what stands apart at its end: sizes, versions, depths."""
    return _SIZES.sub("", without_suffix(file_name))


class Ending(Value):
    """What a file with a certain ending is."""

    kind: str
    reads: dict[Letters, str]
    spans: dict[Letters, Span] = {}


class SourceProfile(Value):
    """Endings as the source spells them, separator and case included, and which way its green points."""

    schema_: Literal[1] = Field(default=1, alias="schema")
    name: str = Field(min_length=1, max_length=80)
    endings: dict[str, Ending] = Field(min_length=1)
    green: Literal["up", "down"] | None = None

    def ending(self, file_name: str) -> str | None:
        """The longest known ending of a file's name, or None."""
        text = _telling(file_name)
        return max((e for e in self.endings if text.endswith(e) and len(e) < len(text)), key=len, default=None)


@dataclass(frozen=True)
class Taught:
    """One file as a person agreed to it."""

    file_name: str
    ending: Ending
    green: Literal["up", "down"] | None = None


def learned(name: str, sets: Sequence[Sequence[Taught]]) -> SourceProfile:
    """The profile of a source from sets of its files. Where files share an ending the last counts; green is the normals'.

    An ending is the word the name is recognized by, else what the names of a set's files do not have in common.
    Raises RecipeInvalid when no name has an ending that would tell.
    """
    endings = {ending: row for files in sets for ending, row in _endings(files).items()}
    if not endings:
        raise RecipeInvalid("nothing to learn: these names have no ending that tells one map from another.")
    normals = [file for files in sets for file in files if "normal" in file.ending.reads.values()]
    greens: set[Literal["up", "down"]] = {file.green for file in normals if file.green is not None}
    return SourceProfile(name=name, endings=endings, green=greens.pop() if len(greens) == 1 else None)


def _endings(files: Sequence[Taught]) -> dict[str, Ending]:
    names = [_telling(file.file_name) for file in files]
    common = os.path.commonprefix(names) if len(files) > 1 else ""  # noqa: RUF071 — letters, not folders
    if any(name[len(common) :][:1].isalnum() for name in names):  # the names part within a word: that word tells
        common = re.sub(r"[^\W_]+$", "", common)
    common = common.rstrip("_-. ")
    endings = {}
    for file in files:
        text, stem = _telling(file.file_name), read_name(file.file_name).stem
        is_recognized = 0 < len(stem) < len(text)
        ending = text[len(stem) :] if is_recognized else text[len(common) :] if common else ""
        if ending and ending != text:
            endings[ending] = file.ending
    return endings


def matched(profiles: Iterable[SourceProfile], file_names: Sequence[str]) -> dict[str, SourceProfile]:
    """The profile of each file of a drop, for groups of files that share ways; a drop may hold several sources' files.

    A group is what a profile knows and all else that is named after the same sets: nearly all of it must be known. The
    profile that knows most chooses first.
    """
    found: dict[str, SourceProfile] = {}
    waiting, left = list(profiles), list(dict.fromkeys(file_names))
    while waiting:
        groups = [(profile, *_group(profile, left)) for profile in waiting]
        best, known, group = max(groups, key=lambda row: len(row[1]))
        waiting.remove(best)
        if len(known) >= max(_LEAST_FILES, _LEAST_SHARE * len(group)):
            found |= dict.fromkeys(group, best)
            left = [name for name in left if name not in found]
    return found


def _group(profile: SourceProfile, names: Sequence[str]) -> tuple[list[str], list[str]]:
    """Names that a profile knows, and those of the same sets."""
    endings = {name: ending for name in names if (ending := profile.ending(name)) is not None}
    stems = {_telling(name).removesuffix(ending).rstrip(_SEPARATORS) for name, ending in endings.items()}
    same = [name for name in names if name in endings or _begins_with(_telling(name), stems)]
    return list(endings), same


def _begins_with(text: str, stems: Collection[str]) -> bool:
    """Whether a name is one of the stems with a word behind."""
    at = (k for k in range(len(text)) if text[k] in _SEPARATORS)
    return any(text[:k] in stems for k in at)
