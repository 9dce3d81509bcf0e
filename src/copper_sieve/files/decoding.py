"""Read pictures. The kind is told by the first bytes, never by the name (but for TGA, which has no mark)."""

from __future__ import annotations

import io
import logging
import os
import re
import struct
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image, ImageOps, UnidentifiedImageError

from ..core.errors import NotAnImage, SieveError, UnsupportedImage
from . import camera
from .document import DOCUMENT_MARK, merged_document
from .exr import by_library, exr_planes
from .foreign import foreign
from .picture import Picture, check_size, from_bgr
from .profile import camera_profile, numbered_profile, told_profile
from .tiff import tiff_page

__all__ = ["read", "read_bytes"]

logging.getLogger("tifffile").setLevel(logging.CRITICAL)  # what it says of odd tags is told as the file's finding
Image.MAX_IMAGE_PIXELS = None  # check_size refuses by its own, stated limits
_LONGEST_REASON = 200


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
    if content[4:8] == b"ftyp" and (brand := camera.brand_of(content)) is not None:
        return _BOXES[brand]
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return _WEBP
    if name.lower().endswith((".tga", ".targa", ".tpic")) or content[-18:-2] == b"TRUEVISION-XFILE":
        return _TGA
    if (said := foreign(content, name)) is not None:
        raise UnsupportedImage(f"{name}: {said}")
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

_PNG_GRAY, _PNG_GRAY_ALPHA = 0, 4
_CHUNK_START = 64
_HUNDRED_THOUSANDTHS = 100_000  # numbers of gAMA and cHRM


def _png(content: bytes, name: str) -> Picture:
    width, height, depth, color_type = struct.unpack(">IIBB", content[16:26])
    check_size(name, width, height)
    chunks = _png_chunks(content, name)
    if [key for key, _ in chunks].count(b"fcTL") > 1:
        raise _many_frames(name, "is an animation")
    told, said = (None, "") if color_type in (_PNG_GRAY, _PNG_GRAY_ALPHA) else _png_color(dict(reversed(chunks)), name)
    if depth < 16:
        picture = _pillow(content, name, "png")
        return picture if told is None else replace(picture, profile=told, color_done=said)
    codes = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)
    if codes is None or codes.dtype != np.uint16:
        raise NotAnImage(f"{name}: 16-bit PNG that cannot be unpacked; it may be damaged. Save it again.")
    codes = from_bgr(codes)
    if color_type == _PNG_GRAY_ALPHA and codes.ndim == 3:
        codes = codes[..., [0, codes.shape[2] - 1]]
    with Image.open(io.BytesIO(content)) as header:
        profile = header.info.get("icc_profile")
    return Picture(np.ascontiguousarray(codes), "png", 16, "uint", told or profile, color_done=said)


def _png_color(chunks: dict[bytes, bytes], name: str) -> tuple[bytes | None, str]:
    """A profile by what chunks tell of color, and what is said of it; the better goes first (PNG 3rd edition, 11.3.2, 13.13)."""
    numbers, power, places = (chunks.get(key, b"") for key in (b"cICP", b"gAMA", b"cHRM"))
    if len(numbers) == 4:
        return numbered_profile(numbers[0], numbers[1], name)
    if b"iCCP" in chunks or b"sRGB" in chunks:
        return None, ""
    gamma = struct.unpack(">I", power)[0] / _HUNDRED_THOUSANDTHS if len(power) == 4 else None
    white_first = [v / _HUNDRED_THOUSANDTHS for v in struct.unpack(">8I", places)] if len(places) == 32 else None
    return told_profile(gamma, None if white_first is None else (*white_first[2:], *white_first[:2]))


def _png_chunks(content: bytes, name: str) -> list[tuple[bytes, bytes]]:
    """Names of all chunks, with the first bytes of each; NotAnImage where the file ends before its last one."""
    at, chunks = 8, []
    while at + 8 <= len(content):
        (length,) = struct.unpack(">I", content[at : at + 4])
        chunks.append((content[at + 4 : at + 8], content[at + 8 : at + 8 + min(length, _CHUNK_START)]))
        at += length + 12
        if chunks[-1][0] == b"IEND":
            return chunks
    raise NotAnImage(
        f"{name}: is cut off after {len(content)} bytes, before the end mark of a PNG. Copy or download it again.",
        bytes=len(content),
    )


# ---- through Pillow -------------------------------------------------------------------------------------------------

