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
        self._tries = 0
        self._refusal: Refused | None = None

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
        tries = self._tries
        with self._lock:
            if self._current == stale:
                # Refused while we waited for our turn: we should be refused as well, and an account that fails twenty
                # times within a second is one that many ends lock.
                if self._refusal is not None and self._tries != tries:
                    raise Refused(str(self._refusal), why=self._refusal.why)
                self._sign_in_once()
            return self._current

    def _sign_in_once(self) -> None:
        self._tries += 1
        try:
            self._current, self._refusal = self._sign_in(), None
        except Refused as refusal:
            self._refusal = refusal
            raise
