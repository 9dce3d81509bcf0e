"""The target model: what a renderer or engine expects, as data. A new target is a new table and no code."""

from __future__ import annotations

import re
import tomllib
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from ..errors import TargetInvalid
from ..quantities import QUANTITIES, Quantity, is_known, quantity
from ..value import Value
from ..vectors import Up
from .documents import DOCUMENTS
from .formats import FORMATS, depth_said

__all__ = [
    "CHANNEL_LETTERS",
    "Channel",
    "Document",
    "HeightUse",
    "Limits",
    "MaterialMode",
    "Target",
    "TargetFile",
    "Token",
    "read_target",
]

Letter = Literal["L", "R", "G", "B", "A"]
# What files can hold.
CHANNEL_LETTERS: dict[tuple[str, ...], int] = {("L",): 1, ("L", "A"): 2, ("R", "G", "B"): 3, ("R", "G", "B", "A"): 4}
Share = Annotated[float, Field(ge=0, le=1)]


class Channel(Value):
    """One channel of one file: a quantity's component, or a constant.

    Order on the way out: natural range to 0..1, invert, range, transfer, quantize. ``fill`` says what happens when
    nobody gave the master: None its absent value, a number, ``leave-out`` the whole file, or ``stop``.
    """

    quantity: str | None = None
    component: Literal["v", "r", "g", "b", "x", "y", "z", "luminance"] = "v"
    invert: bool = False
    range: tuple[Share, Share] = (0.0, 1.0)
    constant: Share | None = None
    fill: Share | Literal["leave-out", "stop"] | None = None

    @model_validator(mode="after")
    def _one_source(self) -> Channel:
        if (self.quantity is None) == (self.constant is None):
            raise ValueError("a channel has either a quantity or a constant")
        if self.quantity is None:
            return self
        if not is_known(self.quantity):
            raise ValueError(f"quantity must be one of {', '.join(QUANTITIES)} (got {self.quantity!r})")
        known = quantity(self.quantity).components
        if self.component not in known and not (self.component == "luminance" and known == ("r", "g", "b")):
            raise ValueError(f"component of {self.quantity} must be one of {', '.join(known)} (got {self.component!r})")
        if self.range[0] == self.range[1]:
            raise ValueError("range must have two different ends")
        return self

    @property
    def row(self) -> Quantity | None:
        return None if self.quantity is None else quantity(self.quantity)

    @property
    def masters(self) -> tuple[str, ...]:
        """Keys of the masters that feed this channel; the first is the one it cannot do without."""
        row = self.row
        return () if row is None else row.made_of or (row.key,)


class Token(Value):
    """A part of a file name that is filled in."""

    part: Literal["set", "map", "size", "project", "target", "tile"]


class TargetFile(Value):
    """One file of a target."""

    role: str
    title: str
    word: str = Field(description="The map word that `map` stands for in the name")
    name: tuple[str | Token, ...] = Field(min_length=1)
    format: Literal["png", "tga", "tiff", "exr", "exr-tiled", "jpeg"]
    depth: Literal[8, 16, 32] = 8
    sample: Literal["uint", "float"] = "uint"
    color: Literal["srgb", "linear", "data"]
    primaries: Literal["rec709", "acescg"] = "rec709"
    dither: bool = Field(default=False, description="Spread the rounding of what is deeper than 8 bits; seeded by position")
    channels: dict[Letter, Channel]
    required: str = Field(
        default="", description="Why the receiving side cannot do without it, even flat; else a flat one is left out"
    )
    size_cap: int | None = Field(default=None, ge=1, description="Longest side in px")
    size_share: float = Field(default=1.0, gt=0, le=1, description="Of the set's size")
    power_of_two: bool = Field(default=False, description="Both sides go down to the next power of two")
    pixel_art: bool = Field(default=False, description="Shrunk by taking texels as they are, never averaged")
    padding: int = Field(default=0, ge=0, le=4096, description="Texels by which color goes on under holes")
    seldom: bool = Field(default=False, description="Listed only where the set has a map that it carries")
    use: str = Field(default="", description="What the receiving side does with it")
    layer_of: str = Field(default="", max_length=80, description="The map word of the layered file that it is a layer of")

    @model_validator(mode="before")
    @classmethod
    def _without_optional(cls, content: Any) -> Any:
        """Older tables said which files may be left out; now all may that hold nothing, but for the ``required``."""
        return {key: value for key, value in content.items() if key != "optional"} if isinstance(content, dict) else content

    @field_validator("channels")
    @classmethod
    def _in_order(cls, channels: dict[Letter, Channel]) -> dict[Letter, Channel]:
        return dict(sorted(channels.items(), key=lambda row: "LRGBA".index(row[0])))  # as files hold them, however written

    @model_validator(mode="after")
    def _letters(self) -> TargetFile:
        if tuple(self.channels) not in CHANNEL_LETTERS:
            wanted = ", ".join("".join(letters) for letters in CHANNEL_LETTERS)
            raise ValueError(f"channels of {self.role!r} must be one of {wanted} (got {''.join(self.channels)})")
        if self.primaries != "rec709" and self.color != "linear":
            raise ValueError(f'primaries {self.primaries} of {self.role!r} need color = "linear" (got {self.color!r})')
        if self.dither and (self.depth, self.sample) != (8, "uint"):
            raise ValueError(f"dither of {self.role!r} is for files of 8 bit (got {self.depth} bit {self.sample})")
        held = FORMATS[self.format]
        if self.layer_of and not (held.layered and self.word):
            layered = " or ".join(row.key for row in FORMATS.values() if row.layered)
            raise ValueError(
                f"{self.role!r} can be a layer in {layered}, by its map word (got {self.format}, word {self.word!r})"
            )
        if (self.depth, self.sample) not in held.depths or len(self.channels) not in held.channels:
            got = f"{depth_said(self.depth, self.sample)}, {len(self.channels)} channels"
            raise ValueError(f"{self.title}: {self.format.upper()} holds {held.says} (got {got}).")
        if held.lossy and "normal" in self.masters():
            raise ValueError(f"{self.title}: {self.format.upper()} loses too much of normals. Choose PNG, TGA or TIFF.")
        return self

    @property
    def alpha_means(self) -> str | None:
        """The quantity in alpha, ``constant``, or None without an alpha channel."""
        channel = self.channels.get("A")
        return None if channel is None else (channel.quantity or "constant")

    @property
    def may_lack_fourth(self) -> bool:
        """Whether its alpha may stay away when nothing feeds it: it only cuts holes, and without one nothing is cut."""
        fourth = self.channels.get("A") if len(self.channels) == 4 else None
        is_plain = fourth is not None and not fourth.invert and fourth.range == (0, 1) and fourth.fill is None
        return is_plain and fourth is not None and fourth.quantity == "opacity" and 3 in FORMATS[self.format].channels

    def masters(self) -> tuple[str, ...]:
        """Keys of the masters this file carries, each once, in channel order."""
        return tuple(dict.fromkeys(key for channel in self.channels.values() for key in channel.masters))


