"""The door for signed calls from outside, and what is looked at when one came."""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import psycopg
import pytest
from standardwebhooks.webhooks import Webhook

from inkwell_bridge.client import Conflict, NotFound
from inkwell_bridge.client.connection import ConnectionCalls
from inkwell_bridge.demo.lanternfair import first_sales
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, FEW, HTTP, World, new_world, shop_order, wait_for

SHOP = "web-shop"


@pytest.fixture
def door(small: World) -> ConnectionCalls:
    """The shop's connection."""
    return small.calls.connection(SHOP)


def event(number: str = "MW-10006", *, kind: str = "order", **fields: Any) -> dict[str, Any]:
    """What a call says."""
    return {"specversion": "1.0", "id": uuid.uuid4().hex, "type": f"{kind}.changed", "subject": number,
            "time": datetime.now(UTC).isoformat(), **fields}  # fmt: skip


def signed(secret: str, body: str, *, at: datetime | None = None, call_id: str = "m1") -> dict[str, str]:
    """The headers of a signed call."""
    at = at or datetime.now(UTC)
    return {
        "content-type": "application/cloudevents+json",
        "webhook-id": call_id,
        "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret).sign(msg_id=call_id, timestamp=at, data=body),
    }


def call(address: str, secret: str, said: object) -> httpx.Response:
    """Call as the shop would."""
    body = said if isinstance(said, str) else json.dumps(said)
    return HTTP.post(address, content=body, headers=signed(secret, body))


def kept(small: World) -> list[Any]:
    """What was stored of calls, the newest first."""
    return list(small.calls.connection(SHOP).incoming_calls())


def looked_at(small: World, number: int) -> list[Any]:
    """The same, once so many were looked at."""

    def look() -> list[Any] | None:
        found = kept(small)
        return found if len([one for one in found if one.state != "waiting"]) >= number else None

    return wait_for(look, seconds=30, what="the calls to be looked at")


# -- from the shop to the books ----------------------------------------------------------------------------------------


def test_an_order_that_is_placed_crosses_by_itself_once_the_shop_was_told_whom_to_call(
    small: World, door: ConnectionCalls
) -> None:
    """Registered through the shop's own interface; no run is started, and nobody starts one."""
    registered = door.register_calls()
    assert (registered.is_ours, registered.registered_to) == (True, door.call_address().address)
    small.put_orders(shop_order("MW-10006", last_change=datetime.now(UTC).isoformat()))
    wait_for(lambda: small.invoices() or None, seconds=30, what="the invoice")
    (crossing,) = small.calls.crossings()
    assert (crossing.number, list(small.calls.runs())) == ("MW-10006", [])
    found = looked_at(small, 1)[0]
    assert (found.kind, found.number, found.state, found.connection) == ("orders", "MW-10006", "done", SHOP)
    assert door.call_address().last_call_at is not None
    door.end_calls()
    assert door.registered_calls().registered_to == ""
    actions = {entry.action for entry in small.calls.trail()}
    assert {"calls.registered", "call secret.made", "calls.ended"} <= actions


