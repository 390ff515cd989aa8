"""Speaking HTTP to an end: bounded, never led astray, every failure named."""

from __future__ import annotations

import gzip
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from inkwell_bridge.ends.erp.rpc import Rpc
from inkwell_bridge.ends.errors import Away, Busy, EndError, OutcomeUnknown, Refused
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.reading import read_xml
from inkwell_bridge.launch.places import LOOPBACK

ANSWERS: dict[str, tuple[int, dict[str, str], bytes]] = {
    "/good": (200, {}, b'{"x": 1}'),
    "/large": (200, {}, b'"' + b"x" * 5000 + b'"'),
    "/redirect": (302, {"Location": "http://elsewhere.example/"}, b""),
    "/html": (200, {}, b"<html>"),
    "/busy": (429, {"Retry-After": "3"}, b"{}"),
    "/busy-odd": (429, {"Retry-After": "Wed, 21 Oct 2026 07:28:00 GMT"}, b""),
    "/busy-late": (429, {"Retry-After": "soon"}, b""),
    "/busy-long": (429, {"Retry-After": "86401"}, b""),
    "/busy-day": (429, {"Retry-After": "86400"}, b""),
    "/busy-less": (429, {"Retry-After": "-3"}, b""),
    "/closed": (503, {"Retry-After": "90"}, b""),
    "/packed": (200, {"Content-Encoding": "gzip"}, gzip.compress(b'{"x": 1}')),
    "/denied": (403, {}, b'{"error": "not you"}'),
    "/unauthorised": (401, {}, b"{}"),
    "/gone": (410, {}, b"{}"),
    "/teapot": (418, {}, b'{"error": ["odd"]}'),
    "/failed": (500, {}, b"{}"),
    "/changed": (412, {}, b'{"error": "at 7 by now"}'),
    "/locked": (423, {}, b'{"error": "closed up to Sunday"}'),
    "/page": (200, {"Content-Type": "text/html"}, b"{}"),
    "/typed": (200, {"Content-Type": "application/problem+json; charset=utf-8"}, b'{"x": 1}'),
    "/xml": (200, {"Content-Type": "application/xml"}, b"<a/>"),
    "/nothing": (204, {}, b""),
    "/rpc": (200, {}, b'{"jsonrpc": "2.0", "id": 1}'),
}


