"""Killed at any moment, or left without an answer: one invoice per order, none missing."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable, Iterator
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client.models import Loading
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.month import irish_shop
from inkwell_bridge.demo.october import october
from inkwell_bridge.ends.erp.rpc import Rpc
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.places import LOOPBACK
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.launch.supervisor import Part
from tests.support.changing import cheaper, three_skeins
from tests.support.world import (
    BRIDGE,
    FAST,
    LONG,
    World,
    every,
    few_orders,
    first_owner,
    new_world,
    running,
    wait_for,
    with_few_orders,
)

# Where the worker stands when it is killed: the end, the call, how many calls it lets pass, and whether
# the work was done when the answer is waited for.
MOMENTS = [
    ("shop", "orders", 0, "hold"),
    ("shop", "orders", 1, "hold"),
    ("erp", "contacts.search", 2, "hold"),
    ("erp", "contacts.create", 0, "hold"),
    ("erp", "contacts.create", 1, "hold after"),
    ("erp", "invoices.search", 0, "hold"),
    ("erp", "invoices.create", 0, "hold"),
    ("erp", "invoices.create", 14, "hold after"),
    ("erp", "invoices.amend", 1, "hold after"),
    ("erp", "invoices.post", 3, "hold"),
    ("erp", "invoices.post", 12, "hold after"),
    ("erp", "invoices.search", 1, "hold after"),
]


@pytest.fixture(scope="module")
def workerless(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """Everything but a worker: the tests start and kill their own."""
    made = Stack(
        database_url=new_database("crashes"),
        home=tmp_path_factory.mktemp("crashes"),
        console=places.console(),
        extra=FAST,
        workers=0,
    )
    with running(made):
        yield made


@pytest.fixture(scope="module")
def crash_owner(workerless: Stack) -> str:
    """A token of somebody who may open workspaces there."""
    return first_owner(workerless)


@pytest.fixture
def fragile(workerless: Stack, crash_owner: str) -> World:
    """A client whose worker can be killed without anybody else noticing."""
    return with_few_orders(new_world(workerless, crash_owner))


class Relay:
    """Workers one after the other: who went on for one that was killed is there for the next test."""

    def __init__(self, stack: Stack) -> None:
        self._stack = stack
        self._started: list[Part] = []

    def at_work(self, count: int = 1) -> list[Part]:
        """So many living workers, started where there are fewer."""
        living = [part for part in self._started if part.process and part.process.poll() is None]
        while len(living) < count:
            part = self._stack.worker(f"worker-{len(self._started)}")
            part.start()
            self._started.append(part)
            living.append(part)
        return living

    def kill_all(self) -> None:
        """Nobody is at work any more."""
        for part in self._started:
            kill(part)


@pytest.fixture(scope="module")
def relay(workerless: Stack) -> Iterator[Relay]:
    """The workers of this file, killed at its end."""
    made = Relay(workerless)
    yield made
    made.kill_all()


def kill(part: Part) -> None:
    """SIGKILL: nothing is said, nothing is tidied."""
    if part.process and part.process.poll() is None:
        os.killpg(part.process.pid, signal.SIGKILL)
        part.process.wait()


def assert_all_stand_once(world: World) -> None:
    """What the books hold, by their own account: each order once, the shop's total, each buyer once."""
    orders = few_orders()
    invoices = world.invoices()
    assert sorted(invoice["order"] for invoice in invoices) == sorted(order["reference"] for order in orders)
    assert {invoice["state"] for invoice in invoices} == {"posted"}
    assert {one["order"]: one["gross"] for one in invoices} == {one["reference"]: one["total"] for one in orders}
    emails = {order["shopper"]["email"].strip().lower() for order in orders} - {""}
    contacts = [contact["email"].lower().strip() for contact in world.books()["contact"]]
    assert sorted(contacts) == sorted({*emails, "tamsin.holloway@loomside.example"} | {""})
    numbers = sorted(invoice["number"] for invoice in invoices)
    assert numbers == [f"SI-{number:05d}" for number in range(1, len(orders) + 1)]


