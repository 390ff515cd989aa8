"""Money that the provider tells of: its charges reach the orders and refunds that they are of, once captured."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client.models import Crossing
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER, tied
from tests.carriage.test_money import crossing, live, refund
from tests.carriage.test_payouts import FIRST, PAYOUTS, SECOND, balance, entry, payout
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

WHEN = "2026-10-21T10:00:00+00:00"
ALONE = "known to the provider only"


def rules(teller: str = "provider") -> str:
    """The demo's, by which somebody else than the shop tells of cards."""
    said = f"payments:\n  told_by:\n    by_method: {{card: {teller}}}\n"
    return rulebook_text(BRIDGE).replace("payments:\n", said, 1)


def charge(number: str, minor: int, **fields: Any) -> dict[str, Any]:
    """A charge of the first order, in the provider's words."""
    return {"charge": number, "does": "take", "state": "taken", "shop_ref": FIRST, "minor": minor, "money": "GBP",
            "how": "card", "when": WHEN, "altered": WHEN, **fields}  # fmt: skip


def transaction(number: str = FIRST) -> str:
    """The provider's number of an order's money, as the shop has it."""
    return str(shop_order(number)["received"][0]["transaction"])


def believed(stack: Stack, owner: str, *orders: dict[str, Any], teller: str = "provider") -> World:
    """A shop with these orders in the books, and a provider with the lane of charges on."""
    world = new_world(stack, owner, rules=rules(teller))
    world.put_orders(*orders, reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.put("payment-provider", reset=True, company=facts()["weirgate"])
    demo_client.set_up_payouts(stack, world.calls, world=world.slug)
    world.calls.bridge(PAYOUTS).switch_lane("charges", on=True)
    world.run()
    return world


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """The first order of 13.94, which the shop says was paid by card."""
    return believed(stack, owner, shop_order(FIRST))


def receipts(world: World, kind: str = "receipt") -> list[tuple[str, str, str]]:
    """What stands posted of a kind: day, account, amount."""
    return sorted((one["date"], one["account"], one["amount"]) for one in live(world, kind))


def told(world: World) -> list[Crossing]:
    """The charges that were read."""
    return list(world.calls.crossings(bridge=PAYOUTS, kind="charges"))


def test_the_shops_word_posts_nothing_and_the_providers_does(world: World) -> None:
    """On the provider's day, on the clearing account, set against the invoice; read again, nothing is new."""
    assert receipts(world) == []
    (note,) = [one.text for one in crossing(world, FIRST).findings if one.id == "PAY-N003"]
    assert note == "Payment of 13.94 GBP by card is posted when the provider tells of it."
    world.put("payment-provider", charges=[charge(transaction(), 1394)])
    assert world.run(PAYOUTS).counts.carried == 1
    world.settled()
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]
    (invoice,) = live(world, "invoice")
    assert invoice["paid"] == invoice["gross"]
    (taken,) = told(world)
    assert (taken.state, f"{taken.gross}") == ("carried", "13.94")
    assert [(one.kind, one.number) for one in world.calls.crossing(taken.id).following] == [("orders", FIRST)]
    world.run()
    world.run(PAYOUTS)
    world.settled()
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]
    tied(world)
    # Its payout clears what it put there.
    world.put("payment-provider", payouts=[payout(entry("charge", 1394, transaction()))])
    world.run(PAYOUTS)
    assert balance(world, "1250") == 0
    (total,) = [one for one in world.calls.tie_out(**OCTOBER).tenders if one.tender == "card"]
    assert (total.source.gross, total.books.gross, total.ties) == (Decimal("13.94"), Decimal("13.94"), True)


def test_what_is_reserved_is_no_money_until_it_is_captured(world: World) -> None:
    """Reserved with 13.94, captured with 10.00: these come in, the rest stays open. Let go after that, it goes back."""
    world.put("payment-provider", charges=[charge(transaction(), 1394, state="reserved")])
    world.run(PAYOUTS)
    world.settled()
    assert receipts(world) == []
    later = {"altered": "2026-10-22T10:00:00+00:00"}
    world.put("payment-provider", charges=[charge(transaction(), 1000, **later)])
    world.run(PAYOUTS)
    world.settled()
    assert receipts(world) == [("2026-10-21", "1250", "10.00")]
    world.put("payment-provider",
              charges=[charge(transaction(), 1000, state="let go", altered="2026-10-23T10:00:00+00:00")])  # fmt: skip
    world.run(PAYOUTS)
    world.settled()
    assert [amount for _, _, amount in receipts(world, "repayment")] == ["10.00"]
    assert balance(world, "1250") == 0


