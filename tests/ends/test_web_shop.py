"""What is the web shop's own: its words, its pages, its signed calls."""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import UTC, datetime
from decimal import Decimal
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Thread
from typing import Any

import httpx
import pytest
from standardwebhooks.webhooks import Webhook

from inkwell_bridge.core.commerce import Dispatch, Order, Refund, SourceKind
from inkwell_bridge.ends.contract import SalesEnd
from inkwell_bridge.ends.errors import Away, EndError, Refused
from inkwell_bridge.ends.shapes import AddDispatch, AddTag, SignedCall
from inkwell_bridge.ends.web_shop.shop import WebShop
from tests.support.ends import BENCHES, CUSTOMER, PRODUCT, REFUND, SIGNING_SECRET, T
from tests.support.world import World, wait_for

BENCH = BENCHES["web-shop"]
ORDERS = SourceKind.ORDERS


@pytest.fixture
def shop(world: World) -> Iterator[SalesEnd]:
    """The web shop of a world."""
    yield BENCH.sales(world)
    BENCH.misbehave(world)


def order_of(shop: SalesEnd, number: str) -> Order:
    """One order."""
    found = shop.document(ORDERS, number).document
    assert isinstance(found, Order)
    return found


def said(world: World, number: str) -> dict[str, Any]:
    """The same in the shop's own words."""
    return next(dict(one) for one in BENCH.contents(world)["order"] if one["reference"] == number)


def all_numbers(shop: SalesEnd) -> list[str]:
    """The numbers of all orders, page by page."""
    numbers, page = [], shop.documents(ORDERS, changed_since=None)
    while True:
        numbers += [document.number for document in page.documents]
        if page.next is None:
            return numbers
        page = shop.documents(ORDERS, changed_since=None, page=page.next)


def test_pages_give_every_order_once(shop: SalesEnd) -> None:
    """Sixty orders, over three pages, in the order of their change."""
    numbers = all_numbers(shop)
    assert len(numbers) == len(set(numbers)) == 60


@pytest.mark.parametrize(("kind", "count"), [("repeat", 61), ("skip", 59)])
def test_a_page_that_repeats_or_skips_goes_through_as_it_is(world: World, shop: SalesEnd, kind: str,
                                                            count: int) -> None:  # fmt: skip
    """It is for whoever keeps them to know one twice, and to read again what is still open."""
    BENCH.misbehave(world, {"call": "orders", "kind": kind})
    assert len(all_numbers(shop)) == count


def test_one_that_is_too_large_is_told_of_by_itself(world: World, shop: SalesEnd) -> None:
    """On a page, by its number and among ids: what stands beside it is read, and nothing comes twice."""
    numbers = all_numbers(shop)
    world.put_orders({**said(world, "MW-10009"), "remark": "x" * 2_100_000})
    found, page = [], shop.documents(ORDERS, changed_since=None)
    while True:
        found += page.documents
        if page.next is None:
            break
        page = shop.documents(ORDERS, changed_since=None, page=page.next)
    assert sorted(one.number for one in found) == sorted(numbers)
    (vast,) = [one for one in found if one.document is None]
    assert (vast.number, "more than 2000000 bytes" in vast.problem) == ("MW-10009", True)
    assert shop.document(ORDERS, "MW-10009") == vast
    again = shop.fetch_by_ids(ORDERS, [one.id for one in found])
    assert {one.id for one in again} == {one.id for one in found}
    assert [one for one in again if one.document is None] == [vast]


def test_what_changed_at_the_very_moment_is_listed(shop: SalesEnd) -> None:
    """Changed since includes the moment itself: two orders share one second."""
    since = datetime.fromisoformat("2026-10-13T19:34:07+01:00")
    found = [document.number for document in shop.documents(ORDERS, changed_since=since).documents]
    assert found[:2] == ["MW-10024", "MW-10025"]


def test_an_order_by_number(shop: SalesEnd) -> None:
    """The canonical order, to the penny; and a number that is not there."""
    found = order_of(shop, "MW-10009")
    assert (found.total, found.tax_total, found.discounts[0].amount) == (
        Decimal("49.45"), Decimal("8.25"), Decimal("10.00"),
    )  # fmt: skip
    assert found.buyer is not None
    assert found.buyer.name == "Margit Lindqvist"
    with pytest.raises(Refused) as caught:
        shop.document(ORDERS, "MW-0")
    assert caught.value.why == "not found"


