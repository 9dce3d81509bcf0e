"""Read pictures. The kind is told by the first bytes, never by the name (but for TGA, which has no mark)."""

from __future__ import annotations

import io
import logging
import os
import re
import struct
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
import tifffile
from PIL import Image, ImageOps, UnidentifiedImageError

from ..core.errors import NotAnImage, SieveError, UnsupportedImage
from ..core.primaries import primaries_of
from . import camera
from .document import DOCUMENT_MARK, merged_document
from .picture import Picture, check_size

__all__ = ["read", "read_bytes"]

logging.getLogger("tifffile").setLevel(logging.CRITICAL)  # what it says of odd tags is told as the file's finding
Image.MAX_IMAGE_PIXELS = None  # check_size refuses by its own, stated limits
_LONGEST_REASON = 200
_LARGEST_HALF = np.float32(65504)
_OTHER_PRIMARIES = "names primaries that are none of those known here; colors in it are read as Rec. 709"


@dataclass(frozen=True)
class _Reader:
    key: str
    title: str
    marks: tuple[bytes, ...]
    decode: Callable[[bytes, str], Picture]


def read(path: str | os.PathLike[str]) -> Picture:
    """Read the picture at ``path``. Raises NotAnImage, UnsupportedImage, FileTooLarge or OSError."""
    path = Path(path)
    return read_bytes(path.read_bytes(), path.name)


def read_bytes(content: bytes, name: str) -> Picture:
    """Read a picture from memory; ``name`` is used in messages, and its ending for TGA alone."""
    reader = _reader_for(content, name)
    try:
        return reader.decode(content, name)
    except SieveError:
        raise
    except Exception as problem:  # what decoders raise on damaged bytes is theirs to choose: a list of it is never whole
        raise NotAnImage(
            f"{name}: begins as {reader.title} but cannot be unpacked ({_why(problem)}). It may be cut off or damaged:"
            " save or copy it again.",
            bytes=len(content),
        ) from problem


def _why(problem: Exception) -> str:
    """A library's reason in words a person can use, on one line."""
    if isinstance(problem, struct.error | IndexError | EOFError):
        return "it ends too early"
    if isinstance(problem, MemoryError):
        return "it would need more memory than there is"
    said = re.sub(r"^Error -?\d+ while decompressing data: ", "its packed data are damaged, ", " ".join(str(problem).split()))
    return said[:_LONGEST_REASON].rstrip(".") or type(problem).__name__


def _reader_for(content: bytes, name: str) -> _Reader:
    for reader in _READERS:
        if any(content.startswith(mark) for mark in reader.marks):
            return reader
    for mark, what in _REFUSED.items():
        if content.startswith(mark):
            raise UnsupportedImage(f"{name}: is {what}. Save one picture of it as PNG or TIFF and drop that.")
    if content[4:8] == b"ftyp" and (brand := camera.brand_of(content)) is not None:
        return _BOXES[brand]
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return _WEBP
    if name.lower().endswith((".tga", ".targa", ".tpic")) or content[-18:-2] == b"TRUEVISION-XFILE":
        return _TGA
    expected = "expected PNG, JPEG, TIFF, OpenEXR, TGA and the like, or a mesh as glTF, OBJ, PLY or STL"
    raise NotAnImage(f"{name}: {_looks_like(content)}; {expected}. Export it as one of these.", bytes=len(content))


def _looks_like(content: bytes) -> str:
    """What a file that is no picture seems to be, in a few words."""
    if not content:
        return "is empty (0 bytes)"
    head = content[:512]
    if all(byte >= 32 or byte in b"\t\r\n" for byte in head):
        return "holds text, no picture"
    return f"is no picture we know (it begins with the bytes {head[:8].hex(' ')})"


# ---- PNG ------------------------------------------------------------------------------------------------------------

_PNG_GRAY_ALPHA = 4


def _png(content: bytes, name: str) -> Picture:
    width, height, depth, color_type = struct.unpack(">IIBB", content[16:26])
    check_size(name, width, height)
    if _png_chunks(content, name).count(b"fcTL") > 1:
        raise _many_frames(name, "is an animation")
    if depth < 16:
        return _pillow(content, name, "png")
    codes = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)
    if codes is None or codes.dtype != np.uint16:
        raise NotAnImage(f"{name}: 16-bit PNG that cannot be unpacked; it may be damaged. Save it again.")
    codes = _from_bgr(codes)
    if color_type == _PNG_GRAY_ALPHA and codes.ndim == 3:
        codes = codes[..., [0, codes.shape[2] - 1]]
    with Image.open(io.BytesIO(content)) as header:
        profile = header.info.get("icc_profile")
    return Picture(np.ascontiguousarray(codes), "png", 16, "uint", profile)