@pytest.mark.parametrize(
    ("end", "call", "skip", "kind"), every(MOMENTS, of=3), ids=lambda value: str(value).replace(" ", "-")
)
def test_a_worker_killed_at_any_moment_loses_and_doubles_nothing(
    fragile: World, relay: Relay, end: str, call: str, skip: int, kind: str
) -> None:
    """Killed while a call is under way; the call's work is done after its death; another worker goes on."""
    fragile.misbehave(end, {"call": call, "kind": kind, "skip": skip})
    run = fragile.calls.bridge(BRIDGE).run()
    relay.at_work()
    wait_for(lambda: fragile.misbehaved(end)[0]["waiting"] or None, seconds=40, what="the moment")
    relay.kill_all()
    fragile.misbehave(end)
    relay.at_work()
    ended = fragile.ended(run, seconds=60)
    fragile.settled()
    assert ended.state == "ended"
    assert_all_stand_once(fragile)


@pytest.mark.parametrize("kind", ["hold", "hold after"])
def test_a_worker_killed_while_it_takes_a_trial_back(fragile: World, relay: Relay, kind: str) -> None:
    """Killed while the draft is voided, before or after it is; the next one ends it, and nothing stands there."""
    relay.at_work()
    run = fragile.ended(fragile.calls.bridge(BRIDGE).send_on_trial("MW-10003"), seconds=60)
    assert run.counts.carried == 1
    (crossing,) = fragile.calls.crossings()
    fragile.misbehave("erp", {"call": "invoices.void", "kind": kind})
    fragile.calls.take_back(crossing.id)
    wait_for(lambda: fragile.misbehaved("erp")[0]["waiting"] or None, seconds=40, what="the moment")
    relay.kill_all()
    fragile.misbehave("erp")
    relay.at_work()
    fragile.settled()
    assert [one["state"] for one in fragile.books()["invoice"]] == ["void"]
    ended = fragile.calls.crossing(crossing.id)
    assert (ended.state, ended.left_out_by, ended.documents) == ("left out", "trial taken back", [])


@pytest.mark.parametrize(
    ("call", "skip", "kind"),
    every([("invoices.create", 0, "hold after"), ("contacts.create", 1, "hold"), ("invoices.post", 1, "hold after"),
           ("invoices.create", 2, "hold")], of=2),
    ids=lambda value: str(value).replace(" ", "-"),
)  # fmt: skip
def test_a_worker_killed_before_books_with_keys(fragile: World, relay: Relay, call: str, skip: int, kind: str) -> None:
    """The next makes the same call again under the same key; each order stands in the ledger once."""
    orders = irish_shop()["orders"][:6]
    fragile.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=orders)
    demo_client.set_up_others(fragile.stack, fragile.calls, world=fragile.slug)
    fragile.misbehave("ledger", {"call": call, "kind": kind, "skip": skip})
    run = fragile.calls.bridge("irish-shop-to-ledger").run()
    relay.at_work()
    wait_for(lambda: fragile.misbehaved("ledger")[0]["waiting"] or None, seconds=40, what="the moment")
    relay.kill_all()
    fragile.misbehave("ledger")
    relay.at_work()
    fragile.ended(run, seconds=60)
    fragile.settled()
    invoices = [one for one in fragile.held_by("ledger")["invoices"] if one["state"] != "void"]
    assert sorted(one["gross"] for one in invoices) == sorted(order["total"] for order in orders)
    assert {one["state"] for one in invoices} == {"released"}
    assert len({one["reference"] for one in invoices}) == len(orders)
    contacts = [one["email"] for one in fragile.held_by("ledger")["contact"] if one["email"]]
    assert sorted(contacts) == sorted({order["shopper"]["email"] for order in orders})


AMENDING = [
    ("invoices.search", 0, "hold"),
    ("invoices.create", 0, "hold"),
    ("invoices.create", 1, "hold after"),
    ("invoices.post", 0, "hold after"),
    ("credit_notes.create", 0, "hold after"),
    ("credit_notes.create", 2, "hold"),
    ("credit_notes.post", 0, "hold"),
    ("credit_notes.post", 1, "hold after"),
]


