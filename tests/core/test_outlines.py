"""What every number of an operation makes of the same files, coarsely: a formula that changes changes this.

Written anew by ``PYTHONPATH=tests python tests/core/test_outlines.py``, where an operation got a new number.
"""

import json
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.core.operations import OPERATIONS
from core.test_every_derivation import CASES, evaluated, the_files

OUTLINES = Path(__file__).parents[1] / "data" / "outlines.json"
SIZE, TILES, DIGITS = 128, 4, 3


def name_of(op: str, params: dict) -> str:
    return f"{op}/{OPERATIONS[op].number} {json.dumps(params, sort_keys=True)}"


def outline(values: np.ndarray) -> list[float]:
    """Means over 4 × 4 tiles of every component, then how much neighbors differ."""
    planes = np.atleast_3d(values).astype(np.float64)
    side = SIZE // TILES
    tiles = planes.reshape(TILES, side, TILES, side, -1).mean((1, 3)).ravel()
    return [round(float(v), DIGITS) for v in (*tiles, np.abs(np.diff(planes, axis=1)).mean())]


@pytest.mark.parametrize(("op", "params"), CASES, ids=[name_of(*case) for case in CASES])
def test_no_formula_changes_without_a_number(op, params):
    held = json.loads(OUTLINES.read_text())[name_of(op, params)]
    np.testing.assert_allclose(outline(evaluated(op, params, the_files(SIZE))), held, atol=2 * 10**-DIGITS)


if __name__ == "__main__":
    kept = json.loads(OUTLINES.read_text()) if OUTLINES.exists() else {}
    made = {name_of(*case): outline(evaluated(*case, the_files(SIZE))) for case in CASES}
    lines = (f" {json.dumps(name)}: {json.dumps(values)}" for name, values in sorted((kept | made).items()))
    OUTLINES.write_text("{\n" + ",\n".join(lines) + "\n}\n")
