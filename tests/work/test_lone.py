"""One map saved as a file: read back, it is what the set had, and its name says how it is meant."""

import numpy as np
import pytest

from copper_sieve.core.errors import SieveError, UnknownKey
from copper_sieve.core.quantities import quantity
from copper_sieve.core.target import decode
from copper_sieve.core.target.lone import STORED, lone_target, writings_of
from copper_sieve.files import read_bytes
from copper_sieve.work.deliveries.lone import lone_file, lone_work
from copper_sieve.work.intake.looking import look_at_bytes
from work.test_proof import evaluation_of

NAME = "Soie d'été"
STEP = {"png-8": 1 / 255, "png-16": 1 / 65535, "tiff-16": 1 / 65535, "exr-32": 1e-6}
LACE, GILT = evaluation_of("Lace trim"), evaluation_of("Gilt brocade")
PLAIN = [
    (master, way.key)
    for master in LACE.recipe.masters
    for way in writings_of(master, LACE.recipe.masters)
    if not quantity(way.quantity).is_computed
]


@pytest.mark.parametrize("stored", list(STORED))
@pytest.mark.parametrize(("master", "key"), PLAIN)
def test_what_is_saved_reads_back_as_the_map_and_is_told_by_its_name(master, key, stored):
    name, content = lone_file(LACE, NAME, master, key, stored)
    way = next(one for one in writings_of(master, LACE.recipe.masters) if one.key == key)
    target = lone_target(way, stored)
    picture = read_bytes(content, name)
    found = decode(target, {"map": picture.codes})[master]
    truth = LACE.master(master)
    slack = STEP[stored] * (quantity(master).high - quantity(master).low)
    if quantity(master).color == "srgb" and picture.sample == "uint":
        slack *= 2.5  # the sRGB curve is steepest near white
    assert np.abs(found - truth).max() <= slack
    look = look_at_bytes(content, name, folder="").look
    assert way.quantity in look.reads.values() and look.stem.startswith("Soie")
    if master == "normal":
        assert look.green.answer == way.green
    assert ("opacity" in look.reads.values()) == (way.alpha == "opacity" or master == "opacity")


def test_a_computed_map_is_that_of_the_formula_and_what_is_not_there_is_refused():
    _, content = lone_file(GILT, NAME, "base_color", "diffuse", "exr-32")
    diffuse = GILT.master("base_color") * (1 - GILT.master("metallic")[..., None])
    assert np.abs(read_bytes(content, "a.exr").codes - diffuse).max() < 1e-6
    with pytest.raises(SieveError, match="has no thickness to save"):
        lone_file(LACE, NAME, "thickness", "thickness", "png-8")
    with pytest.raises(UnknownKey, match="normal-up, normal-down"):
        lone_file(LACE, NAME, "normal", "normal", "png-8")
    with pytest.raises(UnknownKey, match="png-8"):
        lone_file(LACE, NAME, "height", "height", "bmp")


def test_what_needs_another_map_is_offered_where_that_is():
    assert [way.key for way in writings_of("base_color", ["base_color"])] == ["base_color"]
    assert {way.key for way in writings_of("base_color", ["base_color", "metallic", "opacity"])} >= {"diffuse", "with-opacity"}
    assert [way.title for way in writings_of("own_edge_wear", [])] == ["Edge wear"]


def test_the_work_of_a_map_is_that_of_all_it_stands_on_and_grows_with_its_texels():
    photo = evaluation_of("Grained leather")
    work = {key: lone_work(photo, key) for key in ("height", "normal", "occlusion")}
    assert 0 < work["height"] < work["normal"]
    half = photo.sized(photo.size.width // 2)
    assert lone_work(half, "normal") == work["normal"] / 4