def test_a_refund_says_what_came_back_and_how_it_was_paid(world: World, shop: SalesEnd) -> None:
    """A line put back on the shelf, goodwill with no line, and the provider's own number of the money."""
    BENCH.put(world, refunds=[REFUND])
    refund = shop.document(SourceKind.REFUNDS, "MW-R-801").document
    assert isinstance(refund, Refund)
    assert (refund.lines[0].restocked, refund.goodwill[0].amount) == (True, Decimal("2.00"))
    assert [money.transaction for money in refund.payments] == ["wg_r_801"]


def test_everything_an_order_can_hold_is_read(world: World, shop: SalesEnd) -> None:
    """Several taxes, kits, packs, lots, extras, part payment by gift card, a settlement, edits, notes, tags."""
    three = {"class": "us-sales", "parts": [
        {"name": "State tax", "area": "Colorado", "percent": "2.9", "sum": "0.54"},
        {"name": "City tax", "area": "Boulder", "percent": "3.86", "sum": "0.71", "kept": True},
    ]}  # fmt: skip
    rich = {
        **said(world, "MW-10003"),
        "treated_as": "export", "group": "trade", "terms": "30 days", "rounding": "0.02",
        "labels": ["gift"], "fields": {"collection": "meadow"},
        "remarks": [{"text": "Leave by the loom", "by": "shopper", "when": T}],
        "extras": [{"row": "tip", "for": "tip", "title": "Tip", "sum": "1.00",
                    "tax": {"class": "outside", "percent": "0", "sum": "0.00"}}],
        "settled": {"currency": "EUR", "sum": "17.20", "rate": "1.15", "by": "Weirgate", "when": T},
        "history": [{"event": 1, "did": "edited", "when": T, "why": "one less", "was": "30.00", "is": "13.94",
                     "rows": [{"row": 1, "was": "2", "is": "1"}]}],
        "received": [
            {"transaction": "gc_1", "by": "gift card", "with": "gift card", "voucher": "**** 0118", "sum": "5.00",
             "when": T},
            {"transaction": "wg_1", "by": "card", "with": "card", "brand": "Kestrel", "gateway": "Weirgate",
             "sum": "8.94", "when": T, "state": "reserved"},
        ],
    }  # fmt: skip
    rich["basket"] = [{**rich["basket"][0], "tax": three, "measure": "kilogram", "pack": "6", "type": "yarn",
                       "lots": [{"lot": "BATH-7", "count": "1"}], "serials": ["S1"], "options": {"shade": "Fenland"},
                       "contents": [{"article": "A", "count": "2", "part": "4.00"}]}]  # fmt: skip
    BENCH.put(world, orders=[rich])
    order = order_of(shop, "MW-10003")
    (line,) = order.lines
    assert [(tax.jurisdiction, tax.amount, tax.kept) for tax in line.taxes] == [
        ("Colorado", Decimal("0.54"), False), ("Boulder", Decimal("0.71"), True),
    ]  # fmt: skip
    assert (line.unit, line.pack_of, line.lots[0].code, line.serials) == ("KGM", Decimal(6), "BATH-7", ("S1",))
    assert (line.components[0].share, line.properties[0].value) == (Decimal("4.00"), "Fenland")
    assert (order.extras[0].kind, order.cash_rounding, order.treatment) == ("tip", Decimal("0.02"), "export")
    assert [(money.tender, money.state) for money in order.payments] == [
        ("gift card", "received"), ("card", "authorised"),
    ]  # fmt: skip
    assert order.settlement is not None
    assert (order.settlement.currency, order.settlement.rate) == ("EUR", Decimal("1.15"))
    assert (order.history[0].lines[0].after, order.notes[0].text, order.tags) == (
        Decimal(1), "Leave by the loom", ("gift",),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("change", "problem"),
    [
        ({"total": "lots"}, "/total"),
        ({"currency": "pounds"}, "currency code"),
        ({"placed": "yesterday"}, "lacks or misstates"),
        ({"placed": "2026-10-02T09:30:00"}, "/placed_at"),
        ({"basket": [{"row": 1}]}, "lacks or misstates"),
        ({"basket": "none"}, "lacks or misstates"),
        ({"state": None}, "/status"),
        ({"received": [{"transaction": "x", "by": "card", "sum": "1.00", "state": "in a dream"}]}, "in a dream"),
    ],
)
def test_an_order_that_cannot_be_understood_is_not_lost(world: World, shop: SalesEnd, change: dict[str, object],
                                                        problem: str) -> None:  # fmt: skip
    """It comes back with its number and what is wrong; a time without zone is not guessed."""
    good = said(world, "MW-10003")
    BENCH.put(world, orders=[{**good, "last_change": T, **change}])
    found = shop.document(ORDERS, good["reference"])
    assert (found.id, found.number, found.document) == (str(good["id"]), good["reference"], None)
    assert problem in found.problem


