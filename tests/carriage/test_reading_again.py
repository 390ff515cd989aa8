"""What was posted is read again later: what somebody changed, voided, deleted or doubled in the books is found."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client.errors import ApiError
from inkwell_bridge.client.models import Spread
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import crossing, live, refund
from tests.support.changing import FIRST
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

SECOND = "MW-10005"
ALL = {"first": date(2026, 10, 1), "last": date(2026, 10, 31)}


def with_a_refund(stack: Stack, owner: str) -> World:
    """Two orders of 13.94 and 21.75, a refund of 9.99, and their money, all posted."""
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(shop_order(FIRST), shop_order(SECOND), reset=True)
    world.put("web-shop", refunds=[refund()])
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run()
    return world


@pytest.fixture
def posted(stack: Stack, owner: str) -> World:
    """See ``with_a_refund``."""
    return with_a_refund(stack, owner)


def read_again(world: World) -> None:
    """Read everything again, and wait until that is done."""
    assert world.calls.read_again(**ALL) > 0
    wait_for(lambda: world.calls.still_to_read() == 0 or None, seconds=60, what="reading again")
    world.settled()


def edit(world: World, kind: str, number: int, **fields: Any) -> None:
    """Somebody changes a document at the books' own screen."""
    world.put("erp", edited={kind: {str(number): fields}})


def of_order(world: World, kind: str, order: str = FIRST) -> dict[str, Any]:
    """The document of a kind that is of an order."""
    return next(one for one in live(world, kind) if one.get("order") == order)


def differing(found: Spread) -> list[str]:
    """What is said of it."""
    return [one.text for one in found.findings if one.level == "error"]


def unexplained(world: World) -> Decimal:
    """What no name accounts for, of October."""
    return sum((one.unexplained.gross for one in world.calls.tie_out(**OCTOBER).sales), Decimal(0))


def by_reason(world: World) -> dict[str, str]:
    """Gross of what stands between the sides of October's sales, and is no matter of rounding."""
    (total,) = world.calls.tie_out(**OCTOBER).sales
    rounding = ("rounding by rule", "tax computed otherwise by the books")
    return {one.reason: f"{one.gross}" for one in total.parts if one.reason not in rounding}


def test_what_nobody_touched_is_as_it_was(posted: World) -> None:
    """Nothing is made, and nothing happens; that it was read is kept."""
    before = {kind: len(rows) for kind, rows in posted.books().items()}
    then = {one.id: one.read_at for one in posted.calls.documents()}
    read_again(posted)
    assert {kind: len(rows) for kind, rows in posted.books().items()} == before
    now = {one.id: one.read_at for one in posted.calls.documents()}
    assert all(now[key] > at for key, at in then.items())
    assert {one.state for one in posted.calls.crossings()} == {"carried"}
    assert not [one for one in crossing(posted, FIRST).history if one.kind == "read"]


def test_a_date_that_was_moved_is_found_and_mended(posted: World) -> None:
    """Into November: the order differs, by name, and October's books lack it; moved back, it is carried again."""
    invoice = of_order(posted, "invoice")
    edit(posted, "invoice", invoice["id"], date="2026-11-02")
    read_again(posted)
    found = crossing(posted, FIRST)
    assert (found.state, found.cause) == ("differs", "changed-in-books")
    assert differing(found) == [f"date: planned {invoice['date']}, found 2026-11-02"]
    assert [one.hint for one in found.findings if one.level == "error"] == [
        f"Open {invoice['number']} there and see who changed it."]  # fmt: skip
    (event,) = [one for one in found.history if one.kind == "read"]
    assert event.detail["text"] == (
        f"{invoice['number']} is changed in the books: date 2026-11-02 in place of {invoice['date']}")  # fmt: skip
    # Both sides by their own days: the books have it in another period.
    sheet = posted.calls.tie_out(**OCTOBER)
    (total,) = sheet.sales
    moved = total.part("on another day in the books")
    assert (moved.count, f"{moved.gross}", total.unexplained.gross) == (1, "13.94", 0)
    # Both sides have it, and yet it is not as it was.
    assert [(one.reason, one.documents) for one in sheet.differing] == [("changed in the books", 1)]
    assert not sheet.ties
    edit(posted, "invoice", invoice["id"], date=invoice["date"])
    posted.calls.read_again(first=date(2026, 11, 1), last=date(2026, 11, 30))
    wait_for(lambda: crossing(posted, FIRST).state == "carried" or None, seconds=60, what="the mended invoice")
    assert differing(crossing(posted, FIRST)) == []


