"""Pictures as cameras and phones keep them: HEIC, AVIF, and what a sensor saw, developed plainly."""

from __future__ import annotations

import io
import struct
from typing import Any, Literal

import cv2
import numpy as np
import tifffile
from PIL import Image

from ..core.errors import UnsupportedImage
from .picture import Picture, check_size
from .profile import numbered_profile

__all__ = ["ORIENTATION", "RAW_MARKS", "UPRIGHT", "avif", "brand_of", "developed", "heic", "is_raw"]

RAW_MARKS = (b"FUJIFILMCCD-RAW", b"IIU\0", b"IIRO", b"MMOR")  # marks of raw files that are no plain TIFF
_BRANDS = {
    "heic": (b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1"),
    "avif": (b"avif", b"avis"),
    "raw": (b"crx ",),
}
_CFA, _LINEAR_RAW, _DNG_VERSION, _SUB_IFDS = 32803, 34892, 50706, 330
ORIENTATION = 0x0112  # EXIF and TIFF tag: 1 is upright
# How to hold codes upright by the EXIF number: turns of 90° to the left, then whether left and right change sides.
UPRIGHT = {1: (0, False), 2: (0, True), 3: (2, False), 4: (2, True), 5: (3, True), 6: (3, False), 7: (1, True), 8: (1, False)}


def brand_of(content: bytes) -> str | None:
    """Which of ours a file made of boxes is, by its own brand and those it says it agrees with; None where it is no picture."""
    (length,) = struct.unpack(">I", content[:4])
    brands = [content[8:12], *(content[k : k + 4] for k in range(16, min(length, len(content), 256), 4))]
    found = [key for key, known in _BRANDS.items() if any(brand in known for brand in brands)]
    return "avif" if "avif" in found else next(iter(found), None)  # both say mif1; only one says avif


def heic(content: bytes, name: str) -> Picture:
    """The main picture of an HEIC: upright, as deep as it is, with its profile. Raises UnsupportedImage for high range."""
    import pillow_heif  # loads slowly and is seldom needed

    file = pillow_heif.open_heif(io.BytesIO(content), convert_hdr_to_8bit=False, hdr_to_16bit=False)
    check_size(name, *file.size)
    profile, said = _color_of(content, name)
    bits = int(file.info.get("bit_depth", 8))
    others = [f"the main one of its {len(file)} pictures"] if len(file) > 1 else []
    codes, deep = _whole(np.asarray(file), bits)
    known: Any = file.info.get("icc_profile")
    return Picture(codes, "heic", deep, "uint", known or profile, done=_done("HEIC", bits, others, said))


def avif(content: bytes, name: str) -> Picture:
    """An AVIF: upright, as deep as it is, with its profile. Raises UnsupportedImage for high range and for animations."""
    profile, said = _color_of(content, name)
    with Image.open(io.BytesIO(content)) as image:
        check_size(name, *image.size)
        if getattr(image, "n_frames", 1) > 1:
            raise UnsupportedImage(
                f"{name}: is an animation; a map is one picture. Save the frame you want as PNG and drop that."
            )
        profile = image.info.get("icc_profile") or profile
        turns, is_mirrored = UPRIGHT.get(image.getexif().get(ORIENTATION, 1), (0, False))
        bits = _avif_bits(content)
        codes = np.array(image) if bits == 8 else _by_opencv(content)
    codes, deep = _whole(codes, bits)
    codes = np.rot90(codes, turns)
    codes = np.ascontiguousarray(codes[:, ::-1] if is_mirrored else codes)
    turned = ["turned upright"] if turns or is_mirrored else []
    return Picture(codes, "avif", deep, "uint", profile, done=_done("AVIF", bits, turned, said))


def _by_opencv(content: bytes) -> np.ndarray:
    codes = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)
    if codes is None:
        raise ValueError("its picture cannot be decoded")
    return codes if codes.ndim == 2 else codes[..., [2, 1, 0, 3][: codes.shape[2]]]


def _avif_bits(content: bytes) -> int:
    """Bits a channel by the configuration box (AV1-ISOBMFF 2.3.3)."""
    at = content.find(b"av1C")
    flags = content[at + 6] if 0 <= at < len(content) - 6 else 0
    return 8 if not flags & 0x40 else (12 if flags & 0x20 else 10)


def _whole(codes: np.ndarray, bits: int) -> tuple[np.ndarray, Literal[8, 16]]:
    """Codes of 8 bits as they are, deeper ones stretched over 16 so that white is white."""
    if codes.ndim == 3 and codes.shape[2] == 1:
        codes = codes[..., 0]
    if bits <= 8:
        return np.ascontiguousarray(codes, np.uint8), 8
    top = (1 << bits) - 1
    return ((codes.astype(np.uint32) * 65535 + top // 2) // top).clip(0, 65535).astype(np.uint16), 16


def _color_of(content: bytes, name: str) -> tuple[bytes | None, str]:
    """Profile that the color box stands for (ISO 23091-2), and what is said of it; none for sRGB's own primaries."""
    at = content.find(b"colrnclx")
    if at < 0:
        return None, ""
    primaries, transfer = struct.unpack(">HH", content[at + 8 : at + 12])
    return numbered_profile(primaries, transfer, name)


def _done(what: str, bits: int, more: list[str], color: str) -> str:
    depth = [] if bits <= 8 else [f"its {bits} bits are kept in 16"]
    return ", ".join([f"read from {what}", *more, *depth, *([color] if color else [])])


def is_raw(page: tifffile.TiffPage) -> bool:
    """Whether a TIFF is a camera's raw file: its tags say so, or the pictures under its first page are a sensor's."""
    if _DNG_VERSION in page.tags or int(page.photometric or 0) in (_CFA, _LINEAR_RAW):
        return True
    if _SUB_IFDS not in page.tags:
        return False
    return any(int(getattr(sub, "photometric", 0) or 0) == _CFA for sub in page.pages or ())


def developed(content: bytes, name: str) -> Picture:
    """What a sensor saw as 16-bit sRGB: white balance of the camera, nothing brightened, upright.

    Raises UnsupportedImage for a camera that is not known.
    """
    import rawpy  # loads slowly and is seldom needed

    try:
        with rawpy.imread(io.BytesIO(content)) as raw:
            check_size(name, raw.sizes.width, raw.sizes.height)
            is_turned = raw.sizes.flip != 0
            codes = raw.postprocess(output_bps=16, use_camera_wb=True, no_auto_bright=True, gamma=(2.4, 12.92))
    except rawpy.LibRawFileUnsupportedError as problem:
        raise UnsupportedImage(
            f"{name}: is a raw file of a camera that is not known here. Develop it elsewhere, and save it as 16-bit TIFF."
        ) from problem
    turned = ["turned upright"] if is_turned else []
    more = ["with the camera's white balance and nothing brightened", *turned]
    return Picture(np.ascontiguousarray(codes), "raw", 16, "uint", None, done=_done("the sensor's values", 8, more, ""))
