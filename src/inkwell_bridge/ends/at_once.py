"""Several calls at the same time, for an end that hands things out one by one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

MOST = 8

Asked = TypeVar("Asked")
Answered = TypeVar("Answered")


def at_once(call: Callable[[Asked], Answered], about: Sequence[Asked]) -> tuple[Answered, ...]:
    """What ``call`` answers about each, in the same order; at most ``MOST`` calls are under way at a time.

    Raises:
        EndError: what the first of them failed with.
    """
    if len(about) < 2:
        return tuple(call(one) for one in about)
    with ThreadPoolExecutor(min(MOST, len(about)), thread_name_prefix="at-once") as threads:
        return tuple(threads.map(call, about))
