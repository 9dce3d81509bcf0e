"""A zip is opened without trusting it."""

import io

import numpy as np
import pytest

from asking import zipped
from copper_sieve.core.errors import FileTooLarge, NotAnImage
from copper_sieve.files import encode, is_zip, members, read_bytes

PICTURE = encode(np.random.default_rng(1).integers(0, 255, (16, 16, 3)).astype(np.uint8), "png")


def test_folders_are_walked_system_files_passed_over_and_no_path_leaves():
    content = zipped(
        {
            "gown/maps/Étoffe_N.png": PICTURE,
            "../../etc/evil.png": PICTURE,
            "C:\\temp\\b_AO.png": PICTURE,
            "__MACOSX/._a.png": b"x",
            "gown/.DS_Store": b"x",
        }
    )
    assert is_zip(content) and not is_zip(PICTURE)
    found = list(members(io.BytesIO(content), "gown.zip"))
    assert [m.name for m in found] == ["Étoffe_N.png", "evil.png", "b_AO.png"]
    assert [bool(m.content) for m in members(io.BytesIO(content), "gown.zip", lambda name: "_" not in name)] == [
        False,
        True,
        False,
    ]
    assert all(m.problem is None and read_bytes(m.content, m.name).width == 16 for m in found)


def test_bombs_zips_in_zips_and_damage_are_named_and_the_rest_goes_on():
    content = zipped({"bomb.png": bytes(64 << 20), "inner.zip": zipped({"a.png": PICTURE}), "good.png": PICTURE})
    problems = {m.name: m.problem for m in members(io.BytesIO(content), "x.zip")}
    assert isinstance(problems["bomb.png"], FileTooLarge) and "not believed" in problems["bomb.png"].message
    assert isinstance(problems["inner.zip"], NotAnImage) and "zip inside" in problems["inner.zip"].message
    assert problems["good.png"] is None
    broken = bytearray(zipped({"a.png": PICTURE, "b.png": PICTURE}))
    broken[60] ^= 0xFF
    assert [m.problem is None for m in members(io.BytesIO(bytes(broken)), "x.zip")] == [False, True]
    with pytest.raises(NotAnImage, match="cut off"):
        list(members(io.BytesIO(content[: len(content) // 2]), "x.zip"))
