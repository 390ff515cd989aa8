"""Which documents an order becomes, on which items, to whom and under which number: carried, and asked of the books."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from inkwell_bridge.demo import month
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import FIRST, SKEIN, crossing, live, refund
from tests.carriage.test_other_bridges import IRISH
from tests.cli.test_cli import command
from tests.service.test_links import product
from tests.support.ends import CUSTOMER
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

SECOND = "MW-10006"
SOCK = "YRN-SOCK-FEN"
LEFT = "2026-10-05T10:00:00+01:00"
FOLLOWS = "become: sales order\n  invoiced: {when: 'order.dispatched_on != \"\"'}\n"


def paid_ahead() -> dict[str, Any]:
    """An order of which the first skein is a deposit."""
    order = shop_order(FIRST)
    return {**order, "basket": [{**order["basket"][0], "nature": "down payment"}]}


def rules(*changes: tuple[str, str]) -> str:
    """The demo's rules, changed."""
    text = rulebook_text(BRIDGE)
    for before, after in changes:
        assert before in text
        text = text.replace(before, after)
    return text


DEPOSITS = rules(("become: invoice\n", "become: invoice\n  delivered: {when: 'order.dispatched_on != \"\"'}\n"),
                 ('  gift_cards: "2310"\n', '  gift_cards: "2310"\n  deposits: "2300"\n'))  # fmt: skip


def a_world(stack: Stack, owner: str, text: str, *orders: dict[str, Any]) -> World:
    """A client with these rules and orders."""
    made = new_world(stack, owner, rules=text)
    made.put_orders(*(orders or (shop_order(FIRST),)), reset=True)
    return made


def tie(world: World) -> list[Any]:
    """Both sides of October."""
    return list(world.calls.tie_out(first=date(2026, 10, 1), last=date(2026, 10, 31)).sales)


def sent(order: dict[str, Any]) -> dict[str, Any]:
    """An order after its parcel left."""
    event = {"event": "parcel MW-P-1", "did": "sent", "when": LEFT, "why": "MW-P-1"}
    return {**order, "state": "completed", "last_change": LEFT, "history": [event]}


def test_a_sales_order_is_invoiced_when_it_leaves(stack: Stack, owner: str) -> None:
    """First the sales order alone; then its invoice with the money; both sides tie, and a refund finds the invoice."""
    world = a_world(stack, owner, rules(("become: invoice\n", FOLLOWS)))
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.put("web-shop", refunds=[refund()])
    world.run()
    assert [one["state"] for one in live(world, "sales_order")] == ["posted"]
    assert (live(world, "invoice"), live(world, "receipt"), live(world, "credit_note")) == ([], [], [])
    assert crossing(world, "MW-R-801").cause == "invoice-first"

    world.put_orders(sent(shop_order(FIRST)))
    world.run()
    world.settled()
    (order,), (invoice,), (receipt,) = (live(world, kind) for kind in ("sales_order", "invoice", "receipt"))
    assert (order["date"], invoice["date"], invoice["sales_order"]) == ("2026-10-03", "2026-10-05", order["reference"])
    assert [part["reference"] for part in receipt["settles"]] == [invoice["reference"]]
    (credit,) = live(world, "credit_note")
    assert credit["credits"] == invoice["reference"]
    (sides,) = tie(world)
    assert (sides.source.gross, sides.books.gross, sides.books.count) == (sides.books.gross, sides.source.gross, 1)
    found = crossing(world, FIRST)
    roles = ["sales order", "invoice", "payment"]
    assert [(one.role, one.state) for one in found.documents] == [(role, "proved") for role in roles]


def test_what_was_paid_ahead_is_delivered_once(stack: Stack, owner: str) -> None:
    """A debt until the day, then a sale that deducts it, tax and all; what comes back then comes off the sale."""
    place = paid_ahead()
    world = a_world(stack, owner, DEPOSITS, place)
    world.run()
    assert [line["account"] for line in live(world, "invoice")[0]["lines"]] == ["2300", "4100", "8200"]
    world.put_orders(sent(place))
    world.run()
    first, final = live(world, "invoice")
    assert [(line["account"], line["net"], line["tax"]) for line in final["lines"]] == [
        ("4000", "8.32", "1.66"), ("2300", "-8.32", "-1.66"),
    ]  # fmt: skip
    assert (final["gross"], final["reference"]) == ("0.00", first["reference"].replace(":1", ":delivered"))
    (sides,) = tie(world)
    assert (sides.books.count, sides.difference.gross, sides.ties) == (1, 0, True)

    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.put("web-shop", refunds=[refund()])
    world.run()
    (credit,) = live(world, "credit_note")
    taken = [(line["account"], line["net"], line["tax"]) for line in credit["lines"]]
    assert (credit["credits"], taken[0], credit["gross"]) == (first["reference"], ("4000", "8.32", "1.66"), "9.99")


