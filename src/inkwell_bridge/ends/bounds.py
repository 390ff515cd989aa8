"""Bounds that hold whatever an end sends: on the time and the bytes of one call, and on what is unpacked.

httpx bounds how long each read may wait. An end that sends a byte of its head every second, or "continue" without end,
would keep a call going for ever; so every read and write goes through here.
"""

from __future__ import annotations

import time
import zlib
from typing import Any

import httpcore
import httpx


class OutOfBounds(httpcore.ReadTimeout):
    """A call took too long, or brought too much; the text says which."""


class Bounds:
    """What is left to one call of one connection. ``begin`` is called before each."""

    def __init__(self, *, seconds: float, most_bytes: int) -> None:
        self._seconds, self._most_bytes = seconds, most_bytes
        self.begin()

    def begin(self) -> None:
        """A new call begins."""
        self._ends_at = time.monotonic() + self._seconds
        self._bytes_left = self._most_bytes

    def seconds_left(self, timeout: float | None) -> float:
        """How long the next read or write may wait.

        Raises:
            OutOfBounds: the call has taken its time.
        """
        left = self._ends_at - time.monotonic()
        if left <= 0:
            raise OutOfBounds(f"an answer that took more than {self._seconds:g} s")
        return left if timeout is None else min(left, timeout)

    def count(self, number: int) -> None:
        """So many bytes came.

        Raises:
            OutOfBounds: they are more than a call may bring.
        """
        self._bytes_left -= number
        if self._bytes_left < 0:
            raise OutOfBounds(f"more than {self._most_bytes} bytes")


class _BoundedStream(httpcore.NetworkStream):
    def __init__(self, stream: httpcore.NetworkStream, bounds: Bounds) -> None:
        self._stream, self._bounds = stream, bounds

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        try:
            content = self._stream.read(max_bytes, self._bounds.seconds_left(timeout))
        except httpcore.ReadTimeout:
            # Of the two bounds on time it may have been that of the whole call.
            self._bounds.seconds_left(timeout)
            raise
        self._bounds.count(len(content))
        return content

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self._stream.write(buffer, self._bounds.seconds_left(timeout))

    def close(self) -> None:
        self._stream.close()

    def start_tls(self, ssl_context: Any, server_hostname: str | None = None, timeout: float | None = None) -> Any:
        # TLS is spoken on top of the stream below, and what comes out of it is bounded in turn.
        left = self._bounds.seconds_left(timeout)
        return _BoundedStream(self._stream.start_tls(ssl_context, server_hostname, left), self._bounds)

    def get_extra_info(self, info: str) -> Any:
        return self._stream.get_extra_info(info)


class BoundedBackend(httpcore.NetworkBackend):
    """Opens connections by another backend, and holds what goes over them within the bounds."""

    def __init__(self, backend: httpcore.NetworkBackend, bounds: Bounds) -> None:
        self._backend, self._bounds = backend, bounds

    def connect_tcp(self, host: str, port: int, timeout: float | None = None, local_address: str | None = None,
                    socket_options: Any = None) -> httpcore.NetworkStream:  # fmt: skip
        """See httpcore's ``NetworkBackend``."""
        stream = self._backend.connect_tcp(host, port, timeout, local_address, socket_options)
        return _BoundedStream(stream, self._bounds)

    def connect_unix_socket(self, path: str, timeout: float | None = None, socket_options: Any = None) -> Any:
        """See httpcore's ``NetworkBackend``."""
        return self._backend.connect_unix_socket(path, timeout, socket_options)


class Unpacking:
    """Unpacks gzip (RFC 1952) as it comes, and never more than was allowed for: a bomb is not unpacked first."""

    def __init__(self, most_bytes: int) -> None:
        self._left = most_bytes + 1
        self._packed = zlib.decompressobj(16 + zlib.MAX_WBITS)

    def __call__(self, content: bytes) -> bytes:
        """What a part of the packed content holds; one byte more than is allowed, where it holds more.

        Raises:
            httpx.StreamError: it is no gzip, or something comes behind its end.
        """
        if self._packed.eof and content:
            # A second packed part is never needed, and millions of empty ones would take long for nothing.
            raise httpx.StreamError("something behind the end of its packed content")
        if self._left <= 0:
            return b""
        try:
            found = self._packed.decompress(content, self._left)
        except zlib.error as error:
            raise httpx.StreamError("something that is not gzip") from error
        if self._packed.unused_data:
            raise httpx.StreamError("something behind the end of its packed content")
        self._left -= len(found)
        return found
