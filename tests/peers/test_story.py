"""Orders placed at a real storefront become posted invoices in a real ERP, once, to the penny."""

from __future__ import annotations

import datetime
import os
from decimal import Decimal
from typing import Any

import pytest
from peers.places import cluster, running
from peers.servers import start_tryton, tryton_configuration

from inkwell_bridge.launch import demo_client
from tests.peers.between import BRIDGE, Between
from tests.support.peers import PEER_BENCHES, cancel_lines, place_order
from tests.support.world import few_orders, invoices_alone, shop_order, wait_for

TRYTON = PEER_BENCHES["tryton"]


def test_orders_become_posted_invoices_to_the_penny(carried: Between) -> None:
    """By the account of both systems themselves; run twice, and nothing is there twice; both sides tie."""
    (run,) = carried.calls.runs()
    orders = carried.orders()
    assert (run.counts.carried, run.counts.held, run.counts.differs) == (len(orders), 0, 0)
    carried.assert_each_stands_once()
    carried.assert_the_ledger_balances()
    fetch_by_ids = carried.run()
    assert (fetch_by_ids.counts.carried, fetch_by_ids.counts.held) == (0, 0)
    carried.assert_each_stands_once()
    (tied,) = carried.calls.tie_out(bridge=BRIDGE).sales
    assert (tied.unexplained.count, tied.unexplained.gross) == (0, 0)
    assert tied.books.gross == sum(order.total for order in orders.values())


def test_the_way_back_stands_on_every_document(carried: Between) -> None:
    """The order's number at the head, and the line of the order on each line."""
    for crossing in carried.calls.crossings(state=["carried"]):
        (document,) = crossing.documents
        spread = carried.calls.crossing(crossing.id)
        held = spread.documents[0].record
        assert held is not None
        assert held["document"]["order_number"] == crossing.number
        assert document.books_number.startswith("TI-")
        assert spread.order is not None
        lines = {line["id"] for line in spread.order["lines"]} | {part["id"] for part in spread.order["shipping"]}
        marks = {line["line_reference"] for line in held["document"]["lines"]} - {"rounding"}
        assert marks <= lines


def test_money_settles_what_was_sold_and_what_came_back_is_credited(with_money: Between) -> None:
    """Every invoice is paid, the whole credit too, and the money stands where it came in.

    Only what was cancelled after it was paid is still owed to its buyer: Vendure keeps that money.
    """
    with_money.run()
    with_money.world.settled(seconds=150)
    orders, refunds = with_money.orders(), with_money.refunds()
    assert set(refunds) == {"one skein came back", "for the trouble", "all came back"}
    sold, given_back = (sum((one.total for one in some.values()), Decimal(0)) for some in (orders, refunds))
    received = sum((one.received for one in orders.values()), Decimal(0))
    assert (with_money.balance("1100"), with_money.balance("1250")) == (sold - received, received - given_back)
    assert sold - received == Decimal("-9.99")
    invoices = with_money.invoices()
    assert {one["state"] for one in invoices} == {"paid"}
    notes = [one for one in invoices if one["total_amount"] < 0]
    assert sorted(-one["total_amount"] for one in notes) == sorted(one.total for one in refunds.values())
    whole = refunds["all came back"]
    assert whole.total == orders[whole.order_number].total
    (crossing,) = with_money.calls.crossings(search=whole.number)
    assert [(one.role, one.state) for one in crossing.documents] == [
        ("credit note", "proved"),
        ("refund payment", "proved"),
    ]
    found = with_money.calls.tie_out(bridge=BRIDGE)
    assert [row for row in found.tenders if not row.ties] == []
    assert sum((row.difference.gross for row in found.tax_codes), Decimal(0)) == 0
    fetch_by_ids = with_money.run()
    assert (fetch_by_ids.counts.carried, with_money.balance("1250")) == (0, received - given_back)


def test_what_is_cancelled_after_it_was_posted_is_credited(between: Between) -> None:
    """A piece of a line at the storefront, then all of the order: Tryton's credit notes take it off again."""
    number = place_order([("YRN-SOCK-FEN", 3), ("PAT-BOOK-ISL", 1)])
    between.run()
    order = between.orders()[number]
    line = next(one for one in order.lines if one.quantity == 3)
    others = [(one.id, int(one.quantity)) for one in order.lines if one.id != line.id]
    before = sum_of(between, number)
    assert before == order.total
    cancel_lines(number, (line.id, 1))
    between.run()
    between.world.settled(seconds=60)
    assert sum_of(between, number) == between.orders()[number].total < before
    cancel_lines(number, (line.id, 2), *others, carriage=True)
    between.run()
    between.world.settled(seconds=60)
    (crossing,) = between.calls.crossings(search=number, kind="orders")
    said = between.calls.crossing(crossing.id).findings
    assert (crossing.state, crossing.gross) == ("carried", sum_of(between, number)), said


