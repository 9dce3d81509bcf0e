"""Meshes written as text, a piece at a time: made in one call, tens of megabytes would keep the whole process waiting."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain
from typing import Any

import numpy as np

__all__ = ["AT_ONCE", "in_pieces", "lines_of", "numbers", "pieces"]

_BYTES = 1 << 20
AT_ONCE = 20_000  # rows that are made, or made numbers, in one call


def pieces(content: bytes) -> Iterator[bytes]:
    """The content in pieces of about a megabyte, each of whole lines.

    >>> [len(piece) for piece in pieces(b"v 0 0 0\\n" * 300_000)]
    [1048576, 1048576, 302848]
    """
    at = 0
    while at < len(content):
        end = content.find(b"\n", at + _BYTES - 1) + 1 or len(content)
        yield content[at:end]
        at = end


def lines_of(content: bytes) -> Iterator[bytes]:
    """Its lines, without their ends."""
    return chain.from_iterable(piece.splitlines() for piece in pieces(content))


def in_pieces(rows: Any) -> Iterator[Any]:
    """A long sequence, or array, in slices."""
    return (rows[at : at + AT_ONCE] for at in range(0, len(rows), AT_ONCE))


def numbers(rows: Sequence[Any]) -> np.ndarray:
    """Words, or equally long rows of words, as float64. Raises ValueError where one is no number.

    >>> numbers([[b"1", b"2.5"], [b"-3", b"4e2"]]).tolist()
    [[1.0, 2.5], [-3.0, 400.0]]
    """
    made = [np.array(some, np.float64) for some in in_pieces(rows)]
    return np.concatenate(made) if made else np.zeros(0)
