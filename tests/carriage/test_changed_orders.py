"""Orders that change after they were posted: the books hold the order as it is, by further documents."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import Role
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.demo.month import irish_shop
from inkwell_bridge.demo.pence import tax_inside, written
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_money import crossing, live, refund
from tests.carriage.test_other_bridges import IRISH
from tests.support.changing import FIRST, as_it_was, cancelled, cheaper, three_skeins
from tests.support.ends import BENCHES
from tests.support.world import BRIDGE, HTTP, World, new_world, shop_order, wait_for

OCTOBER = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}
ZERO = Decimal(0)


@pytest.fixture
def posted(stack: Stack, owner: str) -> World:
    """One order of 13.94, invoiced and paid by card."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


def by_account(world: World) -> dict[str, str]:
    """What the books hold on each account, without tax: invoices less credit notes."""
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for kind, sign in (("invoice", 1), ("credit_note", -1)):
        for line in (line for one in live(world, kind) for line in one["lines"]):
            sums[line["account"]] += sign * Decimal(line["net"])
    return {account: str(amount) for account, amount in sorted(sums.items()) if amount}


def whole(world: World) -> Decimal:
    """What the books hold of the sale, tax included."""
    return sum((Decimal(one["gross"]) for one in live(world, "invoice")), ZERO) - sum(
        (Decimal(one["gross"]) for one in live(world, "credit_note")), ZERO
    )


def tied(world: World) -> None:
    """Nothing of October is unexplained: neither of the sales nor of what went back, and on no account."""
    sheet = world.calls.tie_out(**OCTOBER)
    for sides in (*sheet.rows, *sheet.accounts):
        left = sides.unexplained
        assert (left.gross, left.net, left.tax, left.count) == (0, 0, 0, 0), sides


def test_what_was_added_is_a_further_invoice(posted: World) -> None:
    """Two skeins more: 29.97 less 9.99 are 19.98, of which 5.00 less 1.67 are tax."""
    posted.put_orders(three_skeins())
    assert posted.run().counts.carried == 1
    first, further = live(posted, "invoice")
    (line, *penny) = further["lines"]
    assert (line["quantity"], line["net"], line["account"], line["tax_code"]) == ("2", "16.65", "4000", "S20")
    # 16.65 at 20 % is 3.33, which is what the shop says.
    assert (further["gross"], penny, further["date"]) == ("19.98", [], "2026-10-31")
    assert (first["gross"], whole(posted)) == ("13.94", Decimal("33.92"))
    found = crossing(posted, FIRST)
    assert [(one.role, one.amendment) for one in found.documents] == [("invoice", 0), ("payment", 0), ("invoice", 1)]
    tied(posted)
    # Read again as it is, nothing more comes of it.
    posted.run()
    assert len(live(posted, "invoice")) == 2


def test_what_became_cheaper_is_a_credit_note(posted: World) -> None:
    """4.00 less for the skein, of which 0.67 is tax: on no item, for none came back."""
    posted.put_orders(cheaper())
    posted.run()
    (note,) = live(posted, "credit_note")
    line = note["lines"][0]
    assert (line["quantity"], line["net"], line["article"]) == ("1", "3.33", "")
    assert (note["gross"], whole(posted)) == ("4.00", Decimal("9.94"))
    (invoice,) = live(posted, "invoice")
    assert note["credits"] == invoice["reference"]
    there = crossing(posted, FIRST).in_books
    assert there is not None
    assert (there.number, there.further, there.gross) == (invoice["number"], 1, Decimal("9.94"))
    said = {finding.id: finding.text for finding in crossing(posted, FIRST).findings}
    assert "4.00 GBP of what was paid is owed to the buyer" in said["AMEND-N002"]
    tied(posted)


def test_cancelled_it_comes_off_and_taken_back_it_is_an_order_again(posted: World) -> None:
    """The credit note takes off all; once the cancellation is withdrawn a further invoice of that day has it again."""
    posted.put_orders(cancelled())
    posted.run()
    (note,) = live(posted, "credit_note")
    assert (note["gross"], whole(posted), by_account(posted)) == ("13.94", ZERO, {})
    (sides,) = posted.calls.tie_out(**OCTOBER).sales
    off = sides.part("cancelled after it was posted")
    assert (off.gross, off.tax) == (Decimal("13.94"), Decimal("2.33"))
    tied(posted)
    posted.put_orders(as_it_was())
    posted.run()
    assert (len(live(posted, "invoice")), whole(posted)) == (2, Decimal("13.94"))
    assert by_account(posted) == {"4000": "8.32", "4100": "3.29", "8200": "0.01"}
    tied(posted)


