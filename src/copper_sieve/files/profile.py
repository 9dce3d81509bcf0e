"""Color profiles in files: colors are brought to sRGB, a data map is left alone."""

from __future__ import annotations

import io
import struct
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageCms

from ..core.color import encode_srgb_codes, linear_from_srgb
from ..core.errors import UnsupportedImage
from ..core.primaries import PRIMARIES, primaries_of, to_rec709
from .picture import Picture

__all__ = ["camera_profile", "color_codes", "numbered_profile", "profile_problem", "told_profile"]

_TRY = Image.new("RGB", (1, 1))
# Primaries of sRGB as its own profile has them: adapted to D50, columns red, green and blue (IEC 61966-2-1).
_SRGB_D50 = np.array([[0.43607, 0.38515, 0.14307], [0.22249, 0.71687, 0.06061], [0.01392, 0.09708, 0.71410]])
_SAME_PRIMARIES, _SAME_CURVE = 2e-3, 4e-3
_CURVE_STEPS = 65536


def profile_problem(picture: Picture) -> str | None:
    """Why the profile of a color picture cannot be applied, to go on "its color profile …"; None when it can, or there is none.

    Costs one texel, so that it is told before anything is computed.
    """
    if picture.profile is None:
        return None
    if picture.channels < 3:
        return None if _is_gray_of_srgb(picture.profile) else "is one of grays on another curve, which cannot be applied"
    if _matrix_profile(picture.profile) is not None:
        return None
    if picture.depth != 8:
        return f"is no plain one of primaries and curves, which is all that can be applied to {picture.depth} bit"
    try:
        _by_engine(_TRY, picture.profile)
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return "cannot be read or is made for another kind of picture"
    return None


def color_codes(picture: Picture) -> np.ndarray:
    """Codes in sRGB of a picture that is read as color, float values in linear light; as they are where its profile says so too.

    A profile that cannot be applied is left aside, as ``profile_problem`` told.
    """
    if picture.profile is None or picture.channels < 3:
        return picture.codes
    matrix = _matrix_profile(picture.profile)
    if matrix is not None and matrix.is_srgb and picture.sample == "uint":
        return picture.codes
    if matrix is not None and picture.depth != 8:
        return np.concatenate([matrix.converted(picture.codes[..., :3]), picture.codes[..., 3:]], axis=2)
    if picture.depth != 8 or profile_problem(picture) is not None:
        return picture.codes
    color = Image.fromarray(np.ascontiguousarray(picture.codes[..., :3]), "RGB")
    return np.concatenate([np.asarray(_by_engine(color, picture.profile)), picture.codes[..., 3:]], axis=2)


def _by_engine(color: Image.Image, profile: bytes) -> Image.Image:
    source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    way = ImageCms.Intent.RELATIVE_COLORIMETRIC
    converted = ImageCms.profileToProfile(color, source, ImageCms.createProfile("sRGB"), renderingIntent=way)
    assert converted is not None  # None only when converting in place
    return converted


@dataclass(frozen=True)
class _Matrix:
    """A profile of three primaries (columns, XYZ at D50) and a curve for each channel, from stored to linear 0..1."""

    primaries: np.ndarray
    curves: tuple[np.ndarray, np.ndarray, np.ndarray]

    @property
    def is_srgb(self) -> bool:
        steps = linear_from_srgb(np.linspace(0, 1, _CURVE_STEPS, dtype=np.float32))
        same_curves = all(float(np.abs(curve - steps).max()) < _SAME_CURVE for curve in self.curves)
        return same_curves and float(np.abs(self.primaries - _SRGB_D50).max()) < _SAME_PRIMARIES

    def converted(self, codes: np.ndarray) -> np.ndarray:
        """(H, W, 3) uint16 to sRGB codes; float to linear light with the primaries of sRGB, what is out of them at 0."""
        if codes.dtype.kind == "u":
            scale = (_CURVE_STEPS - 1) // np.iinfo(codes.dtype).max
            linear = np.dstack([curve[codes[..., k].astype(np.uint32) * scale] for k, curve in enumerate(self.curves)])
        else:
            steps = np.linspace(0, 1, _CURVE_STEPS)
            planes = [
                np.where(codes[..., k] <= 1, np.interp(codes[..., k], steps, c), codes[..., k]) for k, c in enumerate(self.curves)
            ]
            linear = np.dstack(planes)
        to_srgb = (np.linalg.inv(_SRGB_D50) @ self.primaries).astype(np.float32)
        moved = np.maximum(linear.astype(np.float32) @ to_srgb.T, 0)
        return moved if codes.dtype.kind == "f" else encode_srgb_codes(moved, 8 * codes.dtype.itemsize)


