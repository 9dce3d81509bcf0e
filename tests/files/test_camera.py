"""Pictures of phones and cameras: as deep as they are, upright, in sRGB's primaries, and what was done is said."""

import io
import struct
import zlib

import cv2
import numpy as np
import pillow_heif
import pytest
import rawpy
from bench.mutations import raw_file
from PIL import Image

from copper_sieve.core.color import srgb_from_linear
from copper_sieve.core.errors import UnsupportedImage
from copper_sieve.files import encode, read_bytes
from copper_sieve.files.profile import color_codes, profile_problem
from copper_sieve.work.intake.looking import look_at_bytes

WIDE, HIGH = 64, 48
RAMP = np.linspace(0, 1, WIDE)[None].repeat(HIGH, 0)
COLOR = np.dstack([RAMP, np.linspace(1, 0, HIGH)[:, None].repeat(WIDE, 1), RAMP * 0 + 0.5])


def heic(bits: int = 10, orientation: int = 1, **told) -> bytes:
    kept = io.BytesIO()
    if bits == 8:
        image = Image.fromarray((COLOR * 255).round().astype(np.uint8))
        pillow_heif.from_pillow(image).save(kept, quality=-1, chroma=444, **told)
        return kept.getvalue()
    codes = (COLOR * 65535).round().astype(np.uint16)
    made = pillow_heif.from_bytes(mode="RGB;16", size=(WIDE, HIGH), data=codes.tobytes())
    made.save(kept, quality=-1, bit_depth=bits, chroma=444, **told)
    return kept.getvalue()


def avif(bits: int = 10) -> bytes:
    codes = (COLOR[..., ::-1] * ((1 << bits) - 1)).round().astype(np.uint16 if bits > 8 else np.uint8)
    told = [cv2.IMWRITE_AVIF_QUALITY, 100, cv2.IMWRITE_AVIF_DEPTH, bits, cv2.IMWRITE_AVIF_SPEED, 9]
    return bytes(cv2.imencode(".avif", codes, told)[1])


@pytest.mark.parametrize("content", [heic(10), heic(12), avif(10), avif(12)], ids=["heic 10", "heic 12", "avif 10", "avif 12"])
def test_deep_pictures_keep_their_depth_and_white_is_white(content):
    picture = read_bytes(content, "IMG_0001.HEIC")
    assert picture.depth == 16 and picture.codes.dtype == np.uint16 and picture.codes.max() == 65535
    np.testing.assert_allclose(picture.codes / 65535, COLOR, atol=0.02)
    assert "bits are kept in 16" in picture.done


@pytest.mark.parametrize("content", [heic(8), avif(8)], ids=["heic", "avif"])
def test_pictures_of_8_bits_are_read_as_such(content):
    picture = read_bytes(content, "IMG_0001")
    assert picture.depth == 8
    np.testing.assert_allclose(picture.codes / 255, COLOR, atol=0.03)


def test_a_phone_held_sideways():
    image = Image.fromarray((COLOR * 255).astype(np.uint8))
    exif = image.getexif()
    exif[0x0112] = 6  # the top of the picture is at its right
    upright = np.rot90(np.asarray(image), 3)
    pillow_heif.register_heif_opener()
    for way in ("HEIF", "AVIF"):
        kept = io.BytesIO()
        image.save(kept, way, exif=exif.tobytes(), quality=100)
        codes = read_bytes(kept.getvalue(), "IMG_0002").codes
        assert codes.shape == upright.shape
        assert np.abs(codes.astype(int) - upright).mean() < 6