class Handler(BaseHTTPRequestHandler):
    """Answers each path as the table says."""

    def do_GET(self) -> None:
        """Reading."""
        if self.path == "/drip":
            self._drip()
            return
        status, headers, body = ANSWERS[self.path]
        self.send_response(status)
        for name, value in headers.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def _drip(self) -> None:
        self.send_response(200)
        self.send_header("Content-Length", "1000")
        self.end_headers()
        for _ in range(40):
            try:
                self.wfile.write(b" ")
                self.wfile.flush()
            except OSError:
                return
            time.sleep(0.1)

    def do_POST(self) -> None:
        """Changing."""
        self.rfile.read(int(self.headers.get("Content-Length", 0)))
        self.do_GET()

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@pytest.fixture(scope="module")
def address() -> Iterator[str]:
    """Where the odd server is."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def _http(address: str, limits: Limits) -> Http:
    return Http(Opening(address=address, credentials={}, limits=limits, guard=LOOPBACK))


@pytest.fixture
def http(address: str) -> Http:
    """A client with a small appetite."""
    return Http(
        Opening(
            address=f"{address}/",
            credentials={},
            limits=Limits(timeout_seconds=2, largest_answer_bytes=2000),
            guard=LOOPBACK,
        )
    )


def test_an_answer_is_read(http: Http) -> None:
    """Its JSON, and the response for its headers."""
    body, response = http.call("GET", "/good", changes=False)
    assert (body, response.status_code) == ({"x": 1}, 200)


def test_a_packed_answer_is_unpacked(http: Http) -> None:
    """In the one coding that was asked for."""
    assert http.call("GET", "/packed", changes=False)[0] == {"x": 1}


@pytest.mark.parametrize(
    ("path", "kind", "said"),
    [
        ("/large", Away, "did not answer in full"),
        ("/html", Away, "not JSON"),
        ("/failed", Away, "failed with status 500"),
        ("/redirect", Refused, "status 302"),
        ("/denied", Refused, "refused: not you"),
        ("/unauthorised", Refused, "no reason given"),
        ("/gone", Refused, "no such thing"),
        ("/teapot", Refused, "status 418"),
        ("/busy", Busy, "asked for a pause"),
    ],
)
def test_each_failure_has_its_name(http: Http, path: str, kind: type[EndError], said: str) -> None:
    """Too much, no JSON, a redirect that is not followed, refusals, a pause."""
    with pytest.raises(kind, match=said):
        http.call("GET", path, changes=False)


@pytest.mark.parametrize(("path", "why"), [("/changed", "changed"), ("/locked", "locked"), ("/gone", "not found"),
                                           ("/denied", "permission"), ("/unauthorised", "credentials"),
                                           ("/teapot", "document")])  # fmt: skip
def test_a_refusal_says_what_it_is_about(http: Http, path: str, why: str) -> None:
    """A status that has a meaning of its own is told from the rest."""
    with pytest.raises(Refused) as caught:
        http.call("GET", path, changes=True)
    assert caught.value.why == why


def test_the_content_type_must_be_what_was_expected(http: Http) -> None:
    """A page is no JSON, though it may look like some; a suffix will do, and so will silence."""
    with pytest.raises(Away, match="text/html, which is not JSON"):
        http.call("GET", "/page", changes=False)
    assert http.call("GET", "/typed", changes=False)[0] == {"x": 1}
    assert http.call("GET", "/xml", changes=False, reads=read_xml, kind="xml")[0].tag == "a"
    with pytest.raises(Away, match="which is not JSON"):
        http.call("GET", "/xml", changes=False)


def test_an_answer_without_content_is_nothing(http: Http) -> None:
    """Done, and nothing to say."""
    body, response = http.call("GET", "/nothing", changes=True)
    assert (body, response.status_code) == (None, 204)


def test_an_answer_that_drips_is_given_up(address: str) -> None:
    """A sign of life now and then is no answer; the whole has its time."""
    slow = Http(
        Opening(
            address=address,
            credentials={},
            limits=Limits(timeout_seconds=2, longest_answer_seconds=0.4),
            guard=LOOPBACK,
        )
    )
    started = time.monotonic()
    with pytest.raises(Away, match=r"took more than 0\.4 s"):
        slow.call("GET", "/drip", changes=False)
    assert time.monotonic() - started < 5


@pytest.mark.parametrize("path", ["/large", "/html", "/failed"])
def test_a_change_that_was_not_answered_rightly_is_unknown(http: Http, path: str) -> None:
    """It may have been done."""
    with pytest.raises(OutcomeUnknown):
        http.call("POST", path, changes=True, json={})


@pytest.mark.parametrize(("path", "seconds"), [
    ("/busy", 3.0), ("/busy-odd", None), ("/busy-late", None), ("/busy-long", None), ("/busy-day", 86_400.0),
    ("/busy-less", None), ("/closed", 90.0),
])  # fmt: skip
def test_the_pause_that_was_asked_for(http: Http, path: str, seconds: float | None) -> None:
    """In seconds or until a date, with 429 and with 503; a date that is over is no advice."""
    with pytest.raises(Busy) as caught:
        http.call("GET", path, changes=False)
    assert caught.value.retry_after_seconds == seconds


def test_an_address_of_no_protocol_reaches_nobody() -> None:
    """Nothing was sent."""
    with pytest.raises(Away):
        Http(Opening(address="ftp://127.0.0.1", credentials={})).call("GET", "/", changes=True)


def test_an_answer_that_is_no_json_rpc(address: str) -> None:
    """Neither result nor error: for a change, an unknown outcome."""
    rpc = Rpc(Opening(address=address, credentials={"user": "u", "password": "p"}, limits=Limits(), guard=LOOPBACK))
    with pytest.raises(EndError, match=r"gave no answer to session\.open that JSON-RPC knows"):
        rpc.change("invoices.create")
