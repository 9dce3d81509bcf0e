"""The hand-over note: what a person who wires the files has to know, told from the target's table and the set's facts."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from html import escape
from itertools import groupby
from typing import Any, Literal

import numpy as np

from ..color import srgb_from_linear
from ..quantities import quantity
from ..tiles import runs
from .encode import feeds
from .meters import holds_meters, meters_of
from .model import Channel, Target, TargetFile

__all__ = ["Claim", "Handed", "Note", "hand_over"]

_LETTERS = {"L": "The gray", "R": "Red", "G": "Green", "B": "Blue", "A": "Alpha"}
_COLOR = {
    "srgb": "Read it as color (sRGB).",
    "linear": "It holds linear light: switch sRGB handling off.",
    "data": "Read it as raw data: switch all color handling off.",
}
_HEIGHT = {
    "displacement": "Height moves the surface",
    "parallax": "Height shifts what is seen (parallax)",
    "blending": "Height only says which ground lies on top where materials blend",
}
_WITH_PLANE = ("gltf", "glb", "obj", "usd")  # documents that hold something to wear the maps
_USUAL_REFLECTANCE = 0.04
_SHINE = {"roughness", "gloss", "roughness_squared", "shine_power"}


_STYLE = "body{font:16px/1.5 sans-serif;max-width:46em;margin:2em auto;padding:0 1em}li,dd{margin-bottom:.5em}dt{font-weight:700}"


@dataclass(frozen=True)
class Claim:
    """What one sentence of a note says of one file (``role``, "" of the whole), in a form that can be held against it."""

    id: Literal[
        "color",
        "primaries",
        "green",
        "unit-range",
        "channel",
        "always",
        "reflectance",
        "meters",
        "share",
        "tiled",
        "holes",
        "no-holes",
    ]
    role: str
    numbers: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Note:
    """A title, ordered steps, how it looks when something is wired wrong, and what all that claims of the files."""

    title: str
    about: str
    steps: tuple[str, ...]
    wrong: tuple[tuple[str, str], ...]
    claims: tuple[Claim, ...] = ()

    def markdown(self) -> str:
        """The note as Markdown."""
        steps = [f"{k}. {step}" for k, step in enumerate(self.steps, 1)]
        wrong = [f"- **{looks}**: {why}" for looks, why in self.wrong]
        return "\n".join(
            [f"# {self.title}", "", self.about, "", "## Steps", "", *steps, "", "## If it looks wrong", "", *wrong, ""]
        )

    def html(self) -> str:
        """The note as one HTML page that needs nothing else."""
        steps = "".join(f"<li>{escape(step)}</li>" for step in self.steps)
        wrong = "".join(f"<dt>{escape(looks)}</dt><dd>{escape(why)}</dd>" for looks, why in self.wrong)
        return (
            f'<!doctype html><html lang="en"><meta charset="utf-8"><title>{escape(self.title)}</title><style>{_STYLE}</style>'
            f"<h1>{escape(self.title)}</h1><p>{escape(self.about)}</p><ol>{steps}</ol>"
            f"<h2>If it looks wrong</h2><dl>{wrong}</dl></html>\n"
        )


@dataclass(frozen=True)
class Handed:
    """What of a set a note is told.

    Parameters
    ----------
    names : file name by role, of what was written; files that were left out are not mentioned
    rise : from the lowest to the highest point, as a share of the tile's width, and ``rise_known`` how that is known
    tile_size : width of the tile in meters, or None where it is not known
    has_holes : whether the set's opacity says so anywhere
    worn_by : the mesh that documents show it on, None for a plane
    is_padded : whether maps go on beyond the islands of that mesh
    tiles : UDIM numbers of a set in tiles; the names then have <UDIM> in the place of the number
    emissive_strength : what the emissive file has to be multiplied by
    fills : channels that hold one value because the set has nothing for them, as sentences by role
    made : of what maps are made that no file gives as they are, by master
    """

    names: Mapping[str, str]
    set_name: str
    rise: float
    rise_known: str = ""
    tile_size: float | None = None
    has_holes: bool = False
    emissive_strength: float = 1.0
    fills: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    made: Mapping[str, str] = field(default_factory=dict)
    tiles: tuple[int, ...] = ()
    worn_by: str | None = None
    is_padded: bool = False


def hand_over(target: Target, handed: Handed) -> Note:
    """The note of one set for one target, as its files are written.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> handed = Handed(set_name="Felt", names={"normal": "Felt_N.png"}, rise=0.02, tile_size=None)
    >>> hand_over(shipped_target("engine-orm-down"), handed).title
    'Felt: Game engine, O·R·M packed, Y−'
    """
    written = [file for file in target.files if file.role in handed.names]
    claims: list[Claim] = []
    steps = [" ".join(_file(target, file, handed, claims)) for file in written]
    assumed = " The plane in it is 1 m wide, as how wide a tile is, is not known." if handed.tile_size is None else ""
    if handed.worn_by is not None:
        assumed = (
            f" The mesh in it is {handed.worn_by}, in triangles, y up, one of its units taken as a meter, with tangents of the"
            " common standard (Mikkelsen 2008): do not let them be made anew."
        )
    for document in target.documents:
        if document.role in handed.names:
            plane = assumed if document.kind in _WITH_PLANE else ""
            steps.append(f"{handed.names[document.role]} wires all of this by itself: open it instead.{plane}")
    steps += _holes(target, written, handed, claims)
    if handed.emissive_strength != 1 and any("emissive" in file.masters() for file in written):
        steps.append(f"What glows is to be multiplied by {handed.emissive_strength:g}.")
    steps += _height(target, written, handed, claims)
    if handed.tile_size is not None:
        steps.append(f"One tile is {handed.tile_size:g} m wide: set the repeat so that it comes out at that.")
    if handed.is_padded:
        steps.append(f"Every map goes on beyond the islands of {handed.worn_by}, to full: no seams at a distance.")
    if handed.tiles:
        steps.insert(0, f"The set is in tiles: {runs(handed.tiles)}. <UDIM> in a name stands for the number.")
    wrong = tuple(_wrong(target, written))
    return Note(f"{handed.set_name}: {target.title}", target.notes, (*steps, *target.steps), wrong, tuple(claims))


def _file(target: Target, file: TargetFile, handed: Handed, claims: list[Claim]) -> Iterator[str]:
    layer = f", its layer {file.word}" if file.layer_of else ""
    yield f"{handed.names[file.role]}{layer}: {file.use or file.title}."
    claims.append(Claim("color", file.role, {"color": file.color}))
    yield _COLOR[file.color]
    if file.primaries == "acescg":
        claims.append(Claim("primaries", file.role))
        yield "Its primaries are ACEScg, and the file says so."
    yield from _normal(target, file, claims)
    if not _is_one_quantity(file):
        claims += [Claim("channel", file.role, {"letter": letter, "quantity": c.quantity}) for letter, c in file.channels.items()]
        yield "; ".join(_channels(target, file)) + "."
    yield from _reflectance(target, file, claims)
    if "diffuse" in _carried(file):
        yield "Bare metal is black in it: metal scatters nothing, what is seen of it is its reflection."
    if file.alpha_means not in (None, "opacity", "constant"):
        yield "Alpha is data, no transparency."
    if file.format == "exr-tiled":
        claims.append(Claim("tiled", file.role))
        yield "It is tiled and holds its smaller copies: do not convert it again."
    if file.padding and handed.has_holes:
        yield f"Under holes everything goes on for {file.padding} texels."
    for sentence in handed.fills.get(file.role, ()):
        claims.append(Claim("always", file.role, {"letter": sentence[0]}))
        yield f"{sentence}."
    for key in file.masters():
        if key in handed.made:
            yield f"Its {_word(target, key)} is {handed.made[key]}."


def _normal(target: Target, file: TargetFile, claims: list[Claim]) -> Iterator[str]:
    if "object_normal" in file.masters():
        yield f"It is a normal map in object space, {target.object_up} up: do not read it as one in tangent space."
    if "normal" not in file.masters():
        return
    claims.append(Claim("green", file.role, {"green": target.green}))
    yield f"It is a tangent-space normal map, green points {target.green} (Y{'+' if target.green == 'up' else '−'})."
    if not any(channel.quantity == "normal" and channel.component == "z" for channel in file.channels.values()):
        yield "It holds x and y only: z is rebuilt."
    if file.sample == "float":
        claims.append(Claim("unit-range", file.role))
        yield "Its vectors are stored from 0 to 1, as in a file of whole numbers: take twice the value less 1."


def _carried(file: TargetFile) -> set[str]:
    return {channel.quantity for channel in file.channels.values() if channel.quantity is not None}


def _is_one_quantity(file: TargetFile) -> bool:
    return len({channel.quantity for channel in file.channels.values()}) == 1


def _word(target: Target, key: str) -> str:
    """What the receiving side calls a quantity."""
    return target.words.get(key, quantity(key).title.lower())


def _channels(target: Target, file: TargetFile) -> Iterator[str]:
    """What stands in the channels, those of one color or vector together."""
    for held, run in groupby(file.channels.items(), lambda row: row[1].model_copy(update={"component": "v"})):
        letters = [_LETTERS[letter] for letter, _ in run]
        who = (
            letters[0]
            if len(letters) == 1
            else f"{letters[0]}{''.join(f', {x.lower()}' for x in letters[1:-1])} and {letters[-1].lower()}"
        )
        yield _channel(target, f"{who} {'is' if len(letters) == 1 else 'are'}", held)


def _channel(target: Target, says: str, channel: Channel) -> str:
    if channel.quantity is None:
        return f"{says} always {channel.constant:g}"
    ends = "" if channel.range == (0, 1) else f", from {channel.range[0]:g} to {channel.range[1]:g}"
    return f"{says} {_word(target, channel.quantity)}{', inverted' if channel.invert else ''}{ends}"


def _reflectance(target: Target, file: TargetFile, claims: list[Claim]) -> Iterator[str]:
    """The scale of a file's reflectance, in the numbers that the file has."""
    for letter, channel in file.channels.items():
        if channel.quantity not in ("reflectance", "specular_level"):
            continue
        feed, top = feeds(target, file)[letter], quantity(channel.quantity).high
        full, usual = (_stored(file, letter, share * feed.gain + feed.shift) for share in (top, _USUAL_REFLECTANCE))
        claims.append(Claim("reflectance", file.role, {"letter": letter, "usual": usual, "quantity": channel.quantity}))
        yield f"Of its {_word(target, channel.quantity)} {full} is {top * 100:g} %; the usual 4 % is {usual}."
        return


