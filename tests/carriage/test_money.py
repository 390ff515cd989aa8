"""Payments and refunds, carried over the running service into books that are asked past it."""

from __future__ import annotations

from datetime import datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from inkwell_bridge.client.models import Spread
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.lanternfair import first_sales
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.cli.test_cli import command
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

FIRST = "MW-10003"
LATER = datetime.fromisoformat("2026-10-31T19:50:00+00:00")
# A whole skein of 9.99 given back, with the 1.67 of tax inside it.
SKEIN = {"row": 1, "article": "YRN-SOCK-FEN", "title": "Sock yarn skein, Fenland", "count": 1, "sum": "9.99",
         "tax": {"class": "standard", "percent": "20", "sum": "1.67"}}  # fmt: skip


@pytest.fixture
def world(stack: Stack, owner: str) -> World:
    """A client whose one order waits, under the demo's own rules, with refunds on."""
    made = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    made.put_orders(shop_order(FIRST), reset=True)
    made.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    return made


def refund(number: int = 801, order: str = FIRST, **fields: Any) -> dict[str, Any]:
    """A refund of the first skein, in the shop's words."""
    when = LATER.isoformat()
    return {
        "id": number, "reference": f"MW-R-{number}", "order": order, "order_id": shop_order(order)["id"], "when": when,
        "last_change": when, "currency": "GBP", "prices": "with tax", "rows": [SKEIN], "tax": "1.67", "total": "9.99",
        "paid_back": [{"transaction": f"wg_r_{number}", "by": "card", "with": "card", "sum": "9.99", "when": when}],
        **fields,
    }  # fmt: skip


def live(world: World, kind: str) -> list[dict[str, Any]]:
    """What the books hold of a kind, but for what is void."""
    return [one for one in world.books().get(kind, []) if one["state"] != "void"]


def crossing(world: World, number: str) -> Spread:
    """One source document with what became of it."""
    (found,) = [row for row in world.calls.crossings(search=number) if row.number == number]
    return world.calls.crossing(found.id)


def test_an_order_and_its_payment(world: World) -> None:
    """The invoice, then the money against it, on the account of its method; once, however often it runs."""
    assert world.run().counts.carried == 1
    (invoice,), (receipt,) = live(world, "invoice"), live(world, "receipt")
    assert (receipt["account"], receipt["amount"], receipt["transaction"]) == ("1250", invoice["gross"], "wg_70002")
    assert [part["reference"] for part in receipt["settles"]] == [invoice["reference"]]
    assert invoice["paid"] == invoice["gross"]
    found = crossing(world, FIRST)
    assert [(one.role, one.state) for one in found.documents] == [("invoice", "proved"), ("payment", "proved")]
    world.run()
    assert (len(live(world, "invoice")), len(live(world, "receipt"))) == (1, 1)


def test_order_refund_and_money_are_shown(world: World, tmp_path: Path) -> None:
    """On the command line: both pages, the money with the rule that chose its account."""
    world.put("web-shop", refunds=[refund()])
    world.run()
    inkwell = command(tmp_path / "profile.json")
    signed = {"INKWELL_ADDRESS": world.stack.address, "INKWELL_TOKEN": world.token, "INKWELL_WORKSPACE": world.slug}
    order = inkwell("documents", "show", FIRST, **signed).stdout
    assert "Paid by card" in order
    assert "13.94 GBP on account 1250, 2026-10-03. The card payment of 13.94 GBP." in order
    assert "Money by method 'card' goes to 1250." in order
    back = inkwell("documents", "show", "MW-R-801", **signed).stdout
    assert back.startswith("Refund MW-R-801: carried")
    assert "Credit note SC-00001: proved, rounding 0.01" in back
    assert "Refund payment RP-00001: proved" in back


def test_money_that_comes_in_later_is_added(world: World) -> None:
    """The invoice stays as it is; the receipt follows."""
    paid = shop_order(FIRST)["received"]
    world.put_orders(shop_order(FIRST, received=[]), reset=True)
    world.run()
    assert live(world, "receipt") == []
    (before,) = live(world, "invoice")
    world.put_orders(shop_order(FIRST, received=paid, last_change=LATER.isoformat()))
    world.run()
    (after,), (receipt,) = live(world, "invoice"), live(world, "receipt")
    assert (after["number"], receipt["amount"], after["paid"]) == (before["number"], after["gross"], after["gross"])


def test_a_tender_without_an_account_holds_the_order(world: World) -> None:
    """Nothing is posted before somebody said where the money goes; then all of it is."""
    (money,) = shop_order(FIRST)["received"]
    world.put_orders(shop_order(FIRST, received=[{**money, "by": "wallet", "with": "wallet"}]), reset=True)
    assert world.run().counts.held == 1
    found = crossing(world, FIRST)
    assert (found.cause, live(world, "invoice")) == ("rule-missing", [])
    assert "PAY-E002" in {finding.id for finding in found.findings}
    bridge = world.calls.bridge(BRIDGE)
    text = rulebook_text(BRIDGE).replace('card: "1250"', 'card: "1250"\n      wallet: "1250"')
    bridge.publish_rulebook(bridge.write_rulebook(text).number)
    world.calls.release(cause="rule-missing")
    world.settled()
    assert (len(live(world, "invoice")), len(live(world, "receipt"))) == (1, 1)


@pytest.mark.parametrize("rule", [
    {"call": "receipts.create", "kind": "silent"}, {"call": "receipts.create", "kind": "late", "seconds": 0.3},
    {"call": "receipts.post", "kind": "cut"}, {"call": "receipts.create", "kind": "broken"},
], ids=lambda rule: f"{rule['call']} {rule['kind']}")  # fmt: skip
def test_money_is_never_posted_twice(world: World, rule: dict[str, Any]) -> None:
    """Whatever becomes of the answers, one posted receipt."""
    world.misbehave("erp", rule)
    world.run(seconds=90)
    world.settled(seconds=90)
    assert [one["state"] for one in live(world, "receipt")] == ["posted"]
    assert crossing(world, FIRST).state == "carried"