def test_a_refund_and_a_cancellation_credit_it_once(posted: World) -> None:
    """The skein came back before; with the cancellation only the carriage comes off, and nothing is left."""
    posted.put("web-shop", refunds=[refund()])
    posted.run()
    posted.put_orders(cancelled(55))
    posted.run()
    posted.settled()
    assert sorted(one["gross"] for one in live(posted, "credit_note")) == ["3.95", "9.99"]
    assert by_account(posted) == {}
    tied(posted)


def test_edited_and_cancelled_in_turn_the_books_follow(posted: World) -> None:
    """Each state counts, whatever came before it."""
    for state, total in ((three_skeins(50), "33.92"), (cheaper(51), "9.94"), (cancelled(52), "0.00"),
                         (three_skeins(53), "33.92"), (as_it_was(54), "13.94")):  # fmt: skip
        posted.put_orders(state)
        posted.run()
        assert whole(posted) == Decimal(total)
        assert crossing(posted, FIRST).state == "carried"
        tied(posted)
    references = [one["reference"] for kind in ("invoice", "credit_note") for one in live(posted, kind)]
    assert len(set(references)) == len(references)


def test_a_refund_pays_what_an_edit_left_owing(posted: World) -> None:
    """The skein is 4.00 cheaper and credited; the shop's 4.00 without a line are paid back against that credit, and no
    kindness."""
    posted.put_orders(cheaper())
    posted.run()
    (note,) = live(posted, "credit_note")
    posted.put("web-shop", refunds=[bare_refund("4.00")])
    posted.run()
    assert len(live(posted, "credit_note")) == 1
    (back,) = live(posted, "repayment")
    assert (back["amount"], [part["reference"] for part in back["settles"]]) == ("4.00", [note["reference"]])
    found = crossing(posted, "MW-R-801")
    assert (found.state, [one.role for one in found.documents]) == ("carried", ["refund payment"])
    assert "REFUND-N003" in {one.id for one in found.findings}
    tied(posted)
    assert credited_before(posted) == (1, "-4.00", "0.00")


def test_a_cancelled_order_is_repaid_and_not_credited_twice(posted: World) -> None:
    """Its refund names the skein, which came off with the cancellation: money alone goes back."""
    posted.put_orders(cancelled(50))
    posted.run()
    posted.put("web-shop", refunds=[refund()])
    posted.run()
    (note,) = live(posted, "credit_note")
    (back,) = live(posted, "repayment")
    assert (note["gross"], back["amount"], note["paid"]) == ("13.94", "9.99", "9.99")
    assert crossing(posted, "MW-R-801").state == "carried"
    tied(posted)
    # 9.99 with a sixth of tax in it.
    assert credited_before(posted) == (1, "-9.99", "-1.67")


def credited_before(world: World) -> tuple[int, str, str]:
    """What refunds of October only paid, for it had been credited: how many, with tax, and the tax."""
    (refunds,) = [row for row in world.calls.tie_out(**OCTOBER).rows if row.section == "refunds"]
    part = refunds.part("credited with a change of its order")
    return part.count, f"{part.gross}", f"{part.tax}"


def bare_refund(amount: str) -> dict[str, object]:
    """Money back without a line."""
    when = "2026-10-31T19:58:00+00:00"
    paid = [{"transaction": "wg_r_801", "by": "card", "with": "card", "sum": amount, "when": when}]
    sorry = {"row": "goodwill", "title": "Difference", "sum": amount,
             "tax": {"class": "outside", "percent": "0", "sum": "0.00"}}  # fmt: skip
    return refund(rows=[], goodwill=[sorry], tax="0.00", total=amount, paid_back=paid, when=when, last_change=when)


def with_rules(stack: Stack, owner: str, *changes: tuple[str, str]) -> World:
    """One order, carried under the demo's rules with these changes."""
    text = rulebook_text(BRIDGE)
    for before, after in changes:
        assert before in text
        text = text.replace(before, after)
    world = new_world(stack, owner, rules=text)
    world.put_orders(shop_order(FIRST), reset=True)
    world.run()
    return world


