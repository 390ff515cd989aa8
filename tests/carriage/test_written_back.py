"""What the shop is told of an order once it is carried, by rule."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest

from inkwell_bridge.client.models import Spread
from inkwell_bridge.launch import demo_client
from tests.support.world import BRIDGE, FEW, HTTP, World, invoices_alone

TOLD = '  written_back:\n    tag: in the books\n    note: "Invoice {number}: {link}"\n'


def at_the_shop(world: World, number: str) -> dict[str, Any]:
    """An order as the shop has it."""
    return next(one for one in world.held_by("web-shop")["order"] if one["reference"] == number)


def spread(world: World, number: str) -> Spread:
    """An order and what became of it."""
    return world.calls.crossing(next(one.id for one in world.calls.crossings() if one.number == number))


def by_rules(world: World, more: str) -> World:
    """The world under rules that say something more of orders."""
    calls = world.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(invoices_alone().replace("orders:\n", f"orders:\n{more}", 1)).number)
    return world


@pytest.fixture
def telling(small: World) -> World:
    """A world whose shop is told of what was carried."""
    return by_rules(small, TOLD)


def test_the_shop_is_told_the_number_and_link_of_the_invoice(telling: World) -> None:
    """Once: neither what was written nor the shop's new time of change makes it another order."""
    telling.run()
    order, (document,) = at_the_shop(telling, "MW-10006"), spread(telling, "MW-10006").documents
    assert order["labels"] == ["in the books"]
    assert [remark["text"] for remark in order["remarks"]] == [f"Invoice {document.books_number}: {document.link}"]
    assert HTTP.get(document.link).status_code == 200
    again = telling.run()
    assert again.counts.read == again.counts.unchanged > 0
    history = [event.kind for event in spread(telling, "MW-10006").history]
    assert (history.count("reported"), history.count("changed")) == (2, 0)
    # Something else that changed there counts, beside what we wrote ourselves.
    telling.put_orders({**at_the_shop(telling, "MW-10006"), "labels": ["in the books", "gift"],
                        "last_change": datetime.now(UTC).isoformat()})  # fmt: skip
    telling.run()
    history = [event.kind for event in spread(telling, "MW-10006").history]
    assert (history.count("changed"), history.count("reported")) == (1, 2)
    assert len(telling.invoices()) == FEW


def test_a_shop_that_does_not_listen_is_told_later_and_nothing_is_posted_again(telling: World) -> None:
    """Busy at first."""
    telling.misbehave("shop", {"call": "orders.label", "kind": "busy", "times": 5})
    telling.run()
    telling.settled()
    assert all(at_the_shop(telling, invoice["order"])["labels"] == ["in the books"] for invoice in telling.invoices())
    assert len(telling.invoices()) == FEW


def test_a_shop_that_may_not_be_written_to_holds_nothing_up(telling: World) -> None:
    """It is said as a warning; the documents stand."""
    shop = {**demo_client.facts()["web_shop"], "permissions": ["read orders", "read customers", "read products"]}
    telling.put("web-shop", shop=shop)
    telling.run()
    found = spread(telling, "MW-10006")
    assert (found.state, found.documents[0].state) == ("carried", "proved")
    assert "BACK-W001" in {finding.id for finding in found.findings}


def test_an_order_that_the_shop_marks_is_not_carried_by_rule(small: World) -> None:
    """A mark set by hand there is a tag like any other."""
    by_rules(small, "  only: '!(\"do not carry\" in order.tags)'\n")
    small.put_orders({**at_the_shop(small, "MW-10006"), "labels": ["do not carry"]})
    small.run()
    found = spread(small, "MW-10006")
    assert (found.state, found.left_out_by) == ("left out", "/orders/only")
