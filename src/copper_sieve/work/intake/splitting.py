"""A file split into named grays, codes untouched, and grays put together again."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...core.errors import ShapeMismatch, SieveError, UnknownKey
from ...core.target.model import CHANNEL_LETTERS
from ...files import Picture

__all__ = ["plane_of", "together", "unpacked"]


def plane_of(picture: Picture, letter: str, name: str) -> np.ndarray:
    """One channel, (H, W) codes as stored. Raises UnknownKey with the channels there are."""
    if letter not in picture.header.letters:
        raise UnknownKey(f"channel of {name}", letter, list(picture.header.letters))
    codes = picture.codes
    return codes if codes.ndim == 2 else np.ascontiguousarray(codes[..., picture.header.letters.index(letter)])


def unpacked(picture: Picture, name: str, words: Mapping[str, str]) -> dict[str, np.ndarray]:
    """Grays by the word for them. ``words`` names a word for each channel that is wanted.

    Raises UnknownKey, and SieveError when two channels would get one word.
    """
    if len(set(words.values())) < len(words):
        raise SieveError(f"{name}: two channels cannot have one word (got {', '.join(words.values())}). Name each differently.")
    return {word: plane_of(picture, letter, name) for letter, word in words.items()}


def together(planes: Mapping[str, np.ndarray]) -> np.ndarray:
    """Codes of a file whose channels are ``planes``, by letter. Raises ShapeMismatch when sizes or depths differ."""
    letters = next((known for known in CHANNEL_LETTERS if set(known) == set(planes)), None)
    if letters is None:
        wanted = ", ".join("".join(known) for known in CHANNEL_LETTERS)
        raise ShapeMismatch(f"a file holds {wanted} (got {''.join(planes)}). Give each of its channels.")
    shapes = {f"{letter} {v.shape[1]} × {v.shape[0]} px {v.dtype}" for letter, v in planes.items()}
    if len({(v.shape, v.dtype) for v in planes.values()}) > 1:
        raise ShapeMismatch(f"channels of one file must have one size and depth (got {', '.join(sorted(shapes))}).")
    return planes["L"] if letters == ("L",) else np.stack([planes[letter] for letter in letters], -1)
