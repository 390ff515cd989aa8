"""A month into which faults are planted at the books, all at once: each is found, rightly named, and nothing else is.

The sums of the sheet are held against the books' own data, asked past the service.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

import pytest

from inkwell_bridge.client.models import Totals
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.demo.month import web_shop
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_money import live
from tests.support.world import BRIDGE, World, new_world, wait_for

ZERO, PENNY, POUND = Decimal(0), Decimal("0.01"), Decimal("1.00")
CHANGED, VOIDED, MISSING = "changed in the books", "voided in the books", "missing in the books"
TWICE, REFERENCE, MOVED = "twice in the books", "under another reference in the books", "on another day in the books"
CAUSES = {"changed-in-books": CHANGED, "voided-in-books": VOIDED, "missing-in-books": MISSING, "twice-in-books": TWICE,
          "reference-changed": REFERENCE}  # fmt: skip
FIRST_ORDER, FIRST_COPY = 10_103, 900
Json = dict[str, Any]
Change = Callable[[Json], Json | None]


def of_line(**fields: Any) -> Change:
    """Other values on the first line."""
    return lambda there: {"lines": [{**there["lines"][0], **fields}, *there["lines"][1:]]}


def dearer(there: Json) -> Json:
    """The first line and the totals for a pound more, without tax."""
    more = {name: f"{Decimal(there[name]) + POUND:.2f}" for name in ("net", "gross")}
    line = there["lines"][0]
    return {**more, "lines": [{**line, "net": f"{Decimal(line['net']) + POUND:.2f}"}, *there["lines"][1:]]}


def tax_more(there: Json) -> Json:
    """A penny more of tax on the first line, and in the totals."""
    more = {name: f"{Decimal(there[name]) + PENNY:.2f}" for name in ("tax", "gross")}
    line = there["lines"][0]
    return {**more, "lines": [{**line, "tax": f"{Decimal(line['tax']) + PENNY:.2f}"}, *there["lines"][1:]]}


def untaxed(there: Json) -> Json:
    """The first line zero-rated, with the same gross: it is all net."""
    line = there["lines"][0]
    tax = Decimal(line["tax"])
    totals = {"net": f"{Decimal(there['net']) + tax:.2f}", "tax": f"{Decimal(there['tax']) - tax:.2f}"}
    zero = {**line, "tax_code": "Z00", "net": f"{Decimal(line['net']) + tax:.2f}", "tax": "0.00"}
    return {**totals, "lines": [zero, *there["lines"][1:]]}


def less_a_line(there: Json) -> Json:
    """Without its last line, which is carriage or rounding, and the totals as they were."""
    return {"lines": there["lines"][:-1]}


@dataclass(frozen=True, slots=True)
class Fault:
    """What somebody does to one document of an order, what it is called, and how much of the order's gross it moves in
    October: none of it, all of it (its sign as on the sheet), or an amount of its own."""

    name: str
    kind: str
    change: Change
    reason: str
    moves: Decimal | str = ZERO
    also: str = ""


def _whole(_: Json) -> Json | None:
    return None


INVOICE_FAULTS = [
    Fault("voided", "invoice", lambda _: {"state": "void"}, VOIDED, "all"),
    Fault("deleted", "invoice", _whole, MISSING, "all"),
    Fault("entered twice", "invoice", _whole, TWICE, "less all"),
    Fault("moved into November", "invoice", lambda _: {"date": "2026-11-02"}, CHANGED, "all", also=MOVED),
    Fault("moved back into September", "invoice", lambda _: {"date": "2026-09-30"}, CHANGED, "all", also=MOVED),
    Fault("moved by a day", "invoice", lambda there: {"date": "2026-10-31"}, CHANGED),
    Fault("a pound dearer", "invoice", dearer, CHANGED, -POUND),
    Fault("a penny more of tax", "invoice", tax_more, CHANGED, -PENNY),
    Fault("another contact", "invoice", lambda there: {"contact": there["contact"] + 1}, CHANGED),
    Fault("another account", "invoice", of_line(account="4900"), CHANGED),
    Fault("another quantity", "invoice", of_line(quantity="7"), CHANGED),
    Fault("another item", "invoice", of_line(article="UNKNOWN-SKU"), CHANGED),
    Fault("a line less", "invoice", less_a_line, CHANGED),
    Fault("another tax code, the same gross", "invoice", untaxed, CHANGED),
    Fault("another order's number", "invoice", lambda _: {"order": "MW-99999"}, CHANGED),
    Fault("another reference", "invoice", lambda _: {"reference": "somebody's own"}, REFERENCE),
]
RECEIPT_FAULTS = [
    Fault("receipt voided", "receipt", lambda _: {"state": "void"}, VOIDED, "all"),
    Fault("receipt deleted", "receipt", _whole, MISSING, "all"),
    Fault("receipt entered twice", "receipt", _whole, TWICE, "less all"),
    Fault("receipt in November", "receipt", lambda _: {"date": "2026-11-02"}, CHANGED, "all", also=MOVED),
    Fault("receipt a penny more", "receipt",
          lambda there: {"amount": f"{Decimal(there['amount']) + PENNY:.2f}"}, CHANGED, -PENNY),
    Fault("receipt on another account", "receipt", lambda _: {"account": "1200"}, CHANGED),
    Fault("receipt set against nothing", "receipt", lambda _: {"settles": []}, CHANGED),
    Fault("receipt of another transaction", "receipt", lambda _: {"transaction": "wg_0"}, CHANGED),
    Fault("receipt of another contact", "receipt", lambda there: {"contact": there["contact"] + 1}, CHANGED),
    Fault("receipt under another reference", "receipt", lambda _: {"reference": "their own"}, REFERENCE),
]  # fmt: skip
CREDIT_FAULTS = [
    Fault("credit voided", "credit_note", lambda _: {"state": "void"}, VOIDED, "all"),
    Fault("credit deleted", "credit_note", _whole, MISSING, "all"),
    Fault("credit entered twice", "credit_note", _whole, TWICE, "less all"),
    Fault("credit in November", "credit_note", lambda _: {"date": "2026-11-03"}, CHANGED, "all", also=MOVED),
    Fault("credit on another account", "credit_note", of_line(account="4900"), CHANGED),
    Fault("credit of another contact", "credit_note", lambda there: {"contact": there["contact"] + 1}, CHANGED),
    Fault("money back voided", "repayment", lambda _: {"state": "void"}, VOIDED, "all"),
    Fault("money back on another account", "repayment", lambda _: {"account": "1200"}, CHANGED),
    Fault("money back a penny more", "repayment",
          lambda there: {"amount": f"{Decimal(there['amount']) + PENNY:.2f}"}, CHANGED, PENNY),
]  # fmt: skip
# What the rules say nothing of is the books' own: when it is due, by the contact's terms, and its number.
HARMLESS: list[tuple[str, Change]] = [("invoice", lambda _: {"due": "2027-01-31"}),
                                      ("invoice", lambda _: {"number": "SI-77777"})]  # fmt: skip
SECTIONS = {"invoice": "sales", "credit_note": "refunds", "receipt": "money", "repayment": "money"}


@pytest.fixture
def month(stack: Stack, owner: str) -> World:
    """Some sixty everyday orders of October with their money, and refunds of nine of them."""
    shop = web_shop()
    orders = [one for one in shop["orders"] if FIRST_ORDER <= int(one["reference"].removeprefix("MW-")) <= 10_168
              and one["placed"] > "2026-10-03"]  # fmt: skip
    world = new_world(stack, owner, rules=rulebook_text(BRIDGE))
    world.put_orders(*orders, reset=True)
    # Without a discount on top, the tax of the line is that of its price.
    one_line = [order for order in orders if len(order["basket"]) == 1 and _is_a_sixth(order["basket"][0])][-9:]
    world.put("web-shop", refunds=[_all_back(order, number) for number, order in enumerate(one_line)])
    world.calls.bridge(BRIDGE).switch_lane("refunds", on=True)
    world.run(seconds=180)
    world.settled()
    assert [(one.number, one.cause) for one in world.calls.crossings() if one.state != "carried"] == []
    assert world.calls.tie_out(**OCTOBER).ties
    return world


def _is_a_sixth(row: Json) -> bool:
    return (Decimal(row["sum"]) / 6).quantize(PENNY, ROUND_HALF_UP) == Decimal(row["tax"]["sum"])


def _all_back(order: Json, number: int) -> Json:
    """The first line of an order, all of it, given back on the 30th."""
    row, when = order["basket"][0], "2026-10-30T12:00:00+00:00"
    money = {"transaction": f"back_{number}", "by": "card", "with": "card", "sum": row["sum"], "when": when}
    return {
        "id": 700 + number, "reference": f"MW-R-{700 + number}", "order": order["reference"], "order_id": order["id"],
        "when": when, "last_change": when, "currency": "GBP", "prices": "with tax", "rows": [row],
        "tax": row["tax"]["sum"], "total": row["sum"], "paid_back": [money],
    }  # fmt: skip


@dataclass(frozen=True, slots=True)
class Planted:
    """A fault in the document that it was planted into, and the number of the source document that it is of."""

    fault: Fault
    there: Json
    number: str

    @property
    def moves(self) -> Decimal:
        """What the sheet misses of it in October, with its sign there."""
        gross = Decimal(self.there.get("gross") or self.there["amount"])
        signed = -gross if self.fault.kind in ("credit_note", "repayment") else gross
        if isinstance(self.fault.moves, Decimal):
            return self.fault.moves
        return {"all": signed, "less all": -signed}[self.fault.moves]


def plant(world: World) -> list[Planted]:
    """Each fault into a document of an order, or refund, of its own; at the books, and never in our tables."""
    books = world.books()
    crossings = sorted(world.calls.crossings(), key=lambda one: one.number)
    references = {one.number: {document.external_reference for document in one.documents} for one in crossings}
    free = iter([one.number for one in crossings if one.kind == "orders"])
    backs = iter([one.number for one in crossings if one.kind == "refunds"])
    planted, entered, edited, deleted = [], {}, {}, {}  # type: ignore[var-annotated]
    for fault in (*INVOICE_FAULTS, *RECEIPT_FAULTS, *CREDIT_FAULTS):
        number = next(backs if fault.kind in ("credit_note", "repayment") else free)
        there = next(one for one in books[fault.kind] if one["reference"] in references[number])
        planted.append(Planted(fault, there, number))
        change = fault.change(there)
        if change is not None:
            edited.setdefault(fault.kind, {})[str(there["id"])] = change
        elif fault.reason == TWICE:
            copy = {**there, "id": FIRST_COPY + there["id"], "number": f"{there['number']}-B"}
            entered.setdefault(fault.kind, []).append(copy)
        else:
            deleted.setdefault(fault.kind, []).append(there["id"])
    for kind, harmless in HARMLESS:
        number = next(free)
        there = next(one for one in books[kind] if one["reference"] in references[number])
        edited.setdefault(kind, {})[str(there["id"])] = harmless(there)
    world.put("erp", edited=edited, entered=entered, deleted=deleted)
    return planted


def mend(world: World, planted: list[Planted]) -> None:
    """Every document as it was, and the copies away."""
    entered: dict[str, list[Json]] = {}
    deleted: dict[str, list[int]] = {}
    for one in planted:
        entered.setdefault(one.fault.kind, []).append(one.there)
        if one.fault.reason == TWICE:
            deleted.setdefault(one.fault.kind, []).append(FIRST_COPY + one.there["id"])
    world.put("erp", entered=entered, deleted=deleted)


def read_again(world: World) -> None:
    """All that was posted, wherever somebody moved it to."""
    world.calls.read_again(first=date(2026, 9, 1), last=date(2026, 11, 30))
    wait_for(lambda: world.calls.still_to_read() == 0 or None, seconds=120, what="reading again")
    world.settled()


def in_october(world: World, kind: str) -> list[Json]:
    """What stands posted in the books of a kind with a date of October, asked past the service."""
    return [one for one in live(world, kind) if one["state"] == "posted" and one["date"][:7] == "2026-10"]


def sums(rows: list[Json]) -> tuple[int, Decimal, Decimal, Decimal]:
    """How many, net, tax and gross."""
    net, tax, gross = (sum((Decimal(one[name]) for one in rows), ZERO) for name in ("net", "tax", "gross"))
    return len(rows), net, tax, gross


def said(totals: Totals, sign: int = 1) -> tuple[int, Decimal, Decimal, Decimal]:
    """The same of a side of the sheet."""
    return totals.count, sign * totals.net, sign * totals.tax, sign * totals.gross


def test_each_is_found_and_rightly_named_and_nothing_else_is(month: World) -> None:
    """All at once; mended, the month ties again to the penny."""
    planted = plant(month)
    assert len(planted) == len(INVOICE_FAULTS) + len(RECEIPT_FAULTS) + len(CREDIT_FAULTS)
    read_again(month)
    found = {one.number: CAUSES.get(one.cause, one.cause) for one in month.calls.crossings(state="differs")}
    assert found == {one.number: one.fault.reason for one in planted}

    # Of each amount of the sheet just the documents that it was moved by, and by how much.
    for section in ("sales", "refunds", "money"):
        wanted = {(one.number, one.fault.also or one.fault.reason): one.moves for one in planted
                  if SECTIONS[one.fault.kind] == section and one.moves}  # fmt: skip
        behind = list(month.calls.sheet(**OCTOBER).documents(section=section))
        differing = {(one.number, reason): one.difference.gross for one in behind for reason in one.reasons
                     if reason in (CHANGED, VOIDED, MISSING, TWICE, REFERENCE, MOVED)
                     and one.difference.gross.copy_abs() >= PENNY}  # fmt: skip
        # Rounding has its own names on the same rows: of sales it stands between net and tax alone.
        assert differing == wanted, section
    _as_the_books_have_it(month)

    mend(month, planted)
    read_again(month)
    assert [(one.number, one.cause, [text.text for text in month.calls.crossing(one.id).findings])
            for one in month.calls.crossings() if one.state != "carried"] == []  # fmt: skip
    assert month.calls.tie_out(**OCTOBER).ties
    _as_the_books_have_it(month)


def _as_the_books_have_it(month: World) -> None:
    """The books' side of the sheet is what they hold themselves, whoever changed it, and by their own dates."""
    sheet = month.calls.tie_out(**OCTOBER)
    assert not [row for row in (*sheet.rows, *sheet.tax_codes, *sheet.tenders) if any(
        (row.unexplained.count, row.unexplained.net, row.unexplained.tax, row.unexplained.gross))]  # fmt: skip
    (sales,) = sheet.sales
    (refunds,) = [row for row in sheet.rows if row.section == "refunds"]
    assert said(sales.books) == sums(in_october(month, "invoice"))
    assert said(refunds.books, -1)[1:] == sums(in_october(month, "credit_note"))[1:]
    (card,) = sheet.tenders
    came = sum((Decimal(one["amount"]) for one in in_october(month, "receipt")), ZERO)
    went = sum((Decimal(one["amount"]) for one in in_october(month, "repayment")), ZERO)
    assert card.books.gross == came - went
