"""Files of floats that hold more than 0 to 1 are read as what they mean, and it is said."""

import io

import numpy as np
import OpenEXR
import pytest
import tifffile

from copper_sieve.core.errors import NotAnImage
from copper_sieve.core.intake.floats import height_span
from copper_sieve.core.intake.plan import plan_set
from copper_sieve.core.recipe import Evaluation
from copper_sieve.core.recipe.cache import Cache
from copper_sieve.files import encode, read_bytes
from copper_sieve.files.read_back import holds
from copper_sieve.work.intake.grouping import entry_for
from copper_sieve.work.intake.looking import Looked, load_codes, look_at_bytes
from copper_sieve.work.pictures import normals_under_a_lamp, thumbnail

rng = np.random.default_rng(5)
X, Y = np.meshgrid(np.linspace(0, 2 * np.pi, 64, False), np.linspace(0, 2 * np.pi, 64, False))
HILLS = (0.5 + 0.25 * np.sin(X) + 0.25 * np.sin(2 * Y)).astype(np.float32)
LEAN = np.dstack([-0.6 * np.cos(X), 0.6 * np.cos(2 * Y), np.ones_like(X)])
LEAN = (LEAN / np.linalg.norm(LEAN, axis=2, keepdims=True)).astype(np.float32)
ALL_WAYS = rng.normal(size=(64, 64, 3))
ALL_WAYS = (ALL_WAYS / np.linalg.norm(ALL_WAYS, axis=2, keepdims=True)).astype(np.float32)


def exr(header: dict, channels: dict[str, np.ndarray], tmp_path) -> bytes:
    OpenEXR.File({"type": OpenEXR.scanlineimage, **header}, channels).write(str(tmp_path / "made.exr"))
    return (tmp_path / "made.exr").read_bytes()


def given(looked: Looked, content: bytes, key: str) -> np.ndarray:
    """The master that the file gives."""
    entry = entry_for(looked)
    assert entry is not None
    return Evaluation(plan_set([entry]), None, lambda source: load_codes(source, lambda _: content), Cache(1 << 26)).master(key)


def said(looked: Looked) -> str:
    return " ".join(found.text for found in looked.findings if found.id == "read-as")


@pytest.mark.parametrize(("key", "vectors"), [("normal", LEAN), ("object_normal", ALL_WAYS)])
def test_vectors_with_their_signs_are_the_normals_that_shares_of_them_are(key, vectors):
    signed, shares = encode(vectors, "exr"), encode(vectors / 2 + np.float32(0.5), "exr")
    looks = [look_at_bytes(content, "a_normal.exr") for content in (signed, shares)]
    assert [look.look.kind for look in looks if look.look] == [key, key]
    assert "with their signs" in said(looks[0]) and said(looks[1]) == ""
    for look, content in zip(looks, (signed, shares)):
        np.testing.assert_allclose(given(look, content, key), vectors, atol=1e-6)


def test_a_level_surface_with_its_signs_is_level():
    level = np.zeros((32, 32, 3), np.float32) + np.float32([0, 0, 1])
    content = encode(level, "exr")
    np.testing.assert_allclose(given(look_at_bytes(content, "a_normal.exr"), content, "normal"), level, atol=1e-6)
    assert look_at_bytes(content, "a_emissive.exr").look.spans == {}  # and a pure blue is a blue
    assert look_at_bytes(encode(level / 2 + np.float32(0.5), "exr"), "a_normal.exr").look.spans == {}


def test_what_is_seen_of_signed_vectors_before_they_are_taken_in_is_what_shares_of_them_show():
    signed, shares = (read_bytes(encode(v, "exr"), "a.exr") for v in (LEAN, LEAN / 2 + np.float32(0.5)))
    assert thumbnail(signed.codes) == thumbnail(shares.codes)
    assert normals_under_a_lamp(signed, "RGB") == normals_under_a_lamp(shares, "RGB")


def test_x_and_y_alone_are_known_with_their_signs(tmp_path):
    content = exr({}, {"X": LEAN[..., 0].copy(), "Y": LEAN[..., 1].copy()}, tmp_path)
    looked = look_at_bytes(content, "a_normal.exr")
    assert looked.look is not None and looked.look.reads == {"RG": "normal"}
    np.testing.assert_allclose(given(looked, content, "normal"), LEAN, atol=1e-5)


@pytest.mark.parametrize(
    ("scale", "shift", "span"),
    [
        (20.0, -10.0, (-10.0, 10.0)),  # both sides of the surface: 0 stays the middle
        (300.0, 500.0, (500.0, 800.0)),
        (2.0, 0.0, (0.0, 2.0)),
        (1.0, 0.0, None),
        (0.9, 0.05, None),
    ],
)
def test_heights_in_a_unit_of_their_own_span_their_whole_range(scale, shift, span):
    content = encode((HILLS * scale + shift).astype(np.float32), "exr")
    looked = look_at_bytes(content, "a_height.exr")
    assert looked.look is not None
    assert looked.look.spans == ({} if span is None else {"L": pytest.approx(span, rel=1e-3)})
    assert ("height beyond 0 to 1" in said(looked)) == (span is not None)
    expected = HILLS * scale + shift if span is None else (HILLS * scale + shift - span[0]) / (span[1] - span[0])
    np.testing.assert_allclose(given(looked, content, "height"), expected, atol=2e-3)