def test_by_rule_a_person_looks(stack: Stack, owner: str) -> None:
    """Both rules by themselves; what was posted stays."""
    world = with_rules(stack, owner, ("  become: invoice\n", "  become: invoice\n  edited: hold\n  cancelled: hold\n"))
    for state in (cheaper(50), cancelled(51)):
        world.put_orders(state)
        assert world.run().counts.held == 1
        found = crossing(world, FIRST)
        assert (found.cause, found.findings[0].id, whole(world)) == ("source-changed", "SRC-E011", Decimal("13.94"))
    # Of two versions the newer is chosen, and that one alone: the next change is asked about again.
    world.calls.decide(found.id, "post the difference", "They called us.")
    world.settled()
    assert (crossing(world, FIRST).state, whole(world)) == ("carried", ZERO)
    world.put_orders(as_it_was(55))
    assert world.run().counts.held == 1


def test_a_draft_is_amended_where_it_stands(stack: Stack, owner: str) -> None:
    """The same draft says what the order says now, and nothing more was made."""
    world = with_rules(stack, owner, ("  arrive: posted\n  statuses", "  arrive: draft\n  statuses"))
    (before,) = live(world, "invoice")
    assert before["state"] == "draft"
    world.put_orders(three_skeins())
    world.run()
    (after,) = live(world, "invoice")
    assert (after["id"], after["state"], after["gross"]) == (before["id"], "draft", "33.92")
    assert crossing(world, FIRST).state == "carried"
    tied(world)


def test_a_draft_of_a_cancelled_order_is_voided(stack: Stack, owner: str) -> None:
    """Nothing of it crossed, and it is counted as left out; as an order again it goes like any other."""
    world = with_rules(stack, owner, ("  arrive: posted\n  statuses", "  arrive: draft\n  statuses"))
    world.put_orders(cancelled())
    assert world.run().counts.left_out == 1
    assert (live(world, "invoice"), live(world, "receipt")) == ([], [])
    assert crossing(world, FIRST).left_out_by == "cancelled at the sales side"
    tied(world)
    world.put_orders(as_it_was())
    world.run()
    (draft,) = live(world, "invoice")
    assert (draft["state"], draft["gross"]) == ("draft", "13.94")


def test_a_draft_that_a_person_changed_is_not_overwritten(stack: Stack, owner: str) -> None:
    """It is held as changed in the books; by decision the order is put back, or theirs is kept."""
    world = with_rules(stack, owner, ("  arrive: posted\n  statuses", "  arrive: draft\n  statuses"))
    (draft,) = live(world, "invoice")
    world.put("erp", edited={"invoice": {draft["id"]: {"date": "2026-10-09"}}})
    world.put_orders(three_skeins())
    assert world.run().counts.held == 1
    found = crossing(world, FIRST)
    assert (found.cause, found.findings[0].id) == ("edited-in-books", "AMEND-E006")
    assert "date 2026-10-09 in place of 2026-10-03" in found.findings[0].text
    (after,) = live(world, "invoice")
    assert after["gross"] == "13.94"


def test_a_draft_that_a_person_posted_is_followed_by_the_difference(stack: Stack, owner: str) -> None:
    """That is what drafts are for: the further invoice arrives as a draft as well."""
    world = with_rules(stack, owner, ("  arrive: posted\n  statuses", "  arrive: draft\n  statuses"))
    (draft,) = live(world, "invoice")
    world.put("erp", edited={"invoice": {draft["id"]: {"state": "posted", "number": "SI-77"}}})
    world.put_orders(three_skeins())
    world.run()
    first, further = live(world, "invoice")
    assert [(one["state"], one["gross"]) for one in (first, further)] == [("posted", "13.94"), ("draft", "19.98")]


SALES_ORDERS = ("  become: invoice\n", "  become: sales order\n")