# Primaries by their number in ISO 23091-2, adapted to D50: columns red, green and blue; sRGB's own need no profile.
_P3_D50 = ((0.51512, 0.29198, 0.15710), (0.24120, 0.69225, 0.06657), (-0.00105, 0.04189, 0.78407))
_2020_D50 = ((0.67348, 0.16566, 0.12505), (0.27903, 0.67534, 0.04564), (-0.00193, 0.02997, 0.79686))
_NUMBERED = {12: ("Display P3", _P3_D50), 9: ("Rec. 2020", _2020_D50)}
_HIGH_RANGE = {16: "the PQ curve", 18: "the HLG curve"}  # transfer characteristics, the same standard
_SRGB_CURVE = (3, (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))  # kind of a parametric curve (ICC.1:2022, 10.18)
# The wider color space of cameras, IEC 61966-2-5, adapted to D50; EXIF 2.32 and DCF 2.0 mark it so.
_OPRGB_D50 = ((0.60974, 0.20528, 0.14919), (0.31111, 0.62567, 0.06322), (0.01947, 0.06087, 0.74457))
_OPRGB_CURVE = (0, (563 / 256,))
_EXIF, _INTEROP, _COLOR_SPACE, _INDEX = 0x8769, 0xA005, 0xA001, 1
_SRGB_GAMMA, _SAME_GAMMA, _LINEAR = 2.2, 0.1, 0.01  # headers that tell a power mean the curve of sRGB by this one
_MOST_NUMBER = 100.0  # of a curve or a matrix that makes sense
_UNCALIBRATED, _OPTIONAL = 0xFFFF, "R03"


def numbered_profile(primaries: int, transfer: int, name: str) -> tuple[bytes | None, str]:
    """A profile of numbered primaries with the curve of sRGB, and what is said of it; none where they are sRGB's own.

    Raises UnsupportedImage for a high range.

    Examples
    --------
    >>> numbered_profile(1, 13, "felt.png"), numbered_profile(12, 13, "felt.png")[1]
    ((None, ''), 'its colors are brought from Display P3 to sRGB')
    """
    if transfer in _HIGH_RANGE:
        raise UnsupportedImage(
            f"{name}: holds a high range on {_HIGH_RANGE[transfer]}; expected a plain picture. Save it as sRGB, or as EXR."
        )
    if primaries not in _NUMBERED:
        return None, ""
    title, matrix = _NUMBERED[primaries]
    return _profile(matrix, _SRGB_CURVE), f"its colors are brought from {title} to sRGB"


def told_profile(gamma: float | None, chromaticities: tuple[float, ...] | None) -> tuple[bytes | None, str]:
    """The same of a curve and of primaries that a header tells without a profile; none where they are sRGB's, or make no sense.

    ``gamma`` is the power that light was stored by, ``chromaticities`` are x and y of red, green, blue and white.

    Examples
    --------
    >>> told_profile(0.45455, None), told_profile(1.0, None)[1]
    ((None, ''), 'its colors are brought from linear light to sRGB')
    """
    told, matrix, curve = [], _SRGB_D50, _SRGB_CURVE
    if chromaticities is not None and (known := primaries_of(chromaticities)) != "rec709":
        try:
            matrix = _SRGB_D50 @ to_rec709(chromaticities)
        except (np.linalg.LinAlgError, ZeroDivisionError):
            return None, ""
        told.append(PRIMARIES[known].title if known else "other primaries")
    if gamma is not None and gamma > 0 and abs(1 / gamma - _SRGB_GAMMA) > _SAME_GAMMA:
        curve = (0, (1 / gamma,))
        told.append("linear light" if abs(gamma - 1) < _LINEAR else f"gamma {1 / gamma:.2g}")
    is_told = told and all(abs(number) < _MOST_NUMBER for number in (*matrix.ravel(), *curve[1]))
    return (_profile(matrix, curve), f"its colors are brought from {' and '.join(told)} to sRGB") if is_told else (None, "")


def camera_profile(exif: Image.Exif) -> tuple[bytes | None, str]:
    """The same where a camera marked a picture as one in its wider color space; such pictures come without a profile."""
    is_marked = exif.get_ifd(_EXIF).get(_COLOR_SPACE) == _UNCALIBRATED and exif.get_ifd(_INTEROP).get(_INDEX) == _OPTIONAL
    said = "its colors are brought from opRGB, the wider color space of cameras, to sRGB"
    return (_profile(_OPRGB_D50, _OPRGB_CURVE), said) if is_marked else (None, "")