def test_a_little_below_nothing_is_no_other_side():
    assert height_span(HILLS - np.float32(0.02)) is None  # as resampling leaves
    assert height_span(-HILLS) == pytest.approx((-1, 0), abs=0.01)


@pytest.mark.parametrize(
    ("name", "letters", "kind", "shape"),
    [
        ("a_height.exr", "R", "height", (64, 64)),
        ("a_height.exr", "height", "height", (64, 64)),
        ("a_basecolor.exr", "rgb", "base_color", (64, 64, 3)),
        ("a_normal.exr", "XYZ", "normal", (64, 64, 3)),
    ],
)
def test_channels_of_other_names_are_seen_as_what_they_are(name, letters, kind, shape, tmp_path):
    names = [letters] if letters == "height" else list(letters)
    planes = LEAN if kind == "normal" else np.dstack([HILLS, 1 - HILLS, HILLS * HILLS])
    content = exr({}, {one: np.ascontiguousarray(planes[..., k]) for k, one in enumerate(names)}, tmp_path)
    looked = look_at_bytes(content, name)
    assert looked.look is not None and looked.look.kind == kind
    assert read_bytes(content, name).codes.shape == shape


def test_a_file_that_holds_a_part_of_its_picture_is_read_in_its_place(tmp_path):
    part = {"dataWindow": ((8, 4), (71, 67)), "displayWindow": ((0, 0), (79, 99))}
    picture = read_bytes(exr(part, {"Y": HILLS}, tmp_path), "a_height.exr")
    assert picture.codes.shape == (100, 80) and "64 × 64 px of a picture of 80 × 100 px" in picture.done
    np.testing.assert_array_equal(picture.codes[4:68, 8:72], HILLS)
    assert np.count_nonzero(picture.codes) == np.count_nonzero(HILLS)
    more = {"dataWindow": ((-8, -4), (55, 59)), "displayWindow": ((0, 0), (47, 47))}
    np.testing.assert_array_equal(read_bytes(exr(more, {"Y": HILLS}, tmp_path), "a.exr").codes, HILLS[4:52, 8:56])
    beyond = {"dataWindow": ((100, 100), (163, 163)), "displayWindow": ((0, 0), (63, 63))}
    with pytest.raises(NotAnImage, match="lies outside of its picture"):
        read_bytes(exr(beyond, {"Y": HILLS}, tmp_path), "a.exr")


@pytest.mark.parametrize("none", [-9999.0, float("nan")])
def test_ground_without_data_is_the_lowest_there_is_and_spans_nothing(none):
    ground = (HILLS * 300 + 500).astype(np.float32)
    ground[:4, :4] = none
    kept = io.BytesIO()
    tifffile.imwrite(kept, ground, photometric="minisblack", extratags=[(42113, "s", 0, str(none), True)])
    looked = look_at_bytes(kept.getvalue(), "valley_height.tif")
    assert looked.look is not None and looked.look.spans == {"L": pytest.approx((500, 800), abs=2)}
    assert "16 texels hold nothing" in said(looked)


def leaf(dimmed_by: np.ndarray | float, brightness: float = 1.0) -> np.ndarray:
    """(32, 32, 4): a round leaf with a soft border; its colors multiplied by something."""
    colors = np.float32([0.1, 0.3, 0.05]) * np.random.default_rng(8).uniform(0.7, 1.3, (32, 32, 1)) * brightness
    return np.concatenate([colors * dimmed_by, ROUND], 2).astype(np.float32)


ROUND = np.clip(1.5 - 1.5 * np.hypot(*np.mgrid[-1:1:32j, -1:1:32j]), 0, 1)[..., None].astype(np.float32).round(2)


@pytest.mark.parametrize("kind", [np.float16, np.float32])
def test_colors_that_an_exr_holds_dimmed_by_their_alpha_are_as_they_were(kind, tmp_path):
    picture = read_bytes(exr({}, {"RGBA": leaf(ROUND).astype(kind)}, tmp_path), "a.exr")
    assert "dimmed by their alpha" in picture.done
    seen = ROUND[..., 0] > 0
    np.testing.assert_allclose(picture.codes[seen], leaf(1.0)[seen], rtol=2e-3)
    assert not picture.codes[~seen].any()


WHOLE = {
    "whole": leaf(1.0),
    "cut": leaf(ROUND > 0),
    "dark": leaf(ROUND > 0, 0.02),
    "of other maps": leaf(ROUND)[..., [3, 1, 2, 0]],
}


@pytest.mark.parametrize("case", WHOLE)
def test_colors_that_are_whole_stay_so_whatever_the_standard_says(case, tmp_path):
    picture = read_bytes(exr({}, {"RGBA": np.ascontiguousarray(WHOLE[case])}, tmp_path), "a.exr")
    assert picture.done == "" and np.array_equal(picture.codes, WHOLE[case])


@pytest.mark.parametrize("format", ["exr", "exr-tiled"])
def test_what_we_write_comes_back_as_it_is_though_it_looks_dimmed(format):
    content = encode(leaf(ROUND), format)
    assert holds(content, leaf(ROUND), format, "a.exr")
