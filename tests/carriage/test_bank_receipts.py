"""Money that the bank tells of: lines matched to open invoices and to refunds, posted once, and taken back."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client.models import Awaited, Crossing
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_bank import LAYOUT, account, lines, take
from tests.carriage.test_changed_orders import OCTOBER, tied
from tests.carriage.test_money import crossing, live, refund
from tests.carriage.test_payouts import balance
from tests.carriage.test_receipts import at_shop
from tests.carriage.test_requests import BRIDGE as WEIRGATE
from tests.carriage.test_requests import BY_BANK as OFFICE
from tests.carriage.test_requests import asking_world, in_books, open_there
from tests.support.changing import FIRST
from tests.support.statements import camt_entry
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

SECOND = "MW-10005"
NEXT = {"name": "november.xml", "number": "11", "first": "2026-11-01", "last": "2026-11-30"}
LATER = {"name": "december.xml", "number": "12", "first": "2026-12-01", "last": "2026-12-31"}
TOLD_BY_BANK = "  told_by:\n    by_method: {bank: bank}\n"


def rules(*, unnamed: str = "ask") -> str:
    """The demo's, by which the bank tells of what is paid by bank; orders are invoiced before they are paid."""
    text = rulebook_text(BRIDGE).replace("statuses: [paid, completed]", "statuses: [paid, completed, awaiting payment]")
    text = text.replace("payments:\n", f"payments:\n{TOLD_BY_BANK}", 1)
    return f"{text}\nbank:\n  unnamed: {unnamed}\n"


def to_be_paid(number: str, *, state: str = "awaiting payment", came: str = "pending", **fields: Any) -> dict[str, Any]:
    """An order by bank transfer, whose money the shop only waits for, or says that it came."""
    order = shop_order(number)
    money = {"transaction": f"bt-{number}", "by": "bank", "with": "bank", "sum": order["total"], "state": came}
    return {**order, "state": state, "received": [money], **fields}


def with_open_orders(stack: Stack, owner: str, **said: Any) -> World:
    """Two orders of 13.94 and 21.75, to be paid by bank, and a bank account without statements."""
    world = new_world(stack, owner, rules=rules(**said))
    world.put_orders(to_be_paid(FIRST), to_be_paid(SECOND), reset=True)
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    with_account(world)
    world.run()
    return world


def with_account(world: World) -> None:
    """The current account."""
    world.calls.create_bank_account(slug="current-account", name="Current account", books="uk-books",
                                    ledger_account="1200", number="GB33 BUKB 2020 1555 5555 55",
                                    currency="GBP", layout=LAYOUT)  # fmt: skip


@pytest.fixture
def open_orders(stack: Stack, owner: str) -> World:
    """See ``with_open_orders``."""
    return with_open_orders(stack, owner)


def says(text: str, amount: str, *, day: str = "2026-10-20", reference: str = "B1") -> str:
    """A line of the bank's."""
    return camt_entry(day, amount, reference=reference, text=text, name="A. Buyer")


def awaited(world: World) -> list[tuple[str, str, str]]:
    """What the bank should have: kind, number, amount."""
    return sorted((one.kind, one.number, f"{one.amount}") for one in account(world).unmatched().awaited)


def the_one(world: World, number: str) -> Awaited:
    """One of these."""
    return next(one for one in account(world).unmatched().awaited if one.number == number)


def receipts(world: World, kind: str = "receipt") -> list[tuple[str, str, str]]:
    """What stands posted of a kind: day, account, amount."""
    return sorted((one["date"], one["account"], one["amount"]) for one in live(world, kind))


def order(world: World, number: str = FIRST) -> Crossing:
    """An order's crossing."""
    return next(one for one in world.calls.crossings(bridge=BRIDGE, kind="orders") if one.number == number)


