"""A picture of the surroundings as light on the screen: read, checked, and made small in linear light."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..core.color import linear_from_srgb_codes
from ..core.errors import UnsupportedImage
from ..core.raster import FloatArray
from ..files import read_bytes

__all__ = ["Surrounding", "surrounding_of"]

_WIDTH = 1024  # as wide as is kept: more is not seen in a reflection
_LOOSE = 0.02  # how far the shape may be off two to one
_BRIGHTEST = 65504.0  # of a half float


@dataclass(frozen=True)
class Surrounding:
    """(H, W, 4) float16 linear light, Rec. 709; ``is_bounded`` where the file could hold nothing brighter than white."""

    light: np.ndarray
    is_bounded: bool


def surrounding_of(content: bytes, name: str) -> Surrounding:
    """Read an equirectangular picture: the whole sphere, twice as wide as high.

    Raises NotAnImage and the like for what is no picture, UnsupportedImage for one of another shape or of nothing but black.
    """
    picture = read_bytes(content, name)
    if abs(picture.width / picture.height / 2 - 1) > _LOOSE:
        raise UnsupportedImage(
            f"{name}: is {picture.width} × {picture.height}; a picture of the surroundings shows the whole sphere and is"
            " twice as wide as high. Export it as equirectangular (lat-long)."
        )
    linear = _linear(picture.codes)
    if not linear.any():
        raise UnsupportedImage(f"{name}: is black all over, and would light nothing.")
    if picture.width > _WIDTH:
        linear = cv2.resize(linear, (_WIDTH, _WIDTH // 2), interpolation=cv2.INTER_AREA)
    light = np.ones((*linear.shape[:2], 4), np.float16)
    light[..., :3] = np.minimum(linear, _BRIGHTEST)
    return Surrounding(light, picture.sample == "uint")


def _linear(codes: np.ndarray) -> FloatArray:
    """(H, W, 3): codes of whole numbers are sRGB, floats are light as it is. What is not finite or negative counts as dark."""
    channels = codes.reshape(*codes.shape[:2], -1)
    color = channels[..., :3] if channels.shape[2] >= 3 else np.repeat(channels[..., :1], 3, -1)
    if color.dtype.kind == "u":
        return linear_from_srgb_codes(np.ascontiguousarray(color))
    return np.maximum(np.nan_to_num(color.astype(np.float32), nan=0.0, posinf=_BRIGHTEST, neginf=0.0), 0)
