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
# Buyers have turns of their own: a provider that takes long to answer them keeps nobody waiting who works here.
BUYERS_AT_ONCE = 2
WAIT_SECONDS = 2.0
Method = Callable[..., Any]


class AllWaiting(Refusal):
    """Enough threads wait for outside systems already."""

    status = 503
    code = "waiting-for-ends"
    hint = "Try again in some seconds. If it stays, look at Connections: an end may not be answering."


def _in_turns(at_once: int) -> Callable[[Method], Method]:
    """For what asks an end itself, because its answer is what was asked for: so many at a time.

    Raises (what it decorates):
        AllWaiting: others are asking, and their ends take long.
    """
    turns = threading.BoundedSemaphore(at_once)

    def decorated(method: Method) -> Method:
        @wraps(method)
        def in_turn(*args: Any, **kwargs: Any) -> Any:
            if not turns.acquire(timeout=WAIT_SECONDS):
                raise AllWaiting("Others are waiting for outside systems to answer just now.")
            try:
                with out_of_turn():
                    return method(*args, **kwargs)
            finally:
                turns.release()

        in_turn.asks_outside = True  # type: ignore[attr-defined]
        return in_turn

    return decorated


asks_outside = _in_turns(AT_ONCE)
asks_for_a_buyer = _in_turns(BUYERS_AT_ONCE)


def is_asking_outside(method: Any) -> bool:
    """Whether a method of a view is such a one."""
    return getattr(method, "asks_outside", False)
