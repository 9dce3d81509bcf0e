"""Write several pictures as the named layers of one file: pages of a TIFF, parts of an EXR."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile

from ..core.errors import UnknownKey
from .decoding import read_bytes
from .encoding import ColorTag, exr_header, exr_key, write_page
from .layers import layer_names, layers

__all__ = ["NamedPicture", "encode_layers", "holds_layers"]


@dataclass(frozen=True)
class NamedPicture:
    """One layer: its name, its codes (H, W[, C]), and what its colors are."""

    name: str
    codes: np.ndarray
    color: ColorTag = "data"


def _tiff(parts: Sequence[NamedPicture]) -> bytes:
    out = io.BytesIO()
    with tifffile.TiffWriter(out) as writer:
        for part in parts:
            named = [(285, "s", 0, part.name, True)]  # PageName, TIFF 6.0, section 12
            write_page(writer, part.codes, extratags=named)
    return out.getvalue()


def _exr(parts: Sequence[NamedPicture]) -> bytes:
    import OpenEXR  # loads slowly and is seldom needed

    made = [
        OpenEXR.Part(exr_header(part.color, part.codes), {exr_key(part.codes): np.ascontiguousarray(part.codes)}, name=part.name)
        for part in parts
    ]
    with tempfile.TemporaryDirectory() as folder:  # the library writes by path only
        path = Path(folder) / "out.exr"
        OpenEXR.File(made).write(str(path))
        return path.read_bytes()


_ENCODERS: dict[str, Callable[[Sequence[NamedPicture]], bytes]] = {"tiff": _tiff, "exr": _exr}


def encode_layers(parts: Sequence[NamedPicture], format: str) -> bytes:
    """One file of several pictures, in their order. Raises UnknownKey for a format that holds one picture only."""
    if format not in _ENCODERS:
        raise UnknownKey("format of layers", format, list(_ENCODERS))
    return _ENCODERS[format](parts)


def holds_layers(content: bytes, parts: Sequence[NamedPicture], name: str) -> bool:
    """Whether the bytes of a file, as they came back from disk, are these pictures by these names."""
    if len(parts) == 1:  # then it is read as the one picture that it is
        return _is_same(read_bytes(content, name).codes, parts[0].codes)
    found = {layer.name: layer.picture for layer in layers(content, name)}
    pictures = [(found.get(part.name), part.codes) for part in parts]
    is_whole = sorted(layer_names(content)) == sorted(part.name for part in parts)
    return is_whole and all(picture is not None and _is_same(picture.codes, codes) for picture, codes in pictures)


def _is_same(found: np.ndarray, codes: np.ndarray) -> bool:
    return found.shape == codes.shape and np.array_equal(found, codes.astype(found.dtype))
