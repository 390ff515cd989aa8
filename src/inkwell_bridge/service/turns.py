"""Working on a few requests of a process at a time, while the others wait for their turn.

Threads of one process take turns at one core anyway. More of them at work than needed to keep it busy only take it from
each other: all answers come later, and the last ones much later.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.http import HttpRequest, HttpResponseBase

# One computes while the others wait for the database.
AT_WORK = 3
# These are answered at once, however many wait: they do next to nothing, and tell whether we live.
_AT_ONCE = frozenset({"/alive"})


class Turns:
    """So many turns, given in the order in which they were asked for.

    A semaphore of the standard library lets whoever comes at the right moment go before those that wait.
    """

    def __init__(self, number: int) -> None:
        self._free, self._lock = number, threading.Lock()
        self._waiting: deque[threading.Lock] = deque()

    def take(self) -> None:
        """Wait for a turn."""
        with self._lock:
            if self._free:
                self._free -= 1
                return
            mine = threading.Lock()
            mine.acquire()
            self._waiting.append(mine)
        mine.acquire()

    def give_back(self) -> None:
        """Let the next one have it."""
        with self._lock:
            if self._waiting:
                self._waiting.popleft().release()
            else:
                self._free += 1


_turns, _mine = Turns(AT_WORK), threading.local()


def turns_middleware(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Let each request wait for its turn."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        if request.path_info in _AT_ONCE:
            return get_response(request)
        _turns.take()
        _mine.taken = True
        try:
            return get_response(request)
        finally:
            _mine.taken = False
            _turns.give_back()

    return middleware


@contextmanager
def out_of_turn() -> Iterator[None]:
    """Let another have this request's turn while it waits for something outside."""
    if not getattr(_mine, "taken", False):
        yield
        return
    _turns.give_back()
    try:
        yield
    finally:
        _turns.take()
