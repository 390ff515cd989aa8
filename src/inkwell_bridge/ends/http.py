"""Speaking HTTP to an end: bounded in time and size, never following a redirect, every failure named."""

from __future__ import annotations

import json
import ssl
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any

import httpcore
import httpx

from inkwell_bridge.ends.bounds import BoundedBackend, Bounds, OutOfBounds, Unpacking
from inkwell_bridge.ends.errors import Away, Busy, EndError, OutcomeUnknown, Refused, TooLarge, Why
from inkwell_bridge.ends.guard import GuardedBackend
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.reading import Unreadable, read_json

KEEP_ALIVE_SECONDS = 1.5
LONGEST_PAUSE_SECONDS = 86_400.0
# What the heads of an answer, and those that an end sends ahead of it, may take besides.
MOST_HEAD_BYTES = 1_000_000
# Of an answer that is too large so much is kept, to say what it is about.
BEGINNING_BYTES = 65_536
_WHY: dict[int, Why] = {401: "credentials", 403: "permission", 404: "not found", 410: "not found", 412: "changed",
                        423: "locked"}  # fmt: skip
_SAID = {"credentials": "refused", "permission": "refused", "not found": "has no such thing",
         "changed": "says that it was changed meanwhile", "locked": "refused"}  # fmt: skip


# Raised before a request has left: the other side can have done nothing.
_NOTHING_SENT = (
    httpx.ConnectError,
    httpx.ConnectTimeout,
    httpx.PoolTimeout,
    httpx.UnsupportedProtocol,
    httpx.InvalidURL,
)


class _TooMuch(Exception):
    """An answer is larger than it may be."""

    def __init__(self, beginning: bytes) -> None:
        self.beginning = beginning
        super().__init__()


class _GuardedTransport(httpx.HTTPTransport):
    """httpx's own transport, whose connections are opened by the guard."""

    def __init__(self, opening: Opening, context: ssl.SSLContext, bounds: Bounds) -> None:
        super().__init__(verify=context, trust_env=False)
        # httpx has no argument for this; httpcore, on which it stands, has. A connection is given up before the
        # end would close it: a change sent into a closing one would be an unknown outcome.
        self._pool = httpcore.ConnectionPool(
            ssl_context=context,
            max_connections=1,
            keepalive_expiry=KEEP_ALIVE_SECONDS,
            network_backend=BoundedBackend(GuardedBackend(opening.guard), bounds),
        )


class _BoundedClient(httpx.Client):
    """A client of one connection, with what is left to its call."""

    def __init__(self, opening: Opening, context: ssl.SSLContext) -> None:
        limits = opening.limits
        most_bytes = limits.largest_answer_bytes + MOST_HEAD_BYTES
        self.bounds = Bounds(seconds=limits.longest_answer_seconds, most_bytes=most_bytes)
        super().__init__(
            headers={"Accept-Encoding": "gzip"},
            timeout=httpx.Timeout(limits.timeout_seconds, connect=limits.connect_timeout_seconds),
            follow_redirects=False,
            trust_env=False,
            transport=_GuardedTransport(opening, context, self.bounds),
        )


class _Clients:
    """Clients of one connection each, lent to one thread at a time.

    One client for all would look through all its connections at every call, with one lock for all threads: with a
    hundred calls under way that takes longer than the calls. The one given back last is lent first; those that nobody
    needed for a while are closed.
    """

    def __init__(self, opening: Opening) -> None:
        self._opening = opening
        # Loading certificates takes a while, and a plain address has none to check.
        self._context = httpx.create_ssl_context(verify=opening.address.startswith("https:"), trust_env=False)
        self._free: deque[tuple[float, _BoundedClient]] = deque()

    @contextmanager
    def one(self) -> Iterator[_BoundedClient]:
        """A client that is nobody else's meanwhile; its bounds begin anew."""
        try:
            _, client = self._free.pop()
        except IndexError:
            client = _BoundedClient(self._opening, self._context)
        client.bounds.begin()
        try:
            yield client
        finally:
            self._free.append((time.monotonic(), client))
            self._close_idle()

    def _close_idle(self) -> None:
        while len(self._free) > 1:
            try:
                returned_at, client = self._free.popleft()
            except IndexError:
                return
            if time.monotonic() - returned_at < KEEP_ALIVE_SECONDS:
                self._free.appendleft((returned_at, client))
                return
            client.close()