def test_what_is_paid_ahead_is_taxed_on_its_day(stack: Stack, owner: str, tmp_path: Path) -> None:
    """Where a payment is no tax point: all of it a debt outside tax, named between both sides until it is delivered."""
    late = DEPOSITS.replace("become: invoice\n", "become: invoice\n  deposits: taxed when delivered\n")
    world = a_world(stack, owner, late, paid_ahead())
    world.run()
    # 9.99 holds 1.67 of tax; carriage of 3.95 holds 0.66.
    (first,) = live(world, "invoice")
    assert [(line["account"], line["tax_code"], line["net"], line["tax"]) for line in first["lines"]] == [
        ("2300", "OUT", "9.99", "0.00"), ("4100", "S20", "3.29", "0.66"),
    ]  # fmt: skip
    assert crossing(world, FIRST).state == "carried"
    (sides,) = tie(world)
    waits = sides.part("tax of deposits not due yet")
    assert (waits.net, waits.tax, waits.gross) == (Decimal("-1.67"), Decimal("1.67"), 0)
    assert ([one.reason for one in sides.parts], sides.ties) == (["tax of deposits not due yet"], True)
    at = world.stack.address
    signed = {"INKWELL_ADDRESS": at, "INKWELL_TOKEN": world.token, "INKWELL_WORKSPACE": world.slug}
    printed = command(tmp_path / "profile.json")(
        "tie-out", "--from", "2026-10-01", "--to", "2026-10-31", **signed
    ).stdout
    (row,) = [line.split() for line in printed.splitlines() if line.startswith("  tax of deposits")]
    assert row == ["tax", "of", "deposits", "not", "due", "yet", "0", "-1.67", "1.67", "0.00"]

    world.put_orders(sent(paid_ahead()))
    world.run()
    final = live(world, "invoice")[-1]
    # The books compute 1.66 on 8.32, and the penny goes to the rounding account.
    assert [(line["account"], line["tax_code"], line["net"], line["tax"]) for line in final["lines"]] == [
        ("4000", "S20", "8.32", "1.66"), ("2300", "OUT", "-9.99", "0.00"), ("8200", "OUT", "0.01", "0.00"),
    ]  # fmt: skip
    (sides,) = tie(world)
    taxed = sides.part("tax computed otherwise by the books").tax
    assert (final["gross"], sides.part("tax of deposits not due yet").tax, taxed, sides.books.count) == (
        "0.00", 0, Decimal("0.01"), 1,
    )  # fmt: skip
    assert sides.ties


def two_paid_ahead(**fields: Any) -> dict[str, Any]:
    """An order of two skeins at 9.99, both paid ahead: 19.98 with 3.33 of tax, and carriage of 3.95 with 0.66."""
    order = shop_order(FIRST)
    skeins = {**order["basket"][0], "nature": "down payment", "count": 2, "sum": "19.98",
              "tax": {"class": "standard", "percent": "20", "sum": "3.33"}}  # fmt: skip
    money = {**order["received"][0], "sum": "23.93"}
    return {**order, "basket": [skeins], "received": [money], "tax": "3.99", "total": "23.93", **fields}


def with_refunds(stack: Stack, owner: str, *refunds: dict[str, Any]) -> World:
    """A world whose order of two skeins is carried, with refunds that wait to be read."""
    world = a_world(stack, owner, DEPOSITS, two_paid_ahead())
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    world.put("web-shop", refunds=list(refunds))
    return world


def standing(document: dict[str, Any]) -> list[tuple[str, str, str]]:
    """Account, net and tax of each line."""
    return [(line["account"], line["net"], line["tax"]) for line in document["lines"]]


