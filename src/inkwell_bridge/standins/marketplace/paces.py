"""The hard pace: so many calls a second for each seller, and not one more."""

from __future__ import annotations

import time

CALLS_A_SECOND = 20.0


class Paces:
    """A bucket for each world, filled at a steady pace; counts who came too fast."""

    def __init__(self) -> None:
        self._buckets: dict[str, tuple[float, float]] = {}
        self.answered: dict[str, int] = {}
        self.turned_away: dict[str, int] = {}

    def wait(self, world: str) -> float:
        """Take a call out of the bucket; where it is empty, how long until there is one again."""
        now = time.monotonic()
        left, then = self._buckets.get(world, (CALLS_A_SECOND, now))
        left = min(CALLS_A_SECOND, left + (now - then) * CALLS_A_SECOND)
        if left < 1:
            self._buckets[world] = (left, now)
            self.turned_away[world] = self.turned_away.get(world, 0) + 1
            return (1 - left) / CALLS_A_SECOND
        self._buckets[world] = (left - 1, now)
        self.answered[world] = self.answered.get(world, 0) + 1
        return 0.0