def sum_of(between: Between, number: str) -> Decimal:
    """What Tryton holds of an order: its invoices, less its credit notes."""
    return sum((one["total_amount"] for one in between.invoices() if number in one["comment"]), Decimal(0))


def test_a_new_order_alone_crosses_at_the_next_run(carried: Between) -> None:
    """Together with nothing else, whatever stands there already."""
    before = len(carried.invoices())
    number = place_order([("YRN-SOCK-FEN", 3), ("PAT-BOOK-ISL", 1)], coupon="HARVEST5")
    run = carried.run()
    assert run.counts.carried == 1
    (crossing,) = carried.calls.crossings(search=number)
    assert crossing.documents[0].gross == carried.orders()[number].total
    assert len(carried.invoices()) == before + 1
    carried.assert_each_stands_once()


def test_the_erp_killed_in_the_middle_of_a_run_holds_each_document_once(between: Between) -> None:
    """SIGKILL while documents are being posted; started again, the run goes on by itself."""
    url = cluster().database(running()["tryton_database"])
    configuration = tryton_configuration(url, f"tryton-fragile-{os.getpid()}")
    server = start_tryton(configuration)
    port = int(server.address.rstrip("/").rpartition(":")[2])
    try:
        database = TRYTON.real_address(between.world).rstrip("/").rpartition("/")[2]  # type: ignore[attr-defined]
        between.calls.connection("tryton-books").change(address=f"{server.address}{database}/")
        run = between.start()
        wait_for(lambda: len(between.invoices()) >= 4 or None, seconds=60, what="the first documents")
        server.kill()
        assert between.calls.run(run.id).under_way
        server = start_tryton(configuration, port=port)
        ended = between.world.ended(run, seconds=150)
        between.world.settled(seconds=150)
        assert ended.state == "ended"
        between.assert_each_stands_once()
        between.assert_the_ledger_balances()
    finally:
        server.stop()


def test_a_locked_period_holds_as_in_the_stand_in(between: Between) -> None:
    """Nothing is left behind in the books; opened and released, all crosses."""
    today = datetime.datetime.now(datetime.UTC).date()
    TRYTON.lock(between.world, f"{today.year}-12-31")
    run = between.run()
    orders = between.orders()
    assert (run.counts.carried, run.counts.held) == (0, len(orders))
    held = list(between.calls.crossings(state=["held"]))
    assert {crossing.cause for crossing in held} == {"period-locked"}
    assert f"locked up to {today.year}-12-31" in between.calls.crossing(held[0].id).findings[-1].text
    assert between.invoices() == []
    TRYTON.unlock(between.world)  # type: ignore[attr-defined]
    assert between.calls.release(cause="period-locked") == len(orders)
    between.world.settled(seconds=150)
    between.assert_each_stands_once()


def test_missing_rights_are_told_before_anything_runs(between: Between) -> None:
    """As of the stand-in: which right, and what to change there; the run says so and carries nothing."""
    TRYTON.take_rights(between.world)
    checked = between.calls.connection("tryton-books").check()
    assert checked.state == "limited"
    assert checked.described is not None
    missing = {permission.name for permission in checked.described.permissions if not permission.granted}
    assert "make invoices" in missing
    run = between.run()
    assert (run.counts.carried, run.counts.waiting) == (0, run.counts.read)
    assert between.invoices() == []


def orders_of_october() -> list[dict[str, Any]]:
    """A dozen of them, newest first."""
    return few_orders()[:12][::-1]


@pytest.fixture
def october(between: Between) -> Between:
    """October's web shop in place of the storefront: its orders have dates of their own."""
    stack, slug = between.world.stack, between.world.slug
    demo_client.fill_standins(stack.standin, world=slug)
    between.world.put_orders(*orders_of_october(), reset=True)
    demo_client.connect(stack, between.calls, "web_shop", company="company", world=slug)
    between.calls.create_bridge(slug="october", name="October", source="web-shop", books="tryton-books",
                                company="marrowby-uk")  # fmt: skip
    rules = between.calls.bridge("october")
    rules.publish_rulebook(rules.write_rulebook(invoices_alone()).number)
    rules.switch_lane("orders", on=True)
    return between


def test_documents_are_numbered_in_the_order_of_their_dates(october: Between) -> None:
    """Whatever the order in which the shop lists them; what comes too late for its date is held in Tryton's words."""
    run = october.world.run("october", seconds=120)
    assert run.counts.carried == len(orders_of_october())
    invoices = october.invoices()
    dates = [invoice["invoice_date"] for invoice in invoices]
    assert dates == sorted(dates)
    assert len(set(dates)) > 5
    late = shop_order("MW-10003", id=50_900, reference="MW-10900", last_change="2026-11-01T10:00:00+00:00")
    october.world.put_orders(late)
    run = october.world.run("october", seconds=60)
    assert (run.counts.carried, run.counts.held) == (0, 1)
    (held,) = october.calls.crossings(search="MW-10900")
    assert "you must set an invoice date after" in october.calls.crossing(held.id).findings[-1].text
