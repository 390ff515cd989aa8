"""Tokens that an end gave us for a while, and where they are kept."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol, Self

# A token is renewed this long before it ends, or when a fifth of its life is left, whichever is later.
EARLY_SECONDS = 60.0
EARLY_SHARE = 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Token:
    """What opens an end for a while (RFC 6749, section 5.1); ``refresh`` renews it, where there is one.

    Units: ``ends_at`` and ``renew_at`` in seconds of the Unix epoch.
    """

    access: str
    ends_at: float
    renew_at: float
    refresh: str = ""

    @classmethod
    def lasting(cls, seconds: float, *, access: str, refresh: str = "") -> Self:
        """A token that was given just now."""
        ends_at = time.time() + seconds
        return cls(access=access, ends_at=ends_at, renew_at=ends_at - min(EARLY_SECONDS, EARLY_SHARE * seconds),
                   refresh=refresh)  # fmt: skip

    @property
    def is_due(self) -> bool:
        """Whether it is time for another."""
        return time.time() >= self.renew_at


Fetch = Callable[[Token | None], Token]


class Tokens(Protocol):
    """Where the token of a connection is kept, for everybody who calls its end."""

    def current(self) -> Token | None:
        """The token as it was kept last."""

    def renewed(self, spent: Token | None, fetch: Fetch) -> Token:
        """Another token than ``spent``: the one that somebody else got meanwhile, or what ``fetch`` gets for the one
        that is kept. One at a time: an end may take back a token as soon as it was renewed."""


class OwnTokens:
    """The token of a connection that one process alone uses."""

    def __init__(self, token: Token | None = None) -> None:
        self._token = token
        self._lock = threading.Lock()

    def current(self) -> Token | None:
        """See ``Tokens.current``."""
        return self._token

    def renewed(self, spent: Token | None, fetch: Fetch) -> Token:
        """See ``Tokens.renewed``."""
        with self._lock:
            if self._token is None or self._token == spent:
                self._token = fetch(self._token)
            return self._token
