"""What differs in the books is put right by further documents, once a person says so with a reason.

Whatever somebody did there, the books hold afterwards just what they held before: in each month, for each contact,
under each account and tax code.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.client.errors import ApiError
from inkwell_bridge.client.models import Spread
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import crossing, live
from tests.carriage.test_reading_again import SECOND, edit, of_order, read_again, with_a_refund
from tests.support.changing import FIRST, cancelled, three_skeins
from tests.support.world import World, wait_for

REASON = "The auditor asked for it."
REFUND = "MW-R-801"
Json = dict[str, Any]
Deed = Callable[[World], None]


@pytest.fixture
def posted(stack: Stack, owner: str) -> World:
    """Two orders of 13.94 and 21.75, a refund of 9.99, and their money, all posted."""
    return with_a_refund(stack, owner)


def holdings(world: World) -> dict[tuple[str, ...], str]:
    """What the books hold by month, contact, account and code, without tax and tax; and money by its account. Asked
    past the service."""
    sums: dict[tuple[str, ...], Decimal] = defaultdict(Decimal)
    for kind, sign in (("invoice", 1), ("credit_note", -1)):
        for one in live(world, kind):
            for line in one["lines"]:
                key = (one["date"][:7], str(one["contact"]), line["account"], line["tax_code"])
                sums[*key, "net"] += sign * Decimal(line["net"])
                sums[*key, "tax"] += sign * Decimal(line["tax"])
    for kind, sign in (("receipt", 1), ("repayment", -1)):
        for one in live(world, kind):
            sums[one["date"][:7], str(one["contact"]), one["account"], "money"] += sign * Decimal(one["amount"])
    return {key: f"{amount}" for key, amount in sums.items() if amount}


def decided(world: World, number: str, kind: str) -> Spread:
    """The document, after a person decided and it was carried."""
    world.calls.decide(crossing(world, number).id, kind, REASON)
    world.settled()
    return crossing(world, number)


def open_parts(world: World) -> list[str]:
    """What keeps October from tying."""
    sheet = world.calls.tie_out(**OCTOBER)
    rows = (*sheet.rows, *sheet.tax_codes, *sheet.accounts, *sheet.tenders)
    parts = [f"{row.section} {row.tender}{row.tax_code} {part.reason} {part.count} {part.net} {part.tax} {part.gross}"
             for row in rows for part in row.parts if not part.settled]  # fmt: skip
    return parts or ([] if sheet.ties else ["it does not tie"])


def moved_account(world: World) -> None:
    """The first line of the first order's invoice on another account: the gross stays."""
    invoice = of_order(world, "invoice")
    edit(world, "invoice", invoice["id"], lines=[{**invoice["lines"][0], "account": "4100"}, *invoice["lines"][1:]])


def a_pound_dearer(world: World) -> None:
    """A line for a pound more, with a fifth of tax on it."""
    invoice = of_order(world, "invoice")
    first, *others = invoice["lines"]
    more = {name: f"{Decimal(invoice[name]) + Decimal(by):.2f}"
            for name, by in (("net", "1"), ("tax", "0.20"), ("gross", "1.20"))}  # fmt: skip
    line = {**first, "unit_price": f"{Decimal(first['unit_price']) + 1}", "net": f"{Decimal(first['net']) + 1:.2f}",
            "tax": f"{Decimal(first['tax']) + Decimal('0.20'):.2f}"}  # fmt: skip
    edit(world, "invoice", invoice["id"], lines=[line, *others], **more)


def without_carriage(world: World) -> None:
    """A line less, and the totals less by it: 3.29 and 0.66 of tax."""
    invoice = of_order(world, "invoice")
    gone = next(line for line in invoice["lines"] if line["net"] == "3.29")
    less = {name: f"{Decimal(invoice[name]) - Decimal(gone[name]):.2f}" for name in ("net", "tax")}
    gross = f"{Decimal(invoice['gross']) - Decimal(gone['net']) - Decimal(gone['tax']):.2f}"
    lines = [line for line in invoice["lines"] if line is not gone]
    edit(world, "invoice", invoice["id"], lines=lines, gross=gross, **less)


def voided(kind: str, order: str = FIRST) -> Deed:
    """Voided in the books."""
    return lambda world: edit(world, kind, of_order(world, kind, order)["id"], state="void")


def deleted(kind: str, order: str = FIRST) -> Deed:
    """Deleted in the books."""
    return lambda world: world.put("erp", deleted={kind: [of_order(world, kind, order)["id"]]})


def changed(kind: str, order: str = FIRST, **fields: Any) -> Deed:
    """Another value in a field."""
    return lambda world: edit(world, kind, of_order(world, kind, order)["id"], **fields)


