"""A grid parted in two where that costs least, held against a general solver of maximal flow."""

import numpy as np
import pytest
from scipy import sparse
from scipy.sparse import csgraph

from copper_sieve.core.prepare.flow import FIRST, SECOND, parted


def solved(right: np.ndarray, down: np.ndarray, bound: np.ndarray) -> np.ndarray:
    """The same by a solver that knows of no grid: what the source still reaches, which is one answer whatever the flow."""
    number = np.arange(bound.size).reshape(bound.shape)
    source, sink = bound.size, bound.size + 1
    starts, ends, costs = [], [], []
    for cost, axis in ((right, 1), (down, 0)):
        there = np.roll(number, -1, axis)
        starts += [number.ravel(), there.ravel()]
        ends += [there.ravel(), number.ravel()]
        costs += [cost.ravel()] * 2
    for at, kind in ((source, SECOND), (sink, FIRST)):
        held = number[bound == kind]
        starts.append(np.full(held.size, at) if at == source else held)
        ends.append(held if at == source else np.full(held.size, at))
        costs.append(np.full(held.size, 1 << 30))
    entries = np.concatenate(costs), (np.concatenate(starts), np.concatenate(ends))
    graph = sparse.csr_matrix(sparse.coo_matrix(entries, (bound.size + 2,) * 2), dtype=np.int32)
    left = sparse.csr_matrix(graph - csgraph.maximum_flow(graph, source, sink).flow)
    left.eliminate_zeros()
    reached = np.zeros(bound.size + 2, bool)
    reached[csgraph.breadth_first_order(left, source, return_predecessors=False)] = True
    return reached[:-2].reshape(bound.shape)


@pytest.mark.parametrize("most", [1, 3, 1000])  # few costs make many lines equally cheap
@pytest.mark.parametrize("shape", [(1, 9), (2, 7), (3, 3), (17, 40), (64, 50)])
def test_a_grid_is_parted_as_a_general_solver_parts_it(shape, most):
    rng = np.random.default_rng(most)
    for _ in range(4):
        right, down = (rng.integers(0, most + 1, shape) for _ in range(2))
        down[-1] *= rng.integers(0, 2)  # it comes round, or not
        bound = rng.choice([0, FIRST, SECOND], shape, p=[0.9, 0.05, 0.05])
        bound[0, 0], bound[-1, -1] = SECOND, FIRST
        np.testing.assert_array_equal(parted(right, down, bound), solved(right, down, bound))


def test_an_island_is_cut_out_where_its_shore_is_cheap():
    y, x = np.mgrid[-20:21, -20:21]
    far = np.hypot(y, x)
    cost = np.where(np.abs(far - 12) < 1, 1, 50)
    bound = np.where(far < 4, SECOND, np.where(far > 19, FIRST, 0))
    found = parted(cost, cost, bound)
    assert found[far < 10.5].all() and not found[far > 13.5].any()
