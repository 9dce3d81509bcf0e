"""Albedo from a photo: the light of its day taken out, as far as it is broad."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import numba
import numpy as np
from pydantic import Field

from ..bands import NEVER, Cancel, run_rows
from ..color import LUMINANCE_REC709, luminance
from ..filters import gaussian, resize
from ..operation import Operation, Part, read_as
from ..params import Params, choice, control
from ..prepare.light import Falloff, Stuffs, light_on, stuffs_in
from ..raster import Edge, Edges, FloatArray, Gray, Rgb, Size, as_rgb, edges_of
from .height import first_height_from_color
from .occlusion import OcclusionFromHeight, occlusion_from_height

__all__ = ["OPERATIONS", "AlbedoFromPhoto", "AlbedoWithoutBroadTones", "albedo_from_photo", "albedo_without_broad_tones"]

_SHADE_RISE, _SHADE_FINEST = 0.05, 0.01  # of the relief a photo's own shade is guessed from; finer is grain, not shade
_DARKEST = 0.02  # of the mean: light this dim is shadow without color in it, and is not divided by less


class AlbedoFromPhoto(Params):
    """What light and shade is taken out of the photo, and how its colors are set after."""

    evenness: float = control(1.0, "Evenness", "%", 0, 1, "How much of the uneven light is taken out.", scale=100)
    falloff: Falloff = choice("side", "Light falls off", "How the light of the photo is uneven.", ["To a side", "To the borders"])
    breadth: float = control(
        0.5,
        "Light is broader than",
        "% of width",
        0.05,
        1,
        "What is broader counts as light; only where it falls off to a side.",
        scale=100,
        more=True,
    )
    is_tinted: bool = Field(
        default=False,
        title="Even out its color",
        description="For light whose color changes across the photo.",
        json_schema_extra={"more": True},
    )
    lift: float = control(
        0.0, "Lift of shade", "%", 0, 1, "How much of the shade in recesses is taken out.", example=0.5, scale=100
    )
    saturation: float = control(1.0, "Saturation", "×", 0, 2, "Grayer or more vivid.", example=0.7)
    dark: float = control(0.0, "Darkest", "%", 0, 0.5, "What becomes black.", scale=100)
    bright: float = control(1.0, "Brightest", "%", 0.5, 1.5, "What becomes white.", scale=100)


class AlbedoWithoutBroadTones(Params):
    """What is taken out of the photo by the first way, which took broad tones of the material for light."""

    evenness: float = control(0.8, "Evenness", "%", 0, 1, "How much of the broad light and shade is taken out.", scale=100)
    breadth: float = control(
        0.12,
        "Lighting is broader than",
        "% of width",
        0.01,
        0.5,
        "Variation broader than this counts as lighting and is taken out.",
        scale=100,
    )
    lift: float = control(
        0.0, "Lift of shade", "%", 0, 1, "How much of the shade in recesses is taken out.", example=0.5, scale=100
    )
    saturation: float = control(1.0, "Saturation", "×", 0, 2, "Grayer or more vivid.", example=0.7)
    dark: float = control(0.0, "Darkest", "%", 0, 0.5, "What becomes black.", scale=100)
    bright: float = control(1.0, "Brightest", "%", 0.5, 1.5, "What becomes white.", scale=100)


def albedo_from_photo(
    photo: Rgb,
    edges: Edges | Edge = "wrap",
    shade: Gray | None = None,
    light: FloatArray | None = None,
    *,
    params: AlbedoFromPhoto | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """Even out a photo: divide by the light that lay on it and by the shade of recesses, keeping the mean, then saturation and
    levels. One factor for all three components keeps the hue, unless the light is tinted.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    shade : (H, W) float32, 1 open .. 0 closed, or None where there is none to lift
    light : (H, W, 1) or (H, W, 3) float32, about 1; of the photo itself where None
    Returns
    -------
    base_color : (H, W, 3) float32, 0..1; at evenness 0 and the other defaults the photo itself
    Raises
    ------
    ShapeMismatch : not (H, W, 3)
    References
    ----------
    As ``light_on``.
    Examples
    --------
    >>> even = np.full((8, 8, 3), 0.25, np.float32)
    >>> bool(np.allclose(albedo_from_photo(even), even, atol=1e-4))  # there is no light to take out
    True
    """
    params, even = params or AlbedoFromPhoto(), as_rgb(photo, "photo")
    if params.evenness > 0:
        if light is None:
            light = light_on(photo, edges, falloff=params.falloff, breadth=params.breadth, is_tinted=params.is_tinted)
        light = np.maximum(light, np.float32(_DARKEST)) ** np.float32(params.evenness)
        even = np.empty(photo.shape, np.float32)
        run_rows(_divide, *even.shape[:2], cancel, np.ascontiguousarray(photo, np.float32), light, even)
    cancel.check()
    return _settled(photo, even, shade, params, cancel)


@numba.njit(nogil=True, cache=True)
def _divide(first, last, photo, light, out):
    """By the light of every texel, of one component or of three."""
    own = light.shape[2] - 1
    for row in range(first, last):
        for i in range(photo.shape[1]):
            for k in range(3):
                out[row, i, k] = photo[row, i, k] / light[row, i, min(k, own)]


def albedo_without_broad_tones(
    photo: Rgb,
    edges: Edges | Edge = "wrap",
    shade: Gray | None = None,
    *,
    params: AlbedoWithoutBroadTones | None = None,
    cancel: Cancel = NEVER,
) -> FloatArray:
    """The first way to even out a photo: divide by its broad luminance, which takes tones of the material with it.

    Parameters
    ----------
    photo : (H, W, 3) float32, linear light
    shade : (H, W) float32, 1 open .. 0 closed, or None where there is none to lift
    Returns
    -------
    base_color : (H, W, 3) float32, 0..1; at evenness 0 and the other defaults the photo itself
    References
    ----------
    Division by low-pass luminance, as in homomorphic filtering (Oppenheim 1968), in linear light.
    Examples
    --------
    >>> even = np.full((8, 8, 3), 0.25, np.float32)
    >>> bool(np.allclose(albedo_without_broad_tones(even), even, atol=1e-4))
    True
    """
    params, even = params or AlbedoWithoutBroadTones(), as_rgb(photo, "photo")
    light = luminance(even)
    mean = float(light.mean())
    if params.evenness > 0 and mean > 0:
        broad = gaussian(light, params.breadth / np.pi, edges_of(edges))
        cancel.check()
        lamp = np.maximum(broad / np.float32(mean), np.float32(_DARKEST)) ** np.float32(params.evenness)
        even = even / lamp[..., None]
    return _settled(photo, even, shade, params, cancel)


def _settled(
    photo: Rgb, even: Rgb, shade: Gray | None, params: AlbedoFromPhoto | AlbedoWithoutBroadTones, cancel: Cancel
) -> FloatArray:
    """The evened photo without the shade of recesses, as bright as before on the whole; then saturation and levels."""
    if shade is not None and params.lift > 0:
        even = even / (np.maximum(shade, np.float32(_DARKEST)) ** np.float32(params.lift))[..., None]
    scale = 1.0
    if even is not photo:
        mean = float(luminance(photo).mean())
        scale = mean / max(float((even @ LUMINANCE_REC709).mean()), 1e-6)
    out = np.empty(even.shape, np.float32)
    run_rows(_level, *out.shape[:2], cancel, even, np.float32(scale), params, out)
    return out


def _level(
    first: int, last: int, even: Rgb, scale: np.float32, params: AlbedoFromPhoto | AlbedoWithoutBroadTones, out: FloatArray
) -> None:
    """A few rows at a time: what is done to them one after the other stays in the cache."""
    rows = even[first:last] * scale
    if params.saturation != 1:
        gray = luminance(rows)[..., None]
        rows = gray + (rows - gray) * np.float32(params.saturation)
    span = max(params.bright - params.dark, 1e-3)
    if params.dark != 0 or span != 1:
        rows = (rows - np.float32(params.dark)) / np.float32(span)
    np.clip(rows, 0, 1, out=out[first:last])


def own_shade(photo: Rgb, edges: Edges | Edge = "wrap", *, cancel: Cancel = NEVER) -> FloatArray:
    """Occlusion (H, W), 1 open .. 0 closed, of the relief that a photo (H, W, 3) shows.

    Examples
    --------
    >>> photo = np.full((16, 16, 3), 0.4, np.float32)
    >>> own_shade(photo).min().round(2)  # a plain picture hides nothing
    np.float32(1.0)
    """
    relief = first_height_from_color(photo, edges, cancel=cancel)
    params = OcclusionFromHeight(finest=_SHADE_FINEST)
    return occlusion_from_height(relief, _SHADE_RISE, edges, params=params, beside=True, cancel=cancel)


def _evened(
    photo: Rgb, light: FloatArray | None, shade: Gray | None, edges: Edges, *, params: AlbedoFromPhoto, cancel: Cancel
) -> FloatArray:
    """Light and shade were measured at the working size."""
    size = Size(photo.shape[1], photo.shape[0])
    if light is not None:
        light = resize(light[..., 0] if light.shape[2] == 1 else light, size, edges).reshape(*photo.shape[:2], -1)
    shade = None if shade is None else resize(shade, size, edges)
    return albedo_from_photo(photo, edges, shade, light, params=params, cancel=cancel)


def _first_evened(photo: Rgb, shade: Gray | None, edges: Edges, *, params: AlbedoWithoutBroadTones, cancel: Cancel) -> FloatArray:
    """The shade was measured at the working size."""
    shade = None if shade is None else resize(shade, Size(photo.shape[1], photo.shape[0]), edges)
    return albedo_without_broad_tones(photo, edges, shade, params=params, cancel=cancel)


def _is_lifted(params: AlbedoFromPhoto | AlbedoWithoutBroadTones) -> bool:
    return params.lift > 0


def _is_evened(params: AlbedoFromPhoto) -> bool:
    return params.evenness > 0


def _light(number: int, make: Callable[..., FloatArray], *of: Part) -> Part:
    return Part(
        f"light on photo/{number}",
        make,
        ("photo", *of),
        ("falloff", "breadth", "is_tinted"),
        facts=("edges",),
        is_measured=True,
        is_of_tile=True,
        is_needed=_is_evened,
    )


def _light_apart(photo: Rgb, stuffs: Stuffs, edges: Edges, **told: Any) -> FloatArray:
    """The light, apart from the stuffs that were told before."""
    return light_on(photo, edges, stuffs=stuffs, **told)


_STUFFS = Part("stuffs/1", stuffs_in, ("photo",), facts=("edges",), is_measured=True, is_of_tile=True, is_needed=_is_evened)
_OWN_SHADE = Part("own shade/1", own_shade, ("photo",), facts=("edges",), is_measured=True, is_of_tile=True, is_needed=_is_lifted)
_FIRST = Operation(
    "albedo_from_photo",
    "photo, evenly lit",
    _first_evened,
    AlbedoWithoutBroadTones,
    slots=(read_as("photo"),),
    outputs=("base_color",),
    of=("photo", _OWN_SHADE),
    facts=("edges",),
    effort=5,
    was="the way that took broad tones of the material for light",
)
_OF_ONE_STUFF = replace(
    _FIRST,
    make=_evened,
    params=AlbedoFromPhoto,
    of=("photo", _light(1, partial(light_on, stuffs=())), _OWN_SHADE),
    number=2,
    was="the way that took the tones of two materials for light",
)
OPERATIONS = (
    replace(
        _OF_ONE_STUFF, of=("photo", _light(2, _light_apart, _STUFFS), _OWN_SHADE), number=3, was="", older=(_FIRST, _OF_ONE_STUFF)
    ),
)
