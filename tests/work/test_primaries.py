"""Colors told in other primaries: known by the header or the name, brought to Rec. 709, and kept where a file can say so."""

import numpy as np
import OpenEXR
import pytest

from copper_sieve.core.intake.plan import plan_set
from copper_sieve.core.primaries import PRIMARIES, acescg_from_rec709, primaries_of, rec709_from
from copper_sieve.core.recipe import Evaluation
from copper_sieve.core.recipe.cache import Cache
from copper_sieve.files import encode, read_bytes
from copper_sieve.work.intake.grouping import entry_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes, look_into_layers
from copper_sieve.work.reformatting import Called, NewFormat, Remade, remade

COLOR = (0.1 + 0.8 * np.random.default_rng(7).random((16, 16, 3))).astype(np.float32)  # linear, inside of Rec. 709
ACES = acescg_from_rec709(COLOR)
# Linear AP0 and Rec. 2020 to Rec. 709 as printed: Academy ACES transforms with Bradford; ITU-R BT.2087-0 the other way round.
PRINTED = {
    "aces2065": [[2.5217, -1.1341, -0.3876], [-0.2765, 1.3727, -0.0962], [-0.0154, -0.1530, 1.1684]],
    "rec2020": [[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]],
}


def written(tmp_path, header: dict[str, object], **channels: np.ndarray) -> bytes:
    OpenEXR.File({"type": OpenEXR.scanlineimage, **header}, channels).write(str(tmp_path / "made.exr"))
    return (tmp_path / "made.exr").read_bytes()


@pytest.mark.parametrize("primaries", PRINTED)
def test_the_ways_to_rec709_are_those_printed(primaries):
    np.testing.assert_allclose(rec709_from(np.eye(3, dtype=np.float32), primaries).T, PRINTED[primaries], atol=1e-4)


@pytest.mark.parametrize("primaries", PRIMARIES)
def test_white_stays_white_and_a_rounded_header_is_known(primaries):
    np.testing.assert_allclose(rec709_from(np.ones((1, 3), np.float32), primaries), 1, atol=1e-5)
    assert primaries_of(np.round(PRIMARIES[primaries].chromaticities, 3)) == primaries


def base_color_of(content: bytes, name: str) -> np.ndarray:
    """The base color of a set of this one file, as it is kept."""
    entry = entry_for(look_at_bytes(content, name))
    assert entry is not None
    evaluation = Evaluation(plan_set([entry]), None, lambda source: load_codes(source, lambda _: content), Cache(1 << 24))
    return evaluation.master("base_color")


@pytest.mark.parametrize(
    ("content", "name", "who"),
    [
        (encode(ACES, "exr", color="acescg"), "wall_basecolor.exr", "its header says so"),
        (encode(ACES, "exr", color="linear"), "wall_BaseColor_ACEScg.1001.exr", "its name says so"),
    ],
)
def test_a_color_is_brought_to_rec709_and_it_is_said_by_whom_it_is_known(content, name, who):
    looked = look_at_bytes(content, name)
    assert looked.look is not None and looked.look.stem == "wall"
    told = [found.text for found in looked.findings if found.id == "other-primaries"]
    assert len(told) == 1 and "ACEScg" in told[0] and who in told[0] and "outside" not in told[0]
    np.testing.assert_allclose(base_color_of(content, name), COLOR, atol=1e-5)


def test_colors_that_rec709_has_not_are_counted():
    green = np.zeros((16, 16, 3), np.float32)
    green[:4, :, 1] = 1.0  # a quarter of pure green of ACEScg
    looked = look_at_bytes(encode(green, "exr", color="acescg"), "wall_basecolor.exr")
    assert any("25.0% of the picture lies outside" in found.text for found in looked.findings)


@pytest.mark.parametrize(
    ("content", "name"),
    [
        (encode(ACES, "exr", color="acescg"), "wall_normal.exr"),  # data
        (encode(np.round(COLOR * 255).astype(np.uint8), "png"), "wall_basecolor_acescg.png"),  # codes are sRGB
        (encode(COLOR, "exr", color="linear"), "wall_basecolor.exr"),
    ],
)
def test_data_codes_and_plain_colors_stay_as_they_are(content, name):
    looked = look_at_bytes(content, name)
    assert not [found for found in looked.findings if found.id == "other-primaries"]
    entry = entry_for(looked)
    assert entry is None or all(source.primaries == "rec709" for source in plan_set([entry]).sources.values())


def test_primaries_that_nobody_knows_are_told(tmp_path):
    own = (0.7, 0.3, 0.2, 0.7, 0.1, 0.05, 0.3127, 0.3290)
    content = written(tmp_path, {"chromaticities": own}, RGB=COLOR)
    assert "none of those known here" in read_bytes(content, "a.exr").done
    assert any("none of those known" in found.text for found in look_at_bytes(content, "wall_basecolor.exr").findings)


def test_a_layer_has_the_primaries_of_its_document(tmp_path):
    parts = {f"BaseColor.{letter}": np.ascontiguousarray(ACES[..., k]) for k, letter in enumerate("RGB")}
    content = written(
        tmp_path, {"chromaticities": PRIMARIES["acescg"].chromaticities}, **parts, **{"Roughness.V": ACES[..., 0].copy()}
    )
    looks = {looked.look.kind: looked.look.primaries for looked, _ in look_into_layers(content, "wall.exr") if looked.look}
    assert looks == {"base_color": "acescg", "roughness": None}


def test_another_format_keeps_primaries_where_it_can_say_them_and_is_converted_where_not():
    files = [Called("wall_basecolor.exr", lambda: encode(ACES, "exr", color="acescg"))]
    (kept,), (plain,) = (
        list(remade(files, NewFormat(key, depth))) for key, depth in (("exr", (16, "float")), ("png", (16, "uint")))
    )
    assert isinstance(kept, Remade) and isinstance(plain, Remade)
    again = read_bytes(kept.content, "a.exr")
    assert again.primaries == "acescg"
    np.testing.assert_allclose(again.codes, ACES, atol=1e-3)
    plain_codes = next(remade([Called("a_basecolor.exr", lambda: encode(COLOR, "exr"))], NewFormat("png", (16, "uint"))))
    assert isinstance(plain_codes, Remade)
    told = read_bytes(plain.content, "a.png").codes.astype(int) - read_bytes(plain_codes.content, "b.png").codes
    assert np.abs(told).max() <= 1
