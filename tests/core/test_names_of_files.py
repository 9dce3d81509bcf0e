"""Names of files there and back: what a target calls a set's files, it knows again as that set's."""

import re
from itertools import product

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from copper_sieve.core.target.matching import name_pattern
from copper_sieve.core.target.naming import file_name, legal_name, refused, slug
from copper_sieve.targets import carriers_of, shipped_targets

EVERY_FILE = [(target, file) for target in shipped_targets().values() for file in target.files]
NAMES = st.text(st.characters(exclude_categories=("Cs",)), max_size=160)


@given(NAMES)
@example("")
@example("...")
@example("CON")
@example("lpt1.old")
@example("con .txt")
@example('a/b\\c:d*e?f"g<h>i|j')
@example("e\u0301toffe")
@example("塗" * 60)
@settings(max_examples=200, deadline=None)
def test_any_text_becomes_a_name_that_every_file_system_takes_and_stays_it(text):
    name = legal_name(text)
    assert name and refused(f"{name}.png") is None and len(name.encode()) <= 121
    assert legal_name(name) == name


@given(NAMES)
@settings(max_examples=100, deadline=None)
def test_a_slug_is_plain_and_its_own_slug(text):
    made = slug(text)
    assert re.fullmatch(r"(?:[a-z0-9]+(?:-[a-z0-9]+)*)?", made) and slug(made) == made


@pytest.mark.parametrize("name", ["Felt", "Étoffe à carreaux 2", "old_wall_BC", "a.b", "x-1024"])
def test_every_shipped_target_knows_the_names_it_gives(name):
    for target, file in EVERY_FILE:
        told = {"target": target, "set_name": name, "size": "2048x1024", "project": "salt-heron"}
        for tile in ("", "1011") if "tile" not in str(file.name) else ("1011",):
            made = file_name(file.name, suffix="", word=file.word, tile=tile, **told)
            found = name_pattern(target, file).fullmatch(made.removesuffix(f".{tile}") if tile else made)
            assert found is not None and found["set"] == name, (target.key, file.role, made)


def test_no_two_files_of_a_target_share_a_name():
    for target in shipped_targets().values():
        told = {"target": target, "set_name": "Felt", "size": "1024", "project": "p"}
        named = [file_name(file.name, suffix=f".{file.format}", word=file.word, **told) for file in target.files]
        layers = [bool(file.layer_of) for file in target.files]
        alone = [name.lower() for name, is_layer in zip(named, layers, strict=True) if not is_layer]
        assert len(set(alone)) == len(alone), target.key


def test_who_carries_a_master_is_what_the_tables_say():
    masters = {key for target in shipped_targets().values() for key in target.masters()}
    for key, target in product(sorted(masters), shipped_targets().values()):
        assert (target.key in carriers_of(key)) is any(key in file.masters() for file in target.files)
