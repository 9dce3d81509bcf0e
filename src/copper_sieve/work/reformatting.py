"""Pictures in another format or size, one after the other, under the names that they have."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import PurePath, PurePosixPath
from typing import Literal

import numpy as np

from ..core.checks.reformat import losses
from ..core.errors import SieveError, UnknownKey, UnsupportedImage
from ..core.findings import Finding, finding
from ..core.intake import look_at
from ..core.intake.floats import signed_vectors
from ..core.primaries import Primaries, rec709_from
from ..core.quantities import quantity
from ..core.raster import MAX_SIDE, Sampling, Size
from ..core.target import FORMATS
from ..core.target.formats import Depth, depth_in, depth_said
from ..core.target.reformat import Averaging, reformatted, shrunk, thinned
from ..files import encode, read_bytes
from ..files.archives import Pipe
from ..files.encoding import ColorTag
from ..files.picture import Picture
from ..files.profile import color_codes

__all__ = ["Called", "NewFormat", "ReadAs", "Remade", "as_zip", "remade"]

ReadAs = Literal["color", "data"]
_CHANGES_FILE = "what-changed.txt"
_EARLIEST = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class NewFormat:
    """The format that pictures are written in, and the depth; without one each keeps its own, or has the nearest. Those that are
    larger than ``longest_px`` are averaged down to it, or by whole steps where ``sampling`` says nearest; none is made larger.

    Raises UnknownKey for a format that there is not, UnsupportedImage for a depth that it has not, SieveError for no size.

    >>> NewFormat("png").path("walls/brick 01.v2.tif")
    'walls/brick 01.v2.png'
    """

    key: str
    depth: Depth | None = None
    longest_px: int | None = None
    sampling: Sampling = "smooth"

    def __post_init__(self) -> None:
        if self.longest_px is not None and not 1 <= self.longest_px <= MAX_SIDE:
            raise SieveError(f"The longest side may be 1 to {MAX_SIDE} px (got {self.longest_px}).")
        if self.key not in FORMATS:
            raise UnknownKey("format", self.key, list(FORMATS))
        row = FORMATS[self.key]
        if self.depth is not None and self.depth not in row.depths:
            raise UnsupportedImage(
                f"{self.key} holds {row.says} (got {depth_said(*self.depth)}). Choose another depth or format."
            )

    def path(self, path: str) -> str:
        """What a picture is called in it: its folder and its name, but for the ending."""
        return str(PurePosixPath(path).with_suffix(FORMATS[self.key].suffix))


@dataclass(frozen=True)
class Called:
    """A picture by the path that it keeps, below wherever it goes; ``read`` gives its bytes, ``reads`` what its channels hold,
    where that is known."""

    path: str
    read: Callable[[], bytes]
    reads: Mapping[str, str] | None = None


@dataclass(frozen=True)
class Remade:
    """A picture in the new format."""

    source: str
    path: str
    content: bytes
    size: Size
    depth: Depth
    read_as: ReadAs
    findings: tuple[Finding, ...]


def remade(files: Iterable[Called], format: NewFormat, read_as: ReadAs | None = None) -> Iterator[Remade | Finding]:
    """Every picture in another format, or why it could not be. One bad file never stops the others.

    What is color and what is data is told by each file's name and content, as at intake, where ``read_as`` does not say so.
    """
    taken: dict[str, str] = {}
    for file in files:
        path = format.path(file.path)
        first = taken.setdefault(path.casefold(), file.path)
        if first != file.path:
            yield finding("name-clash", first=first, second=file.path, name=path)
            continue
        try:
            yield _one(file, format, read_as)
        except SieveError as problem:
            yield finding("unreadable", file=file.path, why=problem.message)
        except OSError as problem:
            why = f"{file.path}: cannot be opened ({problem.strerror or problem})."
            yield finding("unreadable", file=file.path, why=why)


def _one(file: Called, format: NewFormat, read_as: ReadAs | None) -> Remade:
    name = PurePath(file.path).name
    picture = read_bytes(file.read(), name)
    reads = look_at(name, picture.codes).reads if file.reads is None else file.reads
    kind = read_as or _kind(reads, picture.channels)
    depth = format.depth or depth_in(format.key, (picture.depth, picture.sample))
    color = _tag(kind, depth, picture.primaries, format.key)
    codes = _colored(picture, color) if kind == "color" else picture.codes
    sized, found = _sized(codes, format, kind, reads, file.path)
    made = reformatted(sized, format.key, depth, is_color=kind == "color")
    if sized.dtype != codes.dtype:  # a mean is rounded by nature, but not to fewer bits
        made = replace(made, is_rounded=depth[0] < picture.depth)
    found += tuple(losses(file.path, made, format.key, depth, is_color=kind == "color"))
    content, size = encode(made.codes, format.key, color=color), Size(made.codes.shape[1], made.codes.shape[0])
    return Remade(file.path, format.path(file.path), content, size, depth, kind, found)


def _sized(
    codes: np.ndarray, format: NewFormat, kind: ReadAs, reads: Mapping[str, str], file: str
) -> tuple[np.ndarray, tuple[Finding, ...]]:
    """Codes no larger than asked for, themselves where they are not; averaged ones are float32."""
    height, width = codes.shape[:2]
    longest = format.longest_px
    if longest is None or max(height, width) <= longest:
        return codes, ()
    if format.sampling == "nearest":
        small = thinned(codes, longest)
        told = {"width": width, "height": height, "longest": longest}
        return (codes, (finding("reformat-uneven", file=file, **told),)) if small is None else (small, ())
    averaging = _averaging(kind, reads)
    has_signs = averaging == "directions" and signed_vectors(codes, are_normals=True) is not None
    return shrunk(codes, longest, averaging, has_holes=reads.get("A") == "opacity", has_signs=has_signs), ()


_DIRECTIONS, _LABELS = ("normal", "object_normal"), ("id",)


def _averaging(kind: ReadAs, reads: Mapping[str, str]) -> Averaging:
    """How several texels become one."""
    if kind == "color":
        return "color"
    if reads.get("RGB") in _DIRECTIONS:
        return "directions"
    return "labels" if reads.get("RGB") in _LABELS else "data"


def _kind(reads: Mapping[str, str], channels: int) -> ReadAs:
    """What is no map that we know, and colored, is a picture."""
    if reads:
        return "color" if any(quantity(key).color == "srgb" for key in reads.values()) else "data"
    return "color" if channels > 2 else "data"


def _tag(kind: ReadAs, depth: Depth, primaries: Primaries | None, format: str) -> ColorTag:
    """What the new file's colors are; an EXR says which primaries, others have those of sRGB."""
    if kind == "data":
        return "data"
    if depth[1] != "float":
        return "srgb"
    return primaries if primaries not in (None, "rec709") and format == "exr" else "linear"


def _colored(picture: Picture, color: ColorTag) -> np.ndarray:
    """Codes in the primaries of the new file."""
    codes, primaries = color_codes(picture), picture.primaries
    if primaries is None or primaries in ("rec709", color) or picture.channels < 3:
        return codes
    return np.concatenate([rec709_from(codes[..., :3], primaries), codes[..., 3:]], axis=2)


def as_zip(made: Iterable[Remade | Finding]) -> Iterator[bytes]:
    """The pieces of a zip of pictures; what was lost on the way, or left out, stands in a text beside them."""
    pipe, told = Pipe(), list[Finding]()
    with zipfile.ZipFile(pipe, "w", allowZip64=True) as archive:  # type: ignore[arg-type]
        for one in made:
            told += one.findings if isinstance(one, Remade) else [one]
            if isinstance(one, Remade):
                archive.writestr(zipfile.ZipInfo(one.path, _EARLIEST), one.content)
                yield pipe.take()
        if told:
            text = "".join(f"{found.text}\n" for found in told)
            archive.writestr(zipfile.ZipInfo(_CHANGES_FILE, _EARLIEST), text)
    yield pipe.take()
