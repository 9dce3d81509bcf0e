"""Color profiles are applied, or it is said at intake that they were not; the color engine is the oracle."""

import io

import numpy as np
import pytest
from PIL import Image, ImageCms

from copper_sieve.core.color import srgb_from_linear
from copper_sieve.files import Picture
from copper_sieve.files.profile import color_codes, profile_problem

CODES = np.random.default_rng(5).integers(0, 256, (16, 16, 3)).astype(np.uint8)


def matrix_profile(primaries: np.ndarray, gamma: float) -> bytes:
    """A plain profile of three primaries at D50 and one power."""
    curve = b"curv" + bytes(4) + (1).to_bytes(4, "big") + round(gamma * 256).to_bytes(2, "big") + bytes(2)
    columns = [b"XYZ " + bytes(4) + b"".join(round(v * 65536).to_bytes(4, "big", signed=True) for v in c) for c in primaries.T]
    white = b"XYZ " + bytes(4) + b"".join(round(v * 65536).to_bytes(4, "big") for v in (0.9642, 1.0, 0.8249))
    text = b"desc" + bytes(4) + (5).to_bytes(4, "big") + b"wide\0" + bytes(78)
    tags = dict(zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns)) | {b"wtpt": white, b"desc": text}
    tags |= dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve)
    at, table, body = 132 + 12 * len(tags), b"", b""
    for name, content in tags.items():
        content += bytes(-len(content) % 4)
        table += name + (at + len(body)).to_bytes(4, "big") + len(content).to_bytes(4, "big")
        body += content
    head = bytearray(128)
    head[8:12], head[12:24], head[36:40] = b"\x02\x40\0\0", b"mntrRGB XYZ ", b"acsp"
    head[68:80] = white[8:]
    whole = bytes(head) + len(tags).to_bytes(4, "big") + table + body
    return len(whole).to_bytes(4, "big") + whole[4:]


WIDE = matrix_profile(np.array([[0.6097, 0.2053, 0.1492], [0.3111, 0.6257, 0.0632], [0.0195, 0.0609, 0.7447]]), 2.2)


def by_engine(codes: np.ndarray) -> np.ndarray:
    source = ImageCms.ImageCmsProfile(io.BytesIO(WIDE))
    way = ImageCms.Intent.RELATIVE_COLORIMETRIC
    return np.asarray(
        ImageCms.profileToProfile(Image.fromarray(codes), source, ImageCms.createProfile("sRGB"), renderingIntent=way)
    )


def test_a_deep_picture_is_brought_to_srgb_as_the_engine_does_with_8_bit():
    deep = Picture(CODES.astype(np.uint16) * 257, "tiff", 16, "uint", WIDE)
    assert profile_problem(deep) is None
    found = color_codes(deep).astype(float) / 257
    inside = (by_engine(CODES) > 0).all(-1) & (by_engine(CODES) < 255).all(-1)  # colors that sRGB has
    assert inside.mean() > 0.3
    assert np.abs(found - by_engine(CODES))[inside].max() <= 1.5


def test_float_values_come_out_linear():
    linear = color_codes(Picture((CODES / 255).astype(np.float32), "tiff", 32, "float", WIDE))
    inside = (by_engine(CODES) > 0).all(-1) & (by_engine(CODES) < 255).all(-1)
    assert np.abs(srgb_from_linear(linear.astype(np.float32)) * 255 - by_engine(CODES))[inside].max() <= 1.5


@pytest.mark.parametrize("depth", [8, 16])
def test_srgb_keeps_its_bits(depth):
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    codes = CODES if depth == 8 else CODES.astype(np.uint16) * 257
    assert color_codes(Picture(codes, "png", depth, "uint", profile)) is codes


@pytest.mark.parametrize(("profile", "depth"), [(b"no profile at all", 8), (b"x" * 300, 16), (WIDE[:200], 16), (WIDE[:200], 8)])
def test_what_cannot_be_applied_is_said_and_changes_nothing(profile, depth):
    codes = CODES if depth == 8 else CODES.astype(np.uint16) * 257
    picture = Picture(codes, "png", depth, "uint", profile)
    assert profile_problem(picture) and color_codes(picture) is codes


def gray_profile(steps: np.ndarray) -> bytes:
    """A profile of grays with a sampled curve."""
    curve = b"curv" + bytes(4) + len(steps).to_bytes(4, "big") + (steps * 65535 + 0.5).astype(">u2").tobytes()
    head = bytearray(128)
    head[12:24] = b"mntrGRAYXYZ "
    return bytes(head) + (1).to_bytes(4, "big") + b"kTRC" + (144).to_bytes(4, "big") + len(curve).to_bytes(4, "big") + curve


def test_grays_on_another_curve_are_told_and_those_of_srgb_are_not():
    at = np.linspace(0, 1, 1024)
    curve = np.where(at <= 0.04045, at / 12.92, ((at + 0.055) / 1.055) ** 2.4)
    assert profile_problem(Picture(CODES[..., 0], "png", 8, "uint", gray_profile(curve))) is None
    assert "grays" in profile_problem(Picture(CODES[..., 0], "png", 8, "uint", gray_profile(at**1.2)))
    assert "grays" in profile_problem(Picture(CODES[..., 0], "png", 8, "uint", b"damaged"))