def test_who_changed_it_is_told_where_the_books_tell(posted: World) -> None:
    """In the history, and with what to do; who has voided one as well."""
    invoice, other = of_order(posted, "invoice"), of_order(posted, "invoice", SECOND)
    edit(posted, "invoice", invoice["id"], date="2026-11-02", changed_by="p.shah")
    edit(posted, "invoice", other["id"], state="void", changed_by="j.okafor")
    read_again(posted)
    found = crossing(posted, FIRST)
    assert [one.hint for one in found.findings if one.level == "error"] == [
        f"Open {invoice['number']} there and ask p.shah, who changed it."]  # fmt: skip
    (event,) = [one for one in found.history if one.kind == "read"]
    assert event.detail["text"].startswith(f"{invoice['number']} is changed in the books by p.shah: date")
    assert differing(crossing(posted, SECOND)) == [f"{other['number']} is voided in the books by j.okafor."]


def test_one_that_cannot_be_read_stops_no_other(posted: World) -> None:
    """It is told, with what is wrong of it; what is changed besides is found; nothing is put right from it."""
    broken, other = of_order(posted, "invoice"), of_order(posted, "invoice", SECOND)
    edit(posted, "invoice", broken["id"], due="the day after tomorrow")
    edit(posted, "invoice", other["id"], date="2026-11-02")
    read_again(posted)
    found = crossing(posted, FIRST)
    assert (found.state, found.cause) == ("differs", "changed-in-books")
    (said,) = differing(found)
    assert said.startswith(f"{broken['number']} is unreadable in the books: the ERP's invoice lacks or misstates")
    assert crossing(posted, SECOND).state == "differs"
    with pytest.raises(ApiError, match="cannot be read in the books as it stands"):
        posted.calls.decide(found.id, "credit and reissue", "It is broken.")
    edit(posted, "invoice", broken["id"], due=broken["due"])
    read_again(posted)
    assert (crossing(posted, FIRST).state, crossing(posted, SECOND).state) == ("carried", "differs")


def test_a_tax_code_swapped_with_the_same_gross_is_found(posted: World) -> None:
    """The totals agree, and the document does not."""
    invoice = of_order(posted, "invoice")
    lines = [{**line, "account": "4100"} for line in invoice["lines"]]
    edit(posted, "invoice", invoice["id"], lines=lines)
    read_again(posted)
    found = crossing(posted, FIRST)
    assert found.state == "differs"
    assert "lines/0/account: planned 4000, found 4100" in differing(found)
    assert {one.state for one in posted.calls.crossings(search=SECOND)} == {"carried"}
    assert unexplained(posted) == 0


def test_an_amount_that_was_edited_is_in_the_books_figures(posted: World) -> None:
    """The sheet says what the books hold, and not what was planned."""
    invoice = of_order(posted, "invoice", SECOND)
    line = invoice["lines"][0]
    more = f"{Decimal(line['net']) + 1:.2f}"
    gross = f"{Decimal(invoice['gross']) + 1:.2f}"
    edit(posted, "invoice", invoice["id"], lines=[{**line, "net": more}, *invoice["lines"][1:]], gross=gross,
         net=f"{Decimal(invoice['net']) + 1:.2f}")  # fmt: skip
    read_again(posted)
    assert crossing(posted, SECOND).state == "differs"
    assert (by_reason(posted), unexplained(posted)) == ({"changed in the books": "-1.00"}, 0)


@pytest.mark.parametrize(("kind", "role"), [("invoice", "invoice"), ("receipt", "payment")])
def test_what_was_voided_is_told_and_never_posted_again_by_itself(posted: World, kind: str, role: str) -> None:
    """The books have no figures of it; taken up again there, it counts as before."""
    document = of_order(posted, kind)
    edit(posted, kind, document["id"], state="void")
    read_again(posted)
    found = crossing(posted, FIRST)
    assert differing(found) == [f"{document['number']} is voided in the books."]
    assert found.state == "differs"
    assert len([one for one in live(posted, kind) if one.get("order") == FIRST]) == 0
    (told,) = [one for one in found.documents if one.role == role]
    assert told.state == "differs"
    if kind == "invoice":
        assert (by_reason(posted), unexplained(posted)) == ({"voided in the books": "13.94"}, 0)
    read_again(posted)
    assert len([one for one in crossing(posted, FIRST).history if one.kind == "read"]) == 1
    edit(posted, kind, document["id"], state="posted")
    read_again(posted)
    assert crossing(posted, FIRST).state == "carried"
    assert unexplained(posted) == 0


