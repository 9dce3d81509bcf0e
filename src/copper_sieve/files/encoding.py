"""Write pictures: same codes, same bytes, no dates, no traces of the program; under a temporary name, then renamed."""

from __future__ import annotations

import io
import os
import struct
import tempfile
import zlib
from collections.abc import Callable
from itertools import chain, repeat
from pathlib import Path
from typing import Any, Literal

import cv2
import numpy as np
import tifffile
from isal import isal_zlib

from ..core.bands import in_parts
from ..core.errors import UnknownKey, UnsupportedImage
from ..core.primaries import PRIMARIES
from ..core.target.formats import FORMATS
from .picture import UNDIMMED

__all__ = ["ColorTag", "encode", "exr_header", "exr_key", "write", "write_bytes", "write_page"]

ColorTag = Literal["srgb", "linear", "acescg", "aces2065", "p3", "rec2020", "data"]  # those without Rec. 709 are linear
# For readers that take Rec. 709 for granted where no primaries are said.
_CHROMATICITIES = {key: row.chromaticities for key, row in PRIMARIES.items() if key != "rec709"}


def _chunk(name: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + name + content + struct.pack(">I", isal_zlib.crc32(content, isal_zlib.crc32(name)))


PNG_MARK = b"\x89PNG\r\n\x1a\n"
_ADLER = 65521
_STRIP_BYTES = 1 << 20  # of a TIFF, before it is deflated
_TIFF_LEVEL = 4  # a TIFF is kept: a fifteenth larger than at the usual 6, in a third of its time
_PART_BYTES = 4 << 20  # deflated apart, so that all cores work; the same everywhere, so that equal pictures give equal files


def png_rows(codes: np.ndarray, first: int = 0, last: int | None = None) -> np.ndarray:
    """Rows ``first``..``last`` of a PNG before they are deflated, (rows, bytes) uint8: the filter's number, 2, then what
    differs from the row above."""
    above = max(0, first - 1)
    band = codes[above:last]
    band = band.astype(">u2") if codes.dtype == np.uint16 else band
    rows = np.ascontiguousarray(band).view(np.uint8).reshape(len(band), -1)
    filtered = np.empty((len(band) - (first - above), rows.shape[1] + 1), np.uint8)
    filtered[:, 0] = 2
    if first == 0:
        filtered[0, 1:] = rows[0]
        np.subtract(rows[1:], rows[:-1], out=filtered[1:, 1:])
    else:
        np.subtract(rows[1:], rows[:-1], out=filtered[:, 1:])
    return filtered


def png_row_bytes(codes: np.ndarray) -> int:
    """Length of one of ``png_rows``."""
    return codes[0].nbytes + 1


def png_header(codes: np.ndarray) -> bytes:
    """What IHDR says of these codes."""
    height, width = codes.shape[:2]
    color_type = {1: 0, 2: 4, 3: 2, 4: 6}[1 if codes.ndim == 2 else codes.shape[2]]
    return struct.pack(">IIBBBBB", width, height, codes.dtype.itemsize * 8, color_type, 0, 0, 0)


def _deflated(codes: np.ndarray) -> bytes:
    """One zlib stream (RFC 1950) of parts that begin anew, each by ISA-L: a tenth of the usual time at the same size."""
    height, row_bytes = len(codes), png_row_bytes(codes)
    step = max(1, _PART_BYTES // row_bytes)

    def part(first: int) -> tuple[bytes, int]:
        rows = png_rows(codes, first, min(first + step, height))
        packer = isal_zlib.compressobj(2, wbits=-15)
        ending = isal_zlib.Z_FINISH if first + step >= height else isal_zlib.Z_FULL_FLUSH
        return packer.compress(rows) + packer.flush(ending), isal_zlib.adler32(rows)

    firsts = range(0, height, step)
    parts = in_parts(part, firsts)
    total = 1
    for first, (_, adler) in zip(firsts, parts, strict=True):
        total = _adler_joined(total, adler, (min(first + step, height) - first) * row_bytes)
    return b"".join([b"\x78\x01", *(packed for packed, _ in parts), total.to_bytes(4, "big")])


def _adler_joined(before: int, after: int, length: int) -> int:
    """Adler-32 of two runs of bytes from those of each, the second ``length`` long: RFC 1950, its sums added."""
    low, rest = (before & 0xFFFF) - 1, length % _ADLER
    high = (before >> 16) + (after >> 16) + rest * low
    return ((high % _ADLER) << 16) | ((low + (after & 0xFFFF)) % _ADLER)


def _png(codes: np.ndarray, color: ColorTag) -> bytes:
    tag = _chunk(b"sRGB", b"\0") if color == "srgb" else b""
    body = _deflated(codes)
    return PNG_MARK + _chunk(b"IHDR", png_header(codes)) + tag + _chunk(b"IDAT", body) + _chunk(b"IEND", b"")


def _tga(codes: np.ndarray, color: ColorTag) -> bytes:
    """Uncompressed, bottom row first, as every reader expects."""
    height, width = codes.shape[:2]
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    kind = 3 if channels == 1 else 2
    header = struct.pack("<BBB5xHHHHBB", 0, 0, kind, 0, 0, width, height, channels * 8, 8 if channels == 4 else 0)
    pixels = codes if channels == 1 else codes[..., {3: [2, 1, 0], 4: [2, 1, 0, 3]}[channels]]
    footer = struct.pack("<II", 0, 0) + b"TRUEVISION-XFILE.\0"
    return header + np.ascontiguousarray(pixels[::-1]).tobytes() + footer


def write_page(writer: tifffile.TiffWriter, codes: np.ndarray, **tags: Any) -> None:
    """Add codes as a page of a TIFF: strips that differ from the texel to their left, each deflated apart."""
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    is_predicted = codes.dtype.kind == "u"
    step = max(1, _STRIP_BYTES // codes[0].nbytes)

    def strip(first: int) -> bytes:
        band = codes[first : first + step]
        if is_predicted:
            band = np.concatenate([band[:, :1], band[:, 1:] - band[:, :-1]], 1)
        return zlib.compress(np.ascontiguousarray(band).data, _TIFF_LEVEL)

    writer.write(
        iter(in_parts(strip, range(0, len(codes), step))),
        shape=codes.shape,
        dtype=codes.dtype,
        rowsperstrip=step,
        photometric="rgb" if channels > 2 else "minisblack",
        extrasamples=["unassalpha"] if channels in (2, 4) else None,
        compression="zlib",
        predictor=is_predicted,
        metadata=None,
        software=False,
        **tags,
    )


def _tiff(codes: np.ndarray, color: ColorTag) -> bytes:
    out = io.BytesIO()
    with tifffile.TiffWriter(out) as writer:
        write_page(writer, codes)
    return out.getvalue()


def exr_key(codes: np.ndarray) -> str:
    """What an EXR calls the channels of these codes."""
    return {1: "Y", 3: "RGB", 4: "RGBA"}[1 if codes.ndim == 2 else codes.shape[2]]


def exr_header(color: ColorTag, codes: np.ndarray) -> dict[str, Any]:
    """How an EXR, or a part of one, is stored, with primaries where they are not Rec. 709."""
    import OpenEXR  # loads slowly and is seldom needed

    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    header |= {"chromaticities": _CHROMATICITIES[color]} if color in _CHROMATICITIES else {}
    return header | (dict([UNDIMMED]) if codes.shape[2:] == (4,) else {})


def _exr(codes: np.ndarray, color: ColorTag) -> bytes:
    import OpenEXR  # loads slowly and is seldom needed

    with tempfile.TemporaryDirectory() as folder:  # the library writes by path only
        path = Path(folder) / "out.exr"
        OpenEXR.File(exr_header(color, codes), {exr_key(codes): np.ascontiguousarray(codes)}).write(str(path))
        return path.read_bytes()


_TILE_PX = 64
_CHANNEL_NAMES = {1: ("Y",), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}


def _halved(codes: np.ndarray) -> np.ndarray:
    """The next smaller copy: sides halved and rounded down, each texel the mean of what it covers."""
    height, width = (max(1, side // 2) for side in codes.shape[:2])
    smaller = cv2.resize(codes.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA)
    return smaller.reshape(height, width, -1).astype(codes.dtype)


def _exr_tiled(codes: np.ndarray, color: ColorTag) -> bytes:
    """Tiles of 64 px and all smaller copies down to one texel (mip-maps), to be repeated in both directions."""
    import OpenImageIO as oiio  # loads slowly and is seldom needed

    level = codes if codes.ndim == 3 else codes[..., None]
    kind = oiio.HALF if codes.dtype == np.float16 else oiio.FLOAT
    with tempfile.TemporaryDirectory() as folder:  # the library writes by path only
        path = str(Path(folder) / "out.exr")
        out = oiio.ImageOutput.create(path)
        if out is None:
            raise UnsupportedImage(f"tiled files cannot be written here: {oiio.geterror()}. Choose plain EXR.")
        for mode in chain(["Create"], repeat("AppendMIPLevel")):
            spec = oiio.ImageSpec(level.shape[1], level.shape[0], level.shape[2], kind)
            spec.channelnames = _CHANNEL_NAMES[level.shape[2]]
            spec.tile_width = spec.tile_height = _TILE_PX
            for key, value in (("compression", "zip"), ("textureformat", "Plain Texture"), ("wrapmodes", "periodic,periodic")):
                spec[key] = value
            if color in _CHROMATICITIES:
                spec.attribute("chromaticities", "float[8]", _CHROMATICITIES[color])
            if level.shape[2] == 4:
                spec.attribute(*UNDIMMED)
            spec["DateTime"] = ""  # else it notes the time, and equal files would differ
            if not (out.open(path, spec, mode) and out.write_image(np.ascontiguousarray(level))):
                raise UnsupportedImage(f"the tiled file could not be written: {out.geterror()}. Choose plain EXR.")
            if level.shape[:2] == (1, 1):
                break
            level = _halved(level)
        out.close()
        del out  # it is whole only when its writer is gone
        return Path(path).read_bytes()


def _jpeg(codes: np.ndarray, color: ColorTag) -> bytes:
    """Quality 95, every color at full size; without metadata."""
    options = (cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444, cv2.IMWRITE_JPEG_OPTIMIZE, 1)
    blue_first = codes if codes.ndim == 2 else codes[..., ::-1]
    return cv2.imencode(".jpg", blue_first, [cv2.IMWRITE_JPEG_QUALITY, 95, *options])[1].tobytes()


_ENCODERS: dict[str, Callable[[np.ndarray, ColorTag], bytes]] = {
    "png": _png,
    "tga": _tga,
    "tiff": _tiff,
    "exr": _exr,
    "exr-tiled": _exr_tiled,
    "jpeg": _jpeg,
}


def encode(codes: np.ndarray, format: str, *, color: ColorTag = "data") -> bytes:
    """Encode (H, W[, C]) codes, uint8, uint16, float16 or float32. Raises UnknownKey, UnsupportedImage."""
    if format not in FORMATS:
        raise UnknownKey("format", format, list(FORMATS))
    row = FORMATS[format]
    kind = (codes.dtype.itemsize * 8, "float" if codes.dtype.kind == "f" else "uint")
    channels = 1 if codes.ndim == 2 else codes.shape[2]
    if kind not in row.depths or channels not in row.channels or max(codes.shape[:2]) > row.largest:
        got = f"{kind[0]}-bit {kind[1]}, {channels} channels, {codes.shape[1]} × {codes.shape[0]} px"
        raise UnsupportedImage(f"{format} holds {row.says} (got {got}). Choose another format, depth or size.")
    return _ENCODERS[format](codes, color)


def write(path: str | os.PathLike[str], codes: np.ndarray, *, format: str, color: ColorTag = "data") -> None:
    """Encode and write; whoever looks sees the old file or the whole new one."""
    write_bytes(Path(path), encode(codes, format, color=color))


def write_bytes(path: Path, content: bytes) -> None:
    """Write under a temporary name beside ``path``, flush to disk, rename."""
    handle, temporary = tempfile.mkstemp(prefix=".writing-", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as out:
            out.write(content)
            out.flush()
            os.fsync(out.fileno())
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