def test_a_marketplace_calls_under_its_own_signature_once_its_seller_entered_whom(stack: Stack, owner: str) -> None:
    """It cannot be told through its interface: the address and a secret of ours are entered there by hand."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    fair = world.calls.connection("lanternfair")
    door = fair.call_address()
    assert (door.can_register, fair.call_address().secrets) == (False, [])
    with pytest.raises(Conflict, match="by hand"):
        fair.register_calls()
    world.put("marketplace", calls={"address": door.address, "secret": fair.new_call_secret()})
    sale = next(one for one in first_sales()["sales"] if one["money"] == "EUR" and one["progress"] == "to send")
    world.put("marketplace", sales=[{**sale, "moved": datetime.now(UTC).isoformat()}])
    wait_for(lambda: world.held_by("ledger").get("invoices"), seconds=30, what="the invoice")
    # Two bridges come from there, one for each currency.
    assert {one.number for one in world.calls.crossings()} == {sale["sale"]}
    (called,) = fair.incoming_calls()
    assert (called.kind, called.number, called.state) == ("orders", sale["sale"], "done")
    rule = {"call": "webhook", "kind": "badly signed"}
    world.misbehave("marketplace", rule)
    world.put("marketplace", sales=[sale])
    wait_for(lambda: fair.call_address().refused or None, seconds=20, what="the refusal")
    assert len(list(fair.incoming_calls())) == 1


@pytest.fixture
def secret(door: ConnectionCalls) -> str:
    """A secret that the shop signs with."""
    return door.new_call_secret()


def test_late_twice_reordered_and_beside_a_run_does_no_harm(small: World, door: ConnectionCalls, secret: str) -> None:
    """Every order of the half-month is named three times while a run reads them all: each is posted once."""
    address = door.call_address().address
    run = small.calls.bridge(BRIDGE).run()
    numbers = [order["reference"] for order in small.held_by("web-shop")["order"]]
    calls = [event(number) for number in [*numbers, *reversed(numbers)]]
    with ThreadPoolExecutor(8) as threads:
        answers = list(threads.map(lambda said: call(address, secret, said).status_code, [*calls, *calls[:FEW]]))
    assert set(answers) == {204}
    small.ended(run)
    assert len(looked_at(small, len(calls))) == len(calls)
    small.settled()
    orders = [invoice["order"] for invoice in small.invoices()]
    assert sorted(orders) == sorted(numbers)


def test_what_nothing_carries_and_what_is_not_there_is_said(small: World, door: ConnectionCalls, secret: str) -> None:
    """Customers have no lane that is on; the shop knows no order MW-1."""
    address = door.call_address().address
    for said in (event("C-1", kind="customer"), event("MW-1"), event("MW-10006")):
        assert call(address, secret, said).status_code == 204
    states = {(one.number, one.state) for one in looked_at(small, 3)}
    assert states == {("C-1", "not carried"), ("MW-1", "not found"), ("MW-10006", "done")}
    small.settled()
    assert len(small.invoices()) == 1


def test_calls_wait_while_the_end_is_paused_or_away(small: World, door: ConnectionCalls, secret: str) -> None:
    """They are stored all the same, and looked at once it goes on."""
    address = door.call_address().address
    door.pause()
    assert call(address, secret, event("MW-10006")).status_code == 204
    small.misbehave("shop", {"call": "order", "kind": "busy", "times": 3})
    door.go_on()
    assert looked_at(small, 1)[0].state == "done"
    small.settled()
    assert len(small.invoices()) == 1


# -- at the door -------------------------------------------------------------------------------------------------------


@pytest.fixture
def address(door: ConnectionCalls) -> str:
    """Where the shop calls."""
    return door.call_address().address


def refused(small: World, why: str) -> None:
    """Nothing was stored, and the connection says why."""
    assert kept(small) == []
    found = small.calls.connection(SHOP).call_address()
    assert (found.refused, why in found.last_refused_why) == (1, True), found.last_refused_why


def test_another_signature_is_refused(small: World, address: str, secret: str) -> None:
    """401, and nothing is stored."""
    other = "whsec_" + "b3RoZXJvdGhlcm90aGVyb3RoZXI="
    answer = call(address, other, event())
    assert (answer.status_code, answer.headers["content-type"]) == (401, "application/problem+json")
    refused(small, "not signed by it")


def test_a_call_of_long_ago_is_refused(small: World, address: str, secret: str) -> None:
    """However well it was signed: it may be somebody's copy."""
    body = json.dumps(event())
    headers = signed(secret, body, at=datetime.now(UTC) - timedelta(minutes=6))
    assert HTTP.post(address, content=body, headers=headers).status_code == 401
    refused(small, "not signed by it")