def test_what_is_left_of_what_was_paid_ahead_is_delivered(stack: Stack, owner: str) -> None:
    """One of two given back before the day, so the other is delivered; what comes back after that comes off the sale.

    Each time the order is read again it comes to the same documents.
    """
    world = with_refunds(stack, owner, refund())
    world.run()
    (credit,) = live(world, "credit_note")
    assert standing(credit) == [("2300", "8.32", "1.66"), ("8200", "0.01", "0.00")]

    world.put_orders(sent(two_paid_ahead()))
    world.run()
    first, final = live(world, "invoice")
    # 19.98 - 9.99 is left, with 3.33 - 1.67 of tax: 8.33 net, on which the books compute 1.67, on both lines.
    assert standing(final) == [("4000", "8.33", "1.67"), ("2300", "-8.33", "-1.67")]
    # 16.65 - 8.32 - 8.33: the debt is gone.
    assert standing(first)[0] == ("2300", "16.65", "3.33")

    world.put("web-shop", refunds=[refund(802, tax="1.66", rows=[{**SKEIN, "tax": {**SKEIN["tax"], "sum": "1.66"}}])])
    world.put_orders(sent(two_paid_ahead(note="looked at again")))
    world.run()
    world.settled()
    assert standing(live(world, "credit_note")[-1])[0] == ("4000", "8.33", "1.67")
    assert (crossing(world, FIRST).state, crossing(world, "MW-R-802").state) == ("carried", "carried")
    assert len(live(world, "invoice")) == 2

    # The skein of the first refund is back on the shelf: that went before the delivery, and still comes off the debt.
    back = {**SKEIN, "back_on_shelf": True}
    world.put("web-shop", refunds=[refund(rows=[back], last_change="2026-10-31T19:55:00+00:00")])
    world.run()
    world.settled()
    again = crossing(world, "MW-R-801")
    assert (again.state, again.findings) == ("carried", [])
    assert [standing(one)[0][0] for one in live(world, "credit_note")] == ["2300", "4000"]


def test_trying_an_order_knows_what_was_given_back(stack: Stack, owner: str) -> None:
    """Before its day: what it would become once it is delivered."""
    world = with_refunds(stack, owner, refund())
    world.run()
    world.put_orders(sent(two_paid_ahead()))
    tried = world.calls.bridge(BRIDGE).try_order(FIRST)
    lines = tried.documents[1]["lines"]
    assert [(line["account"], line["net"], line["tax"]) for line in lines] == [
        ("4000", "8.33", "1.66"), ("2300", "-8.33", "-1.66"),
    ]  # fmt: skip
    assert len(live(world, "invoice")) == 1


def test_a_final_invoice_that_waits_as_a_draft_counts_as_delivered(stack: Stack, owner: str) -> None:
    """Somebody looks it over before it is posted; what comes back meanwhile comes off the sale that it says."""
    draft = DEPOSITS.replace('dispatched_on != ""\'}', 'dispatched_on != ""\', arrive: draft}')
    assert draft != DEPOSITS
    world = a_world(stack, owner, draft, paid_ahead())
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    world.put_orders(sent(paid_ahead()))
    world.run()
    assert [one["state"] for one in live(world, "invoice")] == ["posted", "draft"]
    world.put("web-shop", refunds=[refund()])
    world.run()
    world.put_orders(sent({**paid_ahead(), "note": "looked at again"}))
    world.run()
    assert standing(live(world, "credit_note")[0])[0] == ("4000", "8.32", "1.66")
    assert crossing(world, FIRST).state == "carried"
    assert [one["state"] for one in live(world, "invoice")] == ["posted", "draft"]


def test_all_of_what_was_paid_ahead_given_back(stack: Stack, owner: str) -> None:
    """Nothing is left to deliver, and nothing is held for it."""
    both = {**SKEIN, "count": 2, "sum": "19.98", "tax": {**SKEIN["tax"], "sum": "3.33"}}
    money = [{**refund()["paid_back"][0], "sum": "19.98"}]
    world = with_refunds(stack, owner, refund(rows=[both], tax="3.33", total="19.98", paid_back=money))
    world.run()
    world.put_orders(sent(two_paid_ahead()))
    world.run()
    assert crossing(world, FIRST).state == "carried"
    assert len(live(world, "invoice")) == 1


def test_a_refund_that_has_begun_ends_before_the_delivery(stack: Stack, owner: str) -> None:
    """Its credit note stands, its money does not yet: the order waits for it, and it for nobody."""
    world = with_refunds(stack, owner, refund())
    world.misbehave("erp", {"call": "repayments.create", "kind": "broken", "times": 10_000})
    world.run()
    assert (len(live(world, "credit_note")), crossing(world, "MW-R-801").state) == (1, "waiting")
    world.put_orders(sent(two_paid_ahead()))
    run = world.calls.bridge(BRIDGE).run()
    wait_for(lambda: "MW-R-801 of it goes first" in crossing(world, FIRST).trouble or None, seconds=30, what="the wait")
    assert len(live(world, "invoice")) == 1
    world.misbehave("erp")
    world.ended(run)
    world.settled()
    assert standing(live(world, "invoice")[-1]) == [("4000", "8.33", "1.67"), ("2300", "-8.33", "-1.67")]
    assert len(live(world, "repayment")) == 1


