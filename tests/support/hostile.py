"""An end that answers every call in one hostile way, byte by byte as it likes."""

from __future__ import annotations

import contextlib
import gzip
import json
import socket
import struct
import threading
import time
import zlib
from collections.abc import Callable, Iterator

Way = Callable[[socket.socket], None]
# Longer than any test waits: what goes on until the other side has had enough.
LONG_SECONDS = 20.0


def _head(*headers: str, status: str = "200 OK") -> bytes:
    return "\r\n".join([f"HTTP/1.1 {status}", *headers, "", ""]).encode("latin-1")


def _whole(body: bytes, *headers: str, status: str = "200 OK") -> bytes:
    return _head("Content-Type: application/json", *headers, f"Content-Length: {len(body)}", status=status) + body


def says(content: bytes) -> Way:
    """Say this once, and close."""
    return lambda there: there.sendall(content)


def again(part: bytes, *, first: bytes = b"", pause: float = 0.0) -> Way:
    """Say ``part`` over and over."""

    def way(there: socket.socket) -> None:
        there.sendall(first)
        ends_at = time.monotonic() + LONG_SECONDS
        while time.monotonic() < ends_at:
            there.sendall(part)
            time.sleep(pause)

    return way


def slowly(content: bytes) -> Way:
    """One byte at a time."""

    def way(there: socket.socket) -> None:
        for byte in content:
            there.sendall(bytes([byte]))
            time.sleep(0.05)

    return way


def silent(there: socket.socket) -> None:
    """Say nothing at all."""
    there.settimeout(LONG_SECONDS)
    with contextlib.suppress(TimeoutError):
        there.recv(1)


def torn(there: socket.socket) -> None:
    """Reset the connection in the middle of the head."""
    there.sendall(b"HTTP/1.1 200 OK\r\nContent-Le")
    there.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, struct.pack("ii", 1, 0))


def _doubled() -> bytes:
    return b"{" + b",".join(b'"k%d": 1' % number for number in range(8_000)) + b', "k7999": 2}'


