"""Color profiles in files: a photo's is converted to sRGB, a data map's is left alone."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageCms

from ..core.errors import UnsupportedImage
from .picture import Picture

__all__ = ["color_codes"]


def color_codes(picture: Picture, name: str, *, is_color: bool) -> np.ndarray:
    """Codes in sRGB when the picture is read as color and says it is in another space; else its codes as they are.

    Raises UnsupportedImage for a profile in a file deeper than 8 bits: converting it would cost its depth.
    """
    if not is_color or picture.profile is None or _is_srgb(picture.profile):
        return picture.codes
    if picture.depth != 8:
        raise UnsupportedImage(
            f"{name}: {picture.depth} bit with a color profile other than sRGB cannot be converted without loss yet."
            " Convert it to sRGB where it was made."
        )
    if picture.channels < 3:
        return picture.codes
    source = ImageCms.ImageCmsProfile(io.BytesIO(picture.profile))
    color = Image.fromarray(np.ascontiguousarray(picture.codes[..., :3]), "RGB")
    converted = ImageCms.profileToProfile(
        color, source, ImageCms.createProfile("sRGB"), renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC
    )
    assert converted is not None  # None only when converting in place
    return np.concatenate([np.asarray(converted), picture.codes[..., 3:]], axis=2)


def _is_srgb(profile: bytes) -> bool:
    try:
        description = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile)))
    except ImageCms.PyCMSError:
        return True  # a profile that cannot be read says nothing
    return "srgb" in description.lower()