def _png_chunks(content: bytes, name: str) -> list[bytes]:
    """Names of all chunks; NotAnImage where the file ends before its last one."""
    at, names = 8, []
    while at + 8 <= len(content):
        (length,) = struct.unpack(">I", content[at : at + 4])
        names.append(content[at + 4 : at + 8])
        at += length + 12
        if names[-1] == b"IEND":
            return names
    raise NotAnImage(
        f"{name}: is cut off after {len(content)} bytes, before the end mark of a PNG. Copy or download it again.",
        bytes=len(content),
    )


def _from_bgr(codes: np.ndarray) -> np.ndarray:
    if codes.ndim == 2:
        return codes
    order = {3: [2, 1, 0], 4: [2, 1, 0, 3]}[codes.shape[2]]
    return codes[..., order]


# ---- through Pillow -------------------------------------------------------------------------------------------------

_ORIENTATION = 0x0112  # EXIF tag: 1 is upright


def _pillow(content: bytes, name: str, key: str) -> Picture:
    try:
        image = Image.open(io.BytesIO(content))
    except UnidentifiedImageError as problem:
        raise NotAnImage(f"{name}: begins as {key.upper()} but its header makes no sense. Save it again.") from problem
    with image:
        check_size(name, *image.size)
        if getattr(image, "n_frames", 1) > 1:
            raise _many_frames(name, f"holds {image.n_frames} frames")  # type: ignore[attr-defined]
        if image.mode in ("CMYK", "YCCK", "LAB"):
            raise UnsupportedImage(
                f"{name}: is {image.mode}, made for print; expected gray or RGB. Save it as RGB.", mode=image.mode
            )
        profile = image.info.get("icc_profile")
        notes = ("palette",) if image.mode in ("P", "PA") else ()
        image.load()
        if image.mode != (plain := _plain_mode(image)):
            image = image.convert(plain)
        upright = ImageOps.exif_transpose(image) if image.getexif().get(_ORIENTATION, 1) != 1 else image  # it copies
        return Picture(np.array(upright), key, 8, "uint", profile, notes)


def _plain_mode(image: Image.Image) -> str:
    """Gray or color, with alpha where the file has one: of its own, in its palette, or as one value that is clear."""
    kind = "L" if image.mode in ("1", "L", "LA") else "RGB"
    return kind + "A" if "transparency" in image.info or image.mode in ("LA", "PA", "RGBA") else kind


def _many_frames(name: str, says: str) -> UnsupportedImage:
    return UnsupportedImage(f"{name}: {says}; a map is one picture. Save the frame you want as PNG and drop that.")


# ---- TIFF, EXR ------------------------------------------------------------------------------------------------------

_DEPTHS = {"uint8": (8, "uint"), "uint16": (16, "uint"), "float16": (16, "float"), "float32": (32, "float")}


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
    "float64": _ReadAs(32, "float", lambda double: double, "stores float64 numbers, read as float32"),
}


def _tiff(content: bytes, name: str) -> Picture:
    with tifffile.TiffFile(io.BytesIO(content)) as tiff:
        page = tiff.pages.first
        check_size(name, page.imagewidth, page.imagelength)
        if camera.is_raw(page):
            return camera.developed(content, name)
        return tiff_page(page, name, content)