def test_a_sales_order_is_cancelled_and_made_anew(stack: Stack, owner: str) -> None:
    """It takes nothing into the ledger, so no credit note is needed."""
    world = with_rules(stack, owner, SALES_ORDERS)
    (before,) = live(world, "sales_order")
    world.put_orders(three_skeins())
    world.run()
    (after,) = live(world, "sales_order")
    assert (after["gross"], after["state"], after["id"] == before["id"]) == ("33.92", "posted", False)
    assert (live(world, "credit_note"), live(world, "invoice")) == ([], [])
    assert [one.state for one in crossing(world, FIRST).documents if one.role == "sales order"] == [
        "cancelled", "proved",
    ]  # fmt: skip
    tied(world)
    world.put_orders(cancelled(55))
    world.run()
    assert live(world, "sales_order") == []
    assert crossing(world, FIRST).state == "carried"
    tied(world)


def test_an_invoice_that_somebody_changed_asks_before_it_is_amended(posted: World) -> None:
    """Kept as theirs, only what the order changed by is posted; put back, all that the books lack."""
    (invoice,) = live(posted, "invoice")
    skein, *others = invoice["lines"]
    moved = [{**skein, "account": "4100"}, *others]
    posted.put("erp", edited={"invoice": {invoice["id"]: {"lines": moved}}})
    posted.put_orders(three_skeins(50))
    posted.run()
    found = crossing(posted, FIRST)
    assert found.cause == "edited-in-books"
    assert "line 1, account 4100 in place of 4000" in found.findings[0].text
    posted.calls.decide(found.id, "keep theirs", "Sock yarn is reported by itself.")
    posted.settled()
    assert crossing(posted, FIRST).state == "carried"
    assert by_account(posted) == {"4000": "16.65", "4100": "11.61", "8200": "0.01"}
    as_it_is_when_read_again(posted)
    # What they changed stays, whatever the order becomes.
    posted.put_orders(as_it_was())
    posted.run()
    posted.settled()
    assert sum(Decimal(one) for account, one in by_account(posted).items() if account != "8200") == Decimal("11.61")
    as_it_is_when_read_again(posted)


def as_it_is_when_read_again(world: World) -> None:
    """What a person decided about is asked about no more."""
    world.calls.read_again(first=OCTOBER["first"], last=OCTOBER["last"])
    wait_for(lambda: world.calls.still_to_read() == 0 or None, seconds=60, what="reading again")
    world.settled()
    assert crossing(world, FIRST).state == "carried", crossing(world, FIRST).findings


def test_an_invoice_that_somebody_changed_is_put_back(posted: World) -> None:
    """By further documents, for a posted one is never touched."""
    (invoice,) = live(posted, "invoice")
    skein, *others = invoice["lines"]
    posted.put("erp", edited={"invoice": {invoice["id"]: {"lines": [{**skein, "account": "4100"}, *others]}}})
    posted.put_orders(three_skeins(50))
    posted.run()
    posted.calls.decide(crossing(posted, FIRST).id, "put ours back", "It belongs to the sales of yarn.")
    posted.settled()
    assert crossing(posted, FIRST).state == "carried", crossing(posted, FIRST).findings
    assert by_account(posted) == {"4000": "24.97", "4100": "3.29", "8200": "0.01"}
    as_it_is_when_read_again(posted)
    posted.put_orders(as_it_was())
    posted.run()
    posted.settled()
    # The skein of 8.32 and the carriage, as at first.
    assert {account: amount for account, amount in by_account(posted).items() if account != "8200"} == {
        "4000": "8.32", "4100": "3.29"}  # fmt: skip
    as_it_is_when_read_again(posted)


def test_a_refund_is_not_carried_before_the_change_that_it_pays_for(posted: World) -> None:
    """The shop lists the refund as new and the order as changed long ago: the order is read again with its refund."""
    posted.put_orders({**cheaper(), "last_change": "2026-10-03T09:34:00+00:00"})
    posted.put("web-shop", refunds=[bare_refund("4.00")])
    posted.run()
    posted.settled()
    (note,) = live(posted, "credit_note")
    (back,) = live(posted, "repayment")
    assert (note["gross"], [part["reference"] for part in back["settles"]]) == ("4.00", [note["reference"]])