def test_a_refund_after_its_order(world: World) -> None:
    """A credit note on the accounts that the sale went out on, and the money that went back."""
    world.put("web-shop", refunds=[refund()])
    assert world.run().counts.carried == 2
    (note,), (back,) = live(world, "credit_note"), live(world, "repayment")
    skein = note["lines"][0]
    assert (skein["account"], skein["tax_code"], skein["net"]) == ("4000", "S20", "8.32")
    # 8.32 at 20 % is 1.664: the books compute 1.66, and the penny goes to the rounding account.
    assert (note["gross"], [line["account"] for line in note["lines"]]) == ("9.99", ["4000", "8200"])
    (invoice,) = live(world, "invoice")
    assert (note["credits"], back["amount"], back["account"]) == (invoice["reference"], "9.99", "1250")
    assert [part["reference"] for part in back["settles"]] == [note["reference"]]


def test_a_refund_that_overtakes_its_order_waits_for_it(world: World) -> None:
    """Held as long as nobody knows the order; it goes by itself once the order is carried."""
    order = "MW-10009"
    sorry = {"row": "goodwill", "title": "Sorry", "sum": "9.99",
             "tax": {"class": "outside", "percent": "0", "sum": "0.00"}}  # fmt: skip
    world.put("web-shop", refunds=[refund(order=order, rows=[], goodwill=[sorry], tax="0.00")])
    world.run()
    assert (crossing(world, "MW-R-801").cause, live(world, "credit_note")) == ("order-first", [])
    world.put_orders(shop_order(order))
    world.run()
    wait_for(lambda: live(world, "repayment") or None, seconds=30, what="the refund")
    world.settled()
    assert crossing(world, "MW-R-801").state == "carried"


def test_a_refund_of_more_than_was_paid_is_for_a_person(world: World) -> None:
    """Also when it is the second one that goes beyond."""
    world.put("web-shop", refunds=[refund(), refund(802, last_change=(LATER + timedelta(minutes=1)).isoformat())])
    world.run()
    found = {row.number: row for row in world.calls.crossings() if row.kind == "refunds"}
    held = [row for row in found.values() if row.state == "held"]
    assert len(held) == 1
    assert crossing(world, held[0].number).findings[-1].id == "REFUND-E002"
    assert len(live(world, "credit_note")) == 1


def test_a_refund_of_what_a_rule_left_out_is_left_out(world: World) -> None:
    """An order that nobody wanted in the books has nothing to take back there."""
    world.put_orders(shop_order(FIRST, state="cancelled"), reset=True)
    world.put("web-shop", refunds=[refund()])
    world.run()
    states = {row.number: (row.state, row.left_out_by) for row in world.calls.crossings()}
    assert states[FIRST][0] == "left out"
    wait_for(lambda: crossing(world, "MW-R-801").state == "left out" or None, seconds=20, what="the refund")


def test_what_a_marketplace_keeps_is_named_in_the_tie_out(world: World) -> None:
    """Neither invoice nor receipt holds it, and nothing stays unexplained."""
    calls = world.calls
    calls.create_company(**facts()["irish_company"])
    demo_client.connect(world.stack, calls, "irish_books", company="irish_company", world=world.slug)
    demo_client.connect(world.stack, calls, "lanternfair", company="irish_company", world=world.slug)
    demo_client.lay(calls, "fair_eur_bridge")
    bridge = facts()["fair_eur_bridge"]["slug"]
    world.run(bridge)
    sales = [sale for sale in first_sales()["sales"] if sale["money"] == "EUR" and sale["progress"] != "unpaid"]
    kept = sum(tax["minor"] for sale in sales for part in (*sale["items"], sale["postage"]) for tax in part["taxes"]
               if tax["goes_to"] == "fair")  # fmt: skip
    euros = next(one for one in calls.tie_out(bridge=bridge).sales if one.currency == "EUR")
    assert (euros.part("withheld by a marketplace").gross, euros.unexplained.gross) == (Decimal(kept) / 100, 0)
    assert kept > 0
    paid = [one["said"] for one in world.held_by("ledger")["payments-in"]]
    assert sum(Decimal(one["sum"]) for one in paid) == euros.books.gross


def test_cash_that_was_rounded_stands_on_a_line_of_its_own(world: World) -> None:
    """13.94 were paid with 13.95: the penny that no coin could say is planned, and another that the tax leaves."""
    (money,) = shop_order(FIRST)["received"]
    order = shop_order(FIRST, rounding="0.01", total="13.95", received=[{**money, "sum": "13.95"}])
    world.put_orders(order, reset=True)
    assert world.run().counts.carried == 1, crossing(world, FIRST).findings
    (invoice,) = live(world, "invoice")
    assert [(line["account"], line["net"]) for line in invoice["lines"][2:]] == [("8200", "0.01"), ("8200", "0.01")]
    assert invoice["gross"] == "13.95"


def test_a_refund_that_names_an_order_by_what_no_text_may_hold_stops_no_other(world: World) -> None:
    """Its order is asked for before the page is kept: the one with a null character is held by itself."""
    world.run()
    world.put("web-shop", refunds=[refund(), refund(802, order_id="50002\u0000")])
    assert world.run().state == "ended"
    assert (crossing(world, "MW-R-801").state, crossing(world, "MW-R-802").cause) == ("carried", "source-invalid")
