"""What is Vendure's own: its arithmetic, what follows an order, and times of change that stand still."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal

import pytest

from inkwell_bridge.core.commerce import Order, Refund, SourceKind
from inkwell_bridge.ends.contract import SalesEnd
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.shapes import AddNote
from inkwell_bridge.launch.stack import Stack
from tests.support.peers import PEER_BENCHES, place_order, vendure_admin
from tests.support.world import new_world

D = Decimal


@pytest.fixture(scope="module")
def shop(stack: Stack) -> SalesEnd:
    """Vendure."""
    return PEER_BENCHES["vendure"].sales(new_world(stack, "no token", set_up=False))


def order_of(shop: SalesEnd, number: str) -> Order:
    """One order."""
    found = shop.document(SourceKind.ORDERS, number).document
    assert isinstance(found, Order)
    return found


def all_orders(shop: SalesEnd) -> list[Order]:
    """Every order."""
    page = shop.documents(SourceKind.ORDERS, changed_since=None)
    found = list(page.documents)
    while page.next:
        page = shop.documents(SourceKind.ORDERS, changed_since=None, page=page.next)
        found += page.documents
    return [one.document for one in found if isinstance(one.document, Order)]


def test_a_coupon_is_shared_as_vendure_shared_it(shop: SalesEnd) -> None:
    """Ten pounds over 9.99, 18.50 and 18.50: 2.12, 3.94 and 3.94, so 7.87, 14.56 and 14.56 remain."""
    number = place_order([("YRN-SOCK-FEN", 1), ("YRN-MER4-HEA", 1), ("YRN-MER4-SLA", 1)], coupon="HARVEST10")
    order = order_of(shop, number)
    assert [line.reduced for line in order.lines] == [D("7.87"), D("14.56"), D("14.56")]
    assert (order.total, order.tax_total, order.discounts) == (D("40.94"), D("6.83"), ())
    assert [(one.name, one.value) for one in order.attributes] == [("coupon", "HARVEST10")]


def test_an_order_abroad_is_taxed_as_an_export(shop: SalesEnd) -> None:
    """18.50 with tax is 15.42 without; nothing is charged on top."""
    order = order_of(shop, place_order([("YRN-MER4-HEA", 3)], abroad=True))
    assert (order.country, order.total, order.tax_total) == ("US", D("60.76"), D("0.00"))
    assert {charge.tax_class for charge in order.charges} == {"Export of goods", "carriage at 0"}


def test_cancelling_takes_lines_away_and_leaves_the_money(shop: SalesEnd) -> None:
    """What was placed first is remembered by the history; the payment stays what it was."""
    parts = [order for order in all_orders(shop) if order.history and order.status == "PaymentSettled"]
    order = parts[0]
    assert [line.sku for line in order.lines] == ["YRN-MER4-HEA"]
    (event,) = order.history
    assert (event.kind, event.lines[0].before, event.lines[0].after, event.total_before) == ("cancelled", 1, 0, None)
    assert order.received == order.total + D("9.99")
    whole = [order for order in all_orders(shop) if order.status == "Cancelled"]
    assert {(order.total, order.lines) for order in whole} == {(D("0.00"), ())}
    # Carriage that is charged no more stands there with all of it taken off.
    assert {part.reduced for order in whole for part in order.shipping} == {D("0.00")}
    # Those that the storefront was filled with; another test may have cancelled one of its own.
    assert len([order for order in whole if order.received == D("23.93")]) == 2


def test_refunds_of_a_line_of_an_amount_and_of_all(shop: SalesEnd) -> None:
    """Lines with their tax, carriage with its own, and what has no line as goodwill."""
    found = [one.document for one in shop.documents(SourceKind.REFUNDS, changed_since=None).documents]
    by_reason = {refund.reason: refund for refund in found if isinstance(refund, Refund)}
    line, amount, whole = (by_reason[why] for why in ("one skein came back", "for the trouble", "all came back"))
    assert (line.total, line.tax_total, line.lines[0].quantity, line.goodwill) == (D("18.50"), D("3.08"), 1, ())
    assert (amount.total, amount.tax_total, amount.lines, amount.goodwill[0].amount) == (D("3.00"), 0, (), D("3.00"))
    assert (whole.total, whole.tax_total, whole.shipping[0].amount) == (D("22.45"), D("3.74"), D("3.95"))
    assert whole.payments[0].transaction.startswith("wg_r_")


def test_settling_does_not_move_the_orders_time_and_is_seen_all_the_same(shop: SalesEnd) -> None:
    """Found by its history, as is an order of which nothing but a note was written."""
    number = place_order([("YRN-LACE-MOS", 1)], method="pay-later")
    before = order_of(shop, number)
    since = datetime.now(UTC)
    assert number not in {one.number for one in shop.documents(SourceKind.ORDERS, changed_since=since).documents}
    graphql = vendure_admin()
    said = graphql.read("query P($c: String!) { orders(options: { filter: { code: { eq: $c } } }) "
                        "{ items { payments { id } } } }", c=number)  # fmt: skip
    graphql.change("mutation Settle($id: ID!) { settlePayment(id: $id) { ... on Payment { id } } }",
                   id=said["orders"]["items"][0]["payments"][0]["id"])  # fmt: skip
    after = order_of(shop, number)
    assert ([money.state for money in before.payments], [money.state for money in after.payments]) == (
        ["authorised"], ["received"],
    )  # fmt: skip
    assert number in {one.number for one in shop.documents(SourceKind.ORDERS, changed_since=since).documents}


def test_an_order_that_is_not_there_gets_no_note(shop: SalesEnd) -> None:
    """Not found, told from other refusals."""
    with pytest.raises(Refused) as caught:
        shop.write_back(AddNote(id="999999", text="x"))
    assert caught.value.why == "not found"
