"""The first set-up of a bridge as a checklist; one order tried, then sent."""

from __future__ import annotations

from datetime import date

import pytest

from inkwell_bridge.client import Conflict
from inkwell_bridge.launch import demo_client
from tests.support.ends import CUSTOMER, PRODUCT
from tests.support.world import BRIDGE, World


@pytest.fixture
def bare(world: World) -> World:
    """A bridge whose lane is off."""
    world.calls.bridge(BRIDGE).switch_lane("orders", on=False)
    return world


def states(world: World) -> dict[str, str]:
    """How each step stands."""
    return {step.id: step.state for step in world.calls.bridge(BRIDGE).setup()}


def test_the_steps_in_the_order_of_the_work(bare: World) -> None:
    """Each says what is missing and why it matters; what nothing runs without is marked."""
    steps = bare.calls.bridge(BRIDGE).setup()
    assert [(step.id, step.state, step.needed) for step in steps] == [
        ("connect-source", "done", True), ("connect-books", "done", True), ("load", "open", False),
        ("link-products", "open", False), ("link-customers", "open", False), ("rules", "done", True),
        ("try", "open", False), ("start-date", "open", False), ("opening", "open", False), ("lanes", "open", True),
    ]  # fmt: skip
    assert all(step.text and step.why for step in steps)
    load = next(step for step in steps if step.id == "load")
    assert load.text == (
        "Not loaded yet: lists of Marrowby web shop, products of Marrowby web shop, customers of Marrowby web shop, "
        "lists of Marrowby UK books, items of Marrowby UK books, contacts of Marrowby UK books."
    )


def test_it_is_done_step_by_step(bare: World) -> None:
    """Left and taken up again: it looks at what is so, and remembers nothing."""
    bare.put("erp", articles=[{"code": "YRN-MER4-HEA", "name": "Merino"}])
    bare.put("web-shop", products=[PRODUCT], customers=[CUSTOMER])
    bare.matched("products")
    bare.loaded("web-shop")
    bare.loaded("uk-books")
    found = states(bare)
    assert (found["load"], found["link-products"], found["link-customers"]) == ("done", "done", "attention")
    bridge = bare.calls.bridge(BRIDGE)
    bridge.links("customers").answer("912")
    bare.ended(bridge.run("MW-10003"))
    bridge.change(starts_on=date(2026, 10, 1))
    bridge.switch_lane("orders", on=True)
    # What stands open at the cut-over is for those who have something open.
    assert {name for name, state in states(bare).items() if state != "done"} == {"opening"}


def test_trouble_is_told_where_it_is(bare: World) -> None:
    """A missing right, and a version that names what is not there."""
    bare.change_books(permissions=["read accounts"])
    bare.calls.connection("uk-books").check()
    step = next(step for step in bare.calls.bridge(BRIDGE).setup() if step.id == "connect-books")
    assert step.state == "attention"
    assert step.text.startswith("Missing rights. read contacts: In the ERP")


def test_one_order_is_tried_without_sending_anything(bare: World) -> None:
    """What it would become, with the reason of every amount; by a draft as well."""
    bridge = bare.calls.bridge(BRIDGE)
    tried = bridge.try_order("MW-10003")
    assert (tried.number, tried.outcome, tried.rulebook) == ("MW-10003", "carry", 1)
    (invoice,) = tried.documents
    assert [(line["account"], line["net"]) for line in invoice["lines"]] == [("4000", "8.32"), ("4100", "3.29")]
    assert any(reason["text"].startswith("The price of 9.99") for reason in tried.reasons)
    assert "email" not in str(tried.order)
    text = demo_client.rulebook_text(BRIDGE).replace('shipping: "4100"', 'shipping: "4000"')
    draft = bridge.write_rulebook(text)
    invoice, receipt = bridge.try_order("MW-10003", rulebook=draft.number).documents
    assert (receipt["role"], receipt["account"]) == ("payment", "1250")
    assert [line["account"] for line in invoice["lines"]] == ["4000", "4000"]
    assert list(bare.calls.crossings()) == []
    assert bare.invoices() == []


def test_what_cannot_be_tried_says_why(bare: World) -> None:
    """An order that is not there; an end that does not answer."""
    bridge = bare.calls.bridge(BRIDGE)
    with pytest.raises(Conflict, match=r"Marrowby web shop: .*has no such thing"):
        bridge.try_order("MW-77777")
    bare.misbehave("shop", {"call": "order", "kind": "revoked"})
    with pytest.raises(Conflict, match="revoked"):
        bridge.try_order("MW-10003")


def test_one_order_is_sent_while_every_lane_is_off(bare: World) -> None:
    """That one and no other."""
    run = bare.ended(bare.calls.bridge(BRIDGE).run("MW-10003"))
    assert (run.counts.read, run.counts.carried) == (1, 1)
    assert [invoice["order"] for invoice in bare.invoices()] == ["MW-10003"]
    failed = bare.ended(bare.calls.bridge(BRIDGE).run("MW-77777"))
    assert (failed.state, "has no such thing" in failed.trouble) == ("failed", True)