def tiff_page(page: tifffile.TiffPage, name: str, content: bytes) -> Picture:
    """One page of a TIFF; of several the first is the picture that the file is seen as. Raises as ``read_bytes`` does."""
    check_size(name, page.imagewidth, page.imagelength)
    photometric = tifffile.PHOTOMETRIC(page.photometric).name if page.photometric is not None else "MINISBLACK"
    if page.samplesperpixel > 4 or page.imagedepth > 1:
        raise UnsupportedImage(
            f"{name}: holds {page.samplesperpixel} channels, {page.imagedepth} deep; expected 1 to 4. Save it as RGB or RGBA."
        )
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
    picture = _from_samples(codes if other is None else other.codes(codes), "tiff", depth, sample, profile)
    turns, is_mirrored = camera.UPRIGHT.get(int(page.tags.valueof(_ORIENTATION, 1)), (0, False))
    if turns or is_mirrored:
        upright = np.rot90(picture.codes, turns)
        picture = replace(picture, codes=np.ascontiguousarray(upright[:, ::-1] if is_mirrored else upright))
        done.append("is turned upright")
    if picture.channels == 4 and tifffile.EXTRASAMPLE.ASSOCALPHA in page.extrasamples and _is_dimmed(picture.codes):
        picture = replace(picture, codes=_undimmed(picture.codes))
        done.append("stores colors dimmed by their alpha, which is taken out")
    return replace(picture, done="; ".join(done))


def _is_dimmed(codes: np.ndarray) -> bool:
    """Whether no color is brighter than its alpha: else the file only says that it is dimmed."""
    return bool((codes[..., :3] <= codes[..., 3:]).all())


def _undimmed(codes: np.ndarray) -> np.ndarray:
    """Colors (H, W, 4) as they were before they were multiplied by their alpha; black where that is 0."""
    full = np.float32(np.iinfo(codes.dtype).max if codes.dtype.kind == "u" else 1)
    alpha = codes[..., 3:].astype(np.float32)
    colors = codes[..., :3] * np.where(alpha > 0, full / np.maximum(alpha, np.finfo(np.float32).tiny), 0)
    colors = colors if codes.dtype.kind == "f" else np.rint(colors.clip(0, full))
    return np.concatenate([colors.astype(codes.dtype), codes[..., 3:]], axis=2)


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
        codes = _from_bgr(pages[page.index])
        return ~codes if is_white_first and codes.dtype == np.uint16 else codes  # 8 bits it has turned itself
    if page.axes.startswith("S"):
        codes = np.moveaxis(codes, 0, -1)
    return ~codes if is_white_first and codes.dtype.kind in "ub" else codes


def _exr(content: bytes, name: str) -> Picture:
    return exr_planes(content, name, 0, None)


_HDR_SIZE = re.compile(rb"\n-Y (\d{1,9}) \+X (\d{1,9})\n")


def _hdr(content: bytes, name: str) -> Picture:
    """Shared exponents of 8 bits: light as it is, in float32."""
    size = _HDR_SIZE.search(content[:4096])
    if size is None:
        raise UnsupportedImage(f"{name}: is an HDR file whose rows do not run from the top left. Save it as OpenEXR, or upright.")
    check_size(name, int(size[2]), int(size[1]))
    codes = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)
    if codes is None or codes.dtype != np.float32:
        raise NotAnImage(f"{name}: begins as an HDR file but cannot be unpacked; it may be damaged. Save it again.")
    return Picture(np.ascontiguousarray(_from_bgr(codes)), "hdr", 32, "float")


@contextmanager
def opened(content: bytes, suffix: str = ".exr") -> Iterator[Any]:
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
        chosen = wanted or _seen_as(names)
        if chosen is None:
            raise UnsupportedImage(f"{name}: has channels {', '.join(names)}; expected R, G, B, A or Y, or take its layers.")
        stored = str(spec.format)
        if stored not in ("half", "float"):
            raise UnsupportedImage(f"{name}: stores {stored} numbers; expected half or float.")
        codes = file.read_image(part, 0, 0, len(names), stored)
        if codes is None:
            raise ValueError(file.geterror())
        told = spec.getattribute("chromaticities")
    planes, framed = _in_frame(codes[..., [names.index(letter) for letter in chosen]], spec, name)
    if len(chosen) == 2:  # x and y of normals, or any two: not gray and alpha
        planes = np.concatenate([planes, np.zeros_like(planes[..., :1])], axis=2)
    picture = _from_samples(planes, "exr", 16 if stored == "half" else 32, "float", None)
    primaries = None if told is None or picture.channels < 3 else primaries_of(told)
    is_unknown = told is not None and picture.channels >= 3 and primaries is None
    done = "; ".join(said for said in (framed, _OTHER_PRIMARIES if is_unknown else "") if said)
    return replace(picture, primaries=primaries, done=done)


