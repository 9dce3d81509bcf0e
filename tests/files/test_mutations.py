"""Damaged files, tables and odd pictures: every one is read or refused with a sentence, none is a fault of ours."""

from bench.mutations import run

CASES = 2400


def test_no_damage_is_a_fault_of_ours(capfd):
    outcome = run(CASES)
    assert not outcome.faults, outcome.faults[:10]
    assert outcome.read + outcome.refused == CASES
    assert min(outcome.read, outcome.refused) > CASES / 10  # both happen: neither is all there is to see
    seldom = {"psd", "heic", "avif", "dng"}
    assert set(outcome.by_reader) >= seldom | {
        "png",
        "jpg",
        "tif",
        "exr",
        "hdr",
        "bmp",
        "dds",
        "tga",
        "webp",
        "psd",
        "heic",
        "avif",
        "dng",
        "zip",
        "toml",
        "pixels",
    }
    assert capfd.readouterr().out == ""  # what decoders say of damage never gets among results
