"""The cheapest way to part a grid in two, by maximal flow: two trees grow toward each other, mended where a way is full."""

from __future__ import annotations

import numba
import numpy as np

__all__ = ["FIRST", "SECOND", "parted"]

FIRST, SECOND = 1, 2  # what a cell is bound to; 0 is free
_NONE, _ROOT = -1, 4  # beside the four ways: right 0, down 1, left 2, up 3; the way back is always ``way ^ 2``
_FAR = 1 << 30


def parted(right: np.ndarray, down: np.ndarray, bound: np.ndarray) -> np.ndarray:
    """Which cells go with the second, (rows, columns): the fewest there can be where the line between costs least.

    ``right`` and ``down`` (rows, columns, whole numbers from 0) say what it costs to part a cell from the next one in its row and
    its column; both come round, 0 where they had better not. ``bound`` binds cells to ``FIRST`` or ``SECOND``. Boykov &
    Kolmogorov 2004.

    Examples
    --------
    >>> parted(np.array([[4, 2, 3, 0]]), np.array([[0, 0, 0, 0]]), np.array([[2, 0, 0, 1]])).tolist()
    [[True, True, False, False]]
    """
    rows, columns = bound.shape
    number = np.arange(rows * columns, dtype=np.int32).reshape(rows, columns)
    beside = np.stack([np.roll(number, by, axis) for by, axis in ((-1, 1), (-1, 0), (1, 1), (1, 0))], -1)
    room = np.stack([right, down, np.roll(right, 1, 1), np.roll(down, 1, 0)], -1).astype(np.int32)
    tree = bound.astype(np.int8).ravel()
    _grow(beside.reshape(-1, 4), room.reshape(-1, 4), tree)
    return (tree == SECOND).reshape(rows, columns)


@numba.njit(nogil=True, cache=True)
def _grow(beside, room, tree):
    """Grow both trees until neither can: ``room`` is what still fits through each way, ``tree`` what each cell belongs to."""
    many = len(tree)
    parent, stamp, depth = np.full(many, _NONE, np.int8), np.zeros(many, np.int32), np.zeros(many, np.int32)
    waits, queue, orphans = np.zeros(many, np.bool_), np.empty(many, np.int32), np.empty(many, np.int32)
    lost, waiting, time = np.zeros(1, np.int32), np.zeros(2, np.int32), 0  # waiting: where in the queue, and how many
    for cell in range(many):
        if tree[cell] != 0:
            parent[cell] = _ROOT
            for way in range(4):
                waits[cell] |= tree[beside[cell, way]] != tree[cell]
            if waits[cell]:
                queue[waiting[1]] = cell
                waiting[1] += 1
    while waiting[1] > 0:
        cell = queue[waiting[0]]
        met = _NONE
        if tree[cell] != 0:
            for way in range(4):
                other = beside[cell, way]
                open_ = room[cell, way] if tree[cell] == SECOND else room[other, way ^ 2]
                if open_ == 0:
                    continue
                if tree[other] == 0:
                    tree[other], parent[other] = tree[cell], way ^ 2
                    stamp[other], depth[other] = stamp[cell], depth[cell] + 1
                    _wait(waits, queue, waiting, other)
                elif tree[other] != tree[cell]:
                    met = way
                    break
                elif parent[other] != _ROOT and stamp[other] <= stamp[cell] and depth[other] > depth[cell] + 1:
                    parent[other], stamp[other], depth[other] = way ^ 2, stamp[cell], depth[cell] + 1
        if met == _NONE:
            waits[cell] = False
            waiting[0] = (waiting[0] + 1) % many
            waiting[1] -= 1
            continue
        time += 1
        start, way = (cell, met) if tree[cell] == SECOND else (beside[cell, met], met ^ 2)
        _fill(beside, room, tree, parent, start, way, orphans, lost)
        _mend(beside, room, tree, parent, stamp, depth, waits, queue, waiting, orphans, lost[0], time)