class Http:
    """A client for one end; threads may share it."""

    def __init__(self, opening: Opening) -> None:
        self.address = opening.address.rstrip("/")
        self._limits = opening.limits
        self._on_answer, self._pace = opening.on_answer, opening.pace
        self._clients = _Clients(opening)

    def call(
        self,
        method: str,
        path: str,
        *,
        changes: bool,
        reads: Callable[[bytes], Any] = read_json,
        kind: str = "json",
        **request: Any,
    ) -> tuple[Any, httpx.Response]:
        """Send a request; answers its content, as ``reads`` makes it out, and the response.

        ``changes`` says whether the call changes something at the end: then a missing answer is an
        unknown outcome, not a failure. ``kind`` is what the answer's content type must name.

        Raises:
            Refused, Busy, Away, OutcomeUnknown: see ``ends.errors``.
        """
        url = path if path.startswith("http") else f"{self.address}{path}"
        self._pace.take()
        try:
            with self._clients.one() as client, client.stream(method, url, **request) as response:
                body = self._read(response)
                self._on_answer()
        except _TooMuch as error:
            limit = self._limits.largest_answer_bytes
            message = f"{self.address} did not answer in full: an answer of more than {limit} bytes"
            if changes:
                raise OutcomeUnknown(message) from error
            raise TooLarge(
                message, beginning=error.beginning, url=str(response.url), links=response.links
            ) from error  # fmt: skip
        except _NOTHING_SENT as error:
            raise Away(f"{self.address} could not be reached: {error}") from error
        except (httpx.HTTPError, httpx.StreamError) as error:
            raise _unanswered(changes, f"{self.address} did not answer in full: {_told(error)}") from error
        if response.status_code >= 300:
            raise self._failure(response, body, changes)
        try:
            _expect(kind, response, body)
            return reads(body), response
        except Unreadable as error:
            raise _unanswered(changes, f"{self.address} answered with {error}") from error

    def _read(self, response: httpx.Response) -> bytes:
        body = bytearray()
        coding = response.headers.get("Content-Encoding", "identity").strip().lower()
        if coding not in {"identity", "gzip"}:
            raise httpx.StreamError(f"the content coding {coding[:40]!r}, which was not asked for")
        unpack = Unpacking(self._limits.largest_answer_bytes) if coding == "gzip" else None
        for chunk in response.iter_raw():
            body += unpack(chunk) if unpack else chunk
            if len(body) > self._limits.largest_answer_bytes:
                raise _TooMuch(bytes(body[:BEGINNING_BYTES]))
        return bytes(body)

    def _failure(self, response: httpx.Response, body: bytes, changes: bool) -> EndError:
        status, said = response.status_code, _said(body)
        pause = _retry_after(response)
        if status == 429 or (status == 503 and pause is not None):
            # 503 with a time is a definite no for now (RFC 9110, 15.6.4): nothing was done.
            self._pace.pause(pause or 0.0)
            return Busy(f"{self.address} asked for a pause", retry_after_seconds=pause)
        if status in _WHY:
            why = _WHY[status]
            return Refused(f"{self.address} {_SAID[why]}: {said}", why=why)
        if status >= 500:
            return _unanswered(changes, f"{self.address} failed with status {status}")
        return Refused(f"{self.address} answered with status {status}: {said}")


def _unanswered(changes: bool, message: str) -> EndError:
    return OutcomeUnknown(message) if changes else Away(message)


def _told(error: Exception) -> str:
    # What we say ourselves is said; what a library says of what came may repeat any of it.
    own = type(error) is httpx.StreamError or isinstance(error.__cause__, OutOfBounds)
    return str(error) if own else type(error).__name__


def _expect(kind: str, response: httpx.Response, body: bytes) -> None:
    said = response.headers.get("Content-Type", "")
    if body and said and kind not in said.lower():
        raise Unreadable(f"{said[:80]}, which is not {kind.upper()}")


def _said(body: bytes) -> str:
    try:
        return str(json.loads(body)["error"])[:200]
    except (ValueError, KeyError, TypeError, RecursionError):
        return "no reason given"


def _retry_after(response: httpx.Response) -> float | None:
    """How long the end asks us to wait: in seconds, or until a date (RFC 9110, 10.2.3).

    What is no such thing, is over already or lasts more than a day is no advice, and our own pauses count.
    """
    said = response.headers.get("Retry-After", "").strip()
    if said.isascii() and said.isdigit():
        seconds = float(said[:10])
    else:
        try:
            seconds = (parsedate_to_datetime(said) - datetime.now(UTC)).total_seconds()
        except (ValueError, TypeError, OverflowError):
            return None
    return seconds if 0 <= seconds <= LONGEST_PAUSE_SECONDS else None
