"""What names alone say, on a list from the trade's habits; a third of it was held out while the words were chosen.

`python tests/core/test_recognition.py` prints the confusion table.
"""

import hashlib
from collections import Counter
from pathlib import Path

import pytest

from copper_sieve.core.intake.names import packed_reads, read_name

NAMES = Path(__file__).parents[1] / "data" / "names.tsv"
SECOND = NAMES.with_name("names_second.tsv")
NOTHING = "no map"  # a photo, or a name that says nothing


def is_held_out(name: str) -> bool:
    return hashlib.sha256(name.encode()).digest()[0] % 3 == 0


def answers(held_out: bool) -> list[tuple[str, str, str]]:
    """(name, what it is, what we read) of one part of the list."""
    rows = [line.split("\t") for line in NAMES.read_text("utf-8").splitlines() if not line.startswith("#")]
    simple = {"unknown": NOTHING, "photo": NOTHING, None: NOTHING}
    found = []
    for name, kind in rows:
        if is_held_out(name) == held_out:
            read = (read_name(name).kind or "unknown").partition(":")[0]
            found.append((name, simple.get(kind, kind), simple.get(read, read)))
    return found


@pytest.mark.parametrize(("held_out", "least"), [(False, 0.97), (True, 0.9)])
def test_names_are_read_right(held_out, least):
    rows = answers(held_out)
    wrong = [row for row in rows if row[1] != row[2]]
    assert len(rows) >= 90
    assert 1 - len(wrong) / len(rows) >= least, wrong


def second_list() -> list[tuple[str, str, str, dict[str, str], dict[str, str]]]:
    """(name, what it is, what we read, its channels, those we read) of a list that was written before the words were added."""
    found = []
    for line in SECOND.read_text("utf-8").splitlines():
        if line.startswith("#"):
            continue
        name, kind, *told = line.split("\t")
        read, _, word = (read_name(name).kind or "unknown").partition(":")
        channels = dict(pair.split("=") for pair in told[0].split()) if told else {}
        found.append((name, kind, read, channels, packed_reads(word) if channels and word else {}))
    return found


def test_versions_tiles_accents_short_forms_and_other_languages_are_read():
    rows = second_list()
    wrong = [row for row in rows if row[1] != row[2] or row[3] != row[4]]
    assert len(rows) >= 150
    assert 1 - len(wrong) / len(rows) >= 0.9, wrong


def test_a_name_that_says_nothing_is_hardly_ever_taken_for_a_map():
    taken = [row for held_out in (False, True) for row in answers(held_out) if row[1] == NOTHING and row[2] != NOTHING]
    assert len(taken) <= 1, taken


if __name__ == "__main__":
    for held_out in (False, True):
        rows = answers(held_out)
        right = sum(kind == read for _, kind, read in rows)
        print(f"{'held out' if held_out else 'tuned on'}: {right} of {len(rows)} right")
        for (kind, read), count in sorted(Counter((kind, read) for _, kind, read in rows if kind != read).items()):
            print(f"  {kind} read as {read}: {count}  ({', '.join(n for n, k, r in rows if (k, r) == (kind, read))})")
    rows = second_list()
    right = sum(row[1] == row[2] and row[3] == row[4] for row in rows)
    print(f"second list: {right} of {len(rows)} right, 17 before its words were added")