def test_a_replayed_call_is_one(small: World, address: str, secret: str) -> None:
    """Within the five minutes of the standard it is answered the same, and looked at once."""
    said = event()
    assert [call(address, secret, said).status_code for _ in range(3)] == [204, 204, 204]
    assert len(looked_at(small, 1)) == 1


@pytest.mark.parametrize("said", [
    "{", "[]", "null", "{}", json.dumps(event("x" * 201)), json.dumps(event("")), json.dumps(event("MW\x00-1")),
    json.dumps(event(kind="moon")), json.dumps(event(id="x" * 201)), json.dumps(event(time="yesterday")),
    '{"id": "1", "type": "order.changed", "subject": "\\ud800", "time": "2026-10-31T20:00:00+00:00"}',
    "[" * 100_000,
])  # fmt: skip
def test_what_is_no_event_is_refused(small: World, address: str, secret: str, said: str) -> None:
    """400, however well it is signed."""
    assert call(address, secret, said).status_code == 400
    assert kept(small) == []


def test_fifty_megabytes_are_not_read(small: World, address: str, secret: str) -> None:
    """413 by their length; where none is told they are not looked at."""
    large = "x" * 300_000
    assert HTTP.post(address, content=large, headers=signed(secret, large)).status_code == 413

    def endless() -> Iterator[bytes]:
        for _ in range(50):
            yield b"x" * 1_000_000

    # Nothing of a body without a length is read: what is left is not signed.
    with suppress(httpx.WriteError, httpx.RemoteProtocolError):
        assert HTTP.post(address, content=endless(), headers=signed(secret, "x")).status_code == 401
    refused(small, "larger than 256000 bytes")


def test_nobody_is_at_an_address_that_was_not_given(small: World, address: str, secret: str) -> None:
    """Nor for another method."""
    assert call(address[:-3] + "abc", secret, event()).status_code == 404
    assert HTTP.get(address).status_code == 405
    assert kept(small) == []


def test_without_a_secret_nothing_is_believed(small: World, address: str) -> None:
    """An address alone opens nothing."""
    assert call(address, "whsec_" + "b3RoZXJvdGhlcm90aGVyb3RoZXI=", event()).status_code == 401
    refused(small, "no secret for its calls was entered")


# -- secrets -----------------------------------------------------------------------------------------------------------


def test_two_secrets_are_good_while_one_takes_over(small: World, door: ConnectionCalls, address: str) -> None:
    """The older for a day; with a third, the first ends at once. Any can be ended."""
    first = door.new_call_secret()
    second = door.new_call_secret()
    good = door.call_address().secrets
    assert [one.ends_at is None for one in good] == [True, False]
    assert good[1].ends_at is not None
    assert timedelta(hours=23) < good[1].ends_at - datetime.now(UTC) < timedelta(hours=25)
    assert [call(address, one, event()).status_code for one in (first, second)] == [204, 204]
    given = door.new_call_secret("whsec_" + "Z2l2ZW5ieXRoZW90aGVyZW5kIQ==")
    assert [call(address, one, event()).status_code for one in (first, second, given)] == [401, 204, 204]
    door.end_call_secret(door.call_address().secrets[0].id)
    assert [call(address, one, event()).status_code for one in (second, given)] == [204, 401]
    with pytest.raises(NotFound):
        door.end_call_secret(999_999)


def test_a_secret_is_shown_once_and_stands_nowhere(small: World, door: ConnectionCalls, secret: str) -> None:
    """Neither in an answer nor in the database."""
    assert secret not in door.call_address().model_dump_json()
    with psycopg.connect(small.stack.environment["DATABASE_URL"]) as db:
        rows = db.execute("SELECT sealed FROM incoming_callsecret").fetchall()
    assert all(secret.removeprefix("whsec_").encode() not in bytes(row[0]) for row in rows)


