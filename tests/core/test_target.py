"""A target is data: one that no code knows is delivered and read back."""

import numpy as np
import pytest

from copper_sieve.core.errors import TargetInvalid
from copper_sieve.core.raster import Size
from copper_sieve.core.target import decode, encode_file, file_name, legal_name, read_target

THIRD = """
schema = 1
key = "third"
title = "Gloss first, green down, sixteen bit"
workflow = "metallic"
green = "down"
[[files]]
role = "data"
title = "Data"
word = "GMHX"
name = [{ part = "set" }, ".", { part = "map" }, "-", { part = "size" }]
format = "png"
depth = 16
color = "data"
[files.channels]
R = { quantity = "gloss" }
G = { quantity = "metallic", invert = true }
B = { quantity = "height", range = [0.25, 0.75] }
A = { constant = 0.5 }
[[files]]
role = "normal"
title = "Normal in two channels"
word = "NXY"
name = [{ part = "set" }, { part = "map" }]
format = "png"
depth = 16
color = "data"
[files.channels]
R = { quantity = "normal", component = "y" }
G = { quantity = "normal", component = "x" }
B = { quantity = "occlusion" }
[[files]]
role = "color"
title = "Color"
word = "C"
name = [{ part = "set" }]
format = "png"
color = "srgb"
[files.channels]
R = { quantity = "base_color", component = "b" }
G = { quantity = "base_color", component = "g" }
B = { quantity = "base_color", component = "r" }
"""


def masters(rows: int = 24, columns: int = 40) -> dict[str, np.ndarray]:
    rng = np.random.default_rng(7)
    normal = rng.normal(size=(rows, columns, 3))
    normal[..., 2] = np.abs(normal[..., 2]) + 1
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    gray = {k: rng.random((rows, columns), np.float32) for k in ("roughness", "metallic", "height", "occlusion")}
    return {**gray, "normal": normal.astype(np.float32), "base_color": rng.random((rows, columns, 3), np.float32)}


def test_a_third_target_is_written_and_read_back():
    target, given = read_target(THIRD), masters()
    codes = {f.role: encode_file(target, f, given, Size(40, 24)) for f in target.files}
    found = decode(target, codes)
    for key in ("roughness", "metallic", "occlusion"):
        np.testing.assert_allclose(found[key], given[key], atol=0.51 / 65535)
    np.testing.assert_allclose(found["height"], given["height"], atol=1.02 / 65535)
    np.testing.assert_allclose(found["normal"], given["normal"], atol=2e-4)
    assert np.abs(found["base_color"] - given["base_color"]).max() < 0.006
    assert (codes["data"][..., 3] == 32768).all()
    np.testing.assert_allclose(codes["data"][..., 0] / 65535, 1 - given["roughness"], atol=1 / 65535)
    again = {f.role: encode_file(target, f, found, Size(40, 24)) for f in target.files}
    assert all((again[role] == codes[role]).all() for role in ("data", "color"))


def test_flat_normals_and_absent_masters():
    target = read_target(THIRD.replace('"down"', '"up"'))
    flat = {"normal": np.broadcast_to(np.array([0, 0, 1], np.float32), (2, 2, 3))}
    normal = encode_file(target, target.files[1], flat, Size(2, 2))
    assert normal[0, 0].tolist() == [32768, 32768, 65535]  # occlusion is absent: open
    data = encode_file(target, target.files[0], {}, Size(2, 2))
    assert data[0, 0].tolist() == [26214, 65535, 32768, 32768]  # gloss 0.4, not metal, mid height


def test_names_from_parts_and_legal_names():
    target = read_target(THIRD)
    named = file_name(target.files[0].name, suffix=".png", word="GMHX", target=target, set_name="Étoffe", size="40x24")
    assert named == "Étoffe.GMHX-40x24.png"
    assert legal_name("a/b\\c:d") == "a b c d"
    assert legal_name("NUL") == "NUL_"
    assert len(legal_name("é" * 300).encode()) <= 120
    assert legal_name("///") == "unnamed"


@pytest.mark.parametrize(
    ("broken", "says"),
    [('quantity = "gloss"', "quantity"), ('green = "down"', "green"), ('word = "C"\n', "word")],
)
def test_a_broken_target_says_where(broken, says):
    with pytest.raises(TargetInvalid, match=says):
        read_target(
            THIRD.replace(
                broken, broken.replace("gloss", "glos").replace("down", "left") if "=" in broken and "word" not in broken else ""
            )
        )
