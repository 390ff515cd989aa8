"""Money that is entered in the books and told to the shop: once, and never back again."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client import ApiError
from inkwell_bridge.core.books import Application, Payment
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.month import irish_shop
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER, tied
from tests.carriage.test_money import crossing, live
from tests.carriage.test_other_bridges import IRISH
from tests.support.changing import FIRST
from tests.support.ends import BENCHES
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

SECOND = "MW-10005"


def unpaid(number: str, **fields: Any) -> dict[str, Any]:
    """An order on account: nothing came in yet."""
    return {**shop_order(number), "state": "awaiting payment", "received": [], **fields}


@pytest.fixture
def on_account(stack: Stack, owner: str) -> World:
    """See ``sold_on_account``."""
    return sold_on_account(stack, owner)


def sold_on_account(stack: Stack, owner: str) -> World:
    """Two orders that are invoiced before they are paid; the books' money is told to the shop."""
    text = rulebook_text(BRIDGE).replace("statuses: [paid, completed]", "statuses: [paid, completed, awaiting payment]")
    world = new_world(stack, owner, rules=text)
    world.put_orders(unpaid(FIRST), unpaid(SECOND), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("receipts", on=True)
    world.run()
    assert len(live(world, "invoice")) == 2
    return world


def enter(world: World, reference: str, amount: str, *parts: tuple[str, str], **fields: Any) -> None:
    """Somebody enters a receipt in the books, against invoices of these orders."""
    books = BENCHES["erp"].books(world)
    invoices = {one["order"]: one for one in live(world, "invoice")}
    applied = [Application(external_reference=invoices[order]["reference"], amount=part)  # type: ignore[arg-type]
               for order, part in parts]  # fmt: skip
    said = {"date": "2026-10-21", "currency": "GBP", "account": "1200", "text": "Statement 44", **fields}
    money = Payment(external_reference=reference, amount=amount, applied=tuple(applied), **said)  # type: ignore[arg-type]
    contact = str(next(iter(invoices.values()))["contact"])
    books.post(books.create(money, contact_id=contact, key=reference))


def at_shop(world: World, number: str) -> tuple[str, list[tuple[str, str]]]:
    """An order's state there, and its money."""
    order = next(one for one in world.held_by("web-shop")["order"] if one["reference"] == number)
    return order["state"], [(money["sum"], money["transaction"]) for money in order["received"]]


def total(number: str) -> str:
    """What an order comes to."""
    return str(shop_order(number)["total"])


def test_the_order_is_paid_at_the_shop_and_nothing_comes_back(on_account: World) -> None:
    """With reference and day; read again, the order's money is known as the books' own."""
    enter(on_account, "BANK-44", "13.94", (FIRST, "13.94"))
    assert on_account.run().counts.carried == 1
    state, ((amount, transaction),) = at_shop(on_account, FIRST)
    assert (state, amount) == ("paid", "13.94")
    assert transaction.startswith("INK:uk-books:")
    found = crossing(on_account, live(on_account, "receipt")[0]["number"])
    assert [(one.role, one.state, one.connection) for one in found.documents] == [("payment", "proved", "web-shop")]
    assert (found.gross, found.currency) == (Decimal("13.94"), "GBP")
    # The order was changed by this; what the shop says of its money is no news to the books.
    on_account.run()
    on_account.run()
    assert len(live(on_account, "receipt")) == 1
    assert len(at_shop(on_account, FIRST)[1]) == 1
    order = crossing(on_account, FIRST)
    assert (order.state, [one.role for one in order.documents]) == ("carried", ["invoice"])
    tied(on_account)


def test_in_parts_and_for_several_orders_at_once(on_account: World) -> None:
    """4.00 of the first; then the rest of it and all of the second by one transfer."""
    enter(on_account, "BANK-1", "4.00", (FIRST, "4.00"))
    on_account.run()
    assert at_shop(on_account, FIRST)[0] == "awaiting payment"
    enter(on_account, "BANK-2", f"{9.94 + float(total(SECOND)):.2f}", (FIRST, "9.94"), (SECOND, total(SECOND)))
    on_account.run()
    first, second = at_shop(on_account, FIRST), at_shop(on_account, SECOND)
    assert (first[0], [amount for amount, _ in first[1]]) == ("paid", ["4.00", "9.94"])
    assert (second[0], [amount for amount, _ in second[1]]) == ("paid", [total(SECOND)])


def test_by_the_orders_number_where_it_is_set_against_nothing(on_account: World) -> None:
    """Whoever entered it wrote the number of the order; money of no order is left out."""
    enter(on_account, "BANK-3", "13.94", order_number=FIRST)
    enter(on_account, "BANK-4", "50.00", order_number="GRANT-7")
    counts = on_account.run().counts
    assert (counts.carried, counts.left_out) == (1, 1)
    assert at_shop(on_account, FIRST)[0] == "paid"
    (left,) = on_account.calls.crossings(state=["left out"])
    assert left.left_out_by == "planner:receipt-of-no-order"


def test_what_was_posted_from_here_is_told_to_nobody(on_account: World) -> None:
    """The shop took a card meanwhile: that goes to the books, and not back."""
    on_account.put_orders(shop_order(FIRST, last_change="2026-10-31T19:50:00+00:00"))
    on_account.run()
    on_account.run()
    assert len(live(on_account, "receipt")) == 1
    assert [money[1] for money in at_shop(on_account, FIRST)[1]] == ["wg_70002"]
    assert [one.kind for one in on_account.calls.crossings() if one.kind == "receipts"] == []


@pytest.mark.parametrize("kind", ["cut", "silent", "late", "broken"])
def test_it_is_told_once_whatever_the_shop_answers(on_account: World, kind: str) -> None:
    """Done and not answered, done later, or not done."""
    enter(on_account, "BANK-5", "13.94", (FIRST, "13.94"))
    on_account.misbehave("shop", {"call": "orders.money", "kind": kind, "seconds": 2, "times": 1})
    on_account.calls.bridge(BRIDGE).run()
    wait_for(lambda: [one for one in on_account.calls.crossings(state=["carried"]) if one.kind == "receipts"] or None,
             seconds=40, what="the receipt")  # fmt: skip
    assert len(at_shop(on_account, FIRST)[1]) == 1


def test_money_in_another_currency_waits_for_a_person(on_account: World) -> None:
    """Nobody here knows what the shop should count it as."""
    enter(on_account, "BANK-6", "16.00", currency="EUR", order_number=FIRST)
    on_account.run()
    (held,) = on_account.calls.crossings(state=["held"])
    (finding,) = on_account.calls.crossing(held.id).findings
    assert (held.kind, held.cause, finding.id) == ("receipts", "currency-not-kept", "RECEIPT-E001")
    assert "in EUR" in finding.text


def test_the_ledger_tells_of_them_too(stack: Stack, owner: str) -> None:
    """An order of the Irish shop on account; what was entered in the ledger against its invoice pays it there."""
    world = new_world(stack, owner)
    sold = next(one for one in irish_shop()["orders"] if one["state"] == "paid")
    order = {**sold, "state": "awaiting payment", "received": []}
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=[order])
    bridge = world.calls.bridge(IRISH)
    rules = rulebook_text(IRISH).replace("statuses: [paid, completed]", "statuses: [paid, completed, awaiting payment]")
    bridge.publish_rulebook(bridge.write_rulebook(rules).number)
    bridge.switch_lane("receipts", on=True)
    assert world.run(IRISH).counts.carried == 1
    (invoice,) = world.held_by("ledger")["invoices"]
    money = Payment(external_reference="BANK-9", amount=order["total"], date="2026-10-21", currency="EUR",
                    account="120", text="Statement 3",
                    applied=[Application(external_reference=invoice["reference"], amount=order["total"])])  # type: ignore[arg-type]  # fmt: skip
    books = BENCHES["ledger"].books(world)
    books.post(books.create(money, contact_id=str(invoice["contact"]), key="BANK-9"))
    assert world.run(IRISH).counts.carried == 1
    (paid,) = world.held_by("web-shop", place="-ireland")["order"]
    assert (paid["state"], [one["sum"] for one in paid["received"]]) == ("paid", [order["total"]])
    # The shop's word of it is no news to the ledger.
    world.run(IRISH)
    assert len(world.held_by("ledger")["payments-in"]) == 1
    (sides,) = world.calls.tie_out(**OCTOBER, bridge=IRISH).sales
    assert (sides.unexplained.gross, sides.unexplained.tax) == (0, 0)


def test_a_sales_side_that_takes_no_word_of_money_says_so_before_a_run(stack: Stack, owner: str) -> None:
    """The lane can be on, and no run begins until it is off again."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    bridge = world.calls.bridge("lanternfair-to-ledger")
    bridge.switch_lane("receipts", on=True)
    with pytest.raises(ApiError, match="takes no word of payments"):
        bridge.run()
    bridge.switch_lane("receipts", on=False)
    assert bridge.run().id