def test_a_refund_held_half_way_holds_the_delivery(stack: Stack, owner: str) -> None:
    """Nobody knows what it leaves; once it is mended and both are released, what is left is delivered."""
    world = with_refunds(stack, owner, refund())
    world.misbehave("erp", {"call": "repayments.create", "kind": "broken", "times": 10_000})
    world.run()
    assert len(live(world, "credit_note")) == 1
    # The accountant locks October before the money is entered.
    world.change_books(locked_until="2026-10-31")
    world.misbehave("erp")
    world.settled()
    assert crossing(world, "MW-R-801").cause == "period-locked"

    world.put_orders(sent(two_paid_ahead()))
    world.run()
    # On a slow machine the books may have been given up on for a moment; then it goes on by itself.
    world.settled()
    found = crossing(world, FIRST)
    assert (found.state, found.cause, found.findings[0].id) == ("held", "source-changed", "REFUND-E006")
    assert "MW-R-801 has begun and is held" in found.findings[0].text
    world.change_books(locked_until=None)
    # As the finding says: the refund first, then the order.
    for cause in ("period-locked", "source-changed"):
        world.calls.release(cause=cause)
        world.settled()
    assert standing(live(world, "invoice")[-1]) == [("4000", "8.33", "1.67"), ("2300", "-8.33", "-1.67")]


def test_lines_stand_on_items(stack: Stack, owner: str) -> None:
    """Nothing before the items are loaded; unknown is held; a link with a factor settles it, and is pinned."""
    text = rules(("accounts:\n  sales", "items:\n  not_found: hold\n\naccounts:\n  sales"))
    world = a_world(stack, owner, text)
    world.run()
    assert crossing(world, FIRST).cause == "reference-missing"
    world.put("erp", articles=facts()["articles"])
    world.put("web-shop", products=[product(31, SOCK, "Sock yarn skein, Fenland"), product(32, "BOWL-ASH", "Bowl")])
    world.matched("products")
    world.calls.release(cause="reference-missing")
    world.settled()
    held = crossing(world, FIRST)
    assert (held.cause, held.findings[0].id, SOCK in held.findings[0].text) == ("item-unclear", "ITEM-E001", True)

    links = world.calls.bridge(BRIDGE).links("products")
    (question,) = [one for one in links.questions(limit=100) if one.entry.code == SOCK]
    item = next(one.targets[0] for one in question.suggestions if one.targets[0].code == "SOCK-FEN")
    change = links.answer("31", (item.id, Decimal(3)))
    world.calls.release(cause="item-unclear")
    world.settled()
    goods = live(world, "invoice")[0]["lines"][0]
    assert (goods["article"], goods["quantity"], goods["net"]) == ("SOCK-FEN", "3", "8.32")
    found = crossing(world, FIRST)
    assert (found.state, found.links_version) == ("carried", change.id)
    reasons = {one["target"]: one for one in found.reasons}
    assert reasons["/documents/0/lines/0/item"]["text"] == "Item SOCK-FEN, found by its link."

    # The order is planned again by what stood then, whatever the link says now.
    links.undo(change.id)
    world.run()
    assert crossing(world, FIRST).state == "carried"


def test_a_contact_is_found_step_by_step(stack: Stack, owner: str) -> None:
    """An old contact without an e-mail, known by name and postcode; nobody is made a second time."""
    text = rules(("find_by: email", "find_by: [email, tax number, name and postcode]"))
    order = shop_order(FIRST)
    known = {**order, "bill_to": {**order["bill_to"], "name": "Rhodri Pugh", "postcode": "cf101ep"},
             "shopper": {**order["shopper"], "account": None, "first_name": "Rhodri", "last_name": "Pugh"}}  # fmt: skip
    world = a_world(stack, owner, text, known)
    world.put("erp", contacts=facts()["old_contacts"])
    before = len(world.books()["contact"])
    world.run()
    contacts = {contact["id"]: contact for contact in world.books()["contact"]}
    assert len(contacts) == before
    assert contacts[live(world, "invoice")[0]["contact"]]["code"] == "C-0104"


