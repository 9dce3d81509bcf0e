"""The hand-over note: what a person who wires the files has to know, told from the target's table alone."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from html import escape

from ..quantities import quantity
from .model import Channel, Target, TargetFile

__all__ = ["Note", "hand_over"]

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


_STYLE = "body{font:16px/1.5 sans-serif;max-width:46em;margin:2em auto;padding:0 1em}li,dd{margin-bottom:.5em}dt{font-weight:700}"


@dataclass(frozen=True)
class Note:
    """A title, ordered steps, and how it looks when something is wired wrong."""

    title: str
    about: str
    steps: tuple[str, ...]
    wrong: tuple[tuple[str, str], ...]

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


def hand_over(
    target: Target,
    names: Mapping[str, str],
    *,
    set_name: str,
    rise: float,
    tile_size: float | None = None,
    has_holes: bool = False,
    emissive_strength: float = 1.0,
) -> Note:
    """The note of one set for one target.

    Parameters
    ----------
    names : file name by role, of what was written; files that were left out are not mentioned
    rise : from the lowest to the highest point, as a share of the tile's width
    tile_size : width of the tile in meters, or None where it is not known
    has_holes : whether the set's opacity says so anywhere
    emissive_strength : what the emissive file has to be multiplied by
    """
    written = [file for file in target.files if file.role in names]
    steps = [" ".join(_file(target, file, names[file.role])) for file in written]
    steps += [
        f"{names[document.role]} wires all of this by itself: open it instead."
        for document in target.documents
        if document.role in names
    ]
    if has_holes:
        steps += [_holes(target, file, names[file.role]) for file in written if "opacity" in file.masters()]
    if emissive_strength != 1 and any("emissive" in file.masters() for file in written):
        steps.append(f"What glows is to be multiplied by {emissive_strength:g}.")
    steps += _height(target, written, rise, tile_size)
    if tile_size is not None:
        steps.append(f"One tile is {tile_size:g} m wide: set the repeat so that it comes out at that.")
    return Note(f"{set_name}: {target.title}", target.notes, (*steps, *target.steps), tuple(_wrong(target, written)))


def _file(target: Target, file: TargetFile, name: str) -> Iterator[str]:
    yield f"{name}: {file.use or file.title}."
    yield _COLOR[file.color]
    if file.primaries == "acescg":
        yield "Its primaries are ACEScg."
    if "normal" in file.masters():
        yield f"It is a tangent-space normal map, green points {target.green} (Y{'+' if target.green == 'up' else '−'})."
        if not any(channel.quantity == "normal" and channel.component == "z" for channel in file.channels.values()):
            yield "It holds x and y only: z is rebuilt."
    if not _is_one_quantity(file):
        yield "; ".join(_channel(letter, channel) for letter, channel in file.channels.items()) + "."
    if file.alpha_means not in (None, "opacity", "constant"):
        yield "Alpha is data, no transparency."
    if file.format == "exr-tiled":
        yield "It is tiled and holds its smaller copies: do not convert it again."
    if file.padding:
        yield f"Under holes everything goes on for {file.padding} texels."


def _is_one_quantity(file: TargetFile) -> bool:
    return len({channel.quantity for channel in file.channels.values()}) == 1


def _channel(letter: str, channel: Channel) -> str:
    if channel.quantity is None:
        return f"{_LETTERS[letter]} is always {channel.constant:g}"
    ends = "" if channel.range == (0, 1) else f", from {channel.range[0]:g} to {channel.range[1]:g}"
    return f"{_LETTERS[letter]} is {quantity(channel.quantity).title.lower()}{', turned over' if channel.invert else ''}{ends}"


def _holes(target: Target, file: TargetFile, name: str) -> str:
    letter = next(letter for letter, channel in file.channels.items() if channel.quantity == "opacity")
    where = name if len(file.channels) == 1 else f"{_LETTERS[letter]} of {name}"
    cut = f"{target.material.threshold:g}"
    return {
        "solid": "It takes no holes: opacity is in the file, but the material stays solid.",
        "cut-out": f"Switch the material to cut-out, at a threshold of {cut}, and show both sides. {where} is the opacity.",
        "transparent": f"Switch the material to transparent. {where} is the opacity.",
    }[target.material.mode]


def _height(target: Target, written: list[TargetFile], rise: float, tile_size: float | None) -> Iterator[str]:
    use = target.height
    if use.use == "none" or not any("height" in file.masters() for file in written):
        return
    length = f"{rise * 100:.3g} % of the tile's width"
    if tile_size is not None:
        length += f", which is {rise * tile_size:.3g} m" if use.meters else f", which is {rise * tile_size * 1000:.3g} mm"
    yield f"{_HEIGHT[use.use]}: from black to white is {length}; a stored {use.center:g} is the surface itself."


def _wrong(target: Target, written: list[TargetFile]) -> Iterator[tuple[str, str]]:
    carried = {key for file in written for key in file.masters()}
    if "normal" in carried:
        yield (
            "Bumps look like pits when the light comes from above",
            f"green was read the other way; these files point {target.green}.",
        )
        yield "Flat places look tilted, seams show", "the normal map was read as color."
    if any(file.color == "data" and {"roughness", "metallic"} & set(file.masters()) for file in written):
        yield "Everything is too shiny or too dull", "a data file was read as color, or its channels went to other inputs."
    if any(file.alpha_means not in (None, "opacity", "constant") for file in written):
        yield "A file looks see-through in a picture editor", "its alpha is data; leave it as it is."
    yield from target.looks_wrong.items()