def _stored(file: TargetFile, letter: str, value: float) -> str:
    """A value on the file's scale of 0..1 as the number that stands in it."""
    curved = float(srgb_from_linear(np.array([[value]], np.float32))[0, 0]) if file.color == "srgb" and letter != "A" else value
    return f"{curved:.3g}" if file.sample == "float" else str(int(min(max(curved, 0), 1) * (2**file.depth - 1) + 0.5))


def _holes(target: Target, written: list[TargetFile], handed: Handed, claims: list[Claim]) -> Iterator[str]:
    """Whether there are holes, and in which file; or that they are lost."""
    carrying = [file for file in written if "opacity" in file.masters()]
    if not handed.has_holes:
        claims += [Claim("no-holes", file.role) for file in carrying]
        return
    if not carrying:
        yield "The set has holes, but no file of this target carries them: it will be solid."
        return
    for file in carrying:
        letter = next(letter for letter, channel in file.channels.items() if channel.quantity == "opacity")
        claims.append(Claim("holes", file.role, {"letter": letter}))
        name = handed.names[file.role]
        where = name if len(file.channels) == 1 else f"{_LETTERS[letter]} of {name}"
        yield {
            "solid": f"{where} is the opacity, for whoever wants it; the material itself takes no holes and stays solid.",
            "cut-out": (
                f"Switch the material to cut-out, at a threshold of {target.material.threshold:g}, and show both sides."
                f" {where} is the opacity."
            ),
            "transparent": f"Switch the material to transparent. {where} is the opacity.",
        }[target.material.mode]


