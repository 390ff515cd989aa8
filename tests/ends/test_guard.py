"""Where an end may be: attempts to reach into the operator's own network, all refused, and nothing sent."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Sequence
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from inkwell_bridge.ends.errors import Away, Refused
from inkwell_bridge.ends.guard import Guard
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Limits, Opening

PUBLIC = "93.184.215.14"
INSIDE = [
    "127.0.0.1", "127.8.9.10", "0.0.0.0", "10.1.2.3", "172.16.0.1", "192.168.1.1", "169.254.169.254",  # noqa: S104
    "100.64.0.1", "224.0.0.1", "255.255.255.255", "::1", "::", "fe80::1", "fe80::1%eth0", "fc00::1", "ff02::1",
    "::ffff:127.0.0.1", "::ffff:10.0.0.1", "2002:7f00:1::", "2002:a00:1::", "64:ff9b::7f00:1", "64:ff9b::a9fe:a9fe",
    # Also where they stand for an address that is public.
    "::ffff:93.184.215.14", "2002:5db8:d70e::", "64:ff9b::5db8:d70e", "64:ff9b:1::5db8:d70e", "2001:0:5ef5:79fb::1",
    "fec0::1", "fd00:ec2::254", "2001:db8::1", "3fff::1", "192.88.99.1", "168.63.129.16", "100.100.100.200",
    "240.0.0.1", "198.18.0.1", "203.0.113.9", "5f00::1",
]  # fmt: skip


class Inside(BaseHTTPRequestHandler):
    """A server that nobody outside should reach; it leads on to another."""

    on_answer: list[str] = []

    def do_GET(self) -> None:
        self.on_answer.append(self.path)
        self.send_response(302 if self.path == "/on" else 200)
        self.send_header("Location", "http://169.254.169.254/latest")
        self.send_header("Content-Length", "0")
        self.end_headers()

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@pytest.fixture
def port() -> Iterator[int]:
    """Where the server inside is."""
    Inside.on_answer = []
    server = ThreadingHTTPServer(("127.0.0.1", 0), Inside)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.server_port
    server.shutdown()
    server.server_close()


def leads_to(*answers: Sequence[str]) -> Callable[[str, int], Sequence[str]]:
    """A look-up that answers each time with the next of these, and the last ever after."""
    left = list(answers)
    return lambda host, port: left.pop(0) if len(left) > 1 else left[0]


def http(address: str, guard: Guard) -> Http:
    """A client under a guard."""
    limits = Limits(timeout_seconds=2, connect_timeout_seconds=0.2)
    return Http(Opening(address=address, credentials={}, limits=limits, guard=guard))


@pytest.mark.parametrize("address", INSIDE)
def test_a_name_that_leads_inside_is_refused(address: str) -> None:
    """Whatever form the inner address takes."""
    with pytest.raises(Refused, match=r"no public address") as caught:
        Guard(look_up=leads_to([address])).addresses("shop.example", 443)
    assert caught.value.why == "address"


@pytest.mark.parametrize("address", [PUBLIC, "2606:2800:220:1:248:1893:25c8:1946"])
def test_a_public_address_of_either_version_is_reached(address: str) -> None:
    """Or the refusals above would prove nothing."""
    assert Guard(look_up=leads_to([address])).addresses("shop.example", 443) == (address,)


def test_one_bad_address_among_good_ones_is_enough() -> None:
    """The connection could go to any of them."""
    with pytest.raises(Refused, match=r"leads to 10\.0\.0\.1"):
        Guard(look_up=leads_to([PUBLIC, "10.0.0.1"])).addresses("shop.example", 443)


@pytest.mark.parametrize(
    "host", ["127.0.0.1", "2130706433", "0x7f000001", "0177.0.0.1", "127.1", "localhost", "localhost.", "[::1]",
             "[::ffff:127.0.0.1]"],
)  # fmt: skip
def test_loopback_in_any_spelling_is_not_reached(port: int, host: str) -> None:
    """Decimal, hexadecimal, octal, short, by name, by IPv6: refused before anything is sent."""
    with pytest.raises((Refused, Away), match=r"no public address|Invalid IPv4 address"):
        http(f"http://{host}:{port}", Guard()).call("GET", "/", changes=False)
    assert Inside.on_answer == []


def test_the_same_server_is_reached_where_its_network_is_allowed(port: int) -> None:
    """So it was the guard that kept us from it."""
    guard = Guard.of(hosts=("*",), networks=("127.0.0.0/8",))
    http(f"http://2130706433:{port}", guard).call("GET", "/", changes=False)
    assert Inside.on_answer == ["/"]


def test_a_name_that_changes_between_two_look_ups_is_judged_each_time(port: int) -> None:
    """It was public when it was entered; what it leads to when we connect is judged anew."""
    guard = Guard(look_up=leads_to([PUBLIC], ["127.0.0.1"]))
    assert guard.addresses("turning.example", port) == (PUBLIC,)
    with pytest.raises(Refused, match="no public address"):
        http(f"http://turning.example:{port}", guard).call("GET", "/", changes=False)
    assert Inside.on_answer == []


def test_the_connection_goes_to_what_was_judged(port: int) -> None:
    """One look-up, not a second one that might say something else: here the second would lead to the server."""
    networks = ("203.0.113.0/24", "127.0.0.0/8")
    guard = Guard(networks=Guard.of(hosts=(), networks=networks).networks,
                  look_up=leads_to(["203.0.113.9"], ["127.0.0.1"]))  # fmt: skip
    with pytest.raises(Away):
        http(f"http://turning.example:{port}", guard).call("GET", "/", changes=False)
    assert Inside.on_answer == []


def test_a_redirect_is_not_followed(port: int) -> None:
    """Not even by a server that may be reached."""
    guard = Guard.of(hosts=("*",), networks=("127.0.0.0/8",))
    with pytest.raises(Refused, match="status 302"):
        http(f"http://127.0.0.1:{port}", guard).call("GET", "/on", changes=False)
    assert Inside.on_answer == ["/on"]


@pytest.mark.parametrize(
    ("host", "allowed"),
    [("shop.example", True), ("SHOP.example.", True), ("a.books.example", True), ("books.example", False),
     ("shop.example.evil.example", False), (PUBLIC, False)],
)  # fmt: skip
def test_only_hosts_that_the_operator_allows(host: str, allowed: bool) -> None:
    """Where a list of them was set."""
    guard = Guard(hosts=("shop.example", "*.books.example"), look_up=leads_to([PUBLIC]))
    if allowed:
        assert guard.addresses(host, 443) == (PUBLIC,)
    else:
        with pytest.raises(Refused, match="not among those that the operator allows"):
            guard.addresses(host, 443)


def test_a_name_that_leads_nowhere_is_away() -> None:
    """It may lead somewhere tomorrow."""
    with pytest.raises(Away, match="leads nowhere"):
        http("http://no-such-name.invalid", Guard()).call("GET", "/", changes=False)
