"""Packing is undone exactly: for any table, any codes that a file of it can hold come back the same."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from copper_sieve.core.quantities import MASTERS, quantity
from copper_sieve.core.raster import Size
from copper_sieve.core.target import Target, decode, encode_file
from copper_sieve.core.target.storing import stored_channel

GRAYS = [key for key in MASTERS if quantity(key).channels == 1]
LETTERS = {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}


@st.composite
def gray_tables(draw):
    """A target of one data file whose channels carry different gray masters, some inverted, in any order."""
    count = draw(st.integers(1, 4))
    keys = draw(st.permutations([*GRAYS, "gloss"]).filter(lambda keys: not {"gloss", "roughness"} <= set(keys[:count])))
    channels = {letter: {"quantity": key, "invert": draw(st.booleans())} for letter, key in zip(LETTERS[count], keys)}
    file = {"role": "packed", "title": "Packed", "word": "P", "name": ["x"], "format": "png", "color": "data"}
    file |= {"depth": draw(st.sampled_from([8, 16])), "channels": channels}
    return Target.model_validate(
        {"schema": 1, "key": "any", "title": "Any", "workflow": "metallic", "green": "up", "files": [file]}
    )


@given(target=gray_tables(), seed=st.integers(0, 2**32 - 1), rows=st.integers(1, 9), columns=st.integers(1, 9))
@settings(max_examples=120, deadline=None)
def test_unpacking_and_packing_again_gives_the_same_codes(target, seed, rows, columns):
    file = target.files[0]
    count = len(file.channels)
    top = np.uint16 if file.depth == 16 else np.uint8
    shape = (rows, columns) if count == 1 else (rows, columns, count)
    codes = np.random.default_rng(seed).integers(0, np.iinfo(top).max, shape, endpoint=True).astype(top)
    masters = decode(target, {"packed": codes})
    assert all(
        values.min() >= quantity(key).low - 1e-6 and values.max() <= quantity(key).high + 1e-6 for key, values in masters.items()
    )
    assert (encode_file(target, file, masters, Size(columns, rows)) == codes).all()


def test_storing_costs_half_a_step_at_most_and_says_so():
    file = {"role": "one", "title": "One", "word": "one", "name": ["x"], "format": "png", "color": "data"}
    file["channels"] = {"R": {"quantity": "roughness", "invert": True}, "G": {"quantity": "metallic"}, "B": {"constant": 0.5}}
    table = {"key": "any", "title": "Any", "workflow": "metallic", "green": "up", "files": [file]}
    target = Target.model_validate(table)
    rough = np.random.default_rng(9).random((16, 16), np.float32)
    stored = {c: stored_channel(target, target.files[0], c, {"roughness": rough}, Size(16, 16)) for c in "RGB"}
    assert abs(stored["R"].step - 1 / 255) < 1e-9
    assert 0.4 / 255 < stored["R"].largest <= 0.5001 / 255 and stored["G"].largest is None and stored["B"].largest is None


def test_what_a_color_costs_is_told_in_steps_of_its_curve():
    file = {"role": "one", "title": "One", "word": "one", "name": ["x"], "format": "png", "color": "srgb"}
    file["channels"] = {letter: {"quantity": "base_color", "component": letter.lower()} for letter in "RGB"} | {
        "A": {"quantity": "roughness"}
    }
    target = Target.model_validate({"key": "any", "title": "Any", "workflow": "metallic", "green": "up", "files": [file]})
    rng = np.random.default_rng(10)
    masters = {"base_color": rng.random((32, 32, 3), np.float32), "roughness": rng.random((32, 32), np.float32)}
    stored = {c: stored_channel(target, target.files[0], c, masters, Size(32, 32)) for c in "RA"}
    assert all(0.45 < channel.largest / channel.step <= 0.502 for channel in stored.values())