def test_one_that_was_entered_once_more_by_hand_stands_there_twice(posted: World) -> None:
    """Under the same reference: a person says which of both goes."""
    invoice, other = of_order(posted, "invoice"), of_order(posted, "invoice", SECOND)
    edit(posted, "invoice", other["id"], reference=invoice["reference"])
    read_again(posted)
    assert differing(crossing(posted, FIRST)) == [f"{invoice['number']} is twice in the books: 2 of them."]
    # And the other is known by the books' own id, whatever its reference says.
    (said,) = differing(crossing(posted, SECOND))
    assert said.startswith(f"{other['number']} is under another reference in the books: it bears INK:")
    # The books hold 21.75 more under the first's name; that of the second stands there as it did.
    sheet = posted.calls.tie_out(**OCTOBER)
    (total,) = sheet.sales
    assert (total.books.count, f"{total.books.gross}") == (3, "57.44")
    assert by_reason(posted) == {"twice in the books": "-21.75"}
    assert [(one.reason, one.documents) for one in sheet.differing] == [
        ("twice in the books", 1), ("under another reference in the books", 1)]  # fmt: skip


def test_a_difference_that_somebody_accepts_stays_accepted(posted: World) -> None:
    """Read again it says nothing new; changed once more it is asked about once more."""
    invoice = of_order(posted, "invoice")
    edit(posted, "invoice", invoice["id"], date="2026-10-30")
    read_again(posted)
    posted.calls.decide(crossing(posted, FIRST).id, "accept difference", "Agreed with the accountant")
    posted.settled()
    assert crossing(posted, FIRST).state == "carried"
    read_again(posted)
    assert crossing(posted, FIRST).state == "carried"
    edit(posted, "invoice", invoice["id"], date="2026-10-29")
    read_again(posted)
    assert crossing(posted, FIRST).state == "differs"


def test_books_that_fail_change_nothing_and_are_asked_again(posted: World) -> None:
    """What was not read is read later, and nothing differs for it."""
    edit(posted, "invoice", of_order(posted, "invoice")["id"], date="2026-11-02")
    posted.misbehave("erp", {"call": "invoices.search", "kind": "cut", "times": 2})
    read_again(posted)
    assert crossing(posted, FIRST).state == "differs"
    assert {one.state for one in posted.calls.crossings(search=SECOND)} == {"carried"}


def _line(**fields: Any) -> Any:
    """Another value on the first line."""
    return lambda there: {"lines": [{**there["lines"][0], **fields}, *there["lines"][1:]]}


@pytest.mark.parametrize(
    ("kind", "change"),
    [
        ("invoice", lambda there: {"contact": there["contact"] + 1}),
        ("invoice", lambda there: {"order": "MW-99999"}),
        ("invoice", _line(quantity="7")),
        ("invoice", _line(tax_code="Z00")),
        ("invoice", _line(account="4900")),
        ("invoice", lambda there: {"lines": there["lines"][1:]}),
        ("receipt", lambda there: {"account": "1200"}),
        ("receipt", lambda there: {"amount": "13.95"}),
        ("receipt", lambda there: {"settles": []}),
        ("credit_note", lambda there: {"date": "2026-11-03"}),
        ("repayment", lambda there: {"amount": "1.00"}),
    ],
    ids=["contact", "order number", "quantity", "tax code", "account", "a line", "account of money", "amount of money",
         "allocation", "date of a credit", "amount back"],
)  # fmt: skip
def test_whatever_is_changed_of_one_document_is_found_and_nothing_else(posted: World, kind: str, change: Any) -> None:
    """By the books' own interface, one field at a time; put back, all is as it was."""
    there = live(posted, kind)[0] if kind in ("credit_note", "repayment") else of_order(posted, kind)
    other = change(there)
    before = {name: there[name] for name in other}
    edit(posted, kind, there["id"], **other)
    read_again(posted)
    differs = [one for one in posted.calls.crossings() if one.state == "differs"]
    assert [one.number for one in differs] == ["MW-R-801" if kind in ("credit_note", "repayment") else FIRST]
    edit(posted, kind, there["id"], **before)
    posted.calls.read_again(first=date(2026, 10, 1), last=date(2026, 11, 30))
    wait_for(lambda: {one.state for one in posted.calls.crossings()} == {"carried"} or None, seconds=60, what="mending")


def test_what_differs_in_no_amount_is_listed_as_well(posted: World) -> None:
    """Another contact on one invoice, and the other moved by a month: both changed, and by no amount."""
    first, second = of_order(posted, "invoice"), of_order(posted, "invoice", SECOND)
    edit(posted, "invoice", first["id"], contact=first["contact"] + 1)
    edit(posted, "invoice", second["id"], date="2026-11-02")
    read_again(posted)
    sheet = posted.calls.sheet(**OCTOBER)
    listed = {one.number: one.reasons[0] for one in sheet.documents(reason="changed in the books")}
    assert listed == {FIRST: "changed in the books", SECOND: "changed in the books"}
    assert list(sheet.documents(reason="voided in the books")) == []
    # Of one amount only what moves it is behind it.
    assert list(sheet.documents(reason="changed in the books", currency="GBP", section="sales")) == []
