"""Bridges to other books: a ledger with idempotency keys that takes tax as given, and a contact list."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import psycopg
import pytest
from lxml import etree

from inkwell_bridge.client import Conflict
from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, World, new_world

IRISH, CONTACTS = "irish-shop-to-ledger", "web-shop-to-contact-list"
ORDERS = 6


def orders() -> list[dict[str, Any]]:
    """The first Irish orders, all of which are carried."""
    return list(month.irish_shop()["orders"][:ORDERS])


@pytest.fixture
def irish(stack: Stack, owner: str) -> World:
    """A client with the Irish shop and its ledger."""
    world = new_world(stack, owner)
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=orders())
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    return world


def assert_all_stand_once(world: World) -> None:
    """By the ledger's own account: each order once, released, at the shop's total; each buyer once."""
    invoices = [one for one in world.held_by("ledger")["invoices"] if one["state"] != "void"]
    assert {one["state"] for one in invoices} == {"released"}
    numbers = sorted(etree.fromstring(one["body"].encode()).findtext("{*}OrderReference/{*}ID") for one in invoices)
    assert numbers == sorted(order["reference"] for order in orders())
    assert sorted(one["gross"] for one in invoices) == sorted(order["total"] for order in orders())
    contacts = [one["email"] for one in world.held_by("ledger")["contact"] if one["email"]]
    assert sorted(contacts) == sorted({order["shopper"]["email"] for order in orders()})


def test_orders_cross_into_a_ledger_as_given(irish: World) -> None:
    """Net, tax and gross as the shop charged them: nothing to round. Again, and nothing is made twice."""
    run = irish.run(IRISH)
    assert (run.counts.read, run.counts.carried) == (ORDERS, ORDERS)
    (sides,) = run.totals
    assert (sides.currency, sides.difference.gross, sides.difference.tax) == ("EUR", Decimal(0), Decimal(0))
    assert all(document.difference == 0 for document in irish.calls.documents())
    assert_all_stand_once(irish)
    assert irish.run(IRISH).counts.carried == 0
    assert_all_stand_once(irish)


@pytest.mark.parametrize(
    "rule",
    [
        {"call": "invoices.create", "kind": "silent", "times": 2},
        {"call": "invoices.create", "kind": "late", "seconds": 2.5, "times": 2},
        {"call": "invoices.create", "kind": "broken", "times": 2},
        {"call": "invoices.create", "kind": "said", "body": "<a/>", "content_type": "application/xml", "times": 2},
        {"call": "contacts.create", "kind": "silent", "times": 2},
        {"call": "contacts.create", "kind": "late", "seconds": 2.0, "times": 2},
        {"call": "invoices.post", "kind": "silent", "times": 2},
    ],
    ids=lambda rule: f"{rule['call']}-{rule['kind']}",
)
def test_after_an_unknown_outcome_the_same_key_is_used(irish: World, rule: dict[str, object]) -> None:
    """The ledger did it and said nothing, did it late, or did nothing: each stands there once."""
    irish.misbehave("ledger", rule)
    irish.run(IRISH)
    irish.settled()
    assert irish.misbehaved("ledger")[0]["struck"] == rule["times"]
    assert_all_stand_once(irish)


def test_a_closed_period_of_the_ledger_holds_with_its_reason(irish: World) -> None:
    """In the ledger's own words; opened again and released, it crosses."""
    company = {name: value for name, value in facts()["irish_books"].items() if name not in demo_client.LISTS}
    irish.put("ledger", company={**company, "closed_until": "2026-10-03"})
    run = irish.run(IRISH)
    assert (run.counts.carried, run.counts.held) == (ORDERS - 2, 2)
    held = list(irish.calls.crossings(state=["held"]))
    assert {row.cause for row in held} == {"period-locked"}
    assert "closed up to 2026-10-03" in str(irish.calls.crossing(held[0].id).findings)
    irish.put("ledger", company=company)
    irish.calls.release(cause="period-locked")
    irish.settled()
    assert_all_stand_once(irish)


