"""How much a line shows along which a picture changes from one copy of itself to another."""

from __future__ import annotations

import numpy as np

from .decision import Seen

__all__ = ["STRETCH", "seen_of"]

STRETCH = 16  # texels of the line that the worst is taken over
_LEAST_INSIDE = 0.2  # of the usual difference: a stretch whose copies are plain is held against that
_UNSEEN = 0.25 / 255  # a quarter of a step of eight bits: smaller differences are held against that, as nobody sees either


def seen_of(over: np.ndarray, inside: np.ndarray, stretch: np.ndarray) -> Seen:
    """How much a line shows, place by place of it.

    Parameters
    ----------
    over, inside : (N,), how texels differ across the line, and how they differ at the same places within the copies
    stretch : (N,) whole numbers from 0, which part of the line a place belongs to; short ones are not judged alone
    Examples
    --------
    >>> seen_of(np.full(32, 0.5), np.full(32, 0.25), np.arange(32) // 16)
    Seen(mean=2.0, most=2.0, worst=2.0)
    >>> seen_of(np.full(32, 1 / 255), np.zeros(32), np.arange(32) // 16).mean  # on one color, one step of eight bits
    4.0
    """
    if not len(over):
        return Seen(mean=1, most=1, worst=1)
    usual = max(float(inside.mean()), _UNSEEN)
    counts = np.bincount(stretch)
    sums = np.bincount(stretch, over), np.bincount(stretch, inside)
    held = counts >= STRETCH // 2
    stretches = sums[0][held] / np.maximum(sums[1][held], _LEAST_INSIDE * usual * counts[held])
    most = float(np.percentile(over, 95)) / max(float(np.percentile(inside, 95)), _UNSEEN)
    return Seen(mean=float(over.mean()) / usual, most=most, worst=float(stretches.max(initial=1.0)))