def test_what_is_dated_in_a_locked_month_takes_the_first_open_day(stack: Stack, owner: str) -> None:
    """Also where the month was locked since the books' lists were loaded; and what changes an order of that month."""
    world = with_rules(stack, owner, ("penny:\n", "periods: {locked: first open day, own_date: own_date}\n\npenny:\n"))
    world.change_books(locked_until="2026-10-31")
    world.put_orders(three_skeins(50), {**shop_order("MW-10006"), "last_change": "2026-10-31T19:51:00+00:00"})
    world.run()
    world.settled()
    first, *others = live(world, "invoice")
    assert first["date"] == "2026-10-03"
    assert {one["date"] for one in others} == {"2026-11-01"}
    # October has at the shop what November has in the books, by that rule.
    (total,) = world.calls.tie_out(**OCTOBER).sales
    moved = total.part("moved out of a locked period")
    assert (total.unexplained.gross, total.difference.gross) == (0, moved.gross)
    assert moved.gross == sum(Decimal(one["gross"]) for one in others)
    assert {one.number for one in world.calls.sheet(**OCTOBER).documents(reason="moved out of a locked period")} == {
        FIRST, "MW-10006"}  # fmt: skip
    assert {one["order"]: one["further"]["own_date"] for one in others} == {
        FIRST: "2026-10-31", "MW-10006": "2026-10-03",
    }  # fmt: skip
    assert {one["tax_point"] for one in others} == {"2026-10-31", "2026-10-03"}
    assert {one.state for one in world.calls.crossings()} == {"carried"}


@pytest.mark.parametrize("kind", ["hold", "hold after"])
def test_two_edits_at_once(posted: World, kind: str) -> None:
    """The second is read while the first is being posted: whatever became of that, the books hold the second."""
    posted.calls.connection("web-shop").register_calls()
    posted.misbehave("erp", {"call": "credit_notes.create", "kind": kind})
    posted.put_orders(cheaper(50))
    wait_for(lambda: posted.misbehaved("erp")[0]["waiting"] or None, seconds=30, what="the first edit")
    posted.put_orders(three_skeins(51))
    wait_for(lambda: crossing(posted, FIRST).gross == Decimal("33.92") or None, seconds=30, what="the second edit")
    posted.misbehave("erp")
    posted.settled()
    assert (crossing(posted, FIRST).state, whole(posted)) == ("carried", Decimal("33.92"))
    assert {one["state"] for kind in ("invoice", "credit_note") for one in live(posted, kind)} == {"posted"}
    tied(posted)


def test_books_that_take_tax_as_it_is_given_follow_too(stack: Stack, owner: str) -> None:
    """The small shop in the ledger: one order grows by a piece, one is called off; each total is the shop's."""
    world = new_world(stack, owner)
    orders = irish_shop()["orders"][:3]
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=orders)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    world.run(IRISH)
    grown = with_a_piece_more(orders[0])
    moment = {"last_change": "2026-10-31T19:50:00+00:00"}
    changed = [{**grown, **moment}, {**orders[1], **moment, "state": "cancelled"}]
    world.put("web-shop", place="-ireland", orders=changed)
    assert world.run(IRISH).counts.carried == 2
    ledger = world.held_by("ledger")
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for kind, sign in (("invoices", 1), ("credit-notes", -1)):
        for one in (one for one in ledger.get(kind, []) if one["state"] == "released"):
            sums[one["order"]] += sign * Decimal(one["gross"])
    assert sums == {
        grown["reference"]: Decimal(grown["total"]), orders[1]["reference"]: ZERO,
        orders[2]["reference"]: Decimal(orders[2]["total"]),
    }  # fmt: skip
    found = {one.number: (one.state, one.in_books and one.in_books.further) for one in world.calls.crossings()}
    assert found == {orders[0]["reference"]: ("carried", 1), orders[1]["reference"]: ("carried", 1),
                     orders[2]["reference"]: ("carried", 0)}  # fmt: skip
    (sides,) = world.calls.tie_out(**OCTOBER, bridge=IRISH).sales
    assert (sides.unexplained.gross, sides.unexplained.tax) == (0, 0)


def with_a_piece_more(order: dict[str, Any]) -> dict[str, Any]:
    """One piece more of its row, with as much tax as such a piece holds at the rate of the row."""
    (row,) = order["basket"]
    count = row["count"] + 1
    pence = int(row["price"].replace(".", "")) * count
    tax = tax_inside(pence, int(row["tax"]["percent"]))
    total = pence + int(order["carriage"]["sum"].replace(".", ""))
    whole = tax + int(order["carriage"]["tax"]["sum"].replace(".", ""))
    basket = [{**row, "count": count, "sum": written(pence), "tax": {**row["tax"], "sum": written(tax)}}]
    return {**order, "basket": basket, "total": written(total), "tax": written(whole)}