def test_two_of_one_name_and_postcode_are_a_question(stack: Stack, owner: str) -> None:
    """The step that finds two says so; with one of them mended, the order crosses."""
    text = rules(("find_by: email", "find_by: [tax number, name and postcode]"))
    order = shop_order(FIRST)
    world = a_world(stack, owner, text, order)
    twin = {"code": "C-9", "name": order["bill_to"]["name"], "email": "", "billing": order["bill_to"]}
    world.put("erp", contacts=[twin, {**twin, "code": "C-10"}])
    world.run()
    (finding,) = crossing(world, FIRST).findings
    assert (finding.id, finding.text) == (
        "CUST-E002",
        "The books have 2 contacts with the name and postcode of this order.",
    )


def test_the_shops_number_is_the_legal_one(stack: Stack, owner: str) -> None:
    """In books that take one; those that number themselves refuse the rule when it is written."""
    world = new_world(stack, owner)
    orders = list(month.irish_shop()["orders"][:2])
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=orders)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    bridge = world.calls.bridge(IRISH)
    numbered = rulebook_text(IRISH).replace("become: invoice\n", "become: invoice\n  numbered: shop\n")
    bridge.publish_rulebook(bridge.write_rulebook(numbered).number)
    world.run(IRISH)
    released = [one["number"] for one in world.held_by("ledger")["invoices"] if one["state"] == "released"]
    assert sorted(released) == sorted(order["reference"] for order in orders)

    uk = world.calls.bridge(BRIDGE)
    written = uk.write_rulebook(rules(("become: invoice\n", "become: invoice\n  numbered: shop\n")))
    assert "CAN-E006" in {finding.id for finding in written.findings}


@pytest.mark.parametrize(("update", "phoned"), [("[phone, delivery]", True), ("[billing]", False)])
def test_a_contact_takes_on_what_the_rules_name(stack: Stack, owner: str, update: str, phoned: bool) -> None:
    """Its name stays as somebody wrote it in the books."""
    text = rules(("find_by: email", f"find_by: email\n  update: {update}"))
    world = a_world(stack, owner, text)
    world.calls.bridge(BRIDGE).switch_lane("customers", on=True)
    world.put("web-shop", customers=[CUSTOMER])
    world.run()
    email = CUSTOMER["email"].strip().lower()
    before = next(one for one in world.books()["contact"] if one["email"] == email)
    changed = {**CUSTOMER, "phone": "020 7946 0999", "first_name": "Somebody"}
    world.put("web-shop", customers=[{**changed, "last_change": "2026-11-01T10:00:00+00:00"}])
    world.run()
    now = next(one for one in world.books()["contact"] if one["email"] == email)
    assert (now["id"], now["name"]) == (before["id"], before["name"])
    assert (now["phone"] == "020 7946 0999") is phoned


PUT_DOWN = """
fields:
  organisational_unit: {from: order.channel, table: {fair: TRADE}, default: RETAIL}
  price_list: LIST
  delivery_method: {from: order.shipping_method, default: PARCEL}
  sales_person: {fixed: IF}
"""
KEPT = {"unit": "RETAIL", "price_list": "LIST", "delivery_way": "PARCEL", "seller": "IF"}


def test_what_a_sale_is_put_down_to_stands_in_the_books_and_is_proved(stack: Stack, owner: str) -> None:
    """Each by its code there; what somebody changes there is found by the proof, and its credit note says the same."""
    world = a_world(stack, owner, rules() + PUT_DOWN)
    assert world.run().counts.carried == 1
    (invoice,) = live(world, "invoice")
    assert {name: invoice[name] for name in KEPT} == KEPT
    (spread,) = [world.calls.crossing(one.id) for one in world.calls.crossings()]
    reasons = {one["target"]: one["text"] for one in spread.reasons}
    assert reasons["/documents/0/sales_person"] == "The sales person is IF by the rule for it."
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.put("web-shop", refunds=[refund()])
    assert world.run().counts.carried == 1
    (note,) = live(world, "credit_note")
    assert {name: note[name] for name in KEPT} == KEPT


SPEAKING = """
fields:
  language: {default: en-GB, by_language: {de: de-DE, fr: fr-FR}}
  text:
    template: "Order {order.number} of {day}"
    parts: {day: {from: order.placed_on, date: d MMMM yyyy}}
    in_language:
      de: {template: "Bestellung {order.number} vom {day}", parts: {day: {from: order.placed_on, date: d. MMMM yyyy}}}
"""


