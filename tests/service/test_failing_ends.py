"""Books that fail in ten ways for an hour: how often they are called, what is told of it, and that all goes on.

A minute of the hour takes a second here, for so often is an end asked that is away. Without the long form it is a
quarter of an hour.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import ExitStack

import pytest

from inkwell_bridge.launch.stack import Stack
from tests.support.receiver import Receiver, receiver
from tests.support.world import BRIDGE, FEW, LONG, World, new_world, wait_for, with_few_orders

MINUTES = 60 if LONG else 15
INVOICES = [f"invoices.{call}" for call in ("search", "list", "read", "create", "amend", "replace", "post")]
CALLS = ["session.open", "names", "contacts.search", "contacts.create", "contacts.list", *INVOICES]
# What is refused does not mend itself: it is asked ever more seldom.
REFUSED = ("revoked", "expired", "forbidden")
WAYS: dict[str, dict[str, object]] = {
    **{way: {"kind": way} for way in REFUSED},
    "busy": {"kind": "busy", "seconds": 1},
    "broken": {"kind": "broken"},
    "cut": {"kind": "cut"},
    "silent": {"kind": "silent"},
    "late": {"kind": "late", "seconds": 0.2},
    "nonsense": {"kind": "said", "body": '{"result": '},
    "huge": {"kind": "huge", "bytes": 200_000_000},
}


@pytest.fixture(scope="module")
def failing(stack: Stack, owner: str) -> Iterator[dict[str, tuple[World, Receiver]]]:
    """A client for each way, somebody who is called of its ends, and a run of a few orders into books that fail."""
    with ExitStack() as open_ones:
        made = {}
        for way in WAYS:
            world, hook = new_world(stack, owner), open_ones.enter_context(receiver())
            hook.secret = world.calls.add_notice_rule(channel="call", address=hook.address, kinds=["end"]).secret
            with_few_orders(world)
            made[way] = world, hook
        for way, (world, _) in made.items():
            world.misbehave("erp", *({"call": call, "times": 10**6, **WAYS[way]} for call in CALLS))
            world.calls.bridge(BRIDGE).run()
        yield made


def called(world: World) -> int:
    """How often the books were called since they fail."""
    return sum(int(rule["struck"]) for rule in world.misbehaved("erp"))


def told(world: World, hook: Receiver, number: int) -> None:
    """So many calls of the one incident, and no other."""
    wait_for(lambda: len(hook.events) >= number or None, seconds=30, what="the notice")
    reasons = [one["reason"] for event in hook.events for one in event["data"]["troubles"]]
    assert reasons == ["new", "over"][:number]
    incidents = [one for one in (*world.calls.troubles().troubles, *world.calls.past_troubles()) if one.kind == "end"]
    assert len({one.id for one in incidents}) == 1
    assert hook.badly_signed == 0


def test_an_hour_of_failing_is_one_incident_few_calls_and_one_notice(
    failing: dict[str, tuple[World, Receiver]],
) -> None:  # fmt: skip
    """Twenty-eight documents wait behind each end, and only one of them asks; then everything goes, and once."""
    for world, hook in failing.values():
        told(world, hook, 1)
    opening = {way: called(world) for way, (world, _) in failing.items()}
    time.sleep(MINUTES)
    probes = {way: called(world) - opening[way] for way, (world, _) in failing.items()}
    # The documents that were on their way when it began, each once: the breaker opens when they come back.
    assert {way: number for way, number in opening.items() if number > 2 * FEW} == {}
    assert {way: number for way, number in probes.items() if number > MINUTES + 2} == {}
    assert {way: probes[way] for way in WAYS if way not in REFUSED and probes[way] < MINUTES / 8} == {}
    # A sign-in is refused and one call under the session that was: two calls a try, and the pauses double.
    assert {way: probes[way] for way in REFUSED if probes[way] > MINUTES} == {}
    for way, (world, hook) in failing.items():
        told(world, hook, 1)
        (trouble,) = [one for one in world.calls.troubles().troubles if one.kind == "end"]
        assert (way, trouble.count) == (way, FEW)
    for way, (world, _) in failing.items():
        world.misbehave("erp")
        if way in REFUSED:
            # Somebody has mended it there, and has it checked here: what waits need not wait its pause out.
            world.calls.connection("uk-books").check()
    for world, hook in failing.values():
        world.settled(seconds=90)
        assert {one.state for one in world.calls.crossings()} == {"carried"}
        assert len({one["order"] for one in world.invoices()}) == len(world.invoices()) == FEW
        told(world, hook, 2)