def _profile(matrix: Sequence[Sequence[float]] | np.ndarray, curve_of: tuple[int, tuple[float, ...]]) -> bytes:
    """A plain profile (ICC.1:2022) of three primaries, adapted to D50, and one curve."""
    kind, numbers = curve_of
    curve = struct.pack(f">4sIHH{len(numbers)}i", b"para", 0, kind, 0, *(round(v * 65536) for v in numbers))
    columns = zip((b"rXYZ", b"gXYZ", b"bXYZ"), zip(*matrix))
    tags = [(key, struct.pack(">4sI3i", b"XYZ ", 0, *(round(v * 65536) for v in column))) for key, column in columns]
    tags += [(key, curve) for key in (b"rTRC", b"gTRC", b"bTRC")]
    start = 132 + 12 * len(tags)
    table, body = struct.pack(">I", len(tags)), b""
    for key, content in tags:
        table += struct.pack(">4sII", key, start + len(body), len(content))
        body += content
    head = struct.pack(">I4sI4s4s4s", start + len(body), b"none", 0x04200000, b"mntr", b"RGB ", b"XYZ ")
    return (head.ljust(36, b"\0") + b"acsp").ljust(128, b"\0") + table + body


def _tags(profile: bytes) -> dict[bytes, bytes]:
    """Contents of a profile by name (ICC.1:2022, 7.3). Raises struct.error."""
    (count,) = struct.unpack_from(">I", profile, 128)
    rows = (struct.unpack_from(">4sII", profile, 132 + 12 * k) for k in range(min(count, 100)))
    return {name: profile[start : start + size] for name, start, size in rows}


def _is_gray_of_srgb(profile: bytes) -> bool:
    """Whether a profile of grays has the curve that colors of ours are on."""
    try:
        curve = _curve(_tags(profile)[b"kTRC"]) if profile[16:20] == b"GRAY" else None
    except (struct.error, KeyError, ValueError):
        return False
    steps = linear_from_srgb(np.linspace(0, 1, _CURVE_STEPS, dtype=np.float32))
    return curve is not None and float(np.abs(curve - steps).max()) < _SAME_CURVE


def _matrix_profile(profile: bytes) -> _Matrix | None:
    """The profile as primaries and curves (ICC.1:2022, 9.2 and 10), or None where it is of another kind or damaged."""
    try:
        if profile[16:20] != b"RGB " or profile[20:24] != b"XYZ ":
            return None
        tags = _tags(profile)
        columns = [struct.unpack_from(">3i", tags[name], 8) for name in (b"rXYZ", b"gXYZ", b"bXYZ")]
        red, green, blue = (_curve(tags[name]) for name in (b"rTRC", b"gTRC", b"bTRC"))
    except (struct.error, KeyError, ValueError):
        return None
    return _Matrix(np.array(columns).T / 65536, (red, green, blue))


def _curve(tag: bytes) -> np.ndarray:
    """A curve sampled at every 16-bit code. Raises ValueError, struct.error."""
    at = np.linspace(0, 1, _CURVE_STEPS)
    if tag[:4] == b"curv":
        (count,) = struct.unpack_from(">I", tag, 8)
        if count == 0:
            return at.astype(np.float32)
        steps = np.frombuffer(tag[12 : 12 + 2 * count], ">u2")
        if len(steps) != count:
            raise ValueError("a curve that ends too early")
        sampled = at ** (steps[0] / 256) if count == 1 else np.interp(at, np.linspace(0, 1, count), steps / 65535)
        return sampled.astype(np.float32)
    if tag[:4] != b"para":
        raise ValueError("no curve")
    (kind,) = struct.unpack_from(">H", tag, 8)
    if kind > 4:
        raise ValueError("no known curve")
    count = (1, 3, 4, 5, 7)[kind]
    g, a, b, c, d, e, f = (*(v / 65536 for v in struct.unpack_from(f">{count}i", tag, 12)), *[0.0] * (7 - count))
    if kind == 0:
        return (at**g).astype(np.float32)
    if kind in (1, 2):
        c, d, e = 0.0, -b / a if a else 0.0, c
        f = e
    power = np.maximum(a * at + b, 0) ** g
    return np.where(at >= d, power + e, c * at + f).clip(0, 1).astype(np.float32)
