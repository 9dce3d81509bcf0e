"""One file among many, as much of it as tells where it goes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from ..quantities import quantity

__all__ = ["Candidate"]


@dataclass(frozen=True)
class Candidate:
    """One file that could be read, as it stands.

    ``set_name`` is the set's name by this file alone, or what a person said (``is_set_told``), and ``kind`` likewise
    (``is_kind_told``); ``folder`` is the path of folders that it came in; ``quality`` sorts the best of several files of one map
    first; ``sample`` is a small copy of what tells more beside another, where there is one. A file of which nothing can be taken
    (``reads`` is empty) still counts as one of its set.
    """

    sha256: str
    name: str
    set_name: str
    width: int
    height: int
    kind: str = "unknown"
    reads: Mapping[str, str] = field(default_factory=dict)
    folder: str = ""
    confidence: float = 0.0
    quality: tuple[int, ...] = ()
    is_named: bool = True
    is_set_told: bool = False
    is_constant: bool = False
    is_fitted: bool = False
    sample: np.ndarray | None = None
    letters: str = ""
    is_kind_told: bool = False

    @property
    def masters(self) -> dict[str, str]:
        """The master that comes of each group of its channels."""
        return {letters: quantity(key).master or key for letters, key in self.reads.items()}

    @property
    def maps(self) -> frozenset[str]:
        """What its channels are read as."""
        return frozenset(self.reads.values())