DEEP = b'{"a":' * 50_000 + b"1" + b"}" * 50_000
TAIL = "x" * 90
ENDLESS = _head("Content-Type: application/json")
CHUNKED = _head("Content-Type: application/json", "Transfer-Encoding: chunked")
PACKED = "Content-Encoding: gzip"
WAYS: dict[str, Way] = {
    "says nothing": silent,
    "closes at once": says(b""),
    "resets the connection": torn,
    "sends its head byte by byte": slowly(_head(*[f"X-{number}: {TAIL}" for number in range(50)])),
    "says continue without end": again(b"HTTP/1.1 100 Continue\r\n\r\n"),
    "says early hints without end": again(b"HTTP/1.1 103 Early Hints\r\nLink: </x>\r\n\r\n", pause=0.01),
    "sends a header without end": again(b"x" * 1000, first=b"HTTP/1.1 200 OK\r\nX: "),
    "sends headers without end": again(b"X-A: b\r\n", first=b"HTTP/1.1 200 OK\r\n"),
    "sends a status of three noughts": says(_whole(b"{}", status="000 Odd")),
    "sends a status beyond all": says(_whole(b"{}", status="999 Odd")),
    "sends a status that is a word": says(_whole(b"{}", status="GOOD indeed")),
    "speaks another version": says(b"HTTP/9.9 200 OK\r\n\r\n{}"),
    "speaks no HTTP": says(b"220 mail.example ESMTP\r\n" * 10),
    "answers in TLS": says(b"\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03" * 50),
    "promises more than it sends": says(_head("Content-Type: application/json", "Content-Length: 5000") + b"{"),
    "promises less than nothing": says(_head("Content-Length: -5") + b"{}"),
    "promises two lengths": says(_head("Content-Length: 2", "Content-Length: 3") + b"{} "),
    "promises a length of a thousand digits": says(_head(f"Content-Length: {'9' * 1000}") + b"{}"),
    "sends chunks of no size": says(CHUNKED + b"zz\r\n{}\r\n0\r\n\r\n"),
    "sends a chunk beyond all": says(CHUNKED + b"FFFFFFFFFFFFFFF\r\n{}\r\n0\r\n\r\n"),
    "sends chunks without end": again(b"1\r\n \r\n", first=CHUNKED),
    "sends chunk extensions without end": again(b";x=" + b"y" * 500, first=CHUNKED + b"1"),
    "sends its body byte by byte": again(b" ", first=ENDLESS, pause=0.02),
    "sends a body without end": again(b" " * 10_000, first=ENDLESS),
    "sends a bomb in gzip": says(_whole(gzip.compress(b" " * 30_000_000), PACKED)),
    "sends empty gzip parts": says(_whole(gzip.compress(b"") * 5_000 + gzip.compress(b"{}"), PACKED)),
    "packs in gzip twice": says(_whole(gzip.compress(gzip.compress(b"{}")), "Content-Encoding: gzip, gzip")),
    "packs in what was not asked for": says(_whole(zlib.compress(b"{}"), "Content-Encoding: deflate")),
    "packs in what nobody knows": says(_whole(b"{}", "Content-Encoding: br")),
    "breaks off its gzip": says(_whole(gzip.compress(b'{"a": "' + bytes(range(32, 127)) * 20 + b'"}')[:60], PACKED)),
    "calls gzip what is none": says(_whole(b"{}", PACKED)),
    "sends elsewhere": says(_whole(b"", "Location: http://169.254.169.254/latest", status="302 Found")),
    "sends to a file": says(_whole(b"", "Location: file:///etc/passwd", status="307 Temporary Redirect")),
    "nests without end": says(_whole(DEEP[:150_000])),
    "nests deep and closes": says(_whole(b"[" * 60_000 + b"]" * 60_000)),
    "says things twice": says(_whole(_doubled())),
    "says a number of 100,000 digits": says(_whole(b'{"a": ' + b"9" * 100_000 + b"}")),
    "says a number beyond all": says(_whole(b'{"a": 1e999999999}')),
    "says not a number": says(_whole(b'{"a": NaN}')),
    "says text that is no UTF-8": says(_whole(b'{"a": "\xff\xfe\xfa"}')),
    "says everything in UTF-16": says(_whole('{"a": 1}'.encode("utf-16"))),
    "says half a sign": says(_whole(b'{"error": "\\ud800", "result": "\\udfff\\u0000"}')),
    "says nothing at length": says(_whole(b"")),
    "says null": says(_whole(b"null")),
    "says a list": says(_whole(b"[[], {}, null, 1]")),
    "says a number": says(_whole(b"7")),
    "says a text": says(_whole(b'"well"')),
    "says an empty object": says(_whole(b"{}")),
    "says odd results": says(_whole(json.dumps({"result": [None, [], 7], "data": [], "access_token": {}}).encode())),
    "says odd data": says(_whole(json.dumps({"result": {}, "data": {"a": [{}]}, "access_token": "\n"}).encode())),
    "sends a page": says(_head("Content-Type: text/html", "Content-Length: 6") + b"<html>"),
    "sends XML that grows": says(
        _head("Content-Type: application/xml", "Connection: close")
        + b'<!DOCTYPE a [<!ENTITY b "b"><!ENTITY c "&b;&b;&b;&b;">]><a>&c;</a>'
    ),
    "refuses at length": again(b"x" * 1000, first=_head("Content-Type: application/json", status="401 No")),
    "fails at length": again(b"x" * 1000, first=_head("Content-Type: application/json", status="500 Odd")),
    "asks for a pause for ever": says(_whole(b"{}", f"Retry-After: {'9' * 400}", status="429 Slow")),
    "asks for a pause of less than nothing": says(_whole(b"{}", "Retry-After: -1e9", status="503 Later")),
    "asks for a pause until the year 9999": says(
        _whole(b"{}", "Retry-After: Fri, 31 Dec 9999 23:59:59 GMT", status="503 Later")
    ),
    "fills the jar with cookies": says(_whole(b"{}", *[f"Set-Cookie: c{number}={TAIL}" for number in range(300)])),
}


class HostileEnd:
    """Answers every connection in its ``way``."""

    def __init__(self) -> None:
        self.way: Way = silent
        self._socket = socket.create_server(("127.0.0.1", 0), backlog=50)
        self.address = f"http://127.0.0.1:{self._socket.getsockname()[1]}"
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        while True:
            try:
                there, _ = self._socket.accept()
            except OSError:
                return
            threading.Thread(target=self._answer, args=(there, self.way), daemon=True).start()

    def _answer(self, there: socket.socket, way: Way) -> None:
        # Whoever has had enough closes; that is how most of these end.
        with there, contextlib.suppress(OSError):
            there.recv(65_536)
            way(there)

    def close(self) -> None:
        """End it."""
        self._socket.close()


@contextlib.contextmanager
def hostile_end() -> Iterator[HostileEnd]:
    """One that runs while it is needed."""
    end = HostileEnd()
    try:
        yield end
    finally:
        end.close()