class HeightUse(Value):
    """What the receiving side does with height, and how its numbers are meant."""

    use: Literal["displacement", "parallax", "blending", "none"] = "none"
    center: Share = Field(default=0.5, description="Stored value of the reference plane")
    meters: bool = Field(default=False, description="It wants the rise in meters; the hand-over says how many")
    stored: Literal["share", "meters"] = Field(
        default="share", description="Whether float files hold 0 to 1, or meters from the surface"
    )


class MaterialMode(Value):
    """How the receiving side has to treat opacity."""

    mode: Literal["solid", "cut-out", "transparent"] = "solid"
    threshold: Share = 0.5


class Limits(Value):
    """What the receiving side can take."""

    textures: int | None = Field(default=None, ge=1)
    largest: int | None = Field(default=None, ge=1, description="Longest side in px")
    displacement: bool = Field(default=False, description="Whether it shows displacement")


class Document(Value):
    """A material document written beside the images; ``inputs`` maps its inputs to file roles."""

    kind: Literal["gltf", "glb", "materialx", "usd", "obj", "mtl"]
    role: str = "document"
    name: tuple[str | Token, ...]
    inputs: dict[str, str]


class Target(Value):
    """A whole target. ``green`` is how its normal files point; the rest stands per file."""

    schema_: Literal[1] = Field(default=1, alias="schema")
    key: Annotated[str, Field(pattern=r"^[a-z0-9-]+$")]
    title: str
    notes: str = ""
    version: str = "1"
    changed: str = ""
    workflow: Literal["metallic", "specular"]
    green: Literal["up", "down"]
    object_up: Up = Field(default="y", description="Which axis of normals in object space points up")
    files: tuple[TargetFile, ...] = Field(min_length=1)
    documents: tuple[Document, ...] = ()
    height: HeightUse = HeightUse()
    material: MaterialMode = MaterialMode()
    repeats: bool = Field(default=False, description="Its maps are laid out again and again, so that a seam would show")
    limits: Limits = Limits()
    steps: tuple[str, ...] = Field(default=(), description="What else a person who wires it has to do, in order")
    words: dict[str, str] = Field(default={}, description="What the receiving side calls a quantity, by its key")
    looks_wrong: dict[str, str] = Field(default={}, description="How it looks when wrong, and why")

    @model_validator(mode="after")
    def _roles(self) -> Target:
        roles = [f.role for f in self.files]
        if len(set(roles)) < len(roles):
            raise ValueError(f"roles must differ (got {', '.join(roles)})")
        if self.limits.textures is not None and len(self.files) > self.limits.textures:
            raise ValueError(f"{len(self.files)} files are more than its limit of {self.limits.textures} textures")
        roles += [document.role for document in self.documents]
        if len(set(roles)) < len(roles):
            raise ValueError(f"roles of documents must differ from all others (got {', '.join(roles)})")
        for word in dict.fromkeys(file.layer_of for file in self.files if file.layer_of):
            self._check_layers(word)
        for document in self.documents:
            for slot, role in document.inputs.items():
                self.check_wire(document, slot, role)
        return self

    def layers_of(self, word: str) -> tuple[TargetFile, ...]:
        """The files that are layers of the one layered file with that map word."""
        return tuple(file for file in self.files if file.layer_of == word)

    def _check_layers(self, word: str) -> None:
        """Raises ValueError where layers of one file could not lie in one file."""
        layers = self.layers_of(word)
        if len({file.word for file in layers}) < len(layers):
            raise ValueError(f"layers of {word!r} need map words that differ (got {', '.join(file.word for file in layers)})")
        for key in ("format", "primaries", "size_cap", "size_share", "power_of_two"):
            if len({getattr(file, key) for file in layers}) > 1:
                raise ValueError(f"layers of {word!r} lie in one file, so {key} must be the same for all of them")

    def check_wire(self, document: Document, slot: str, role: str) -> None:
        """Raises ValueError where a document cannot read an input from the file of that role."""
        row, files = DOCUMENTS[document.kind], {f.role: f for f in self.files}
        if slot not in row.inputs:
            raise ValueError(f"input of {document.kind} must be one of {', '.join(row.inputs)} (got {slot!r})")
        if role not in files:
            raise ValueError(f"{slot} of {document.kind} must name one of {', '.join(files)} (got {role!r})")
        file, at = files[role], f"{slot} of {document.kind}"
        if file.layer_of:
            raise ValueError(f"{at} reads a file, and {role} is a layer of one")
        if file.format not in row.formats:
            raise ValueError(f"{at} reads {', '.join(row.formats)} ({role} is {file.format})")
        if document.kind == "usd" and file.primaries == "acescg":
            raise ValueError(f"{at} reads Rec. 709 ({role} has primaries acescg)")
        for need in row.inputs[slot]:
            held = {letter: c for letter, c in file.channels.items() if c.quantity == need.quantity}
            count = quantity(need.quantity).channels if need.letters is None else len(need.letters)
            is_gray = tuple(held) == ("L",) and count == 1
            parts = "".join(c.component for c in held.values())
            is_whole = len(held) == count and parts in ("v" * count, "rgb", "xyz")
            if not is_whole or not (is_gray or need.letters is None or "".join(held) == need.letters):
                wanted = f"{need.letters or f'{count} channels'} of {need.quantity}"
                raise ValueError(f"{at} needs {wanted} ({role} has {''.join(held) or 'none'} of it)")
            if need.color is not None and file.color != need.color:
                raise ValueError(f"{at} needs color = {need.color!r} ({role} has {file.color!r})")
            if row.is_fixed and any(c.invert or c.range != (0, 1) for c in held.values()):
                raise ValueError(f"{at} can neither invert nor stretch {need.quantity}")
            if need.quantity == "normal" and row.green not in (None, self.green):
                raise ValueError(f"{at} needs green = {row.green!r}")

    def masters(self) -> tuple[str, ...]:
        """Keys of all masters any file carries."""
        return tuple(dict.fromkeys(key for file in self.files for key in file.masters()))