def test_a_charge_that_came_before_its_order_goes_once_that_is_read(stack: Stack, owner: str) -> None:
    """It is held by name, and goes by itself."""
    world = believed(stack, owner)
    world.put("payment-provider", charges=[charge(transaction(), 1394)])
    assert world.run(PAYOUTS).counts.held == 1
    (held,) = told(world)
    assert held.cause == "order-first"
    # Nothing stands on either side, and yet the period does not tie: somebody paid for an order that nobody read.
    sheet = world.calls.tie_out(**OCTOBER)
    assert (sheet.ties, [(one.reason, one.documents) for one in sheet.differing]) == (False, [(ALONE, 1)])
    (behind,) = world.calls.sheet(**OCTOBER).documents(reason=ALONE)
    assert (behind.number, behind.reasons, behind.source.count, behind.books.count) == (held.number, [ALONE], 0, 0)
    month = world.calls.month("marrowby-uk", "2026-10")
    assert [(one.reason, one.documents, one.amounts) for one in month.read().items] == [(ALONE, 1, [])]
    report = json.loads(month.report("json"))["report"]
    assert [(one["reason"], one["number"]) for one in report["documents"]] == [(ALONE, held.number)]
    world.put_orders(shop_order(FIRST))
    world.run()
    wait_for(lambda: receipts(world) or None, seconds=60, what="the receipt")
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]
    assert world.calls.tie_out(**OCTOBER).ties


def test_money_that_the_shop_does_not_know_finds_its_order_by_number(stack: Stack, owner: str) -> None:
    """The shop waits for money, and the provider has it under a number of its own."""
    order = shop_order(FIRST)
    waits = {**order, "received": [{**order["received"][0], "state": "pending", "transaction": "shop-own-1"}]}
    world = believed(stack, owner, waits)
    world.put("payment-provider", charges=[charge("wg_own_1", 1394)])
    world.run(PAYOUTS)
    world.settled()
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]


def test_money_back_is_told_to_its_refund(world: World) -> None:
    """9.99 go back when the provider says so."""
    world.put("payment-provider", charges=[charge(transaction(), 1394)])
    world.run(PAYOUTS)
    world.settled()
    world.put("web-shop", refunds=[refund()])
    world.run()
    assert receipts(world, "repayment") == []
    back = charge("wg_r_801", 999, does="give back", when="2026-10-24T10:00:00+00:00")
    world.put("payment-provider", charges=[{**back, "altered": back["when"]}])
    world.run(PAYOUTS)
    world.settled()
    assert receipts(world, "repayment") == [("2026-10-24", "1250", "9.99")]
    tied(world)


def test_where_the_shop_is_believed_charges_are_left_out(stack: Stack, owner: str) -> None:
    """Counted, by the rule that says so; the shop's word stands alone."""
    world = believed(stack, owner, shop_order(FIRST), shop_order(SECOND), teller="sales side")
    assert len(receipts(world)) == 2
    world.put("payment-provider", charges=[charge(transaction(), 1394), charge("wg_none", 500, shop_ref="")])
    counts = world.run(PAYOUTS).counts
    assert (counts.left_out, counts.held) == (1, 1)
    world.settled()
    assert len(receipts(world)) == 2
    (left,) = [one for one in told(world) if one.state == "left out"]
    assert world.calls.crossing(left.id).left_out_by == "/payments/told_by"


def test_a_charge_in_another_currency_waits_for_a_person(world: World) -> None:
    """And changes nothing."""
    world.put("payment-provider", charges=[charge(transaction(), 1394, money="EUR")])
    assert world.run(PAYOUTS).counts.held == 1
    (held,) = told(world)
    assert (held.cause, receipts(world)) == ("currency-not-kept", [])


def test_one_unreadable_charge_stops_no_other(world: World) -> None:
    """In a currency that nobody knows: held by itself, and the next one goes."""
    world.put("payment-provider", charges=[charge("wg_bad", 100, money="ZZZ"), charge(transaction(), 1394)])
    counts = world.run(PAYOUTS).counts
    assert (counts.carried, counts.held) == (1, 1)
    world.settled()
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]


@pytest.mark.parametrize("kind", ["cut", "silent", "broken"])
def test_money_that_the_provider_told_is_posted_once_whatever_fails(world: World, kind: str) -> None:
    """The books lose the answer to the receipt: one receipt all the same."""
    world.put("payment-provider", charges=[charge(transaction(), 1394)])
    world.misbehave("erp", {"call": "receipts.create", "kind": kind, "times": 2})
    world.run(PAYOUTS)
    world.settled(seconds=90)
    assert receipts(world) == [("2026-10-21", "1250", "13.94")]
