"""Checks on a picture in another format: what of it is not there any more."""

from __future__ import annotations

from collections.abc import Iterator

from ..findings import Finding, finding
from ..target.formats import FORMATS, Depth, depth_said
from ..target.reformat import Reformatted

__all__ = ["losses"]


def losses(file: str, made: Reformatted, format: str, depth: Depth, *, is_color: bool) -> Iterator[Finding]:
    """What a picture lost on its way into ``format``, if anything."""
    said = depth_said(*depth)
    if made.cut:
        yield finding("reformat-cut", file=file, share=made.cut, depth=said)
    if made.is_rounded:
        yield finding("reformat-rounded", file=file, depth=said)
    if made.lost_alpha:
        yield finding("reformat-alpha", file=file, format=format.upper())
    if FORMATS[format].lossy and not is_color:
        yield finding("reformat-lossy", file=file, format=format.upper())
