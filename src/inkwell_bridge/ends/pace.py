"""How fast an end may be called, by everybody who calls it for one connection together.

The pace is kept by the generic cell rate algorithm (ITU-T I.371): one moment says when the last turn that was
given away is over, so a turn is taken in one step and nobody has to count calls.
"""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass
from typing import Protocol

from inkwell_bridge.ends.errors import Busy

# Who would have to wait longer does something else meanwhile.
LONGEST_WAIT_SECONDS = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Rate:
    """So many calls in so many seconds; of those that nobody made, ``burst`` may be made at once."""

    calls: int
    seconds: float = 1.0
    burst: int = 1

    @property
    def interval_seconds(self) -> float:
        """From one turn to the next."""
        return self.seconds / self.calls

    @property
    def ahead_seconds(self) -> float:
        """By how much turns may be taken early."""
        return (self.burst - 1) * self.interval_seconds


class Pace(Protocol):
    """The turns of a connection."""

    def take(self) -> None:
        """Wait for a turn.

        Raises:
            Busy: with the seconds, where it is further off than anybody should wait.
        """

    def pause(self, seconds: float) -> None:
        """The end asked for a pause: nobody takes a turn before it is over."""


class Unpaced:
    """An end that does not say how fast is too fast; where it asks for a pause, whoever asked is told."""

    def take(self) -> None:
        """Everybody's turn."""

    def pause(self, seconds: float) -> None:
        """Told to whoever called; see ``Busy``."""


UNPACED = Unpaced()


class OwnPace:
    """The turns of a connection that one process alone uses."""

    def __init__(self, rate: Rate) -> None:
        self._rate = rate
        self._over = 0.0
        self._lock = threading.Lock()

    def take(self) -> None:
        """See ``Pace.take``."""
        with self._lock:
            now = time.monotonic()
            starts = max(self._over, now)
            wait = starts - now - self._rate.ahead_seconds
            refuse_long(wait)
            self._over = starts + self._rate.interval_seconds
        time.sleep(max(0.0, wait))

    def pause(self, seconds: float) -> None:
        """See ``Pace.pause``."""
        with self._lock:
            self._over = max(self._over, time.monotonic() + seconds + self._rate.ahead_seconds)


def refuse_long(wait_seconds: float) -> None:
    """See to it that nobody waits for a turn that is too far off.

    Raises:
        Busy: with the seconds.
    """
    if wait_seconds > LONGEST_WAIT_SECONDS:
        message = f"no turn to call is free for {wait_seconds:.0f} s: others are waiting, or the end asked for a pause"
        raise Busy(message, retry_after_seconds=wait_seconds)
