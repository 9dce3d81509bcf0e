"""What a material says of a picture goes; where it says nothing that we know, nobody guesses."""

import numpy as np
import pytest

from copper_sieve.core.intake.by_material import by_material
from copper_sieve.core.intake.looks import look_at

LEAN = np.zeros((16, 16, 3), np.uint8) + np.uint8([128, 128, 255])
HOLED = np.dstack([LEAN, np.where(np.arange(256).reshape(16, 16) % 3, 255, 0)]).astype(np.uint8)


@pytest.mark.parametrize(
    "slots, is_cut, kind, reads",
    [
        (("baseColorTexture",), False, "base_color", {"RGB": "base_color"}),
        (("baseColorTexture",), True, "base_color", {"RGB": "base_color", "A": "opacity"}),
        (("metallicRoughnessTexture",), True, "packed", {"G": "roughness", "B": "metallic"}),
        (("specularGlossinessTexture",), False, "packed", {"RGB": "specular", "A": "gloss"}),
        (("normalTexture", "clearcoatNormalTexture"), False, "normal", {"RGB": "normal"}),
        (("sheenColorTexture",), False, "unknown", {}),
    ],
)
def test_a_slot_settles_what_a_picture_is(slots, is_cut, kind, reads):
    told = by_material(look_at("roughness.png", HOLED), slots, "felt", is_cut=is_cut)
    assert (told.kind, told.reads, told.stem) == (kind, reads, "felt")
    assert (told.green is not None and told.green.answer == "up") == (kind == "normal")