def test_a_registration_that_fails_ends_no_secret(small: World, door: ConnectionCalls, secret: str) -> None:
    """What was good stays good."""
    small.misbehave("shop", {"call": "call-address.set", "kind": "broken"})
    with pytest.raises(Conflict):
        door.register_calls()
    assert [one.ends_at for one in door.call_address().secrets] == [None]


def test_an_end_that_calls_nobody_is_said(stack: Stack, owner: str) -> None:
    """Books that are asked, and not heard."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    with pytest.raises(Conflict, match="does not call when something happens"):
        world.calls.connection("irish-books").call_address()


# -- silent and quiet --------------------------------------------------------------------------------------------------


def test_a_silent_end_is_told_from_a_quiet_one(small: World, door: ConnectionCalls, address: str, secret: str) -> None:
    """Quiet: it promised nothing. Silent: it should have been heard by now."""
    quiet = door.call_address()
    assert (quiet.should_be_heard_by, quiet.silent) == (None, False)
    assert call(address, secret, event()).status_code == 204
    promised = door.expect_calls(within_minutes=60)
    assert promised.last_call_at is not None
    assert (promised.should_be_heard_by, promised.silent) == (promised.last_call_at + timedelta(hours=1), False)
    with psycopg.connect(small.stack.environment["DATABASE_URL"]) as db:
        db.execute("UPDATE incoming_calladdress SET last_call_at = now() - interval '2 hours' WHERE workspace_id = "
                   "(SELECT id FROM people_workspace WHERE slug = %s)", [small.slug])  # fmt: skip
    assert door.call_address().silent
    assert call(address, secret, event()).status_code == 204
    assert not door.call_address().silent


# -- from the books ----------------------------------------------------------------------------------------------------


def test_a_document_that_somebody_changes_in_the_books_is_read_again_at_once(small: World) -> None:
    """The books call: nobody asks, and no reading is due. What is said of documents that are not ours is no matter."""
    small.run()
    books = small.calls.connection("uk-books")
    registered = books.register_calls()
    assert (registered.is_ours, registered.registered_to) == (True, books.call_address().address)
    invoice = next(one for one in small.invoices() if one["order"] == "MW-10006")
    small.put("erp", edited={"invoice": {str(invoice["id"]): {"date": "2026-11-02"}}})

    def differs() -> str | None:
        (found,) = small.calls.crossings(search="MW-10006")
        return found.cause if found.state == "differs" else None

    assert wait_for(differs, seconds=30, what="the changed invoice") == "changed-in-books"
    (came,) = books.incoming_calls()
    assert (came.kind, came.number, came.state) == ("documents", invoice["number"], "done")
    # By hand entered, it is none that was posted from here.
    small.put("erp", entered={"invoice": [{**invoice, "id": 990, "number": "SI-990", "reference": ""}]})
    wait_for(lambda: len([one for one in books.incoming_calls() if one.state != "waiting"]) == 2 or None, seconds=30,
             what="the second call")  # fmt: skip
    assert next(iter(books.incoming_calls())).state == "not carried"
    books.end_calls()
    small.put("erp", edited={"invoice": {str(invoice["id"]): {"date": invoice["date"]}}})
    assert len(list(books.incoming_calls())) == 2


def test_a_call_that_is_not_signed_by_the_books_is_refused(small: World) -> None:
    """And one of a kind that books do not tell of does nothing."""
    books = small.calls.connection("uk-books")
    address, secret = books.call_address().address, books.new_call_secret()
    said = event("SI-00001", kind="document")
    assert call(address, f"whsec_{'A' * 32}", said).status_code == 401
    assert call(address, secret, said).status_code == 204
    assert call(address, secret, event(kind="order")).status_code == 204
    assert call(address, secret, event(kind="weather")).status_code == 400
    wait_for(lambda: {one.state for one in books.incoming_calls()} == {"not carried"} or None, seconds=30,
             what="the calls")  # fmt: skip