def _height(target: Target, written: list[TargetFile], handed: Handed, claims: list[Claim]) -> Iterator[str]:
    use, tile = target.height, handed.tile_size
    file = next((file for file in written if "height" in file.masters()), None)
    if use.use == "none" or file is None:
        return
    known = f" ({handed.rise_known})" if handed.rise_known else ""
    share = f"{handed.rise * 100:.3g} % of the tile's width{known}"
    if tile is not None and holds_meters(target, file, tile):
        low, high = (meters_of(target, value, handed.rise, tile) for value in (0.0, 1.0))
        claims.append(Claim("meters", file.role, {"low": low, "high": high}))
        yield f"{_HEIGHT[use.use]}: its numbers are meters from the surface, from {low:.3g} to {high:.3g} at most: {share}."
        return
    claims.append(Claim("share", file.role))
    if use.stored == "meters" and tile is None:
        yield (
            f"{_HEIGHT[use.use]}: it should be in meters, but how wide a tile is, is not known. Its numbers go from 0 to 1, which"
            f" is {share}; multiply them by the width in meters and by {handed.rise:.3g}. A stored {use.center:g} is the"
            " surface itself."
        )
        return
    length = share
    if tile is not None:
        length += f", which is {handed.rise * tile:.3g} m" if use.meters else f", which is {handed.rise * tile * 1000:.3g} mm"
    yield f"{_HEIGHT[use.use]}: from black to white is {length}; a stored {use.center:g} is the surface itself."


def _wrong(target: Target, written: list[TargetFile]) -> Iterator[tuple[str, str]]:
    masters = {key for file in written for key in file.masters()}
    carried = {key for file in written for key in _carried(file)}
    if "normal" in masters:
        yield (
            "Bumps look like pits when the light comes from above",
            f"green was read the other way; these files point {target.green}.",
        )
        yield "Flat places look tilted, seams show", "the normal map was read as color."
    shine = carried & {"roughness", "gloss"}
    if shine:
        has, read = ("roughness", "gloss") if "roughness" in shine else (_word(target, "gloss"), "roughness")
        yield "What should be dull shines, and what should shine is dull", f"{has} was read as {read}: invert it."
    if any(file.color == "data" and (_SHINE | {"metallic"}) & _carried(file) for file in written):
        yield "Everything is too shiny or too dull", "a data file was read as color, or its channels went to other inputs."
    if {"diffuse", "specular"} <= carried:
        yield "Metal is black", "its reflection is missing: the specular file is not wired, or goes to a metallic material."
    elif "diffuse" in carried:
        yield "Metal is black", "it is so in the diffuse file, and this target has no color of reflection to show instead."
    if any(file.alpha_means not in (None, "opacity", "constant") for file in written):
        yield "A file looks see-through in a picture editor", "its alpha is data; leave it as it is."
    yield from target.looks_wrong.items()