def test_a_wide_gamut_comes_to_sRGB():
    content = bytearray(heic(10))
    at = content.index(b"colrnclx") + 8
    struct.pack_into(">HH", content, at, 12, 13)  # Display P3, on the curve of sRGB
    picture = read_bytes(bytes(content), "IMG_0003.HEIC")
    assert "Display P3" in picture.done and picture.profile is not None
    moved = color_codes(picture)
    red, was = moved[HIGH - 1, WIDE // 2 + 20], picture.codes[HIGH - 1, WIDE // 2 + 20]
    assert red[0] > was[0]  # the same light needs more of a narrower red
    np.testing.assert_allclose(moved[..., 1].mean(), picture.codes[..., 1].mean(), rtol=0.1)
    struct.pack_into(">HH", content, at, 9, 16)
    with pytest.raises(UnsupportedImage, match="PQ curve"):
        read_bytes(bytes(content), "IMG_0003.HEIC")


def dng() -> bytes:
    return raw_file((np.linspace(600, 15000, 128)[None] * np.ones((96, 1))).astype(np.uint16))


def test_raw_is_developed_plainly():
    picture = read_bytes(dng(), "DSC_0001.DNG")
    assert picture.format == "raw" and picture.depth == 16 and picture.channels == 3
    gray = picture.codes[48].astype(float)
    assert (np.diff(gray.mean(-1)[8:-8]) > 0).all()  # a ramp stays one, and nothing is stretched to white
    assert "white balance" in picture.done
    with rawpy.imread(io.BytesIO(dng())) as raw:
        plain = raw.postprocess(output_bps=16, use_camera_wb=True, no_auto_bright=True, gamma=(2.4, 12.92))
    assert (picture.codes == plain).all()


def test_what_was_done_is_a_note_and_damage_is_said():
    looked = look_at_bytes(heic(10), "deri foto.heic")
    assert looked.look.kind == "photo"
    assert [f.text for f in looked.findings if f.id == "read-as"] == [
        "deri foto.heic: read from HEIC, its 10 bits are kept in 16."
    ]
    for content in (heic(10), avif(10), dng()):
        for cut in (24, 60, len(content) // 2):
            broken = look_at_bytes(content[:cut], "broken.heic")
            assert broken.findings[0].id in ("unreadable", "read-as"), broken.findings


def test_a_camera_that_marks_its_wider_color_space_needs_no_profile():
    image = Image.fromarray((COLOR * 255).round().astype(np.uint8))

    def saved(index: str, space: int = 0xFFFF) -> bytes:
        exif, kept = image.getexif(), io.BytesIO()
        exif.get_ifd(0x8769).update({0xA001: space, 0xA005: {1: index}})
        image.save(kept, "JPEG", quality=100, subsampling=0, exif=exif.tobytes())
        return kept.getvalue()

    picture = read_bytes(saved("R03"), "DSC_0001.JPG")
    assert "opRGB" in picture.color_done and profile_problem(picture) is None
    linear = (picture.codes / 255) ** (563 / 256)  # by the standard's own numbers, without a profile: to XYZ, and on to sRGB
    to_xyz = np.array([[0.57667, 0.18556, 0.18823], [0.29734, 0.62736, 0.07529], [0.02703, 0.07069, 0.99134]])
    to_srgb = np.array([[3.24045, -1.53714, -0.49853], [-0.96927, 1.87601, 0.04156], [0.05564, -0.20403, 1.05723]])
    wanted = srgb_from_linear(np.clip(linear @ (to_srgb @ to_xyz).T, 0, 1).astype(np.float32)) * 255
    inside = ((wanted > 3) & (wanted < 252)).all(-1)
    assert inside.mean() > 0.3
    assert np.abs(color_codes(picture).astype(float) - wanted)[inside].max() <= 2
    assert read_bytes(saved("R98"), "DSC_0002.JPG").profile is None
    assert read_bytes(saved("R03", 1), "DSC_0003.JPG").profile is None


def with_chunks(plain: bytes, **chunks: bytes) -> bytes:
    """A PNG with these chunks behind its header, and without the one that says sRGB."""
    plain = plain.replace(struct.pack(">I", 1) + b"sRGB\0" + struct.pack(">I", zlib.crc32(b"sRGB\0")), b"")
    packed = [
        struct.pack(">I", len(body)) + key.encode() + body + struct.pack(">I", zlib.crc32(key.encode() + body))
        for key, body in chunks.items()
    ]
    return plain[:33] + b"".join(packed) + plain[33:]


SRGB_PLACES = struct.pack(">8I", 31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000)
P3_PLACES = struct.pack(">8I", 31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_a_png_may_tell_its_curve_and_its_primaries_in_numbers(kind):
    top = np.iinfo(kind).max
    codes = (COLOR * top).round().astype(kind)
    plain, light = encode(codes, "png", color="srgb"), (codes / top).astype(np.float32)

    def seen(**chunks: bytes) -> tuple[np.ndarray, str]:
        picture = read_bytes(with_chunks(plain, **chunks), "render.png")
        return color_codes(picture).astype(float) / top, picture.color_done

    linear, said = seen(gAMA=struct.pack(">I", 100_000))
    assert np.abs(linear - srgb_from_linear(light)).max() < 2 / 255
    assert said == "its colors are brought from linear light to sRGB"
    older, said = seen(gAMA=struct.pack(">I", 55_556), cHRM=SRGB_PLACES)
    assert np.abs(older - srgb_from_linear(light ** np.float32(1.8))).max() < 2 / 255 and "gamma 1.8" in said
    assert "Display P3" in seen(gAMA=struct.pack(">I", 45_455), cHRM=P3_PLACES)[1]


@pytest.mark.parametrize(
    "chunks",
    [
        {"gAMA": struct.pack(">I", 45_455), "cHRM": SRGB_PLACES},
        {"gAMA": struct.pack(">I", 45_000)},
        {"sRGB": b"\0", "gAMA": struct.pack(">I", 100_000)},  # which goes first
        {"gAMA": struct.pack(">I", 0)},
        {"gAMA": struct.pack(">I", 1)},
        {"cHRM": bytes(32)},
        {"cHRM": struct.pack(">8I", *[31270, 32900] * 4)},
    ],
    ids=str,
)
def test_a_png_that_tells_what_is_usual_or_nonsense_is_srgb(chunks):
    plain = encode((COLOR * 255).round().astype(np.uint8), "png", color="srgb")
    picture = read_bytes(with_chunks(plain, **chunks), "render.png")
    assert picture.profile is None and picture.color_done == ""


@pytest.mark.parametrize(("name", "said"), [("felt_basecolor.png", "read-as"), ("felt_normal.png", "profile-on-data")])
def test_what_a_header_tells_of_color_is_said_as_far_as_it_is_obeyed(name, said):
    codes = (np.dstack([COLOR[..., 0], COLOR[..., 1], np.ones_like(COLOR[..., 0])]) * 255).round().astype(np.uint8)
    content = with_chunks(encode(codes, "png", color="srgb"), gAMA=struct.pack(">I", 100_000))
    told = [finding.id for finding in look_at_bytes(content, name).findings]
    assert [one for one in told if one in ("read-as", "profile-on-data")] == [said]


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_a_png_may_number_its_primaries(kind):
    plain = encode((COLOR * np.iinfo(kind).max).round().astype(kind), "png")

    def numbered(primaries: int, transfer: int) -> bytes:
        told = bytes((primaries, transfer, 0, 1))
        chunk = struct.pack(">I", 4) + b"cICP" + told + struct.pack(">I", zlib.crc32(b"cICP" + told))
        return plain[:33] + chunk + plain[33:]  # behind the header

    picture = read_bytes(numbered(12, 13), "screen.png")
    assert "Display P3" in picture.color_done and picture.profile is not None
    assert read_bytes(numbered(1, 13), "screen.png").color_done == ""
    with pytest.raises(UnsupportedImage, match="a high range on the PQ curve"):
        read_bytes(numbered(9, 16), "screen.png")
