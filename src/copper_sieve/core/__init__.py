"""The job itself: numpy in, numpy out. Imports nothing of ours outside this package."""

from . import convert, derive

__all__ = ["convert", "derive"]
