"""Small balances that a run gives up, through the service into both books."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.month import irish_shop
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import tied
from tests.carriage.test_money import crossing, live, refund
from tests.carriage.test_other_bridges import IRISH
from tests.support.changing import FIRST, three_skeins
from tests.support.world import BRIDGE, World, new_world, shop_order

GIVEN_UP = "\nwrite_offs:\n  up_to: 0.50\n  after_days: 14\n"


def rules(after: str = "14") -> str:
    """The demo's rules, by which fifty pence are given up after fourteen days."""
    text = rulebook_text(BRIDGE).replace('  rounding: "8200"', '  rounding: "8200"\n  write_offs: "8400"', 1)
    return text + GIVEN_UP.replace("14", after)


def paid(amount: str, **fields: Any) -> dict[str, Any]:
    """The order of 13.94, with so much of it paid."""
    order = shop_order(FIRST)
    return {**order, "received": [{**order["received"][0], "sum": amount}], **fields}


@pytest.fixture
def short(stack: Stack, owner: str) -> World:
    """An order of 13.94 that was paid with 13.90, carried."""
    world = new_world(stack, owner, rules=rules())
    world.put_orders(paid("13.90"), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


def test_the_next_run_gives_up_what_is_small_and_old(short: World) -> None:
    """0.04 against the invoice, on the account of write-offs; once, and the month ties as before."""
    assert live(short, "write_off") == []
    assert short.run().counts.carried == 1
    (made,), (invoice,) = live(short, "write_off"), live(short, "invoice")
    assert (made["amount"], made["account"], made["owed_by"]) == ("0.04", "8400", "customer")
    assert made["settles"] == [{"reference": invoice["reference"], "amount": "0.04"}]
    assert invoice["paid"] == invoice["gross"]
    found = crossing(short, FIRST)
    assert [(one.role, one.state) for one in found.documents] == [
        ("invoice", "proved"), ("payment", "proved"), ("write-off", "proved")]  # fmt: skip
    (note,) = [finding for finding in found.findings if finding.id == "WRITE-N001"]
    assert "The customer owes 0.04 GBP since 2026-10-0" in note.text
    tied(short)
    assert short.run().counts.carried == 0
    assert len(live(short, "write_off")) == 1


def test_what_was_paid_too_much_is_given_up_the_other_way(stack: Stack, owner: str) -> None:
    """13.99 for 13.94: 0.05 stand open on the contact."""
    world = new_world(stack, owner, rules=rules())
    world.put_orders(paid("13.99"), reset=True)
    world.run()
    world.run()
    (made,) = live(world, "write_off")
    assert (made["amount"], made["owed_by"], made["settles"]) == ("0.05", "company", [])


@pytest.mark.parametrize("total", ["11.00", "eleven"])
def test_nothing_is_given_up_too_early_or_beside_a_refund_that_is_held(stack: Stack, owner: str, total: str) -> None:
    """Ten years are not over; and of a refund that is held nobody knows what it takes off."""
    world = new_world(stack, owner, rules=rules("3650"))
    world.put_orders(paid("13.90"), reset=True)
    bridge = world.calls.bridge(BRIDGE)
    bridge.switch_lane("refunds", on=True)
    world.run()
    world.run()
    assert live(world, "write_off") == []
    bridge.publish_rulebook(bridge.write_rulebook(rules()).number)
    # Its parts do not come to its total, or it tells none that anybody can read: a person looks.
    world.put("web-shop", refunds=[refund(total=total)])
    world.run()
    assert crossing(world, "MW-R-801").state == "held"
    world.run()
    assert live(world, "write_off") == []


def test_left_without_an_answer_it_is_given_up_once(short: World) -> None:
    """The books take it and their answer is lost: it is found again by its reference."""
    short.misbehave("erp", {"call": "write_offs.create", "kind": "cut", "times": 1})
    short.run()
    short.settled()
    assert len(live(short, "write_off")) == 1
    assert crossing(short, FIRST).state == "carried"


def test_a_sale_that_changes_after_that_goes_on(short: World) -> None:
    """Two skeins more, 19.98: the further invoice is open, what was given up stays."""
    short.run()
    short.put_orders(three_skeins(received=paid("13.90")["received"]))
    short.run()
    found = crossing(short, FIRST)
    assert [one.role for one in found.documents] == ["invoice", "payment", "write-off", "invoice"]
    assert found.state == "carried"
    assert len(live(short, "write_off")) == 1


def test_the_ledger_takes_them_too(stack: Stack, owner: str) -> None:
    """In EUR, on its own account."""
    world = new_world(stack, owner, set_up=True)
    order = next(one for one in irish_shop()["orders"] if one["state"] == "paid" and one["placed"] > "2026-10-05")
    money = {**order["received"][0], "sum": f"{float(order['total']) - 0.03:.2f}"}
    told = {**order, "received": [money], "total": order["total"]}
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=[told])
    text = rulebook_text(IRISH).replace('  rounding: "790"', '  rounding: "790"\n  write_offs: "796"', 1)
    bridge = world.calls.bridge(IRISH)
    bridge.publish_rulebook(bridge.write_rulebook(text + GIVEN_UP).number)
    world.run(IRISH)
    world.run(IRISH)
    (made,) = world.held_by("ledger")["write-offs"]
    assert (made["said"]["sum"], made["said"]["account"], made["state"]) == ("0.03", "796", "released")