def test_customers_cross_to_the_contact_list_once(irish: World) -> None:
    """Each a contact; one without an e-mail waits for a person; again, and nothing is made twice."""
    irish.put("web-shop", customers=month.customers())
    run = irish.run(CONTACTS)
    assert (run.counts.read, run.counts.carried, run.counts.held) == (15, 14, 1)
    people = irish.held_by("contact-list")["person"]
    assert len(people) == len({person["email"] for person in people}) == 14
    assert {"Aoife O'Driscoll", "Ελένη Παπαδοπούλου", "結衣 田中"} <= {person["name"] for person in people}
    assert irish.run(CONTACTS).counts.carried == 0
    assert irish.held_by("contact-list")["person"] == people
    assert irish.calls.tie_out(bridge=CONTACTS).rows == []


def test_customers_go_on_at_once_when_the_contact_list_is_back(irish: World) -> None:
    """One asks for all of them while it is away; the first that is answered lets the others go."""
    # One without an e-mail is held without a call, whether the list is away or not: it would be counted by chance.
    irish.put("web-shop", customers=[customer for customer in month.customers() if customer["email"]])
    irish.misbehave("contact-list", {"call": "people.search", "kind": "broken", "times": 1000})
    assert irish.run(CONTACTS).counts.waiting == 14
    irish.misbehave("contact-list")
    irish.settled()
    assert len(irish.held_by("contact-list")["person"]) == 14
    with psycopg.connect(irish.stack.environment["DATABASE_URL"]) as db:
        row = db.execute(
            "SELECT end_.away_until, end_.away_count FROM connections_connection AS end_ JOIN people_workspace AS w "
            "ON w.id = end_.workspace_id WHERE w.slug = %s AND end_.kind = 'contact-list'",
            [irish.slug],
        ).fetchone()
    assert row == (None, 0)


def test_a_customer_who_changed_stays_the_same_contact(irish: World) -> None:
    """Another phone, then another e-mail: amended, never made anew."""
    aoife = month.customers()[0]
    irish.put("web-shop", customers=[aoife])
    irish.run(CONTACTS)
    for minute, change in ((1, {"phone": "020 7946 0999"}), (2, {"email": "aoife@elsewhere.example"})):
        aoife = {**aoife, **change, "last_change": f"2026-10-30T10:0{minute}:00+00:00"}
        irish.put("web-shop", customers=[aoife])
        assert irish.run(CONTACTS).counts.carried == 1
    (person,) = irish.held_by("contact-list")["person"]
    assert (person["phone"], person["email"]) == ("020 7946 0999", "aoife@elsewhere.example")


def test_a_customers_snapshot_holds_nobody(irish: World) -> None:
    """Who it is stands sealed, apart."""
    irish.put("web-shop", customers=month.customers())
    irish.run(CONTACTS)
    with psycopg.connect(irish.stack.environment["DATABASE_URL"]) as db:
        said = str(db.execute("SELECT content FROM carriage_snapshot WHERE kind = 'customers'").fetchall())
        said += str(db.execute("SELECT planned, findings FROM carriage_crossing WHERE kind = 'customers'").fetchall())
    assert "retail" in said
    assert "Driscoll" not in said
    assert "@" not in said


def test_a_rulebook_that_says_nothing_of_orders_carries_none(irish: World) -> None:
    """The run says so before it begins."""
    irish.calls.bridge(CONTACTS).switch_lane("orders", on=True)
    with pytest.raises(Conflict, match="says nothing of orders"):
        irish.calls.bridge(CONTACTS).run()


def test_what_is_open_is_read_again_though_its_time_stands_still(world: World) -> None:
    """An order that is paid without its time of change moving crosses at the next run."""
    (order,) = [one for one in world.held_by("web-shop")["order"] if one["reference"] == "MW-10043"]
    world.run()
    world.put_orders({**order, "state": "paid"})
    second = world.run()
    assert (second.counts.carried, second.counts.unchanged) == (1, 4)
    assert [row.state for row in world.calls.crossings(search="MW-10043")] == ["carried"]


def test_what_could_not_be_understood_is_read_again_until_it_can_be(small: World) -> None:
    """Mended at the shop, though its time of change did not move."""
    (good,) = [one for one in small.held_by("web-shop")["order"] if one["reference"] == "MW-10003"]
    small.put_orders({**good, "total": "lots"})
    small.run()
    assert [row.state for row in small.calls.crossings(search="MW-10003")] == ["held"]
    small.put_orders(good)
    small.run()
    assert [row.state for row in small.calls.crossings(search="MW-10003")] == ["carried"]


