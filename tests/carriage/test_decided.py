"""Which orders cross is asked until something of them is posted, and never after."""

from __future__ import annotations

from decimal import Decimal

import psycopg
import pytest

from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, World, invoices_alone, new_world, shop_order, wait_for

FIRST, LATER = "MW-10003", "2026-10-30T10:00:00Z"


@pytest.fixture
def one(stack: Stack, owner: str) -> World:
    """A shop with one order of 13.94."""
    world = new_world(stack, owner)
    world.put_orders(shop_order(FIRST), reset=True)
    return world


def rules(world: World, *changes: tuple[str, str], text: str = "") -> None:
    """Publish the rules with some words of them changed."""
    said = text or invoices_alone()
    for before, after in changes:
        assert before in said
        said = said.replace(before, after)
    calls = world.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(said).number)


def state(world: World) -> tuple[str, str]:
    """What became of the order."""
    (found,) = world.calls.crossings(search=FIRST)
    return found.state, found.left_out_by or found.cause


def test_a_status_that_the_rules_do_not_name_leaves_what_is_posted_alone(one: World) -> None:
    """Paid orders cross; the shop completes one afterwards, and it stays carried."""
    rules(one, ("statuses: [paid, completed]", "statuses: [paid]"))
    one.run()
    invoices = one.invoices()
    one.put_orders(shop_order(FIRST, state="completed", last_change=LATER))
    assert one.run().counts.carried == 1
    assert (state(one), one.invoices()) == (("carried", ""), invoices)


def test_before_it_is_posted_it_is_asked_each_time(one: World) -> None:
    """Left out as completed, by the same rules, and carried as paid."""
    rules(one, ("statuses: [paid, completed]", "statuses: [paid]"))
    one.put_orders(shop_order(FIRST, state="completed"))
    one.run()
    assert state(one) == ("left out", "/orders/statuses")
    one.put_orders(shop_order(FIRST, state="paid", last_change=LATER))
    one.run()
    assert state(one) == ("carried", "")


def test_a_new_rule_leaves_nothing_out_that_is_posted(one: World) -> None:
    """The order is read again after a rule that would not have let it cross."""
    one.run()
    rules(one, ("statuses: [paid, completed]", "statuses: [completed]"))
    one.put_orders(shop_order(FIRST, labels=["looked at"], last_change=LATER))
    assert one.run().counts.carried == 1
    assert state(one) == ("carried", "")


def test_a_tag_that_is_taken_away_lets_an_order_go(one: World) -> None:
    """A rule reads tags; so a change of them is a change, though it is none for the books."""
    leave = "  leave_out:\n    - {name: waits for a word, when: '\"wait\" in order.tags'}\n"
    text = invoices_alone()
    assert "orders:\n" in text
    if "leave_out:" in text:
        text = text.replace("  leave_out:\n", leave, 1)
    else:
        text = text.replace("orders:\n", f"orders:\n{leave}", 1)
    rules(one, text=text)
    one.put_orders(shop_order(FIRST, labels=["wait"]))
    one.run()
    assert state(one) == ("left out", "waits for a word")
    one.put_orders(shop_order(FIRST, labels=[], last_change=LATER))
    one.run()
    assert state(one) == ("carried", "")


def test_an_email_that_is_added_at_the_shop_is_seen(one: World) -> None:
    """Held for want of an e-mail; people are no part of the figures, and yet the order is planned anew."""
    order = shop_order(FIRST)
    rules(one, text=invoices_alone().replace("  without_email: WEB-GUEST\n", ""))
    one.put_orders({**order, "shopper": {**order["shopper"], "email": ""}})
    one.run()
    assert state(one) == ("held", "customer-unclear")
    one.put_orders({**order, "last_change": LATER})
    one.run()
    assert state(one) == ("carried", "")


def test_a_total_that_changes_after_posting_is_held(one: World) -> None:
    """That matters to the books; they are not touched, and the snapshot it was posted from is kept."""
    one.run()
    invoices = one.invoices()
    order = shop_order(FIRST)
    row = {**order["basket"][0], "sum": str(Decimal(order["basket"][0]["sum"]) + 1)}
    changed = {**order, "basket": [row, *order["basket"][1:]], "total": str(Decimal(order["total"]) + 1)}
    one.put_orders({**changed, "last_change": LATER})
    one.run()
    assert state(one)[0] == "held"
    assert one.invoices() == invoices
    with psycopg.connect(one.stack.environment["DATABASE_URL"]) as db:
        kept, now = db.execute(
            "SELECT posted.content ->> 'total', snapshot.content ->> 'total' FROM carriage_crossing AS crossing "
            "JOIN people_workspace AS workspace ON workspace.id = crossing.workspace_id "
            "JOIN carriage_snapshot AS posted ON posted.id = crossing.posted_snapshot_id "
            "JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id WHERE workspace.slug = %s",
            [one.slug],
        ).fetchone() or ("", "")
    assert (Decimal(kept), Decimal(now)) == (Decimal("13.94"), Decimal("14.94"))