@pytest.mark.parametrize(("call", "skip", "kind"), every(AMENDING, of=3), ids=lambda value: str(value))
def test_a_worker_killed_while_orders_are_amended(
    fragile: World, relay: Relay, call: str, skip: int, kind: str
) -> None:
    """Half of these grew, half became cheaper, each by a document of its own: all stand once, whoever made them."""
    orders = plain_orders()[:8]
    fragile.put("web-shop", reset=True, shop=facts()["web_shop"], orders=orders)
    relay.at_work()
    fragile.ended(fragile.calls.bridge(BRIDGE).run(), seconds=60)
    own = ("id", "reference", "shopper", "received")
    changed = [
        {**(three_skeins if place % 2 else cheaper)(50), **{name: order[name] for name in own}}
        for place, order in enumerate(orders)
    ]
    fragile.put("web-shop", orders=changed)
    fragile.misbehave("erp", {"call": call, "kind": kind, "skip": skip})
    run = fragile.calls.bridge(BRIDGE).run()
    wait_for(lambda: fragile.misbehaved("erp")[0]["waiting"] or None, seconds=40, what="the moment")
    relay.kill_all()
    fragile.misbehave("erp")
    relay.at_work()
    fragile.ended(run, seconds=60)
    fragile.settled()
    books = fragile.books()
    further = [one["gross"] for one in books["invoice"] if one["state"] == "posted" and "change" in one["reference"]]
    notes = [one["gross"] for one in books["credit_note"] if one["state"] == "posted"]
    assert (further, notes) == (["19.98"] * 4, ["4.00"] * 4)
    assert {one.state for one in fragile.calls.crossings()} == {"carried"}


IN_FLIGHT = 240 if LONG else 120


def plain_orders() -> list[dict[str, Any]]:
    """Many plain orders, each of another buyer, each paid by card."""
    first = next(order for order in october() if order["reference"] == "MW-10003")
    return [
        {
            **first,
            "id": 800_000 + one,
            "reference": f"MW-K{one:04d}",
            "shopper": {**first["shopper"], "account": None, "email": f"buyer{one}@many.example"},
            "received": [{**money, "transaction": f"wg_many_{one}"} for money in first["received"]],
        }
        for one in range(IN_FLIGHT)
    ]


def test_workers_killed_again_and_again_while_hundreds_are_in_flight(fragile: World, relay: Relay) -> None:
    """Two workers, killed at whatever they are doing, time and again: each order and each buyer stands once."""
    orders = plain_orders()
    fragile.put("web-shop", reset=True, shop=facts()["web_shop"], orders=orders)
    run = fragile.calls.bridge(BRIDGE).run()
    for share in every((0.1, 0.3, 0.5, 0.8), of=2):
        relay.at_work(2)
        wait_for(lambda share=share: len(fragile.books()["invoice"]) >= share * IN_FLIGHT or None, seconds=60,
                 what="so many in the books")  # fmt: skip
        relay.kill_all()
    relay.at_work(2)
    fragile.ended(run, seconds=120)
    fragile.settled(seconds=60)
    relay.kill_all()
    # Whoever sets something up meanwhile would wait for one that was at work a moment ago.
    relay.at_work()
    books = fragile.books()
    standing = [one for one in books["invoice"] if one["state"] != "void"]
    assert sorted(one["order"] for one in standing) == [order["reference"] for order in orders]
    assert {one["state"] for one in standing} == {"posted"}
    emails = [contact["email"] for contact in books["contact"] if contact["email"].endswith("@many.example")]
    assert sorted(emails) == sorted(order["shopper"]["email"] for order in orders)


def test_a_dead_workers_jobs_are_taken_over_within_the_stated_time(fragile: World, relay: Relay) -> None:
    """Silence for the stated time, one look every two seconds, and its locks are free."""
    fragile.misbehave("shop", {"call": "orders", "kind": "hold"})
    run = fragile.calls.bridge(BRIDGE).run()
    (first,) = relay.at_work()
    wait_for(lambda: fragile.misbehaved("shop")[0]["waiting"] or None, seconds=40, what="the moment")
    relay.at_work(2)
    killed_at = time.monotonic()
    kill(first)
    fragile.misbehave("shop")
    fragile.ended(run)
    stated = float(FAST["INKWELL_STALLED_AFTER_SECONDS"]) + 5
    assert time.monotonic() - killed_at < stated + 20
    # The run's end is written a moment before its last lock is let go, and upkeep takes its own each half second.
    wait_for(lambda: _advisory_locks(fragile) == 0 or None, seconds=5, what="the locks")


