"""OpenEXR, and the other formats that its library reads."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Generator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from typing import Any

import numpy as np

from ..core.errors import NotAnImage, UnsupportedImage
from ..core.primaries import primaries_of
from .picture import DIMMED, UNDIMMED, Picture, check_size, from_samples, is_dimmed, undimmed

__all__ = ["EXR_PICTURES", "by_library", "exr_planes", "opened"]

_LEAST_HOLES = 0.002  # of the picture
_OTHER_PRIMARIES = "names primaries that are none of those known here; colors in it are read as Rec. 709"


@contextmanager
def opened(content: bytes, suffix: str = ".exr") -> Generator[Any, None, None]:
    """The library's reader of a picture in memory, by the ending of its format. Raises ValueError with its reason."""
    import OpenImageIO as oiio  # loads slowly and is seldom needed

    told = oiio.ImageSpec()
    told.attribute("oiio:UnassociatedAlpha", 1)  # colors as they are stored, not dimmed by their alpha
    told.attribute("pnm:pfmflip", 1)  # first row on top; where nothing is said it is left to chance
    with tempfile.NamedTemporaryFile(suffix=suffix) as copy:  # the library reads by path only
        copy.write(content)
        copy.flush()
        file = oiio.ImageInput.open(copy.name, told)
        if file is None:
            raise ValueError(oiio.geterror().replace(copy.name, "the file"))
        try:
            yield file
        except ValueError as problem:
            raise ValueError(str(problem).replace(copy.name, "the file")) from problem
        finally:
            file.close()


def exr_planes(content: bytes, name: str, part: int, wanted: Sequence[str] | None) -> Picture:
    """Channels of one part of an EXR, in the order wanted; None for the color or gray that it is seen as."""
    with opened(content) as file:
        file.seek_subimage(part, 0)
        spec = file.spec()
        check_size(name, spec.width, spec.height)
        check_size(name, spec.full_width, spec.full_height)
        names = list(spec.channelnames)
        group, chosen = ("", wanted) if wanted else _seen_as(names)
        stored = str(spec.format)
        if stored not in ("half", "float"):
            raise UnsupportedImage(f"{name}: stores {stored} numbers; expected half or float.")
        codes = file.read_image(part, 0, 0, len(names), stored)
        if codes is None:
            raise ValueError(file.geterror())
        told, is_whole = spec.getattribute("chromaticities"), spec.getattribute(UNDIMMED[0]) == UNDIMMED[1]
    planes, framed = _in_frame(codes[..., [names.index(letter) for letter in chosen]], spec, name)
    if len(chosen) == 2:  # x and y of normals, or any two: not gray and alpha
        planes = np.concatenate([planes, np.zeros_like(planes[..., :1])], axis=2)
    picture = from_samples(planes, "exr", 16 if stored == "half" else 32, "float", None)
    primaries = None if told is None or picture.channels < 3 else primaries_of(told)
    is_unknown = told is not None and picture.channels >= 3 and primaries is None
    is_colored = picture.channels == 4 and wanted is None and not is_whole
    is_dimmed_so = is_colored and _is_plainly_dimmed(picture.codes)
    if is_dimmed_so:
        picture = replace(picture, codes=undimmed(picture.codes))
    grouped = f"has no channels R, G, B or Y of its own; it is seen as its {group}"
    told_of = ((grouped, group), (framed, framed), (_OTHER_PRIMARIES, is_unknown), (DIMMED, is_dimmed_so))
    done = [said for said, holds in told_of if holds]
    return replace(picture, primaries=primaries, done="; ".join(done))


def _is_plainly_dimmed(codes: np.ndarray) -> bool:
    """Whether colors were multiplied by their alpha, as the standard has it and many files have not.

    Then holes are black altogether, nothing is brighter than its alpha, and texels that are half in a hole come nearer to the
    solid ones when it is taken out.
    """
    alpha, colors = codes[..., 3], codes[..., :3]
    holes, solid = alpha == 0, alpha == 1
    half = (alpha > 0) & (alpha < 1)
    if holes.mean() < _LEAST_HOLES or not half.any() or not solid.any() or colors[holes].any() or not is_dimmed(codes):
        return False
    wanted, dimmed = (float(colors[where].mean(dtype=np.float64)) for where in (solid, half))
    taken_out = float((colors[half] / alpha[half][:, None]).mean(dtype=np.float64))
    return abs(taken_out - wanted) < abs(dimmed - wanted)


# What an EXR is seen as by the names of its channels: the first of these that are all there, whatever their case.
EXR_PICTURES = ("RGBA", "RGB", "XYZ", "XY", "Y", "RG")


def _seen_as(names: list[str]) -> tuple[str, list[str]]:
    """The channels of the picture that an EXR is seen as, and what group they are of, if of one: a file of groups alone is seen
    as its fullest. A single channel of any name is a gray.
    """
    if len(names) == 1:
        return "", names
    groups: dict[str, dict[str, str]] = {"": {}}
    for name in reversed(names):
        group, _, letter = name.rpartition(".")
        groups.setdefault(group, {})[letter.upper()] = name
    plain, *others = groups.items()
    for some in ([plain], others[::-1]):
        for letters in EXR_PICTURES:
            found = next((group for group, held in some if set(letters) <= held.keys()), None)
            if found is not None:
                return found, [groups[found][letter] for letter in letters]
    return names[0], names[:1]


def _in_frame(planes: np.ndarray, spec: Any, name: str) -> tuple[np.ndarray, str]:
    """Texels at their places in the whole picture, of which a file may hold a part, or more; and what was done for it."""
    left, top = spec.x - spec.full_x, spec.y - spec.full_y
    if (left, top, spec.width, spec.height) == (0, 0, spec.full_width, spec.full_height):
        return planes, ""
    right, below = min(left + spec.width, spec.full_width), min(top + spec.height, spec.full_height)
    if right <= max(left, 0) or below <= max(top, 0):
        raise NotAnImage(f"{name}: what it stores lies outside of its picture altogether. Save it again without cropping.")
    whole = np.zeros((spec.full_height, spec.full_width, planes.shape[2]), planes.dtype)
    rows, columns = slice(max(top, 0), below), slice(max(left, 0), right)
    whole[rows, columns] = planes[max(-top, 0) : below - top, max(-left, 0) : right - left]
    size, full = f"{spec.width} × {spec.height}", f"{spec.full_width} × {spec.full_height}"
    return whole, f"stores {size} px of a picture of {full} px; what is missing is read as 0, what lies outside is left out"


def by_library(key: str, suffix: str) -> Callable[[bytes, str], Picture]:
    def decoded(content: bytes, name: str) -> Picture:
        with opened(content, suffix) as file:
            spec = file.spec()
            check_size(name, spec.width, spec.height)
            stored = _LIBRARY_DEPTHS.get(str(spec.format))
            if stored is None or spec.nchannels > 4:
                raise UnsupportedImage(
                    f"{name}: holds {spec.nchannels} channels of {spec.format}; expected 1 to 4 of 8 or 16 bits, half or float."
                    " Save it as PNG, TIFF or OpenEXR."
                )
            codes = file.read_image(0, 0, 0, spec.nchannels, str(spec.format))
            if codes is None:
                raise ValueError(file.geterror())
            profile = spec.getattribute("ICCProfile")
        return from_samples(codes, key, *stored, None if profile is None else bytes(profile))

    return decoded


_LIBRARY_DEPTHS = {"uint8": (8, "uint"), "uint16": (16, "uint"), "half": (16, "float"), "float": (32, "float")}