def test_two_bridges_from_one_shop_into_the_same_books_make_one_document(one: World) -> None:
    """The second says by which the order crossed, and leaves it alone."""
    one.run()
    first = one.calls.bridge(BRIDGE).read()
    one.client.workspace(one.slug).create_bridge(
        slug="again", name="The same again", source=first.source, books=first.books, company=first.company
    )
    calls = one.calls.bridge("again")
    calls.publish_rulebook(calls.write_rulebook(invoices_alone()).number)
    calls.switch_lane("orders", on=True)
    run = one.run("again")
    assert (run.counts.left_out, run.counts.carried) == (1, 0)
    (left,) = one.calls.crossings(state=["left out"])
    assert left.left_out_by == f"carried over {BRIDGE}"
    assert len(one.invoices()) == 1


def test_a_contact_that_was_merged_in_the_books_is_looked_for_again(one: World) -> None:
    """The link leads nowhere any more: the books refuse, the buyer is found anew, and the order crosses by itself."""
    one.run()
    (contact,) = [each for each in one.books()["contact"] if each["id"] == one.invoices()[0]["contact"]]
    with psycopg.connect(one.stack.environment["DATABASE_URL"], autocommit=True) as db:
        db.execute(
            "UPDATE carriage_contactlink SET books_id = '987654' FROM people_workspace AS workspace "
            "WHERE workspace.id = carriage_contactlink.workspace_id AND workspace.slug = %s AND books_id = %s",
            [one.slug, str(contact["id"])],
        )
    order = shop_order(FIRST)
    one.put_orders({**order, "id": 70_001, "reference": "MW-70001", "last_change": LATER})
    one.run()
    one.settled()
    second = next(invoice for invoice in one.invoices() if invoice["order"] == "MW-70001")
    assert second["contact"] == contact["id"]
    assert len([each for each in one.books()["contact"] if each["email"] == contact["email"]]) == 1


def test_money_keeps_its_own_day(stack: Stack, owner: str) -> None:
    """Paid the day before the invoice's own date: the receipt says so, and why."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    order = shop_order(FIRST)
    (money,) = order["received"]
    placed = order["placed"][:10]
    world.put_orders({**order, "received": [{**money, "when": "2026-10-01T09:00:00Z"}]}, reset=True)
    world.run()
    (found,) = world.calls.crossings(search=FIRST)
    invoice, receipt = found.documents
    assert (str(invoice.date), str(receipt.date)) == (placed, "2026-10-01")
    spread = world.calls.crossing(found.id)
    (why,) = [reason for reason in spread.reasons if reason["target"] == "/documents/1/date"]
    assert (why["rule"], why["sources"]) == ("planner:money-date", ["/payments/0/paid_at"])
    assert receipt.external_reference.endswith(f":payment:{money['transaction']}")
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        rows = db.execute(
            "SELECT movement.transaction, movement.kind, movement.amount, document.external_reference "
            "FROM carriage_moneymovement AS movement JOIN people_workspace AS workspace "
            "ON workspace.id = movement.workspace_id JOIN carriage_document AS document "
            "ON document.id = movement.document_id WHERE workspace.slug = %s",
            [world.slug],
        ).fetchall()
    assert rows == [(money["transaction"], "charge", Decimal("13.94"), receipt.external_reference)]


def test_an_end_that_is_away_is_asked_by_one_for_all(small: World) -> None:
    """Twenty-eight documents wait; while the books are away they are asked once in a while, not by each document."""
    small.misbehave("erp", {"call": "invoices.list", "kind": "broken", "times": 1000})
    run = small.run()
    assert run.counts.waiting == 28
    before = small.misbehaved("erp")[0]["struck"]
    wait_for(lambda: small.misbehaved("erp")[0]["struck"] > before or None, seconds=20, what="a probe")
    # Each lot asks once for all of its orders, and may do so before the first of them has told the others.
    assert small.misbehaved("erp")[0]["struck"] < 6
    small.misbehave("erp")
    small.settled()
    assert len(small.invoices()) == 28