def test_what_a_page_left_out_is_found_within_a_day(small: World) -> None:
    """Once a day a run looks days back."""
    small.misbehave("shop", {"call": "orders", "kind": "skip", "skip": 1})
    first = small.run()
    with psycopg.connect(small.stack.environment["DATABASE_URL"]) as db:
        db.execute("UPDATE bridges_lane SET looked_back_at = looked_back_at - interval '1 day' WHERE workspace_id = "
                   "(SELECT id FROM people_workspace WHERE slug = %s)", [small.slug])  # fmt: skip
    assert small.run().counts.carried == 1
    assert len(small.invoices()) == first.counts.carried + 1


def test_pages_that_lead_on_without_an_end_fail_the_run_with_its_reason(small: World) -> None:
    """In a circle, or on and on without a document."""
    small.calls.bridge(BRIDGE)
    link = f"{small.stack.shop}/{small.slug}/api/orders?limit=25&after=2026-12-01T00:00:00~1"
    small.put("web-shop", shop={**facts()["web_shop"], "leads_to": link})
    run = small.run()
    assert run.state == "failed"
    assert "lead in a circle" in run.trouble


def test_a_page_that_repeats_makes_nothing_twice(small: World) -> None:
    """The same order twice on one page, and again on the next."""
    small.misbehave("shop", {"call": "orders", "kind": "repeat", "times": 2})
    small.run()
    orders_in_books = [invoice["order"] for invoice in small.invoices()]
    assert len(orders_in_books) == len(set(orders_in_books))


@pytest.mark.parametrize("change", [{"type": "liability"}, {"code": "4001"}])
def test_an_account_that_went_or_changed_its_type_stops_what_uses_it(small: World, change: dict[str, str]) -> None:
    """Found before an order trips on it, with the account by its code."""
    accounts = [{**one, **change} if one["code"] == "4000" else one for one in facts()["books"]["accounts"]]
    small.put("erp", accounts=accounts)
    small.run()
    (held,) = {row.cause for row in small.calls.crossings(state=["held"])}
    assert held == "reference-missing"
    first = next(small.calls.crossings(state=["held"]))
    assert "account 4000" in str(small.calls.crossing(first.id).findings)
    assert small.calls.bridge(BRIDGE).read().slug == BRIDGE


def test_the_shops_own_names_are_loaded_as_the_books_are(world: World) -> None:
    """Tax classes with all their rates, for whoever writes the rules."""
    loaded = world.calls.connection("web-shop").load_master_data()
    classes = {one["name"]: len(one["rates"]) for one in loaded.content["tax_classes"]}
    assert (classes["standard"], classes["us-sales"]) == (1, 3)


def test_kinds_of_ends_tell_what_they_can_do(world: World) -> None:
    """Before anything is connected."""
    kinds = {kind.name: kind.capabilities for kind in world.client.kinds()}
    assert (kinds["erp"]["tax"], kinds["ledger"]["tax"]) == ("computed", "given")
    assert (kinds["erp"]["idempotency_keys"], kinds["ledger"]["idempotency_keys"]) == (False, True)
    assert "orders" in kinds["web-shop"]["lists"]


@pytest.mark.parametrize("kind", ["", "lost"])
def test_opening_balances_in_a_ledger_with_keys(irish: World, kind: str) -> None:
    """55.00 still to come from the provider, out of the bank's balance; an answer that was lost makes no second one."""
    if kind:
        irish.misbehave("ledger", {"call": "journals.create", "kind": "cut", "times": 1})
    bridge = irish.calls.bridge(IRISH)
    bridge.change(starts_on=date(2026, 10, 1))
    bridge.enter_opening(against="120", balances=[{"of": "clearing", "amount": "55.00", "account": "115"}])
    irish.settled()
    assert bridge.opening().state == "carried"
    (journal,) = [one for one in irish.held_by("ledger")["journals"] if one["state"] == "released"]
    assert [(row["account"], row["own"]) for row in journal["said"]["rows"]] == [("115", "55.00"), ("120", "-55.00")]