def test_a_number_is_read_as_exactly_as_text(world: World, shop: SalesEnd) -> None:
    """It never was a binary fraction."""
    BENCH.put(world, orders=[{**said(world, "MW-10003"), "total": 13.94}])
    assert order_of(shop, "MW-10003").total == Decimal("13.94")


@pytest.mark.parametrize("body", ["[]", "{}", '{"orders": 7}', "null"])
def test_a_list_that_is_none_is_away(world: World, shop: SalesEnd, body: str) -> None:
    """Nothing is made of it."""
    BENCH.misbehave(world, {"call": "orders", "kind": "said", "body": body})
    with pytest.raises(Away, match="without a list of orders"):
        shop.documents(ORDERS, changed_since=None)


def test_entries_that_are_no_orders_are_not_lost(world: World, shop: SalesEnd) -> None:
    """Each says what it is."""
    BENCH.misbehave(world, {"call": "orders", "kind": "said", "body": '{"orders": [7, {}, {"id": 3}]}'})
    problems = [document.problem for document in shop.documents(ORDERS, changed_since=None).documents]
    assert problems[0] == "an entry that is no JSON object"
    assert all(problems)


def test_a_change_whose_time_stands_still_is_found_by_its_id(world: World, shop: SalesEnd) -> None:
    """The list by time misses it; reading again does not."""
    BENCH.change_company(world, change_times_stand_still=True)
    before = order_of(shop, "MW-10003")
    shop.write_back(AddTag(id=before.id, tag="late"))
    (fetch_by_ids,) = shop.fetch_by_ids(ORDERS, [before.id])
    assert isinstance(fetch_by_ids.document, Order)
    assert (fetch_by_ids.document.tags, fetch_by_ids.changed_at) == (("late",), before.changed_at)


def test_a_dispatch_completes_the_order_when_all_has_gone(shop: SalesEnd) -> None:
    """In two parcels, the first told twice."""
    order = order_of(shop, "MW-10009")
    rows = [{"line": line.id, "sku": line.sku, "quantity": "1"} for line in order.lines]
    parcels = [
        Dispatch.read({"id": name, "number": name, "order_number": order.number, "dispatched_at": T, "changed_at": T,
                       "carrier": "Otter Parcels", "tracking_number": name, "lines": part})
        for name, part in (("DN-1", rows[:1]), ("DN-2", rows[1:]))
    ]  # fmt: skip
    for parcel in (parcels[0], parcels[0]):
        shop.write_back(AddDispatch(id=order.id, dispatch=parcel))
    assert order_of(shop, "MW-10009").status == order.status
    shop.write_back(AddDispatch(id=order.id, dispatch=parcels[1]))
    assert order_of(shop, "MW-10009").status == "completed"
    found = shop.documents(SourceKind.DISPATCHES, changed_since=None).documents
    assert [document.number for document in found] == ["DN-1", "DN-2"]


def test_writing_needs_its_own_right(world: World, shop: SalesEnd) -> None:
    """Reading goes on."""
    BENCH.change_company(world, permissions=["read orders"])
    order = order_of(shop, "MW-10003")
    with pytest.raises(Refused, match="may not: write orders") as caught:
        shop.write_back(AddTag(id=order.id, tag="x"))
    assert caught.value.why == "permission"


def test_names_that_are_no_names_are_away(world: World, shop: SalesEnd) -> None:
    """A clear error."""
    BENCH.misbehave(world, {"call": "reference", "kind": "said", "body": '{"name": "x"}'})
    with pytest.raises(EndError, match="lacks or misstates"):
        shop.master_data()


def test_what_the_shop_calls_things(shop: SalesEnd) -> None:
    """A class that holds three taxes, tenders, places, types."""
    reference = shop.master_data()
    classes = {found.name: [rate.rate_percent for rate in found.rates] for found in reference.tax_classes}
    assert classes["us-sales"] == [Decimal("2.9"), Decimal("1.185"), Decimal("3.86")]
    assert "gift card" in reference.payment_methods
    assert reference.locations == ("Dyehouse", "Mill")


def test_a_page_that_leads_to_another_host_is_not_followed(world: World) -> None:
    """It would be sent our key."""
    shop: WebShop = BENCH.open(world, address="http://127.0.0.1:9")
    answer = httpx.Response(200, request=httpx.Request("GET", "http://127.0.0.1:9/orders"))
    assert shop._onward(answer.url, "/orders?after=1") == "http://127.0.0.1:9/orders?after=1"
    with pytest.raises(Away, match="another host"):
        shop._onward(answer.url, "http://elsewhere.example/orders")


