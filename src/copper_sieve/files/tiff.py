"""Pages of a TIFF, whatever numbers they hold and however they lie."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Literal, NamedTuple

import cv2
import numpy as np
import tifffile

from ..core.errors import UnsupportedImage
from .camera import ORIENTATION, UPRIGHT
from .picture import DIMMED, Picture, check_size, from_bgr, from_samples, is_dimmed, undimmed

__all__ = ["tiff_page"]

_DEPTHS = {"uint8": (8, "uint"), "uint16": (16, "uint"), "float16": (16, "float"), "float32": (32, "float")}
_ALPHAS = (tifffile.EXTRASAMPLE.ASSOCALPHA, tifffile.EXTRASAMPLE.UNASSALPHA)
_NO_DATA = 42113  # GDAL's tag: the value of texels that hold none, as text


class _ReadAs(NamedTuple):
    """Numbers that no map holds: as what they are read, and what is said of it."""

    depth: int
    sample: Literal["uint", "float"]
    codes: Callable[[np.ndarray], np.ndarray]
    says: str


_OTHER_NUMBERS: Mapping[str, _ReadAs] = {
    "bool": _ReadAs(8, "uint", lambda bits: (bits != 0).astype(np.uint8) * 255, "stores 1 bit a texel, read as black and white"),
    "uint32": _ReadAs(
        32,
        "float",
        lambda whole: (whole / np.float64(2**32 - 1)).astype(np.float32),
        "stores whole numbers of 32 bits, read as 0 to 1",
    ),
    **{
        key: _ReadAs(32, "float", lambda whole: whole.astype(np.float32), "stores whole numbers with a sign, read as they are")
        for key in ("int16", "int32")
    },
    "float64": _ReadAs(32, "float", lambda double: double, "stores float64 numbers, read as float32"),
}


def tiff_page(page: tifffile.TiffPage, name: str, content: bytes) -> Picture:
    """One page of a TIFF; of several the first is the picture that the file is seen as. Raises as ``read_bytes`` does."""
    check_size(name, page.imagewidth, page.imagelength)
    photometric = tifffile.PHOTOMETRIC(page.photometric).name if page.photometric is not None else "MINISBLACK"
    if page.imagedepth > 1:
        raise UnsupportedImage(
            f"{name}: is a volume, {page.imagedepth} texels deep; expected a flat picture. Save one slice of it."
        )
    if page.samplesperpixel > 4 and photometric != "RGB":
        raise UnsupportedImage(f"{name}: holds {page.samplesperpixel} channels; expected 1 to 4. Save it as RGB or RGBA.")
    if photometric in ("SEPARATED", "CIELAB"):
        raise UnsupportedImage(f"{name}: is {photometric} (CMYK or Lab); expected gray or RGB. Save it as RGB.")
    other = _OTHER_NUMBERS.get(str(page.dtype))
    if other is None and str(page.dtype) not in _DEPTHS:
        raise UnsupportedImage(
            f"{name}: stores {page.dtype} numbers; expected 8 or 16 bits without a sign, half or float. "
            "Save it with 16 bits or as float."
        )
    depth, sample = (other.depth, other.sample) if other else _DEPTHS[str(page.dtype)]
    profile = page.iccprofile if hasattr(page, "iccprofile") else None
    codes, done = _tiff_codes(page, content), [other.says] if other is not None else []
    if page.samplesperpixel > 4:
        kept = 4 if page.extrasamples[0] in _ALPHAS else 3
        codes = np.ascontiguousarray(codes[..., :kept])
        done.append(f"holds {page.samplesperpixel} channels; only {'RGBA'[:kept]} are read")
    codes, filled = _with_data(codes, page.tags.valueof(_NO_DATA))
    done += [filled] if filled else []
    picture = from_samples(codes if other is None else other.codes(codes), "tiff", depth, sample, profile)
    turns, is_mirrored = UPRIGHT.get(int(page.tags.valueof(ORIENTATION, 1)), (0, False))
    if turns or is_mirrored:
        upright = np.rot90(picture.codes, turns)
        picture = replace(picture, codes=np.ascontiguousarray(upright[:, ::-1] if is_mirrored else upright))
        done.append("is turned upright")
    if picture.channels == 4 and tifffile.EXTRASAMPLE.ASSOCALPHA in page.extrasamples and is_dimmed(picture.codes):
        picture = replace(picture, codes=undimmed(picture.codes))
        done.append(DIMMED)
    return replace(picture, done="; ".join(done))


def _with_data(codes: np.ndarray, said: object) -> tuple[np.ndarray, str]:
    """Codes in which texels of the value that is ``said`` to mean none have the lowest of the others; and what was done."""
    try:
        none = float(str(said))
    except ValueError:
        return codes, ""
    none = codes.dtype.type(none) if codes.dtype.kind == "f" else none  # as near to it as the file can come
    empty = np.isnan(codes) if np.isnan(none) else codes == none
    count = int(np.count_nonzero(empty))
    if not 0 < count < codes.size:
        return codes, ""
    lowest = codes[~empty].min()
    done = f"says that {count} texels hold nothing; they are read as its lowest value, {lowest:.4g}"
    return np.where(empty, lowest, codes), done


def _tiff_codes(page: tifffile.TiffPage, content: bytes) -> np.ndarray:
    """Codes of a page as it stores them, 0 black."""
    is_white_first = page.photometric == tifffile.PHOTOMETRIC.MINISWHITE
    try:
        codes = page.asarray()
    except (ValueError, KeyError) as problem:
        if "imagecodecs" not in str(problem):  # a way of packing that tifffile leaves to others, not damage
            raise
        pages = cv2.imdecodemulti(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)[1]
        if not pages or page.index >= len(pages):
            raise
        codes = from_bgr(pages[page.index])
        return ~codes if is_white_first and codes.dtype == np.uint16 else codes  # 8 bits it has turned itself
    if page.axes.startswith("S"):
        codes = np.moveaxis(codes, 0, -1)
    return ~codes if is_white_first and codes.dtype.kind in "ub" else codes