@numba.njit(nogil=True, cache=True)
def _wait(waits, queue, waiting, cell):
    """Put a cell at the end of the queue, once."""
    if not waits[cell]:
        waits[cell] = True
        queue[(waiting[0] + waiting[1]) % len(queue)] = cell
        waiting[1] += 1


@numba.njit(nogil=True, cache=True)
def _fill(beside, room, tree, parent, start, way, orphans, lost):
    """Send as much as fits along the way found from root to root; the ``lost`` cells that so lose theirs are the ``orphans``."""
    end = beside[start, way]
    least = min(
        room[start, way], _least_to_root(beside, room, tree, parent, start), _least_to_root(beside, room, tree, parent, end)
    )
    room[start, way] -= least
    room[end, way ^ 2] += least
    lost[0] = 0
    _send_to_root(beside, room, tree, parent, start, least, orphans, lost)
    _send_to_root(beside, room, tree, parent, end, least, orphans, lost)


@numba.njit(nogil=True, cache=True)
def _least_to_root(beside, room, tree, parent, cell):
    """What fits through the narrowest way between a cell and its root: from the root in the second tree, to it in the first."""
    at, least = cell, _FAR
    while parent[at] != _ROOT:
        way = parent[at]
        up = beside[at, way]
        least = min(least, room[up, way ^ 2] if tree[at] == SECOND else room[at, way])
        at = up
    return least


@numba.njit(nogil=True, cache=True)
def _send_to_root(beside, room, tree, parent, cell, much, orphans, lost):
    """Send so much between a cell and its root; each cell whose way is full now loses its parent."""
    at = cell
    while parent[at] != _ROOT:
        way = parent[at]
        up = beside[at, way]
        giver, taker, to = (up, at, way ^ 2) if tree[at] == SECOND else (at, up, way)
        room[giver, to] -= much
        room[taker, to ^ 2] += much
        if room[giver, to] == 0:
            parent[at] = _NONE
            orphans[lost[0]] = at
            lost[0] += 1
        at = up


@numba.njit(nogil=True, cache=True)
def _far_from_root(beside, parent, stamp, depth, cell, time):
    """How many steps a cell is from its root, or ``_FAR`` where its branch is cut; what was found on the way is kept."""
    at, steps = cell, 0
    while True:
        if stamp[at] == time:
            steps += depth[at]
            break
        if parent[at] == _ROOT:
            stamp[at], depth[at] = time, 0
            break
        if parent[at] == _NONE:
            return _FAR
        at = beside[at, parent[at]]
        steps += 1
    at, left = cell, steps
    while stamp[at] != time:
        stamp[at], depth[at] = time, left
        left -= 1
        at = beside[at, parent[at]]
    return steps


@numba.njit(nogil=True, cache=True)
def _mend(beside, room, tree, parent, stamp, depth, waits, queue, waiting, orphans, lost, time):
    """Give every orphan a new parent of its own tree, the nearest to a root, or free it; what could reach it waits again."""
    many = len(tree)
    taken = 0
    while taken < lost:
        cell = orphans[taken % many]
        taken += 1
        best, least = _NONE, _FAR
        for way in range(4):
            other = beside[cell, way]
            if tree[other] != tree[cell]:
                continue
            open_ = room[other, way ^ 2] if tree[cell] == SECOND else room[cell, way]
            if open_ == 0:
                continue
            far = _far_from_root(beside, parent, stamp, depth, other, time)
            if far < least:
                best, least = way, far
        if best != _NONE:
            parent[cell], stamp[cell], depth[cell] = best, time, least + 1
            continue
        for way in range(4):
            other = beside[cell, way]
            if tree[other] != tree[cell]:
                continue
            open_ = room[other, way ^ 2] if tree[cell] == SECOND else room[cell, way]
            if open_ > 0:
                _wait(waits, queue, waiting, other)
            if parent[other] == way ^ 2:
                parent[other] = _NONE
                orphans[lost % many] = other
                lost += 1
        tree[cell] = 0
