"""What every number of an operation makes of the same files, coarsely: a formula that changes changes this.

Written anew by ``PYTHONPATH=tests python tests/core/test_outlines.py``, where an operation got a new number.
"""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe.refs import node_ref
from core.test_every_derivation import CASES, evaluated, evaluation_of, the_files

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


def older() -> list[tuple[str, dict, int]]:
    """Every case of a way that is not the newest, and is still there."""
    found = []
    for name in json.loads(OUTLINES.read_text()):
        way, params = name.split(" ", 1)
        op, number = way.split("/")
        if any(one.number == int(number) for one in OPERATIONS[op].ways[1:]):
            found.append((op, json.loads(params), int(number)))
    return found


@pytest.mark.parametrize(("op", "params"), CASES, ids=[name_of(*case) for case in CASES])
def test_no_formula_changes_without_a_number(op, params):
    held = json.loads(OUTLINES.read_text())[name_of(op, params)]
    np.testing.assert_allclose(outline(evaluated(op, params, the_files(SIZE))), held, atol=2 * 10**-DIGITS)


@pytest.mark.parametrize(("op", "params", "number"), older())
def test_an_older_way_makes_what_it_made(op, params, number):
    """What a step says of itself is told to the way it names; its outline was kept when it was the newest."""
    made = evaluation_of(op, params, the_files(SIZE))
    node = made.recipe.nodes["n"].model_copy(update={"algorithm": number})
    asked = replace(made, recipe=made.recipe.model_copy(update={"nodes": {"n": node}}))
    held = json.loads(OUTLINES.read_text())[f"{op}/{number} {json.dumps(params, sort_keys=True)}"]
    np.testing.assert_allclose(outline(asked.value(node_ref("n"), asked.size)), held, atol=2 * 10**-DIGITS)


if __name__ == "__main__":
    kept = json.loads(OUTLINES.read_text()) if OUTLINES.exists() else {}
    made = {name_of(*case): outline(evaluated(*case, the_files(SIZE))) for case in CASES}
    lines = (f" {json.dumps(name)}: {json.dumps(values)}" for name, values in sorted((kept | made).items()))
    OUTLINES.write_text("{\n" + ",\n".join(lines) + "\n}\n")