class Ear:
    """Somebody who is called: keeps what came in."""

    def __init__(self) -> None:
        self.on_answer: list[SignedCall] = []
        on_answer = self.on_answer

        class Handler(BaseHTTPRequestHandler):
            def do_POST(self) -> None:
                body = self.rfile.read(int(self.headers["Content-Length"]))
                on_answer.append(SignedCall(headers=dict(self.headers), body=body))
                self.send_response(204)
                self.end_headers()

            def log_message(self, *_: object) -> None:
                """Say nothing."""

        self.server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        Thread(target=self.server.serve_forever, daemon=True).start()

    def wait(self, count: int) -> list[SignedCall]:
        """The calls, once there are so many."""
        return wait_for(lambda: self.on_answer if len(self.on_answer) >= count else None, seconds=10, what="the calls")


@pytest.fixture
def ear(world: World) -> Iterator[Ear]:
    """Registered with the shop."""
    made = Ear()
    BENCH.put(world, hook={"url": f"http://127.0.0.1:{made.server.server_port}/", "secret": SIGNING_SECRET})
    yield made
    made.server.shutdown()
    made.server.server_close()


def test_a_signed_call_tells_what_to_look_at(world: World, shop: SalesEnd, ear: Ear) -> None:
    """The kind and the number, nothing more is believed."""
    shop.write_back(AddTag(id=order_of(shop, "MW-10003").id, tag="x"))
    event = shop.parse_webhook(ear.wait(1)[0])
    assert (event.kind, event.number) == (SourceKind.ORDERS, "MW-10003")


def test_a_call_that_comes_twice_has_one_id(world: World, shop: SalesEnd, ear: Ear) -> None:
    """By which the second is known."""
    BENCH.misbehave(world, {"call": "webhook", "kind": "twice"})
    BENCH.put(world, refunds=[REFUND])
    first, second = (shop.parse_webhook(call) for call in ear.wait(2))
    assert first == second
    assert first.kind is SourceKind.REFUNDS


def test_calls_can_come_in_another_order(world: World, shop: SalesEnd, ear: Ear) -> None:
    """Each says when it happened."""
    BENCH.misbehave(world, {"call": "webhook", "kind": "reordered"})
    BENCH.put(world, customers=[CUSTOMER])
    BENCH.put(world, products=[PRODUCT])
    kinds = [shop.parse_webhook(call).kind for call in ear.wait(2)]
    assert kinds == [SourceKind.PRODUCTS, SourceKind.CUSTOMERS]


def test_a_call_can_come_late(world: World, shop: SalesEnd, ear: Ear) -> None:
    """It is as good as one in time."""
    BENCH.misbehave(world, {"call": "webhook", "kind": "latency", "seconds": 0.3})
    BENCH.put(world, customers=[CUSTOMER])
    assert shop.parse_webhook(ear.wait(1)[0]).number == "C-912"


def test_a_badly_signed_call_is_refused(world: World, shop: SalesEnd, ear: Ear) -> None:
    """And so is one that was changed on its way, is old, or signed with another secret."""
    BENCH.misbehave(world, {"call": "webhook", "kind": "badly signed"})
    BENCH.put(world, customers=[CUSTOMER])
    bad = ear.wait(1)[0]
    BENCH.put(world, products=[PRODUCT])
    good = ear.wait(2)[1]
    assert shop.parse_webhook(good)
    changed = SignedCall(headers=good.headers, body=good.body.replace(b"YRN", b"XXX"))
    old = SignedCall(headers={**good.headers, "webhook-timestamp": "1700000000"}, body=good.body)
    bare = SignedCall(headers={}, body=good.body)
    for call in (bad, changed, old, bare):
        with pytest.raises(Refused, match="not signed by it") as caught:
            shop.parse_webhook(call)
        assert caught.value.why == "credentials"
    with pytest.raises(Refused):
        BENCH.open(world, signing_secret="whsec_YW5vdGhlcg==").parse_webhook(good)
    with pytest.raises(Refused, match="no secret for its calls"):
        BENCH.open(world, signing_secret="").parse_webhook(good)


def test_a_well_signed_call_that_is_no_event_is_refused(shop: SalesEnd) -> None:
    """Whatever it says."""
    for said_there in ([], {"id": "1"}, {"id": "1", "type": "moon.changed", "subject": "x", "time": T}):
        with pytest.raises(Refused, match="no event"):
            shop.parse_webhook(_signed(json.dumps(said_there)))


def _signed(body: str) -> SignedCall:
    now = datetime.now(UTC)
    signature = Webhook(SIGNING_SECRET).sign(msg_id="m", timestamp=now, data=body)
    headers = {"webhook-id": "m", "webhook-timestamp": str(int(now.timestamp())), "webhook-signature": signature}
    return SignedCall(headers=headers, body=body.encode())