def another_contact(world: World) -> None:
    """The first order's invoice on the account of the other order's buyer."""
    edit(world, "invoice", of_order(world, "invoice")["id"], contact=of_order(world, "invoice", SECOND)["contact"])


def last_refund(deed: Callable[[World, Json], None]) -> Deed:
    """Done to the refund's credit note."""
    return lambda world: deed(world, live(world, "credit_note")[0])


BACK, ANEW = "put ours back", "credit and reissue"
DEEDS: list[tuple[str, str, Deed, str]] = [
    ("another account, back", FIRST, moved_account, BACK),
    ("another account, anew", FIRST, moved_account, ANEW),
    ("a pound dearer, back", FIRST, a_pound_dearer, BACK),
    ("a pound dearer, anew", FIRST, a_pound_dearer, ANEW),
    ("without carriage, back", FIRST, without_carriage, BACK),
    ("without carriage, anew", FIRST, without_carriage, ANEW),
    ("invoice voided, back", FIRST, voided("invoice"), BACK),
    ("invoice deleted, anew", FIRST, deleted("invoice"), ANEW),
    ("invoice in November, anew", FIRST, changed("invoice", date="2026-11-02"), ANEW),
    ("another contact, anew", FIRST, another_contact, ANEW),
    ("receipt voided, back", FIRST, voided("receipt"), BACK),
    ("receipt deleted, anew", FIRST, deleted("receipt"), ANEW),
    ("receipt on another account, anew", FIRST, changed("receipt", account="1200"), ANEW),
    ("receipt a penny more, anew", FIRST, changed("receipt", amount="13.95"), ANEW),
    ("credit note deleted, back", REFUND,
     last_refund(lambda world, note: world.put("erp", deleted={"credit_note": [note["id"]]})), BACK),
    ("credit note on another account, back", REFUND,
     last_refund(lambda world, note: edit(world, "credit_note", note["id"],
                                          lines=[{**note["lines"][0], "account": "4900"}, *note["lines"][1:]])), BACK),
    ("credit note in November, anew", REFUND,
     last_refund(lambda world, note: edit(world, "credit_note", note["id"], date="2026-11-03")), ANEW),
    ("money back on another account, anew", REFUND,
     lambda world: edit(world, "repayment", live(world, "repayment")[0]["id"], account="1200"), ANEW),
]  # fmt: skip


@pytest.mark.parametrize(("number", "deed", "kind"), [one[1:] for one in DEEDS], ids=[one[0] for one in DEEDS])
def test_the_books_hold_what_they_held(posted: World, number: str, deed: Deed, kind: str) -> None:
    """And nothing differs when it is read again; the month ties."""
    before = holdings(posted)
    deed(posted)
    read_again(posted)
    assert crossing(posted, number).state == "differs"
    assert holdings(posted) != before
    found = decided(posted, number, kind)
    assert [one.text for one in found.findings if one.level == "error"] == []
    assert found.state == "carried"
    assert holdings(posted) == before
    posted.calls.read_again(first=date(2026, 10, 1), last=date(2026, 11, 30))
    wait_for(lambda: posted.calls.still_to_read() == 0 or None, seconds=60, what="reading again")
    posted.settled()
    assert {one.number: one.state for one in posted.calls.crossings()} == dict.fromkeys(
        (FIRST, SECOND, REFUND), "carried"
    )
    assert holdings(posted) == before
    assert open_parts(posted) == []
    (event,) = [one for one in crossing(posted, number).history if one.kind == "decided"]
    assert (event.detail["kind"], event.detail["note"]) == (kind, REASON)
    # What each amount of the further documents stands for is said.
    for place, document in enumerate(crossing(posted, number).documents):
        assert document.state in ("proved", "cancelled"), (place, document)


@pytest.mark.parametrize(("deed", "kind"), [(moved_account, BACK), (moved_account, ANEW), (voided("invoice"), BACK)])
def test_an_order_that_changes_afterwards_becomes_what_it_is_then(posted: World, deed: Deed, kind: str) -> None:
    """Three skeins for 29.97 with carriage of 3.95: 24.97 and 3.29 without tax, less the refund of 9.99 (8.32)."""
    deed(posted)
    read_again(posted)
    assert decided(posted, FIRST, kind).state == "carried"
    posted.put_orders(three_skeins(50))
    posted.run()
    posted.settled()
    assert crossing(posted, FIRST).state == "carried"
    sums: dict[str, Decimal] = defaultdict(Decimal)
    for (_, _, account, _, what), amount in ((key, one) for key, one in holdings(posted).items() if len(key) == 5):
        if what == "net":
            sums[account] += Decimal(amount)
    other = Decimal(0)
    for line in of_order(posted, "invoice", SECOND)["lines"]:
        other += Decimal(line["net"])
    assert "4900" not in sums
    assert sum(sums.values()) - other == Decimal("24.97") + Decimal("3.29") - Decimal("8.32") + rounding(posted)
    assert open_parts(posted) == []


