"""Calls that must ask an outside system before they can answer: only so many at a time."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import wraps
from typing import Any

from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.turns import out_of_turn

# Of the threads that a process answers with. The others stay free, whatever ends keep these waiting.
AT_ONCE = 3
WAIT_SECONDS = 2.0
_turns = threading.BoundedSemaphore(AT_ONCE)


class AllWaiting(Refusal):
    """Enough threads wait for outside systems already."""

    status = 503
    code = "waiting-for-ends"
    hint = "Try again in some seconds. If it stays, look at Connections: an end may not be answering."


def asks_outside(method: Callable[..., Any]) -> Callable[..., Any]:
    """For the method of a view that asks an end itself, because its answer is what was asked for.

    Raises:
        AllWaiting: others are asking, and their ends take long.
    """

    @wraps(method)
    def in_turn(*args: Any, **kwargs: Any) -> Any:
        if not _turns.acquire(timeout=WAIT_SECONDS):
            raise AllWaiting("Others are waiting for outside systems to answer just now.")
        try:
            with out_of_turn():
                return method(*args, **kwargs)
        finally:
            _turns.release()

    in_turn.asks_outside = True  # type: ignore[attr-defined]
    return in_turn


def is_asking_outside(method: Any) -> bool:
    """Whether a method of a view is such a one."""
    return getattr(method, "asks_outside", False)
