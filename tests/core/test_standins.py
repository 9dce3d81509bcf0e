"""The stand-ins by themselves: their formulas and the way back, their reading from disk, their shading."""

import cv2
import numpy as np
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st

from copper_sieve.standins import BALL_PX, Channel, File, Table, ball, channels_off, faults, seen, surface_of
from copper_sieve.standins.meanings import linear, maps_of, srgb, wanted

unit = st.floats(0, 1)
SIDE = 5


def maps(seed: int = 3) -> dict[str, np.ndarray]:
    rng = np.random.default_rng(seed)
    lean = rng.normal(size=(SIDE, SIDE, 3)) * [0.5, 0.4, 0] + [0.1, 0.2, 1]
    grays = {key: rng.random((SIDE, SIDE)) for key in ("roughness", "metallic", "occlusion", "opacity", "height", "own_dust")}
    colors = {key: rng.random((SIDE, SIDE, 3)) for key in ("base_color", "emissive")}
    return (
        grays
        | colors
        | {"reflectance": 0.16 * rng.random((SIDE, SIDE)), "normal": lean / np.linalg.norm(lean, axis=-1, keepdims=True)}
    )


@given(unit)
def test_the_curve_of_colors_and_its_way_back_undo_each_other(value):
    assert abs(linear(srgb(np.float64(value))) - value) < 1e-7
    assert abs(srgb(np.float64(0.2140411)) - 0.5) < 1e-5  # IEC 61966-2-1


ALIKE = {
    "roughness": ["roughness"], "gloss": ["gloss"], "squared": ["squared"], "metallic": ["metallic"], "occlusion": ["occlusion"],
    "opacity": ["opacity"], "height": ["height"], "reflectance": ["reflectance"], "refraction": ["refraction"],
    "base": ["base r", "base g", "base b"], "glow": ["glow r", "glow g", "glow b"], "up": ["x", "y up", "z"],
    "down": ["x", "y down"],
}  # fmt: skip
OF = {
    "gloss": "roughness",
    "squared": "roughness",
    "refraction": "reflectance",
    "base": "base_color",
    "glow": "emissive",
    "up": "normal",
    "down": "normal",
}


@pytest.mark.parametrize("case", ALIKE)
def test_what_a_channel_holds_gives_the_master_back(case):
    masters = maps()
    planes = {meaning: wanted(meaning, masters) for meaning in ALIKE[case]}
    key = OF.get(case, case)
    np.testing.assert_allclose(maps_of(planes)[key], masters[key], atol=1e-9)


def test_powers_and_levels_are_what_their_names_say():
    assert abs(wanted("power", {"roughness": np.array((2 / (64 + 2)) ** 0.25)}) - 0.5) < 1e-9  # 64 lies midway from 2 to 2048
    assert abs(wanted("level", {"reflectance": np.array(0.04)}) - 0.5) < 1e-12
    assert abs(maps_of({"level": np.array(0.5)})["reflectance"] - 0.04) < 1e-12
    found = maps_of({"power": np.array(0.5)})
    assert abs(found["power"] - 64) < 1e-9 and abs(found["roughness"] ** 4 - 2 / 66) < 1e-9
    assert wanted("fixed 0.25", {}) == 0.25 and wanted("curvature", {}) == 0.5 and wanted("gloss", {}) == 0.4


def test_diffuse_and_specular_split_what_is_there():
    masters = maps()
    sum_of = sum(wanted(f"{word} g", masters) for word in ("diffuse", "specular"))
    metal, base = masters["metallic"], masters["base_color"][..., 1]
    np.testing.assert_allclose(sum_of, base + masters["reflectance"] * (1 - metal))
    white = {"base_color": np.ones((1, 1, 3)), "metallic": np.zeros((1, 1))}
    acescg = [float(wanted(f"diffuse {part}", white, is_acescg=True).item()) for part in "rgb"]
    np.testing.assert_allclose(acescg, 1, atol=2e-5)  # white stays white


def file(stored: str, use: str, *channels: Channel) -> File:
    return File(stored, use, channels)  # type: ignore[arg-type]