_SEVERAL_IN_JPEG = "MPO"  # CIPA DC-007: as phones save depth, or how bright a screen may show it, behind the photo


def _pillow(content: bytes, name: str, key: str) -> Picture:
    try:
        image = Image.open(io.BytesIO(content))
    except UnidentifiedImageError as problem:
        raise NotAnImage(f"{name}: begins as {key.upper()} but its header makes no sense. Save it again.") from problem
    with image:
        check_size(name, *image.size)
        frames = getattr(image, "n_frames", 1)
        if frames > 1 and image.format != _SEVERAL_IN_JPEG:
            raise _many_frames(name, f"holds {frames} frames")
        if image.mode in ("CMYK", "YCCK", "LAB"):
            raise UnsupportedImage(
                f"{name}: is {image.mode}, made for print; expected gray or RGB. Save it as RGB.", mode=image.mode
            )
        profile, color = image.info.get("icc_profile"), ""
        if profile is None and key == "jpeg" and image.mode == "RGB":
            profile, color = camera_profile(image.getexif())
        notes = ("palette",) if image.mode in ("P", "PA") else ()
        image.load()
        if image.mode != (plain := _plain_mode(image)):
            image = image.convert(plain)
        upright = ImageOps.exif_transpose(image) if image.getexif().get(camera.ORIENTATION, 1) != 1 else image  # it copies
        behind = "" if frames == 1 else "holds more pictures behind the one that is seen, such as its depth, which are left out"
        return Picture(np.array(upright), key, 8, "uint", profile, notes, behind, color_done=color)


_CAPS, _CUBE, _VOLUME, _TENTH, _COUNT = 112, 0x200, 0x200000, b"DX10", 140  # places and flags of a DDS


def _dds(content: bytes, name: str) -> Picture:
    """A block-compressed texture; of a file with several pictures none is the map."""
    (caps,) = struct.unpack_from("<I", content, _CAPS)
    is_new = content[84:88] == _TENTH
    count, misc = (struct.unpack_from("<I", content, at)[0] if is_new else 0 for at in (_COUNT, _COUNT - 4))
    if caps & _CUBE or misc & 4:
        raise UnsupportedImage(f"{name}: is a cube of six pictures; a map is one. Save the one you want as PNG and drop that.")
    if caps & _VOLUME or count > 1:
        raise UnsupportedImage(f"{name}: is a stack of pictures; a map is one. Save the one you want as PNG and drop that.")
    return _pillow(content, name, "dds")


def _plain_mode(image: Image.Image) -> str:
    """Gray or color, with alpha where the file has one: of its own, in its palette, or as one value that is clear."""
    kind = "L" if image.mode in ("1", "L", "LA") else "RGB"
    return kind + "A" if "transparency" in image.info or image.mode in ("LA", "PA", "RGBA") else kind


def _many_frames(name: str, says: str) -> UnsupportedImage:
    return UnsupportedImage(f"{name}: {says}; a map is one picture. Save the frame you want as PNG and drop that.")


# ---- TIFF, EXR, HDR -------------------------------------------------------------------------------------------------


def _tiff(content: bytes, name: str) -> Picture:
    with tifffile.TiffFile(io.BytesIO(content)) as tiff:
        page = tiff.pages.first
        check_size(name, page.imagewidth, page.imagelength)
        if camera.is_raw(page):
            return camera.developed(content, name)
        return tiff_page(page, name, content)


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
    return Picture(np.ascontiguousarray(from_bgr(codes)), "hdr", 32, "float")


_pnm = by_library("pnm", ".pnm")


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
    _Reader("dds", "DDS", (b"DDS ",), _dds),
    _Reader("jxl", "JPEG XL", (b"\xff\x0a", b"\x00\x00\x00\x0cJXL "), by_library("jxl", ".jxl")),
    _Reader("jp2", "JPEG 2000", (b"\x00\x00\x00\x0cjP  ", b"\xff\x4f\xff\x51"), by_library("jp2", ".jp2")),
    _Reader("pnm", "PGM, PPM, PFM", tuple(b"P%c%c" % (kind, end) for kind in b"123456Ff" for end in b"\n \r\t"), _pnm),
    _Reader("sgi", "SGI", (b"\x01\xda\x00", b"\x01\xda\x01"), by_library("sgi", ".sgi")),
    _Reader("psd", "layered documents", (DOCUMENT_MARK,), merged_document),
    *(_Reader("raw", "camera raw", (mark,), camera.developed) for mark in camera.RAW_MARKS),
)
