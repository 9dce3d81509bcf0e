"""Low, high and cage by their names, and a print of a shape by which a change is told."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

import numpy as np

from .shape import Shape

__all__ = ["Paired", "Role", "paired", "print_of", "role_of"]

Role = Literal["low", "high", "cage"]
_WORDS: Mapping[str, Role] = MappingProxyType(
    {
        **dict.fromkeys(("low", "lo", "lowpoly", "lp", "game"), "low"),
        **dict.fromkeys(("high", "hi", "highpoly", "hp", "sculpt"), "high"),
        **dict.fromkeys(("cage", "envelope"), "cage"),
    }
)
_END = re.compile(r"[_\-. ](?P<word>[A-Za-z]+)(?P<rest>[_\-. ]?\d*)$")
_ROUNDED = 1e-6  # of the size, or of the picture: places nearer than that are the same
_ROUNDED_NORMAL, _NO_NUMBER = 1e-4, 1e15


def role_of(name: str) -> tuple[str, Role | None]:
    """A part's name without the word that says what it is for, and that.

    Examples
    --------
    >>> role_of("buckle_high"), role_of("Knopf Ä-low.002"), role_of("clasp")
    (('buckle', 'high'), ('Knopf Ä', 'low'), ('clasp', None))
    """
    found = _END.search(name)
    role = _WORDS.get(found["word"].lower()) if found else None
    return (name[: found.start()], role) if found and role else (name, None)


class Paired(NamedTuple):
    """Parts by the name that they share; and those that have no partner."""

    pairs: dict[str, dict[Role, list[str]]]
    alone: list[str]


def paired(names: Iterable[str]) -> Paired:
    """Parts brought together by name; what has only one side, or no word that says which, is alone.

    Examples
    --------
    >>> found = paired(["buckle_low", "buckle_high", "strap_low"])
    >>> list(found.pairs), found.alone
    (['buckle'], ['strap_low'])
    """
    groups: dict[str, dict[Role, list[str]]] = {}
    alone = []
    shown: dict[str, str] = {}
    for name in names:
        stem, role = role_of(name)
        if role is None:
            alone.append(name)
            continue
        key = stem.casefold()
        shown.setdefault(key, stem)
        groups.setdefault(key, {}).setdefault(role, []).append(name)
    whole = {key: roles for key, roles in groups.items() if {"low", "high"} <= roles.keys()}
    alone += [name for key, roles in groups.items() if key not in whole for names in roles.values() for name in names]
    return Paired({shown[key]: roles for key, roles in whole.items()}, alone)


def print_of(shape: Shape) -> str:
    """SHA-256 of what maps depend on: where the corners of its triangles lie in space and in UV, and their normals.

    How points are numbered, a second UV and tangents do not count, so a mesh written anew has the same.

    Examples
    --------
    >>> one = Shape(np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.arange(3, dtype=np.int32), np.int32([3]))
    >>> turned = Shape(one.points[::-1].copy(), one.corners[::-1].copy(), one.counts)
    >>> print_of(one) == print_of(turned), len(print_of(one))
    (True, 64)
    """
    steps = (max(shape.size, 1e-30) * _ROUNDED, _ROUNDED, _ROUNDED_NORMAL)
    uv = None if shape.uv is None else shape.by_triangle(shape.uv)
    told = hashlib.sha256()
    for values, step in zip((shape.at, uv, shape.by_triangle(shape.shading)), steps):
        told.update(b"-" if values is None else _rounded(values, step).tobytes())
    return told.hexdigest()


def _rounded(values: np.ndarray, step: float) -> np.ndarray:
    numbers = np.nan_to_num(values.astype(np.float64) / step, nan=_NO_NUMBER, posinf=_NO_NUMBER, neginf=_NO_NUMBER)
    return np.rint(np.clip(numbers, -_NO_NUMBER, _NO_NUMBER)).astype(np.int64)