def read_target(text: str) -> Target:
    """Read a target from TOML. Raises TargetInvalid with every broken rule, its line and its place in the table.

    Examples
    --------
    >>> try:
    ...     read_target("title = 3")
    ... except TargetInvalid as problem:
    ...     print(str(problem)[:24])
    target breaks the model:
    """
    try:
        return Target.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as problem:
        raise TargetInvalid(f"target is no valid TOML: {problem}.") from problem
    except RecursionError as problem:
        raise TargetInvalid("target is nested too deeply to be read; a target's table is at most four levels deep.") from problem
    except ValidationError as problem:
        rules = "; ".join(
            f"line {_line_of(text, e['loc'])}, {'.'.join(map(str, e['loc'])) or 'target'}: {e['msg']}" for e in problem.errors()
        )
        raise TargetInvalid(f"target breaks the model: {rules}.") from problem


def _line_of(text: str, place: tuple[int | str, ...]) -> int:
    """Line, from 1, that a place in the table was written on: as near as its headings and keys tell."""
    at, lines = 0, text.splitlines()
    array = ""
    for part in place:
        if isinstance(part, int):
            headings = [k for k, line in enumerate(lines) if line.strip() == f"[[{array}]]"]
            at = headings[part] if part < len(headings) else at
            continue
        array = part
        written = re.compile(rf"\s*(\[[\w.\-]*\b{re.escape(part)}\]\s*$|\"?{re.escape(part)}\"?\s*=)")
        at = next((k for k in range(at, len(lines)) if written.match(lines[k])), at)
    return at + 1
