"""What the routes share: the pool, the cache, the deliverer, the views that wait for pictures."""

from __future__ import annotations

import threading
from collections.abc import Hashable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any

from fastapi import Depends, Request

from ..core.bands import Cancel, give_way
from ..core.recipe import Cache, Evaluation, Recipe
from ..store.database import Pool
from ..work.deliveries.destinations import Destinations
from ..work.deliveries.running import Deliverer
from ..work.folders import Folders
from ..work.following import Follower
from ..work.meshes import Baker, KeptMeshes

__all__ = ["AppState", "State", "Views"]


class Views:
    """The latest request of a view wins; the one before is told to stop."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._latest: dict[str, tuple[int, Cancel]] = {}

    def begin(self, view: str, seq: int) -> Cancel | None:
        """A flag for this request, or None when a newer one came first."""
        with self._lock:
            before = self._latest.get(view)
            if before is not None:
                if before[0] > seq:
                    return None
                before[1].cancel()
            cancel = Cancel()
            self._latest[view] = (seq, cancel)
            if len(self._latest) > 500:  # closed tabs
                self._latest.pop(next(iter(self._latest)))
            return cancel


@dataclass
class AppState:
    """One per application."""

    pool: Pool
    data: Path
    cache: Cache
    deliverer: Deliverer
    folders: Folders
    meshes: KeptMeshes
    baker: Baker
    follower: Follower
    views: Views = field(default_factory=Views)
    balls: dict[Hashable, Any] = field(default_factory=dict)  # the last proofs' pictures, asked for in two parts

    @property
    def destinations(self) -> Destinations:
        return self.deliverer.destinations

    def evaluation(self, recipe: Recipe, longer_px: int | None, cancel: Cancel | None = None) -> Evaluation:
        """For a worker thread."""
        return self.deliverer.evaluation(recipe, longer_px, cancel)


def _state(request: Request) -> AppState:
    give_way()  # asked for on the threads that the routes run on, none of which may hold up the event loop
    return request.app.state.sieve


State = Annotated[AppState, Depends(_state)]
