"""How long a delivery is going to take, by how long the last ones took here."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field
from statistics import median

from ...core.plan import Plan

__all__ = ["Pace", "work_of"]

# Seconds a unit of work takes per texel where nothing was delivered yet: measured on two cores, 2048² and 4096².
_BEFORE = 1.1e-8
_TELLING_S = 1.0  # a shorter delivery is mostly other work
_HEARD = 5


def work_of(units: int, plan: Plan) -> float:
    """Work of a plan in units × texels of one tile; ``units`` as ``effort`` counts them, of all tiles."""
    return float(units) * plan.width * plan.height


@dataclass
class Pace:
    """Seconds by work, learned from what was delivered.

    Examples
    --------
    >>> pace = Pace()
    >>> pace.learn(work=1e8, seconds=4.0)
    >>> pace.seconds(2e8)
    8.0
    """

    _seen: deque[float] = field(default_factory=lambda: deque(maxlen=_HEARD))

    def learn(self, work: float, seconds: float) -> None:
        """Hear how long a delivery took that came to its end."""
        if work > 0 and seconds >= _TELLING_S:
            self._seen.append(seconds / work)

    def seconds(self, work: float) -> float:
        """About how long that much work takes."""
        seen: Sequence[float] = self._seen or (_BEFORE,)
        return work * median(seen)
