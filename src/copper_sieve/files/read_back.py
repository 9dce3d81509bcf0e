"""Whether a file that was just written holds what it was to hold."""

from __future__ import annotations

import struct

import numpy as np
from isal import isal_zlib

from ..core.target.formats import FORMATS
from .decoding import read_bytes
from .encoding import PNG_MARK, png_header, png_row_bytes, png_rows

__all__ = ["holds"]

_PIECE_BYTES = 1 << 19


def holds(content: bytes, codes: np.ndarray, format: str, name: str) -> bool:
    """Whether the bytes of a file, as they came back from disk, are these codes; of a lossy format, whether their shape is.

    Raises SieveError where they are no picture at all.
    """
    if format == "png":
        return _png_holds(content, codes)
    found = read_bytes(content, name).codes
    return found.shape == codes.shape and (FORMATS[format].lossy or np.array_equal(found, codes.astype(found.dtype)))


def _png_holds(content: bytes, codes: np.ndarray) -> bool:
    """Every chunk sound by its sum, the header right, and the rows inflated to what was deflated: a quarter of reading it."""
    chunks: dict[bytes, memoryview] = {}
    view, at = memoryview(content), len(PNG_MARK)
    while at + 8 <= len(content):
        length, kind = struct.unpack_from(">I4s", content, at)
        body, told = view[at + 8 : at + 8 + length], content[at + 8 + length : at + 12 + length]
        if isal_zlib.crc32(body, isal_zlib.crc32(kind)).to_bytes(4, "big") != told:
            return False
        chunks[kind] = body
        at += length + 12
    is_whole = (
        content.startswith(PNG_MARK) and chunks.keys() >= {b"IHDR", b"IDAT", b"IEND"} and chunks[b"IHDR"] == png_header(codes)
    )
    if not is_whole:
        return False
    return _inflates_to(chunks[b"IDAT"], codes)


def _inflates_to(packed: memoryview, codes: np.ndarray) -> bool:
    """Whether a zlib stream holds the rows of these codes, piece by piece, so that no second picture is made."""
    row_bytes, at = png_row_bytes(codes), 0
    unpacker = isal_zlib.decompressobj()
    for start in range(0, len(packed), _PIECE_BYTES):
        try:
            found = np.frombuffer(unpacker.decompress(packed[start : start + _PIECE_BYTES]), np.uint8)
        except isal_zlib.error:  # type: ignore[misc]  # it is an exception, though its stub does not say so
            return False
        first, last = at // row_bytes, -(-(at + len(found)) // row_bytes)
        if last > len(codes):
            return False
        wanted = png_rows(codes, first, last).reshape(-1)[at - first * row_bytes :] if len(found) else found
        if not np.array_equal(found, wanted[: len(found)]):
            return False
        at += len(found)
    return at == row_bytes * len(codes) and unpacker.eof
