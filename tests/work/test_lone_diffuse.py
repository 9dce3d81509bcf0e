"""What is said of a diffuse map without its specular color."""

import pytest

from work.test_every_finding import COLOR, GRAY, on_set


@pytest.mark.parametrize(
    ("color", "metal", "is_told"),
    [(COLOR, 0.0, False), (COLOR * 0 + 0.5, 1.0, False), (COLOR * 0, 1.0, True)],
    ids=["no metal", "metal has its color", "metal is black"],
)
def test_a_diffuse_map_beside_a_metallic_one_is_a_base_color_unless_its_metal_is_black(color, metal, is_told):
    assert ("specular-missing" in on_set(diffuse=color, metallic=GRAY * 0 + metal)()) == is_told