def test_files_of_unlike_size_and_form_become_one_surface(tmp_path):
    rough = np.array([[0, 255], [51, 102]], np.uint8)
    color = np.zeros((4, 4, 3), np.uint16)
    color[..., 0], color[2:, :, 2] = 65535, 32768
    assert cv2.imwrite(str(tmp_path / "rough.png"), rough)
    tifffile.imwrite(tmp_path / "color.tif", color, photometric="rgb")
    table = Table(
        "metallic",
        {
            "rough": file("png8", "data", Channel("gloss", inverted=True, low=0.2, high=1.0)),
            "color": file("tiff16", "srgb", Channel("base r"), Channel("base g"), Channel("base b")),
        },
    )
    found = seen(table, {"rough": tmp_path / "rough.png", "color": tmp_path / "color.tif"})
    assert found["roughness"].shape == (4, 4) and found["base_color"].shape == (4, 4, 3)
    np.testing.assert_allclose(found["roughness"][::2, ::2], (rough / 255 - 0.2) / 0.8, atol=1e-6)  # 1 − (1 − r)
    np.testing.assert_allclose(found["base_color"][3, 0], [1, 0, 0.21404], atol=1e-4)


def test_what_is_stored_wrong_is_named_before_numbers_are_compared(tmp_path):
    gray = np.full((3, 3), 128, np.uint8)
    assert cv2.imwrite(str(tmp_path / "gray.png"), gray)
    path, one = tmp_path / "gray.png", Channel("roughness")
    assert faults(file("png8", "data", one), path) == []
    assert "instead of 16" in faults(file("png16", "data", one), path)[0]
    assert "1 channels instead of 2" in faults(file("png8", "data", one, one), path)[0]
    assert "is srgb" in faults(file("png8", "srgb", one), path)[0]
    assert "is not tga" in faults(file("tga8", "data", one), path)[0]
    assert channels_off(file("png8", "data", one), path, {"roughness": np.full((3, 3), 128 / 255)})[0].is_right
    off = channels_off(file("png8", "data", one), path, {"roughness": np.full((3, 3), 130 / 255)})[0]
    assert abs(off.steps - 2) < 1e-4 and not off.is_right


def lit(model: str = "metallic", **values) -> np.ndarray:
    whole = {key: np.broadcast_to(np.asarray(value, float), (2, 2, *np.shape(value))) for key, value in values.items()}
    return ball(surface_of(whole), model).pictures  # type: ignore[arg-type]


@pytest.mark.parametrize(("shape", "repeated"), [((32, 64), (2, 1)), ((64, 16), (1, 4)), ((64, 64), (1, 1))])
def test_a_picture_that_is_not_square_keeps_its_form_on_the_ball(shape, repeated):
    gray = np.random.default_rng(3).random(shape)
    square = np.tile(gray, repeated)
    assert np.array_equal(surface_of({"roughness": gray})["roughness"], surface_of({"roughness": square})["roughness"])


def test_light_that_is_kept_away_emitted_or_mirrored_shows_where_it_must():
    plain = lit(base_color=(0.4, 0.4, 0.4), roughness=0.8)
    dim, glowing = lit(base_color=(0.4, 0.4, 0.4), roughness=0.8, occlusion=0.2), lit(emissive=(0.1, 0, 0), roughness=0.8)
    assert (dim <= plain + 1e-6).all() and plain.mean() - dim.mean() > 0.02
    assert (glowing[..., 0] >= glowing[..., 1] - 1e-6).all() and glowing[..., 0].max() > glowing[..., 1].max()
    gold = lit(base_color=(1.0, 0.75, 0.25), metallic=1.0, roughness=0.3)
    split = lit("specular", diffuse=(0.0, 0.0, 0.0), specular=(1.0, 0.75, 0.25), roughness=0.3)
    np.testing.assert_allclose(gold, split, atol=1e-6)
    assert np.abs(gold - plain).max() > 0.2


def test_the_classic_lobe_shines_where_the_other_does():
    brightest = []
    for model in ("metallic", "classic"):
        shown = lit(model, base_color=(0.05, 0.05, 0.05), roughness=0.4)[0].mean(-1)
        brightest.append(np.array(np.unravel_index(shown.argmax(), shown.shape)))
    assert np.abs(brightest[0] - brightest[1]).max() <= BALL_PX // 40
