"""A session at an end: opened when it is needed, and again when it has ended."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar

from inkwell_bridge.ends.errors import Refused, Why

Answer = TypeVar("Answer")


class Session:
    """One session that threads share.

    Shape: ``sign_in`` answers a new one; ``ended`` is how the end refuses a call under one that has ended.
    """

    def __init__(self, sign_in: Callable[[], str], *, ended: Why = "credentials") -> None:
        self._sign_in, self._ended = sign_in, ended
        self._current = ""
        self._lock = threading.Lock()

    def call(self, send: Callable[[str], Answer]) -> Answer:
        """Send under the session. One that has ended did nothing, so the call may go out once more under a new one."""
        session = self._current or self._opened(stale="")
        try:
            return send(session)
        except Refused as refused:
            if refused.why != self._ended:
                raise
        return send(self._opened(stale=session))

    def _opened(self, *, stale: str) -> str:
        with self._lock:
            if self._current == stale:
                self._current = self._sign_in()
            return self._current