def test_two_buyers_of_two_languages_have_theirs_on_document_and_contact(stack: Stack, owner: str) -> None:
    """By hand: de_AT falls back to de, en-IE to no row, so that the contact keeps it and the document is in English."""
    first, second = shop_order(FIRST), shop_order(SECOND)
    austrian = {**first, "shopper": {**first["shopper"], "language": "de_AT"}}
    irish = {**second, "shopper": {**second["shopper"], "language": "en-IE"}}
    told = rules(("find_by: email", "find_by: email\n  languages: {de: de-DE}")) + SPEAKING
    world = a_world(stack, owner, told, austrian, irish)
    assert world.run().counts.carried == 2
    invoices = {one["order"]: one for one in live(world, "invoice")}
    spoken = {number: (one["print_language"], one["memo"]) for number, one in invoices.items()}
    assert spoken == {
        first["reference"]: ("de-DE", f"Bestellung {first['reference']} vom 3. Oktober 2026"),
        second["reference"]: ("en-GB", f"Order {second['reference']} of 3 October 2026"),
    }
    contacts = {one["email"]: one.get("language") for one in world.books()["contact"]}
    emails = [one["shopper"]["email"].strip().lower() for one in (austrian, irish)]
    assert [contacts[email] for email in emails] == ["de-DE", "en-IE"]
    # Another language there is found by the proof: the books are what the customer reads.
    wrong = told.replace("fr: fr-FR", "fr: fr-XX").replace("{de: de-DE}", "{de: de-XX}", 1)
    found = world.calls.bridge(BRIDGE).write_rulebook(wrong).findings
    assert {(one.id, one.at) for one in found if one.level == "error"} == {
        ("REF-E012", "/customers/languages/de"), ("REF-E012", "/fields/language/by_language/fr"),
    }  # fmt: skip


LEVELS = """
fields:
  terms: {default: CASH, by_tag: {on account: NET30}}
warehouses: {default: DYEHOUSE, by_tag: {collect: MILL}}
"""


def test_one_order_has_its_own_document_and_warehouse_by_its_tag(stack: Stack, owner: str) -> None:
    """And the other what all have; tried, each tells which levels were asked."""
    first, second = shop_order(FIRST), shop_order(SECOND)
    tagged = {**first, "labels": ["collect", "on account"]}
    kinds = "become: {default: invoice, by_tag: {collect: sales order}}\n"
    world = a_world(stack, owner, rules(("become: invoice\n", kinds)) + LEVELS, tagged, second)
    assert world.run().counts.carried == 2
    (made,), (invoice,) = live(world, "sales_order"), live(world, "invoice")
    assert [(one["order"], one["lines"][0]["warehouse"]) for one in (made, invoice)] == [
        (first["reference"], "MILL"), (second["reference"], "DYEHOUSE"),
    ]  # fmt: skip
    assert (made["warehouse"], invoice["terms"]) == ("MILL", "CASH")
    tried = world.calls.bridge(BRIDGE).try_order(first["reference"])
    steps = {one.target: [(step.by, step.met, step.gave) for step in one.steps] for one in tried.steps}
    assert steps["/documents/0/role"] == [("tag", "collect", "sales order")]
    assert steps["/documents/0/lines/0/warehouse"] == [("tag", "collect", "MILL")]
    usual = {one.target: one.steps for one in world.calls.bridge(BRIDGE).try_order(second["reference"]).steps}
    assert [(one.by, one.met, one.gave) for one in usual["/documents/0/terms"]] == [
        ("tag", "", ""), ("default", "", "CASH"),
    ]  # fmt: skip


def test_a_code_that_the_books_do_not_have_is_refused_where_it_is_written(stack: Stack, owner: str) -> None:
    """And what books have no place for is refused for them: the ledger keeps no sales person."""
    world = a_world(stack, owner, rules())
    bridge = world.calls.bridge(BRIDGE)
    wrong = bridge.write_rulebook(rules() + PUT_DOWN.replace("IF", "IFF"))
    (finding,) = [one for one in wrong.findings if one.level == "error"]
    assert (finding.id, finding.at) == ("REF-E012", "/fields/sales_person/fixed")
    assert finding.text == "rulebook.yaml, line 61: sales person IFF is not in the books of Marrowby UK books"
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    ledger = world.calls.bridge(IRISH)
    found = ledger.write_rulebook(ledger.rulebook(1).text + "\nfields: {sales_person: IF}\n").findings
    assert "CAN-E011" in {one.id for one in found}