def _advisory_locks(world: World) -> int:
    query = (
        "SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND database = "
        "(SELECT oid FROM pg_database WHERE datname = current_database())"
    )
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        (held,) = db.execute(query).fetchone() or (None,)
    assert isinstance(held, int)
    return held


@pytest.mark.parametrize(
    "rule",
    every(
        [
            {"call": "invoices.create", "kind": "late", "seconds": 2.5, "times": 3},
            {"call": "invoices.create", "kind": "silent", "times": 3},
            {"call": "invoices.create", "kind": "cut", "times": 3},
            {"call": "invoices.create", "kind": "broken", "times": 3},
            {"call": "contacts.create", "kind": "silent", "times": 2},
            {"call": "contacts.create", "kind": "late", "seconds": 2.0, "times": 2},
            {"call": "invoices.post", "kind": "silent", "times": 3},
            {"call": "invoices.amend", "kind": "silent", "times": 3},
            {"call": "invoices.post", "kind": "late", "seconds": 1.0, "times": 3},
        ],
        of=2,
    ),
    ids=lambda rule: f"{rule['call']}-{rule['kind']}",
)
def test_a_time_out_is_not_a_failure(small: World, rule: dict[str, object]) -> None:
    """The books stored it and said nothing, or stored it seconds after the connection was cut."""
    small.misbehave("erp", rule)
    small.run()
    small.settled()
    assert small.misbehaved("erp")[0]["struck"] == rule["times"]
    assert_all_stand_once(small)


def test_two_workers_side_by_side_make_nothing_twice(fragile: World, relay: Relay) -> None:
    """They share one queue; contacts are locked between them."""
    relay.at_work(2)
    fragile.ended(fragile.calls.bridge(BRIDGE).run())
    assert_all_stand_once(fragile)


def test_drafts_that_came_twice_are_voided_and_one_is_posted(small: World, stack: Stack, owner: str) -> None:
    """Two drafts under one mark, as two racing calls would leave them: one stays."""
    model = with_few_orders(new_world(stack, owner))
    model.run()
    (wanted,) = [invoice for invoice in model.invoices() if invoice["order"] == "MW-10003"]
    (buyer,) = [contact for contact in model.books()["contact"] if contact["id"] == wanted["contact"]]
    rpc = Rpc(
        Opening(
            address=f"{stack.erp}/{small.slug}",
            credentials={"user": facts()["books"]["user"], "password": facts()["books"]["password"]},
            limits=Limits(),
            guard=LOOPBACK,
        )
    )
    contact = rpc.change("contacts.create", **buyer)["id"]
    for _ in range(2):
        rpc.change("invoices.create", **{**wanted, "contact": contact})
    small.run()
    found = [invoice for invoice in small.books()["invoice"] if invoice["order"] == "MW-10003"]
    assert [invoice["state"] for invoice in found] == ["posted", "void"]
    assert_all_stand_once(small)


@pytest.mark.parametrize(("skip", "kind"), every([(1, "hold"), (0, "hold"), (2, "hold after")], of=3))
def test_a_worker_killed_while_it_loads_names_loses_and_doubles_none(
    fragile: World, relay: Relay, skip: int, kind: str
) -> None:
    """Another begins again at the first page and comes to the same."""
    number = 1200
    fragile.put("erp", articles=[{"code": f"I-{one}", "name": f"Item {one}"} for one in range(number)])
    fragile.misbehave("erp", {"call": "articles.list", "kind": kind, "skip": skip})
    books = fragile.calls.connection("uk-books")
    (asked,) = books.load("items")
    relay.at_work()
    wait_for(lambda: fragile.misbehaved("erp")[0]["waiting"] or None, seconds=40, what="the moment")
    relay.kill_all()
    fragile.misbehave("erp")
    relay.at_work()

    def look() -> Loading | None:
        found = next(one for one in books.loadings() if one.id == asked.id)
        return None if found.under_way else found

    ended = wait_for(look, seconds=60, what="the loading")
    assert (ended.state, ended.added, ended.gone, ended.expected) == ("ended", number, 0, number)
    codes = [one.code for one in books.names("items")]
    assert (len(codes), len(set(codes))) == (number, number)
