"""One map as a file of its own, without a target: what it can be written as, and how it is stored."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal

from ..errors import UnknownKey
from ..quantities import Quantity, quantity
from .formats import depth_said
from .model import Target

__all__ = ["STORED", "Writing", "lone_target", "writings_of"]

_LETTERS = {1: "L", 3: "RGB"}


@dataclass(frozen=True)
class Writing:
    """What a map is written as; ``word`` says it in the file's name, so that it is read back as it was meant."""

    key: str
    title: str
    quantity: str
    word: str
    green: Literal["up", "down"] = "up"
    needs: tuple[str, ...] = ()  # masters without which it says no more than the map itself
    alpha: str | None = None


@dataclass(frozen=True)
class Stored:
    """How a file holds it."""

    format: str
    depth: int
    sample: str

    @property
    def title(self) -> str:
        return f"{self.format.upper()}, {depth_said(self.depth, self.sample)}"


STORED: Mapping[str, Stored] = MappingProxyType(
    {
        "png-8": Stored("png", 8, "uint"),
        "png-16": Stored("png", 16, "uint"),
        "tiff-16": Stored("tiff", 16, "uint"),
        "exr-32": Stored("exr", 32, "float"),
    }
)
_OTHERS: Mapping[str, tuple[Writing, ...]] = MappingProxyType(
    {
        "normal": (
            Writing("normal-up", "Normal, Y+", "normal", "normal_yplus"),
            Writing("normal-down", "Normal, Y−", "normal", "normal_yminus", green="down"),
        ),
        "base_color": (
            Writing("base_color", "Base color", "base_color", "basecolor"),
            Writing("with-opacity", "Opacity in its alpha", "base_color", "basecolor", needs=("opacity",), alpha="opacity"),
            Writing("diffuse", "Diffuse", "diffuse", "diffuse", needs=("metallic",)),
            Writing("specular", "Specular", "specular", "specular", needs=("metallic",)),
        ),
        "roughness": (
            Writing("roughness", "Roughness", "roughness", "roughness"),
            Writing("gloss", "Gloss", "gloss", "gloss"),
        ),
    }
)


def writings_of(master: str, known: Collection[str]) -> tuple[Writing, ...]:
    """What a master can be written as, the plain way first; ``known`` are the masters that the set has.

    Examples
    --------
    >>> [way.title for way in writings_of("roughness", ["roughness"])]
    ['Roughness', 'Gloss']
    >>> [way.key for way in writings_of("base_color", ["base_color", "opacity"])]
    ['base_color', 'with-opacity']
    """
    row = quantity(master)
    ways = _OTHERS.get(master, (Writing(master, row.title, master, master.removeprefix("own_").replace("_", "")),))
    return tuple(way for way in ways if set(way.needs) <= set(known))


def lone_target(way: Writing, stored: str) -> Target:
    """The target whose one file is this map, at the set's own size. Raises UnknownKey for a way of storing that is none.

    Examples
    --------
    >>> (file,) = lone_target(writings_of("height", ["height"])[0], "png-16").files
    >>> file.format, file.depth, "".join(file.channels)
    ('png', 16, 'L')
    """
    if stored not in STORED:
        raise UnknownKey("way of storing", stored, list(STORED))
    how, row = STORED[stored], quantity(way.quantity)
    channels = {letter: _channel(row, component) for letter, component in zip(_LETTERS[row.channels], row.components)}
    if way.alpha is not None:
        channels["A"] = {"quantity": way.alpha}
    color = "data" if row.color == "data" else "linear" if how.sample == "float" else "srgb"
    told = {"role": "map", "title": way.title, "word": way.word, "name": [{"part": "set"}, "_", {"part": "map"}]}
    file = {**told, "format": how.format, "depth": how.depth, "sample": how.sample, "color": color, "channels": channels}
    whole = {"key": "one-map", "title": way.title, "workflow": "metallic", "green": way.green, "files": [file]}
    return Target.model_validate(whole)


def _channel(row: Quantity, component: str) -> dict[str, Any]:
    return {"quantity": row.key} if row.channels == 1 else {"quantity": row.key, "component": component}