def test_what_the_rules_of_then_have_no_place_for_is_kept_as_posted_by_a_person(posted: World) -> None:
    """A line of a class that nobody mapped then: nothing of the change is posted, and a person keeps what is."""
    order = three_skeins(50)
    basket = [{**one, "tax": {**one["tax"], "class": "unheard"}} for one in order["basket"]]
    posted.put_orders({**order, "basket": basket})
    assert posted.run().counts.held == 1
    found = crossing(posted, FIRST)
    assert (found.cause, whole(posted)) == ("tax-class-unmapped", Decimal("13.94"))
    assert "AMEND-N005" in {one.id for one in found.findings}
    posted.calls.decide(found.id, "keep posted", "Entered by hand.")
    posted.settled()
    assert (crossing(posted, FIRST).state, whole(posted)) == ("carried", Decimal("13.94"))
    tied(posted)


def test_a_number_that_is_taken_in_the_books_gives_way_to_the_next(stack: Stack, owner: str) -> None:
    """Somebody released another document under the number of the further invoice."""
    world = new_world(stack, owner)
    demo_client.set_up_others(stack, world.calls, world=world.slug)
    (order,) = [one for one in irish_shop()["orders"] if one["state"] == "paid" and len(one["basket"]) == 1][:1]
    world.put("web-shop", place="-ireland", reset=True, shop=facts()["irish_shop"], orders=[order])
    text = rulebook_text(IRISH).replace("become: invoice\n", "become: invoice\n  numbered: shop\n")
    bridge = world.calls.bridge(IRISH)
    bridge.publish_rulebook(bridge.write_rulebook(text).number)
    world.run(IRISH)
    number = order["reference"]
    (first,) = world.held_by("ledger")["invoices"]
    body = first["body"].replace(f">{number}<", f">{number}-2<", 1).replace(first["reference"], "SOMEBODY-ELSE")
    books = BENCHES["ledger"].books(world)
    HTTP.post(f"{stack.standin('ledger')}/{world.slug}/invoices", content=body.encode(), headers={
        "Authorization": f"Bearer {facts()['irish_books']['token']}", "Content-Type": "application/xml",
        "Idempotency-Key": "somebody"}).raise_for_status()  # fmt: skip
    (theirs,) = books.find(Role.INVOICE, ["SOMEBODY-ELSE"])
    books.post(theirs)
    (row,) = order["basket"]
    dearer = {**row, "price": f"{float(row['price']) + 1.23:.2f}", "sum": f"{float(row['sum']) + 1.23:.2f}",
              "tax": {**row["tax"], "sum": f"{float(row['tax']['sum']) + 0.23:.2f}"}}  # fmt: skip
    told = {**order, "basket": [dearer], "total": f"{float(order['total']) + 1.23:.2f}",
            "tax": f"{float(order['tax']) + 0.23:.2f}", "last_change": "2026-10-31T19:50:00+00:00"}  # fmt: skip
    world.put("web-shop", place="-ireland", orders=[told])
    world.run(IRISH)
    world.settled()
    ours = [one for one in world.held_by("ledger")["invoices"] if one["reference"] != "SOMEBODY-ELSE"]
    assert [(one["number"], one["state"]) for one in ours] == [(number, "released"), (f"{number}-3", "released")]
    assert crossing(world, number).state == "carried"


def test_a_refund_that_is_held_counts_as_gone(posted: World) -> None:
    """Of 13.94 a first 9.99 waits for a person; a second of as much goes beyond what was paid."""
    posted.put("web-shop", refunds=[refund(801, total="11.00"), refund(802)])
    posted.run()
    first, second = crossing(posted, "MW-R-801"), crossing(posted, "MW-R-802")
    assert (first.state, second.state) == ("held", "held")
    assert "REFUND-E002" in {finding.id for finding in second.findings}
    assert live(posted, "credit_note") == []
    # Once the shop has put the first right it goes, and the second stays a person's.
    posted.put("web-shop", refunds=[refund(801, last_change="2026-10-31T19:55:00+00:00")])
    posted.run()
    assert crossing(posted, "MW-R-801").state == "carried"
    assert crossing(posted, "MW-R-802").state == "held"
