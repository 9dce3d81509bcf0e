"""How a file's channels become masters: letters, spans, axes of normals, and a file read as a target names it."""

import numpy as np
import pytest
from pydantic import ValidationError

from copper_sieve.core.convert.scales import SCALES
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.errors import ShapeMismatch, TargetInvalid
from copper_sieve.core.quantities import quantity
from copper_sieve.core.raster import Size
from copper_sieve.core.recipe import Source
from copper_sieve.core.recipe.sources import read_quantity
from copper_sieve.core.target import Target, encode_file, reading_of
from copper_sieve.demo.materials import _noise
from copper_sieve.targets import shipped_targets

N = 24
NORMAL = normal_from_height(np.clip(0.5 + 0.2 * _noise(N, 2, 4, octaves=1), 0, 1), 0.1)
CODES = np.round((NORMAL * 0.5 + 0.5) * 65535).astype(np.uint16)
GRAY = np.random.default_rng(1).integers(0, 65536, (N, N)).astype(np.uint16)


def a_source(reads: dict, **more) -> Source:
    return Source(sha256="0" * 64, name="file.png", width=N, height=N, depth=16, reads=reads, **more)


NORMALS = {  # how it is stored, and how it is then to be read
    "plain": (CODES, {"RGB": "normal"}, {}),
    "green down": (np.dstack([CODES[..., 0], 65535 - CODES[..., 1], CODES[..., 2]]), {"RGB": "normal"}, {"green": "down"}),
    "red left": (np.dstack([65535 - CODES[..., 0], CODES[..., 1], CODES[..., 2]]), {"RGB": "normal"}, {"red": "left"}),
    "axes exchanged": (CODES[..., [1, 0, 2]], {"GRB": "normal"}, {}),
    "x and y alone": (np.dstack([CODES[..., :2], np.zeros_like(GRAY)]), {"RG": "normal"}, {}),
    "x in alpha, y in green": (np.dstack([GRAY, CODES[..., 1], GRAY, CODES[..., 0]]), {"AG": "normal"}, {}),
    "too short": (np.round((NORMAL * 0.3 + 0.5) * 65535).astype(np.uint16), {"RGB": "normal"}, {"unit_length": True}),
}


@pytest.mark.parametrize("stored", NORMALS)
def test_normals_come_out_the_same_however_they_are_stored(stored):
    codes, reads, how = NORMALS[stored]
    found = read_quantity(a_source(reads, **{"green": "up", **how}), codes, "normal")
    np.testing.assert_allclose(found, NORMAL, atol=2e-4)


SCALARS = {  # stored 0, ¼ and 1 of the file: what they mean in the master
    ("roughness", ()): (0, 0.25, 1),
    ("gloss", ()): (1, 0.75, 0),
    ("roughness_squared", ()): (0, 0.5, 1),
    ("height", (1.0, 0.0)): (1, 0.75, 0),
    ("height", (0.25, 0.75)): (0, 0, 1),
    ("curvature", ()): (-1, -0.5, 1),
    ("specular_level", ()): (0, 0.02, 0.08),
    ("refraction", ()): (0, 0.04, 0.25),
}


@pytest.mark.parametrize("case", SCALARS, ids=str)
def test_a_gray_means_what_its_scale_and_span_say(case):
    key, span = case
    codes = np.array([[0, 0.25, 1]], np.float32)
    source = a_source({"L": key}, spans={"L": span} if span else {})
    np.testing.assert_allclose(read_quantity(source, codes, key)[0], SCALARS[case], atol=1e-6)


REFUSED = {
    "an unknown quantity": {"reads": {"R": "shininess"}},
    "a gray in the axes of normals": {"reads": {"RG": "roughness"}},
    "a span of channels that are not read": {"reads": {"R": "roughness"}, "spans": {"G": (1, 0)}},
    "a span without length": {"reads": {"R": "roughness"}, "spans": {"R": (0.5, 0.5)}},
    "a tile before the first": {"reads": {"RGB": "normal"}, "tile": 1000},
    "tiles beside none": {
        "reads": {"RGB": "normal"},
        "beside": {1002: {"sha256": "0" * 64, "name": "b", "width": 1, "height": 1}},
    },
}


@pytest.mark.parametrize("case", REFUSED)
def test_what_cannot_be_read_is_refused_at_once(case):
    with pytest.raises(ValidationError):
        a_source(**REFUSED[case])


def test_a_channel_that_is_not_there_is_named():
    with pytest.raises(ShapeMismatch, match="no alpha"):
        read_quantity(a_source({"A": "opacity"}), CODES, "opacity")
    with pytest.raises(ShapeMismatch, match="three channels"):
        read_quantity(a_source({"RGB": "normal"}), GRAY, "normal")


rng = np.random.default_rng(2)
OWN = {master for target in shipped_targets().values() for master in target.masters() if master.startswith("own_")}
GRAYS = ("opacity", "metallic", "roughness", "occlusion", "height", *sorted(OWN))
MASTERS = {key: rng.random((N, N), np.float32) for key in GRAYS} | {"normal": NORMAL}
MASTERS["reflectance"] = 0.16 * rng.random((N, N), np.float32)
MASTERS |= {key: rng.random((N, N, 3), np.float32) for key in ("base_color", "emissive")}


@pytest.mark.parametrize("key", shipped_targets())
def test_every_file_of_every_target_is_read_back_as_that_target_has_it(key):
    target = shipped_targets()[key]
    for file in target.files:
        if (key, file.role) == ("gltf", "reflectance"):  # a gray kept as a color is, for the curve belongs to the input
            with pytest.raises(TargetInvalid, match="curve"):
                reading_of(target, file)
            continue
        reading = reading_of(target, file)
        codes = encode_file(target, file, MASTERS, Size(N, N))
        source = a_source(reading.reads, spans=reading.spans, green=reading.green)
        for held in reading.reads.values():
            master = quantity(held).master
            if master is not None:  # diffuse and specular are two halves of several masters
                wanted = MASTERS[master]
                if held == "shine_power":  # powers end at 2048 and at 2, so what shines more or less is held there
                    wanted = wanted.clip(*SCALES["power"].to_master(np.float32([1, 0])))
                np.testing.assert_allclose(read_quantity(source, codes, held), wanted, atol=6e-3)


def test_a_part_of_a_color_cannot_be_read_alone():
    file = {"role": "one", "title": "One", "word": "one", "name": ["x"], "format": "png", "color": "data"}
    file["channels"] = {"R": {"quantity": "normal", "component": "x"}, "G": {"quantity": "roughness"}, "B": {"constant": 0}}
    target = Target.model_validate({"key": "any", "title": "Any", "workflow": "metallic", "green": "up", "files": [file]})
    with pytest.raises(TargetInvalid, match="cannot be read alone"):
        reading_of(target, target.files[0])