def rounding(world: World) -> Decimal:
    """What stands on the account of pennies, for both orders and their changes."""
    lines = [(sign, line) for kind, sign in (("invoice", 1), ("credit_note", -1))
             for one in live(world, kind) for line in one["lines"] if line["account"] == "8200"]  # fmt: skip
    return sum((sign * Decimal(line["net"]) for sign, line in lines), Decimal(0))


@pytest.mark.parametrize("kind", [BACK, ANEW])
def test_a_refund_put_right_counts_once(posted: World, kind: str) -> None:
    """Called off afterwards, the order is credited by what its refund has left of it: 13.94 less 9.99."""
    note = live(posted, "credit_note")[0]
    edit(posted, "credit_note", note["id"], lines=[{**note["lines"][0], "account": "4900"}, *note["lines"][1:]])
    read_again(posted)
    assert decided(posted, REFUND, kind).state == "carried"
    posted.put_orders(cancelled(50))
    posted.run()
    posted.settled()
    assert crossing(posted, FIRST).state == "carried"
    of_first = {key: Decimal(amount) for key, amount in holdings(posted).items() if key[-1] in ("net", "tax")}
    second = of_order(posted, "invoice", SECOND)
    assert sum(of_first.values()) == Decimal(second["gross"])
    assert not any(key[2] == "4900" for key in of_first)
    assert open_parts(posted) == []


def test_what_was_found_is_asked_about_when_the_order_changes_too(posted: World) -> None:
    """Read again before the order changed, it is as when it was not: nothing is posted over what somebody changed."""
    moved_account(posted)
    read_again(posted)
    posted.put_orders(three_skeins(50))
    posted.run()
    found = crossing(posted, FIRST)
    assert (found.state, found.cause) == ("held", "edited-in-books")
    assert "line 1, account 4100 in place of 4000" in found.findings[0].text


@pytest.mark.parametrize(
    ("deed", "kind", "said"),
    [
        (another_contact, BACK, "differs in more than its lines"),
        (changed("receipt", account="1200"), BACK, "is a payment, of which no part is posted by itself"),
        (changed("invoice", reference="somebody's own"), ANEW, "bears another reference"),
        (changed("invoice", gross="99.00"), ANEW, "its total there is 99.00"),
        (changed("invoice", state="draft"), BACK, "is a draft in the books, and in no account"),
    ],
)
def test_what_no_further_document_puts_right_is_refused(posted: World, deed: Deed, kind: str, said: str) -> None:
    """With what does; and nothing is posted."""
    deed(posted)
    read_again(posted)
    before = posted.books()
    with pytest.raises(ApiError, match=said) as refused:
        posted.calls.decide(crossing(posted, FIRST).id, kind, REASON)
    assert refused.value.problem.hint
    posted.settled()
    assert crossing(posted, FIRST).state == "differs"
    assert posted.books() == before


def test_one_that_stands_there_twice_is_mended_there(posted: World) -> None:
    """Which of them is ours to credit is nobody's guess."""
    invoice = of_order(posted, "invoice")
    posted.put("erp", entered={"invoice": [{**invoice, "id": 990, "number": "SI-990"}]})
    read_again(posted)
    with pytest.raises(ApiError, match="stands in the books twice"):
        posted.calls.decide(crossing(posted, FIRST).id, ANEW, REASON)


def test_a_decision_is_about_what_was_shown(posted: World) -> None:
    """Somebody changes it once more, between looking and deciding: nothing is posted, and it is looked at anew."""
    moved_account(posted)
    read_again(posted)
    shown = crossing(posted, FIRST)
    invoice = of_order(posted, "invoice")
    edit(posted, "invoice", invoice["id"], lines=[{**invoice["lines"][0], "account": "4900"}, *invoice["lines"][1:]])
    before = len(live(posted, "invoice"))
    with pytest.raises(ApiError, match="changed in the books again"):
        posted.calls.decide(shown.id, BACK, REASON)
    assert len(live(posted, "invoice")) == before
    assert "found 4900" in " ".join(one.text for one in crossing(posted, FIRST).findings)
    assert decided(posted, FIRST, BACK).state == "carried"


def test_books_that_are_away_are_told(posted: World) -> None:
    """What stands there now is asked for before anything is planned."""
    moved_account(posted)
    read_again(posted)
    posted.misbehave("erp", {"call": "invoices.search", "kind": "broken", "times": 50})
    with pytest.raises(ApiError, match="could not be asked"):
        posted.calls.decide(crossing(posted, FIRST).id, BACK, REASON)
    posted.misbehave("erp")
    assert crossing(posted, FIRST).state == "differs"
