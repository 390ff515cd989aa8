"""A month into which faults are planted at the books and at the shop, all at once: each is found, rightly named, and
nothing else is.

The sums of the sheet are held against the books' own data, asked past the service.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from inkwell_bridge.client.models import Totals
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.demo.month import web_shop
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_changed_orders import OCTOBER
from tests.carriage.test_completeness import became, by_hand, checked, lacking
from tests.carriage.test_money import crossing, live
from tests.support.world import BRIDGE, World, new_world, shop_order, wait_for

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
    Fault("a draft again", "invoice", lambda _: {"state": "draft"}, CHANGED, "all"),
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
    Fault("receipt a draft again", "receipt", lambda _: {"state": "draft"}, CHANGED, "all"),
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
# What goes wrong besides, at the shop and by hand: the order that was never told of, the one that is counted alone, the
# one that vanished, the one of a tax class that nobody mapped, and the one that a rule leaves out.
NEVER_TOLD, COUNTED_ALONE, VANISHED, UNMAPPED, LEFT_OUT = (f"MW-{number}" for number in range(10_201, 10_206))
TEMPLATE, FIRST_ID = "MW-10005", 93_000
# Its total, and what of that is tax.
WORTH = Decimal("21.75")
BY_HAND, OUR_REFERENCE = "entered by hand", "under our reference, and not posted from here"
GONE, HELD, COUNTED = "gone at the sales side", "held", "counted and not listed"
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
    world.put_orders(*orders, of_the_shop(VANISHED), of_the_shop(NEVER_TOLD, lost=True), reset=True)
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


def of_the_shop(number: str, **fields: Any) -> Json:
    """An order of 21.75, paid by nothing yet."""
    key = FIRST_ID + int(number.removeprefix("MW-"))
    return {**shop_order(TEMPLATE), "reference": number, "id": key, "received": [], **fields}


def plant_around(world: World) -> None:
    """At the shop an order that vanishes, one that is counted and not listed, one of a tax class that nobody mapped and
    one that is cancelled; in the books an invoice, a credit note and a journal by hand, and an invoice under one of our
    references that nothing here made."""
    template = of_the_shop(UNMAPPED, last_change="2026-10-31T19:52:00+00:00")
    row, *others = template["basket"]
    unmapped = {**template, "basket": [{**row, "tax": {**row["tax"], "class": "unheard-of"}}, *others]}
    world.put(
        "web-shop",
        removed={"orders": [of_the_shop(VANISHED)["id"]]},
        orders=[
            of_the_shop(COUNTED_ALONE, unlisted=True),
            unmapped,
            of_the_shop(LEFT_OUT, state="cancelled", last_change="2026-10-31T19:52:00+00:00"),
        ],
    )
    world.run(seconds=120)
    there, note = (next(one for one in in_october(world, kind) if one["lines"][0]["account"] == "4000")
                   for kind in ("invoice", "credit_note"))  # fmt: skip
    line = {"account": "4000", "text": "Sales of the fair", "note": "1", "currency": "GBP", "rate_from": "",
            "tax_code": "", "debit": "0.00", "credit": "40.00", "amount": "-40.00", "rate": None}  # fmt: skip
    fair = {"id": 996, "number": "JN-90096", "reference": "", "state": "posted", "date": "2026-10-09", "order": "",
            "currency": "GBP", "memo": "The fair", "link": "", "changed": "",
            "lines": [line, {**line, "account": "1200", "debit": "40.00", "credit": "0.00"}]}  # fmt: skip
    hand, ours = by_hand(there, 91), by_hand(there, 92, reference="INK:web-shop:77:invoice:1")
    entered = {"invoice": [hand, ours], "credit_note": [by_hand(note, 95)], "journal": [fair]}
    world.put("erp", entered=entered)


def mend_around(world: World) -> None:
    """The shop has and lists all of its orders, in classes that are mapped; what was entered by hand is away."""
    world.put("erp", deleted={"invoice": [991, 992], "credit_note": [995], "journal": [996]})
    later = {"last_change": "2026-10-31T19:55:00+00:00"}
    world.put_orders(of_the_shop(VANISHED), of_the_shop(COUNTED_ALONE), of_the_shop(UNMAPPED, **later))
    world.run(seconds=120)


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


def behind(world: World, reason: str) -> dict[str, Decimal]:
    """The documents behind a reason in October, each with what it makes the sides differ by."""
    return {one.number: one.difference.gross for one in world.calls.sheet(**OCTOBER).documents(reason=reason)
            if one.difference.gross or one.difference.count}  # fmt: skip


def test_each_is_found_and_rightly_named_and_nothing_else_is(month: World) -> None:
    """All at once, forty-four of them; mended, the month ties again to the penny."""
    planted = plant(month)
    assert len(planted) == len(INVOICE_FAULTS) + len(RECEIPT_FAULTS) + len(CREDIT_FAULTS)
    plant_around(month)
    read_again(month)
    (orders, _) = checked(month).result.kinds  # type: ignore[union-attr]
    assert became(orders) == {NEVER_TOLD: "fetched", VANISHED: "gone"}
    assert (crossing(month, NEVER_TOLD).state, crossing(month, LEFT_OUT).state) == ("carried", "left out")
    assert behind(month, GONE) == {VANISHED: -WORTH}
    assert behind(month, HELD) == {UNMAPPED: WORTH}
    assert [one.cause for one in month.calls.crossings(state="held")] == ["tax-class-unmapped"]
    assert lacking(month) == [(COUNTED, "", 1)]
    assert {number: amount < 0 for number, amount in behind(month, BY_HAND).items()} == {
        "SI-90091": True, "SI-90095": False, "JN-90096": True}  # fmt: skip
    assert list(behind(month, OUR_REFERENCE)) == ["SI-90092"]
    open_reasons = {
        part.reason for row in month.calls.tie_out(**OCTOBER).rows for part in row.parts if not part.settled
    }
    assert open_reasons == {CHANGED, VOIDED, MISSING, TWICE, GONE, HELD, BY_HAND, OUR_REFERENCE}
    found = {one.number: CAUSES.get(one.cause, one.cause) for one in month.calls.crossings(state="differs")}
    assert found == {one.number: one.fault.reason for one in planted}

    # Of each amount of the sheet just the documents that it was moved by, and by how much.
    for section in ("sales", "refunds", "money"):
        wanted = {(one.number, one.fault.also or one.fault.reason): one.moves for one in planted
                  if SECTIONS[one.fault.kind] == section and one.moves}  # fmt: skip
        documents = list(month.calls.sheet(**OCTOBER).documents(section=section))
        differing = {(one.number, reason): one.difference.gross for one in documents for reason in one.reasons
                     if reason in (CHANGED, VOIDED, MISSING, TWICE, REFERENCE, MOVED)
                     and one.difference.gross.copy_abs() >= PENNY}  # fmt: skip
        # Rounding has its own names on the same rows: of sales it stands between net and tax alone.
        assert differing == wanted, section
    _as_the_books_have_it(month)

    mend(month, planted)
    mend_around(month)
    read_again(month)
    assert checked(month).complete
    assert [(one.number, one.cause, [text.text for text in month.calls.crossing(one.id).findings])
            for kind in ("orders", "refunds") for one in month.calls.crossings(kind=kind)
            if one.state != "carried" and one.number != LEFT_OUT] == []  # fmt: skip
    assert lacking(month) == []
    assert month.calls.tie_out(**OCTOBER).ties
    _as_the_books_have_it(month)


# What somebody may change of a document there, with what it may be instead.
DAYS_AROUND = st.dates(date(2026, 9, 1), date(2026, 11, 30)).map(str)
HEADER = {"date": DAYS_AROUND, "order": st.sampled_from(["MW-99999", ""]), "state": st.just("void"),
          "contact": st.integers(1, 3), "reference": st.sampled_from(["", "their own"])}  # fmt: skip
PENCE = st.integers(-500, 500).filter(bool).map(lambda pence: pence * PENNY)
LINE = {"account": st.sampled_from(["4900", "4100", "8200"]), "tax_code": st.sampled_from(["Z00", "S20"]),
        "quantity": st.integers(2, 99).map(str), "article": st.sampled_from(["UNKNOWN-SKU", "ANOTHER-SKU"]),
        "net": PENCE, "tax": PENCE}  # fmt: skip
MONEY = {"account": st.sampled_from(["1200", "1100"]), "transaction": st.sampled_from(["wg_0", ""]),
         "settles": st.just([]), "amount": PENCE}  # fmt: skip


def mutated(data: st.DataObject, kind: str, there: Json) -> Json:
    """A document with one field of it, or of one of its lines, another than it was."""
    of_money = kind in ("receipt", "repayment")
    fields = {"header": HEADER, "money": MONEY, "line": LINE}
    where = data.draw(st.sampled_from(["header", "money"] if of_money else ["header", "line"]))
    place = data.draw(st.integers(0, len(there["lines"]) - 1)) if where == "line" else 0
    before = there["lines"][place] if where == "line" else there
    name = data.draw(st.sampled_from([one for one in fields[where] if one in before]))
    value = data.draw(fields[where][name].filter(lambda value: value != before[name]))
    if isinstance(value, Decimal):
        value = f"{Decimal(before[name]) + value:.2f}"
    if where != "line":
        return {name: value}
    return {"lines": [{**line, name: value} if number == place else line for number, line in enumerate(there["lines"])]}


@settings(max_examples=5, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_whatever_is_changed_of_whatever_document_is_found(month: World, data: st.DataObject) -> None:
    """Some documents, each of another order or refund, in a field that the rules speak of; and no other is named."""
    books = month.books()
    of_reference = {one["reference"]: (kind, one) for kind in SECTIONS for one in books[kind]}
    changes: dict[str, dict[str, Json]] = {}
    undone: dict[str, list[Json]] = {}
    numbers = set()
    for one in sorted(month.calls.crossings(), key=lambda one: one.number):
        if data.draw(st.integers(0, 3)):
            continue
        reference = data.draw(st.sampled_from([document.external_reference for document in one.documents]))
        kind, there = of_reference[reference]
        changes.setdefault(kind, {})[str(there["id"])] = mutated(data, kind, there)
        undone.setdefault(kind, []).append(there)
        numbers.add(one.number)
    month.put("erp", edited=changes)
    read_again(month)
    found = {one.number for one in month.calls.crossings(state="differs")}
    assert found == numbers, (found - numbers, numbers - found, changes)
    _as_the_books_have_it(month)
    month.put("erp", entered=undone)
    read_again(month)
    assert [one.number for one in month.calls.crossings(state="differs")] == []
    assert month.calls.tie_out(**OCTOBER).ties


def _as_the_books_have_it(month: World) -> None:
    """The books' side of the sheet is what they hold themselves, whoever changed it, and by their own dates."""
    sheet = month.calls.tie_out(**OCTOBER)
    assert not [row for row in (*sheet.rows, *sheet.tax_codes, *sheet.accounts, *sheet.tenders) if any(
        (row.unexplained.count, row.unexplained.net, row.unexplained.tax, row.unexplained.gross))]  # fmt: skip
    (sales,) = sheet.sales
    (refunds,) = [row for row in sheet.rows if row.section == "refunds"]
    count, net, tax, gross = sums(in_october(month, "invoice"))
    # A journal counts by what it takes to the accounts of sales, and no document.
    by_journal = sum((Decimal(line["credit"]) - Decimal(line["debit"]) for one in in_october(month, "journal")
                      for line in one["lines"] if line["account"] == "4000"), ZERO)  # fmt: skip
    assert said(sales.books) == (count, net + by_journal, tax, gross + by_journal)
    assert said(refunds.books, -1)[1:] == sums(in_october(month, "credit_note"))[1:]
    (card,) = sheet.tenders
    came = sum((Decimal(one["amount"]) for one in in_october(month, "receipt")), ZERO)
    went = sum((Decimal(one["amount"]) for one in in_october(month, "repayment")), ZERO)
    assert card.books.gross == came - went
    on_sheet = {(row.account, row.section): row.books.net for row in sheet.accounts if row.books.net}
    assert on_sheet == _by_account(month)


def _by_account(month: World) -> dict[tuple[str, str], Decimal]:
    """What October's documents put on each account of the books: net of sales and refunds, and money."""
    found: dict[tuple[str, str], Decimal] = defaultdict(Decimal)
    for kind, sign in (("invoice", 1), ("credit_note", -1)):
        for one in in_october(month, kind):
            for line in one["lines"]:
                found[line["account"], "both"] += sign * Decimal(line["net"])
    for one in in_october(month, "journal"):
        for line in one["lines"]:
            if line["account"] == "4000":
                found["4000", "both"] += Decimal(line["credit"]) - Decimal(line["debit"])
    for kind, sign in (("receipt", 1), ("repayment", -1)):
        for one in in_october(month, kind):
            found[one["account"], "money"] += sign * Decimal(one["amount"])
    return {place: amount for place, amount in found.items() if amount}