def test_a_line_that_names_an_order_is_its_receipt(open_orders: World) -> None:
    """13.94 on the bank's day and account, set against its invoice; what the shop promises posts nothing."""
    assert receipts(open_orders) == []
    assert awaited(open_orders) == [("orders", FIRST, "13.94"), ("orders", SECOND, "21.75")]
    notes = [one.text for one in crossing(open_orders, FIRST).findings if one.id == "PAY-N003"]
    assert notes == ["Payment of 13.94 GBP by bank is posted when the bank tells of it."]
    taken = take(open_orders, says(f"Order {FIRST}", "13.94"))
    assert (taken.lines, taken.matched) == (1, 1)
    open_orders.settled()
    assert receipts(open_orders) == [("2026-10-20", "1200", "13.94")]
    (receipt,), invoice = live(open_orders, "receipt"), next(
        one for one in live(open_orders, "invoice") if one["order"] == FIRST)  # fmt: skip
    assert receipt["settles"] == [{"reference": invoice["reference"], "amount": "13.94"}]
    assert invoice["paid"] == invoice["gross"]
    assert awaited(open_orders) == [("orders", SECOND, "21.75")]
    (matched,) = lines(open_orders, "matched")
    assert [(one.kind, one.number, f"{one.amount}", one.by) for one in matched.matches] == [
        ("orders", FIRST, "13.94", "reference")]  # fmt: skip
    told = [one.detail["text"] for one in crossing(open_orders, FIRST).history if one.kind == "told"]
    assert told == ["the bank has money of it"]
    # Read again by the next run, nothing has changed.
    open_orders.run()
    assert receipts(open_orders) == [("2026-10-20", "1200", "13.94")]
    tied(open_orders)


def test_what_the_shop_says_of_it_besides_is_no_money(open_orders: World) -> None:
    """Marked as paid there, before the bank has it and after: one receipt."""
    open_orders.put_orders(to_be_paid(SECOND, state="paid", came="in"))
    open_orders.run()
    assert receipts(open_orders) == []
    take(open_orders, says(SECOND.replace("-", " "), "21.75"))
    open_orders.settled()
    open_orders.put_orders(to_be_paid(SECOND, state="completed", came="in"))
    open_orders.run()
    assert receipts(open_orders) == [("2026-10-20", "1200", "21.75")]
    assert order(open_orders, SECOND).state == "carried"
    # By tender, the shop's word and the bank's are of the same money.
    (total,) = [one for one in open_orders.calls.tie_out(**OCTOBER).tenders if one.tender == "bank transfer"]
    assert (total.source.gross, total.books.gross, total.ties) == (Decimal("21.75"), Decimal("21.75"), True)


def test_in_two_parts_and_twice(open_orders: World) -> None:
    """10.00 and 3.94 pay 13.94. Of 21.75 that was paid twice the second is asked about; by hand it is the buyer's."""
    take(open_orders, says(f"{FIRST} part 1", "10.00"), says(f"{FIRST} part 2", "3.94", reference="B2"),
         says(SECOND, "21.75", reference="B3"), says(SECOND, "21.75", reference="B4", day="2026-10-22"))  # fmt: skip
    open_orders.settled()
    assert [amount for _, _, amount in receipts(open_orders)] == ["10.00", "21.75", "3.94"]
    assert awaited(open_orders) == []
    (left,) = lines(open_orders)
    assert str(left.booked_on) == "2026-10-22"
    account(open_orders).match([left.id], [order(open_orders, SECOND).id], "Paid twice")
    open_orders.settled()
    second = next(one for one in live(open_orders, "receipt") if one["date"] == "2026-10-22")
    assert (second["amount"], second["settles"]) == ("21.75", [])
    assert balance(open_orders, "1200") == Decimal("57.44")
    tied(open_orders)


def test_more_than_is_open_is_owed_to_the_buyer_where_somebody_says_so(open_orders: World) -> None:
    """20.00 for 13.94: all of it comes in, 13.94 of it against the invoice."""
    taken = take(open_orders, says(f"{FIRST}", "20.00"))
    assert taken.matched == 0
    (proposed,) = account(open_orders).unmatched().proposals
    assert (proposed.by, f"{proposed.difference}") == ("reference", "6.06")
    account(open_orders).match(proposed.lines, proposed.crossings, "They rounded it up")
    open_orders.settled()
    (receipt,) = live(open_orders, "receipt")
    assert (receipt["amount"], [one["amount"] for one in receipt["settles"]]) == ("20.00", ["13.94"])


def test_one_line_of_two_orders(open_orders: World) -> None:
    """35.69 names both: each gets its own receipt."""
    take(open_orders, says(f"{FIRST} and {SECOND}", "35.69"))
    open_orders.settled()
    assert receipts(open_orders) == [("2026-10-20", "1200", "13.94"), ("2026-10-20", "1200", "21.75")]
    (matched,) = lines(open_orders, "matched")
    assert sorted(f"{one.amount}" for one in matched.matches) == ["13.94", "21.75"]


