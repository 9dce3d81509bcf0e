"""A layered document: the picture it was last seen as, and the pixels of its layers."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from ..core.errors import UnsupportedImage
from .picture import Picture, check_size

__all__ = ["DOCUMENT_MARK", "document_layers", "document_names", "merged_document"]

DOCUMENT_MARK = b"8BPS"
_FULL = {8: 255, 16: 65535}


def _opened(content: bytes) -> Any:
    from psd_tools import PSDImage  # loads slowly and is seldom needed

    return PSDImage.open(io.BytesIO(content))


def _drawn(document: Any) -> list[Any]:
    """Layers that have pixels of their own, those in groups too, from below to above."""
    return [one for one in document.descendants() if not one.is_group() and one.width > 0 and one.height > 0 and one.has_pixels()]


def document_names(content: bytes) -> list[str]:
    """What its layers with pixels are called, from below to above. Raises what the library raises on damaged bytes."""
    return [str(one.name) for one in _drawn(_opened(content))]


def _checked(content: bytes, name: str) -> Any:
    document = _opened(content)
    check_size(name, document.width, document.height)
    mode = document.color_mode.name
    if mode not in ("RGB", "GRAYSCALE"):
        raise UnsupportedImage(f"{name}: is {mode}; expected gray or RGB. Save it as RGB.", mode=mode)
    if document.depth not in (8, 16, 32):
        raise UnsupportedImage(f"{name}: stores {document.depth} bit a channel; expected 8, 16 or 32. Save it as 8 or 16.")
    return document


def _profile_of(document: Any) -> bytes | None:
    from psd_tools.constants import Resource

    found = document.image_resources.get_data(Resource.ICC_PROFILE)
    return bytes(found) if found else None


def merged_document(content: bytes, name: str) -> Picture:
    """The picture that a layered document was last seen as; of one that was saved without it the lowest layer that can be read.

    Raises UnsupportedImage where there is none either.
    """
    document = _checked(content, name)
    if not document.has_preview():
        lowest = next((one for one in document_layers(content, name) if isinstance(one, Picture)), None)
        if lowest is None:
            raise UnsupportedImage(f"{name}: was saved without its merged picture. Save it so that other programs can read it.")
        return replace(lowest, done="was saved without its merged picture; it is seen as its lowest layer")
    values = document.numpy()
    return _picture(values, document.depth, _profile_of(document))


def document_layers(content: bytes, name: str) -> Iterator[Picture | UnsupportedImage]:
    """Pixels of its layers over the whole document, from below to above; what cannot be read says why, the rest goes on."""
    document = _checked(content, name)
    profile = _profile_of(document)
    for one in _drawn(document):
        try:
            yield _picture(_over_whole(one, document), document.depth, profile)
        except Exception as problem:  # one layer's fault is not the others'
            said = f"{name}: its layer {str(one.name)!r} cannot be read ({problem}). Save it as a picture of its own."
            yield UnsupportedImage(said)


def _over_whole(layer: Any, document: Any) -> np.ndarray:
    """A layer's pixels (H, W, C) of 0..1 where they lie in the document; around them nothing, which its alpha says."""
    own = layer.numpy()
    masked = layer.numpy(channel="mask") if layer.mask is not None and layer.mask.width > 0 else None
    count = 1 if document.color_mode.name == "GRAYSCALE" else 3
    alpha = own[..., count] if own.shape[2] > count else np.ones(own.shape[:2], np.float32)
    if masked is not None and masked.shape[:2] == alpha.shape:
        alpha = alpha * masked[..., 0]
    whole = np.zeros((document.height, document.width, count + 1), np.float32)
    left, top = layer.left, layer.top
    rows = slice(max(top, 0), min(top + own.shape[0], document.height))
    columns = slice(max(left, 0), min(left + own.shape[1], document.width))
    if rows.start >= rows.stop or columns.start >= columns.stop:
        raise ValueError("it lies outside of the picture")
    inside = (slice(rows.start - top, rows.stop - top), slice(columns.start - left, columns.stop - left))
    whole[rows, columns, :count] = own[inside][..., :count]
    whole[rows, columns, count] = alpha[inside]
    return whole if (whole[..., count] < 1).any() else whole[..., :count]


def _picture(values: np.ndarray, depth: int, profile: bytes | None) -> Picture:
    values = values[..., 0] if values.ndim == 3 and values.shape[2] == 1 else values
    if depth == 32:
        return Picture(np.ascontiguousarray(values, np.float32), "psd", 32, "float", profile)
    codes = np.round(values * _FULL[depth]).clip(0, _FULL[depth]).astype(np.uint8 if depth == 8 else np.uint16)
    return Picture(np.ascontiguousarray(codes), "psd", 8 if depth == 8 else 16, "uint", profile)
