"""Speaking HTTP to an end: bounded in time and size, never following a redirect, every failure named."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

import httpx

from inkwell_bridge.ends.errors import Away, Busy, EndError, OutcomeUnknown, Refused

KEEP_ALIVE_SECONDS = 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """How long to wait, and how much to read."""

    timeout_seconds: float = 15.0
    connect_timeout_seconds: float = 5.0
    largest_answer_bytes: int = 20_000_000


# Raised before a request has left: the other side can have done nothing.
_NOTHING_SENT = (
    httpx.ConnectError,
    httpx.ConnectTimeout,
    httpx.PoolTimeout,
    httpx.UnsupportedProtocol,
    httpx.InvalidURL,
)


class Http:
    """A client for one end; threads may share it."""

    def __init__(self, address: str, limits: Limits) -> None:
        self.address = address.rstrip("/")
        self._limits = limits
        timeout = httpx.Timeout(limits.timeout_seconds, connect=limits.connect_timeout_seconds)
        # Loading certificates takes a while, and a plain address has none to check. A connection is given up before
        # the end would close it: a change sent into a closing one would be an unknown outcome.
        self._client = httpx.Client(
            timeout=timeout,
            follow_redirects=False,
            trust_env=False,
            verify=address.startswith("https:"),
            limits=httpx.Limits(max_connections=20, keepalive_expiry=KEEP_ALIVE_SECONDS),
        )

    def call(self, method: str, path: str, *, changes: bool, **request: Any) -> tuple[Any, httpx.Response]:
        """Send a request; answers its JSON and the response.

        ``changes`` says whether the call changes something at the end: then a missing answer is an
        unknown outcome, not a failure.

        Raises:
            Refused, Busy, Away, OutcomeUnknown: see ``ends.errors``.
        """
        url = path if path.startswith("http") else f"{self.address}{path}"
        try:
            with self._client.stream(method, url, **request) as response:
                body = self._read(response)
        except _NOTHING_SENT as error:
            raise Away(f"{self.address} could not be reached: {error}") from error
        except (httpx.HTTPError, httpx.StreamError) as error:
            raise _unanswered(changes, f"{self.address} did not answer in full: {type(error).__name__}") from error
        if response.status_code >= 300:
            raise self._failure(response, body, changes)
        try:
            return json.loads(body), response
        except ValueError as error:
            raise _unanswered(changes, f"{self.address} answered with something that is not JSON") from error

    def _read(self, response: httpx.Response) -> bytes:
        body = bytearray()
        for chunk in response.iter_bytes():
            body += chunk
            if len(body) > self._limits.largest_answer_bytes:
                raise httpx.StreamError(f"an answer of more than {self._limits.largest_answer_bytes} bytes")
        return bytes(body)

    def _failure(self, response: httpx.Response, body: bytes, changes: bool) -> EndError:
        status, said = response.status_code, _said(body)
        if status == 429:
            return Busy(f"{self.address} asked for a pause", retry_after_seconds=_retry_after(response))
        if status in {401, 403}:
            return Refused(f"{self.address} refused: {said}", why="credentials" if status == 401 else "permission")
        if status in {404, 410}:
            return Refused(f"{self.address} has no such thing: {said}", why="not found")
        if status >= 500:
            return _unanswered(changes, f"{self.address} failed with status {status}")
        return Refused(f"{self.address} answered with status {status}: {said}")


def _unanswered(changes: bool, message: str) -> EndError:
    return OutcomeUnknown(message) if changes else Away(message)


def _said(body: bytes) -> str:
    try:
        return str(json.loads(body)["error"])[:200]
    except (ValueError, KeyError, TypeError):
        return "no reason given"


def _retry_after(response: httpx.Response) -> float | None:
    try:
        return float(response.headers["Retry-After"])
    except (KeyError, ValueError):
        return None