@pytest.mark.parametrize(("unnamed", "matched"), [("ask", 0), ("take the only one", 1)])
def test_a_line_that_names_nothing_is_asked_about(stack: Stack, owner: str, unnamed: str, matched: int) -> None:
    """Unless the rules take the only one of its amount."""
    world = with_open_orders(stack, owner, unnamed=unnamed)
    assert take(world, says("Thank you", "21.75")).matched == matched
    world.settled()
    assert receipts(world) == [("2026-10-20", "1200", "21.75")] * matched
    proposals = account(world).unmatched().proposals
    assert [(one.by, one.crossings) for one in proposals] == (
        [] if matched else [("amount", [order(world, SECOND).id])])  # fmt: skip


def test_the_bank_may_tell_first(stack: Stack, owner: str) -> None:
    """A line that waits is looked at once its order is carried."""
    world = new_world(stack, owner, rules=rules())
    world.put_orders(reset=True)
    with_account(world)
    assert take(world, says(f"Order {FIRST}", "13.94")).matched == 0
    world.put_orders(to_be_paid(FIRST))
    world.run()
    wait_for(lambda: receipts(world) or None, seconds=30, what="the receipt")
    assert receipts(world) == [("2026-10-20", "1200", "13.94")]


def test_an_order_that_was_converted_is_not_awaited_in_the_books_currency(stack: Stack, owner: str) -> None:
    """13.94 EUR stand in the books as 11.85 GBP: a line of 11.85 GBP would pay 11.85 EUR."""
    text = rules()
    text = text.partition("\nexchange_rates:")[0] + "\npenny:" + text.partition("\npenny:")[2]
    world = new_world(stack, owner, rules=f"{text}\nexchange_rates:\n  taken_from: [table]\n")
    day = {"currency": "EUR", "day": "2026-10-01", "rate": "0.85"}
    world.calls.exchange_rates("marrowby-uk").keep([day], source="Central bank")
    world.put_orders(to_be_paid(FIRST, currency="EUR"), reset=True)
    with_account(world)
    world.run()
    (made,) = live(world, "invoice")
    assert (made["currency"], made["gross"]) == ("GBP", "11.85")
    assert awaited(world) == []
    assert take(world, says(FIRST, "11.85")).matched == 0


def test_a_match_that_was_wrong_is_taken_back(open_orders: World) -> None:
    """What came in goes out again on the same account; the order is open, and paid by another line after that."""
    take(open_orders, says("A thing", "13.94"), says("Another", "13.94", reference="B2"))
    first, second = lines(open_orders)
    chosen = the_one(open_orders, FIRST).crossing
    account(open_orders).match([first.id], [chosen])
    open_orders.settled()
    account(open_orders).take_back(first.id)
    open_orders.settled()
    assert [amount for _, _, amount in receipts(open_orders)] == ["13.94"]
    assert [amount for _, _, amount in receipts(open_orders, "repayment")] == ["13.94"]
    assert balance(open_orders, "1200") == 0
    assert ("orders", FIRST, "13.94") in awaited(open_orders)
    account(open_orders).match([second.id], [chosen])
    open_orders.settled()
    assert balance(open_orders, "1200") == Decimal("13.94")
    assert ("orders", FIRST, "13.94") not in awaited(open_orders)
    assert order(open_orders).state == "carried"


def test_taken_back_before_anything_was_posted(open_orders: World) -> None:
    """Nothing comes in, and nothing goes out."""
    open_orders.misbehave("erp", {"call": "receipts.create", "kind": "busy", "times": 99})
    take(open_orders, says(FIRST, "13.94"))
    (line,) = lines(open_orders, "matched")
    account(open_orders).take_back(line.id)
    open_orders.misbehave("erp")
    open_orders.run()
    open_orders.settled()
    assert balance(open_orders, "1200") == 0


