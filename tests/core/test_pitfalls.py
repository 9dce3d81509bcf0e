"""Every known way to go wrong in intake, conversion, packing and naming has its answer, and every answer stands."""

import tomllib
from pathlib import Path

import copper_sieve.core.checks as checks
from copper_sieve.core.findings import FINDINGS

TABLE = tomllib.loads((Path(checks.__file__).parent / "pitfalls.toml").read_text("utf-8"))
WANTED = [*range(1, 14), 24, *range(33, 46), *range(52, 76), 84, *range(88, 106)]


def test_no_pitfall_is_forgotten_and_no_check_is_invented():
    assert set(TABLE) == {f"P-{number:02}" for number in WANTED}
    for number, answer in TABLE.items():
        assert answer and set(answer) <= {"check", "never", "open"}, number
        assert set(answer.get("check", [])) <= set(FINDINGS), number