# What an EXR is seen as by the names of its channels: the first of these that are all there, whatever their case.
_EXR_PICTURES = ("RGBA", "RGB", "XYZ", "XY", "Y", "RG")


def _seen_as(names: list[str]) -> list[str] | None:
    """The channels of the picture that an EXR is seen as; a single one of any name is a gray."""
    if len(names) == 1:
        return names
    by_letter = {name.upper(): name for name in reversed(names)}
    found = next((letters for letters in _EXR_PICTURES if set(letters) <= set(by_letter)), None)
    return None if found is None else [by_letter[letter] for letter in found]


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


def _by_library(key: str, suffix: str) -> Callable[[bytes, str], Picture]:
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
        return _from_samples(codes, key, *stored, None if profile is None else bytes(profile))

    return decoded


_pnm = _by_library("pnm", ".pnm")
_LIBRARY_DEPTHS = {"uint8": (8, "uint"), "uint16": (16, "uint"), "half": (16, "float"), "float": (32, "float")}


def _from_samples(codes: np.ndarray, key: str, depth: int, sample: str, profile: bytes | None) -> Picture:
    if codes.ndim == 3 and codes.shape[2] == 1:
        codes = codes[..., 0]
    if codes.ndim not in (2, 3) or (codes.ndim == 3 and codes.shape[2] not in (2, 3, 4)):
        raise ValueError(f"unexpected shape {codes.shape}")
    notes: tuple[str, ...] = ()
    if sample == "float":
        codes = codes.astype(np.float32)
        broken = int(codes.size - np.count_nonzero(np.abs(codes) <= _LARGEST_HALF))
        if broken:
            codes = np.nan_to_num(codes, nan=0.0).clip(-_LARGEST_HALF, _LARGEST_HALF)
            notes = (
                f"{broken} values are no numbers, or beyond what half floats hold, and are read as 0 or ± {_LARGEST_HALF:g}",
            )
    return Picture(np.ascontiguousarray(codes), key, depth, sample, profile, notes)  # type: ignore[arg-type]


def _by_pillow(key: str) -> Callable[[bytes, str], Picture]:
    return lambda content, name: _pillow(content, name, key)


_TGA = _Reader("tga", "TGA", (), _by_pillow("tga"))
_BOXES = {
    "heic": _Reader("heic", "HEIC", (), camera.heic),
    "avif": _Reader("avif", "AVIF", (), camera.avif),
    "raw": _Reader("raw", "camera raw", (), camera.developed),
}
_WEBP = _Reader("webp", "WebP", (), _by_pillow("webp"))
_READERS = (
    _Reader("png", "PNG", (b"\x89PNG\r\n\x1a\n",), _png),
    _Reader("jpeg", "JPEG", (b"\xff\xd8\xff",), _by_pillow("jpeg")),
    _Reader("tiff", "TIFF", (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"), _tiff),
    _Reader("exr", "OpenEXR", (b"\x76\x2f\x31\x01",), _exr),
    _Reader("hdr", "HDR", (b"#?RADIANCE", b"#?RGBE"), _hdr),
    _Reader("bmp", "BMP", (b"BM",), _by_pillow("bmp")),
    _Reader("dds", "DDS", (b"DDS ",), _by_pillow("dds")),
    _Reader("jxl", "JPEG XL", (b"\xff\x0a", b"\x00\x00\x00\x0cJXL "), _by_library("jxl", ".jxl")),
    _Reader("jp2", "JPEG 2000", (b"\x00\x00\x00\x0cjP  ", b"\xff\x4f\xff\x51"), _by_library("jp2", ".jp2")),
    _Reader("pnm", "PGM, PPM, PFM", tuple(b"P%c%c" % (kind, end) for kind in b"123456Ff" for end in b"\n \r\t"), _pnm),
    _Reader("sgi", "SGI", (b"\x01\xda\x00", b"\x01\xda\x01"), _by_library("sgi", ".sgi")),
    _Reader("psd", "layered documents", (DOCUMENT_MARK,), merged_document),
    *(_Reader("raw", "camera raw", (mark,), camera.developed) for mark in camera.RAW_MARKS),
)
_REFUSED = {
    b"GIF8": "a GIF, which holds 256 colors and often an animation",
    b"PK\x03\x04": "a zip archive, which is not unpacked yet",
    b"%PDF": "a PDF",
}
