"""The line between two copies of a picture: the cheapest there is, held against every line there could be."""

import itertools

import numpy as np
import pytest

from copper_sieve.core.prepare.cutting import graph_cut, painted, quick_cut
from copper_sieve.core.prepare.decision import Guide, Stroke


def copies(seed: int, rows: int, columns: int) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    return tuple(rng.random((rows, columns, 3)).astype(np.float32) for _ in range(2))


def weights(first: np.ndarray, second: np.ndarray, axis: int) -> np.ndarray:
    """What a line costs between each texel and the next along an axis, which comes round: what differs, over what differs there
    in each copy.
    """
    apart = np.sqrt(((first - second) ** 2).mean(-1)).astype(np.float64)
    steep = sum(np.abs(np.roll(copy, -1, axis) - copy).mean(-1) for copy in (first, second))
    return np.round(1000 * ((apart + np.roll(apart, -1, axis)) / (steep + 0.05) + 0.001))


def cost(is_second: np.ndarray, first: np.ndarray, second: np.ndarray, wraps: bool) -> float:
    across, down = (weights(first, second, axis) * (is_second != np.roll(is_second, -1, axis)) for axis in (1, 0))
    return float(across[:, :-1].sum() + (down if wraps else down[:-1]).sum())


@pytest.mark.parametrize("wraps", [False, True])
@pytest.mark.parametrize("seed", range(4))
def test_no_way_of_sharing_the_overlap_is_cheaper_than_the_cut(seed, wraps):
    rows, columns = 3, 5
    first, second = copies(seed, rows, columns)
    free = np.zeros((rows, columns), int)
    found = graph_cut(first, second, free > 0, free, wraps)
    assert found[:, 0].all() and not found[:, -1].any()  # either end is one copy alone

    def shared(inner: tuple[bool, ...]) -> np.ndarray:
        mask = np.zeros((rows, columns), bool)
        mask[:, 0], mask[:, 1:-1] = True, np.reshape(inner, (rows, columns - 2))
        return mask

    every = (shared(inner) for inner in itertools.product([False, True], repeat=rows * (columns - 2)))
    assert cost(found, first, second, wraps) == min(cost(mask, first, second, wraps) for mask in every)


def test_the_quick_line_is_the_cheapest_of_all_that_move_two_columns_a_row():
    rows, columns = 4, 7
    first, second = copies(9, rows, columns)
    free = np.zeros((rows, columns), int)
    found = quick_cut(first, second, free > 0, free, False).sum(1)
    apart = ((first - second) ** 2).mean(-1)
    lines = [
        line
        for line in itertools.product(range(1, columns - 1), repeat=rows)
        if all(abs(a - b) <= 2 for a, b in itertools.pairwise(line))
    ]
    best = min(lines, key=lambda line: sum(apart[row, at] for row, at in enumerate(line)))
    assert found.tolist() == list(best)


def test_a_quick_line_that_comes_round_meets_itself():
    first, second = copies(3, 24, 20)
    free = np.zeros((24, 20), int)
    ends = quick_cut(first, second, free > 0, free, True).sum(1)
    assert (np.abs(np.diff([*ends, ends[0]])) <= 2).all()


def test_where_a_picture_that_comes_round_begins_is_no_matter_to_the_cut():
    first, second = copies(3, 24, 20)
    turned = np.roll(first, 5, 0), np.roll(second, 5, 0)
    free = np.zeros((24, 20), int)
    costs = [cost(graph_cut(*pair, free > 0, free, True), *pair, True) for pair in ((first, second), turned)]
    assert costs[0] == costs[1]


@pytest.mark.parametrize("cut", [graph_cut, quick_cut])
def test_what_is_painted_is_kept_and_avoided(cut):
    """Of one color everywhere any line is as good as another, so that paint alone decides."""
    rows, columns, side = 40, 30, 60
    plain = np.full((rows, columns, 3), 0.5, np.float32)
    keep = Guide(keep=(Stroke(points=((0.08, 0.5),), radius=0.03),))
    free, bound = painted(keep, 0, (rows, side + columns), side, columns)
    held = bound == 1
    assert held.any() and not free.any()
    assert not cut(plain, plain, free, bound, False)[held].any()  # the second copy stays off it
    avoided, bound = painted(
        Guide(avoid=(Stroke(points=((0.1, 0.0), (0.1, 1.0)), radius=0.04),)), 0, (rows, side + columns), side, columns
    )
    noisy = plain + np.random.default_rng(1).random(plain.shape).astype(np.float32) * np.float32(0.2)
    found = cut(plain, noisy, avoided, bound, False)
    at = found.sum(1)
    assert not any(avoided[row, min(end, columns - 1)] and avoided[row, end - 1] for row, end in enumerate(at))


def test_paint_lies_where_it_was_drawn_on_either_axis():
    stroke = Stroke(points=((0.25, 0.75),), radius=0.05)
    across, _ = painted(Guide(avoid=(stroke,)), 0, (40, 80), 60, 20)
    down, _ = painted(Guide(avoid=(stroke,)), 1, (80, 40), 30, 10)
    rows, columns = np.nonzero(across)
    assert abs(rows.mean() - 30) < 1 and abs(columns.mean() - 19) < 2.5  # cut off at the overlap's end
    assert down.shape == (80, 10) and not painted(Guide(), 0, (40, 80), 60, 20)[0].any()