def test_money_back_by_bank_pays_the_refund(open_orders: World) -> None:
    """The shop tells of 9.99 back by bank: credited at once, and paid when the bank has it."""
    take(open_orders, says(FIRST, "13.94"))
    open_orders.settled()
    back = [{"transaction": "bt-back", "by": "bank", "with": "bank", "sum": "9.99"}]
    open_orders.put("web-shop", refunds=[refund(paid_back=back)])
    open_orders.run()
    assert [one["gross"] for one in live(open_orders, "credit_note")] == ["9.99"]
    assert receipts(open_orders, "repayment") == []
    assert ("refunds", "MW-R-801", "-9.99") in awaited(open_orders)
    # The order's number means what goes out, by the sign of the line.
    take(open_orders, says(FIRST, "-9.99", day="2026-11-02", reference="B7"), opening="113.94", **NEXT)  # fmt: skip
    open_orders.settled()
    assert receipts(open_orders, "repayment") == [("2026-11-02", "1200", "9.99")]
    (repayment,), (note,) = live(open_orders, "repayment"), live(open_orders, "credit_note")
    assert repayment["settles"] == [{"reference": note["reference"], "amount": "9.99"}]
    assert [one for one in awaited(open_orders) if one[0] == "refunds"] == []
    tied(open_orders)
    # And taken back: it comes in again, and is owed again.
    (line,) = [one for one in lines(open_orders, "matched") if one.amount < 0]
    account(open_orders).take_back(line.id)
    open_orders.settled()
    assert balance(open_orders, "1200") == Decimal("13.94")
    assert ("refunds", "MW-R-801", "-9.99") in awaited(open_orders)
    assert crossing(open_orders, "MW-R-801").state == "carried"


def test_the_shop_hears_of_it_where_it_hears_of_money_in_the_books(open_orders: World) -> None:
    """By the lane of receipts; and its word comes back as no other money."""
    open_orders.calls.bridge(BRIDGE).switch_lane("receipts", on=True)
    take(open_orders, says(FIRST, "13.94"))
    open_orders.settled()
    state, money = at_shop(open_orders, FIRST)
    assert (state, [amount for amount, _ in money]) == ("paid", ["13.94", "13.94"])
    open_orders.run()
    assert receipts(open_orders) == [("2026-10-20", "1200", "13.94")]


@pytest.mark.parametrize("read_between", [True, False], ids=["read between", "at once"])
def test_an_invoice_that_the_office_typed_in_is_paid_by_its_number(
    stack: Stack, owner: str, *, read_between: bool
) -> None:
    """1,250.40 by bank for SI-09004, in two lines; settled by the books' own id, and in no request's sum."""
    world = asking_world(stack, owner)
    with_account(world)
    world.run(WEIRGATE)
    assert ("requests", OFFICE, "1250.40") in awaited(world)
    take(world, says(f"INV {OFFICE}", "1000.00"))
    world.settled()
    assert ("requests", OFFICE, "250.40") in awaited(world)
    rest = says(f"INV {OFFICE} rest", "250.40", reference="B2", day="2026-11-03")
    take(world, rest, opening="1100.00", **NEXT)
    world.settled()
    assert open_there(world, OFFICE) == 0
    assert receipts(world) == [("2026-10-20", "1200", "1000.00"), ("2026-11-03", "1200", "250.40")]
    world.run(WEIRGATE)
    assert not [one for one in awaited(world) if one[1] == OFFICE]
    # The wrong invoice after all: its money stands on the account, and the right one is found for it.
    wrong = next(one for one in lines(world, "matched") if f"{one.amount}" == "250.40")
    account(world).take_back(wrong.id)
    world.settled()
    if read_between:
        world.run(WEIRGATE)
    assert balance(world, "1200") == Decimal("1000.00")
    assert ("requests", OFFICE, "250.40") in awaited(world)
    # It names the invoice still; nothing matches or proposes it to that again, but somebody does.
    take(world, says("Something else", "1.00", reference="B3", day="2026-12-01"), opening="1350.40", **LATER)
    assert [one.id for one in lines(world, "matched") if one.id == wrong.id] == []
    assert account(world).unmatched().proposals == []
    account(world).match([wrong.id], [the_one(world, OFFICE).crossing])
    world.settled()
    assert balance(world, "1200") == Decimal("1250.40")
    assert in_books(world, OFFICE)["gross"] == "1250.40"
    assert [one.state for one in world.calls.crossings(kind="bank_payments")] == ["carried"] * 3
