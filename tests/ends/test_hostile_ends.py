"""A hostile end in every way that comes to mind, against every dialect: bounded, and one clear error."""

from __future__ import annotations

import time
import tracemalloc
from collections.abc import Iterator

import pytest

from inkwell_bridge.ends.contract import kinds
from inkwell_bridge.ends.errors import EndError, OutcomeUnknown, Refused
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.tryton.rpc import MOST_ACKNOWLEDGED, TrytonRpc
from inkwell_bridge.launch.places import LOOPBACK
from tests.support.hostile import WAYS, HostileEnd, hostile_end, says

LIMITS = Limits(
    timeout_seconds=0.4, connect_timeout_seconds=1, longest_answer_seconds=0.8, largest_answer_bytes=200_000
)
# Three calls at the most, each with its time, and a slow machine.
MOST_SECONDS = 12


@pytest.fixture(scope="module")
def end() -> Iterator[HostileEnd]:
    """Where it is."""
    with hostile_end() as server:
        yield server


def opening(kind: str, address: str) -> Opening:
    """What its form asks for, filled with anything."""
    form = kinds()[kind].credentials_schema
    asked = {name: form["properties"][name] for name in form.get("required", form["properties"])}
    given = {name: str(one.get("default") or next(iter(one.get("enum", ["x"])))) for name, one in asked.items()}
    return Opening(address=address, credentials=given, limits=LIMITS, guard=LOOPBACK)


@pytest.mark.parametrize("kind", sorted(kinds()))
@pytest.mark.parametrize("way", WAYS)
def test_a_hostile_end_is_an_error_of_the_end(end: HostileEnd, kind: str, way: str) -> None:
    """In bounded time, and in words that can be shown."""
    end.way = WAYS[way]
    started = time.monotonic()
    with pytest.raises(EndError) as caught:
        kinds()[kind].open(opening(kind, end.address)).check()
    assert time.monotonic() - started < MOST_SECONDS
    said = str(caught.value)
    assert said
    assert len(said) < 1_000
    said.encode()
    assert "\0" not in said


@pytest.mark.parametrize("way", ["sends a bomb in gzip", "sends a body without end", "sends headers without end",
                                 "sends a header without end", "refuses at length", "nests without end"])  # fmt: skip
def test_no_answer_takes_more_memory_than_it_may(end: HostileEnd, way: str) -> None:
    """A bomb is not unpacked first."""
    end.way = WAYS[way]
    http = Http(opening("web-shop", end.address))
    tracemalloc.start()
    try:
        with pytest.raises(EndError):
            http.call("GET", "/", changes=False)
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert peak < 8_000_000


@pytest.mark.parametrize("way", ["says continue without end", "sends its head byte by byte", "closes at once",
                                 "promises more than it sends", "breaks off its gzip"])  # fmt: skip
def test_a_change_that_a_hostile_end_answers_is_unknown(end: HostileEnd, way: str) -> None:
    """It may have been done, whatever came back."""
    end.way = WAYS[way]
    with pytest.raises(OutcomeUnknown):
        Http(opening("web-shop", end.address)).call("POST", "/", changes=True, json={})


def test_who_asks_for_ever_is_refused(end: HostileEnd) -> None:
    """A warning is acknowledged some times, and then a person must look."""
    asked = b'{"id": 1, "error": ["UserWarning", ["1.invoice_date_future", "Is this date meant?", ""]]}'
    signed_in = b'{"id": 1, "result": [1, "abc", true]}'
    answers = iter([signed_in, *[asked, b'{"id": 1, "result": null}'] * 50])
    end.way = lambda there: says(_json(next(answers)))(there)
    with pytest.raises(Refused, match=f"asked about {MOST_ACKNOWLEDGED} times"):
        TrytonRpc(opening("tryton", end.address)).change("model.account.invoice.create", [])


def _json(body: bytes) -> bytes:
    return b"HTTP/1.1 200 OK\r\nConnection: close\r\nContent-Length: %d\r\n\r\n" % len(body) + body
