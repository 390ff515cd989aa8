"""The proof of every kind of document: what was planned, against what the books hold of it."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import (
    BooksDocument,
    BooksRecord,
    CreditNote,
    Dispatch,
    Invoice,
    Journal,
    Payment,
    RefundPayment,
    Standing,
    StockLevel,
    StockMove,
)
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.proof import prove

LINE = {
    "kind": "goods",
    "line_reference": "1",
    "text": "Merino",
    "account": "4000",
    "quantity": "2",
    "unit_price": "15.42",
    "net": "30.84",
    "tax_code": "S20",
    "tax": "6.17",
}
SECOND = {**LINE, "line_reference": "2", "net": "3.29", "tax": "0.66", "unit_price": "3.29", "quantity": "1"}
INVOICE = {
    "external_reference": "INK:shop:501:invoice:1",
    "date": "2026-10-05",
    "order_number": "MW-501",
    "currency": "GBP",
    "lines": [LINE, SECOND],
}
PAYMENT = {"external_reference": "INK:shop:501:payment:1", "date": "2026-10-05", "currency": "GBP", "account": "1250",
           "amount": "40.96", "transaction": "wg_1", "order_number": "MW-501",
           "applied": [{"external_reference": "INK:shop:501:invoice:1", "amount": "40.96"}]}  # fmt: skip
JOURNAL = {"external_reference": "INK:shop:opening:journal:1", "date": "2026-10-01", "currency": "GBP", "lines": [
    {"account": "2310", "base": "-120.00", "currency": "GBP", "amount": "-120.00", "line_reference": "gift cards"},
    {"account": "3000", "base": "120.00", "currency": "GBP", "amount": "120.00", "line_reference": "against"},
]}  # fmt: skip


def record(document: BooksDocument, **fields: Any) -> BooksRecord:
    """The books' answer: the same document, under a number of their own."""
    totals = {name: str(getattr(document, name)) for name in ("net", "tax", "gross") if hasattr(document, name)}
    base = {"id": "7", "number": "N-7", "standing": "posted", "contact_id": "3", "document": document.as_json()}
    return BooksRecord.read({**base, "net": "0", "tax": "0", "gross": "0", **totals, **fields})


def told(planned: BooksDocument, *found: BooksRecord) -> list[str]:
    """What differs, in words; each with a cause and a way out."""
    findings = prove(planned, found, contact_id="3", standing=Standing.POSTED)
    assert all(one.cause is Cause.NOT_PROVED and one.hint for one in findings)
    return [one.text for one in findings]


EVERY: list[BooksDocument] = [
    Invoice.read(INVOICE), CreditNote.read({**INVOICE, "credits": "INK:shop:501:invoice:1"}), Payment.read(PAYMENT),
    RefundPayment.read(PAYMENT), Journal.read(JOURNAL),
]  # fmt: skip


@pytest.mark.parametrize("document", EVERY, ids=lambda one: one.role)
def test_the_same_document_is_proved(document: BooksDocument) -> None:
    """Nothing differs, whatever number the books gave it; a void one beside it is history."""
    assert told(document, record(document)) == []
    assert told(document, record(document, number="SOMETHING-ELSE"), record(document, standing="void")) == []


@pytest.mark.parametrize("document", EVERY, ids=lambda one: one.role)
@pytest.mark.parametrize(("field", "other", "said"), [
    ("date", "2026-10-06", "date: planned {date}, found 2026-10-06"),
    ("currency", "EUR", "currency: planned GBP, found EUR"),
])  # fmt: skip
def test_another_day_or_currency_is_named(document: BooksDocument, field: str, other: str, said: str) -> None:
    """Whatever else agrees."""
    words = document.as_json() | {field: other}
    words |= {"lines": [{**line, "currency": other} if field in line else line for line in words.get("lines", [])]}
    if not hasattr(document, "lines"):
        del words["lines"]
    changed = type(document).read(words)
    assert said.format(date=document.date) in told(document, record(changed))


SENT = {"external_reference": "INK:shop:9:dispatch:1", "date": "2026-10-06", "order_number": "MW-501",
        "warehouse": "Mill", "carrier": "Otter Parcels", "tracking_number": "OT1", "lines": [
            {"line_reference": "1", "item": "YRN", "quantity": "2", "lot": "BATH-7", "serials": ["S1"]}]}  # fmt: skip
MOVED = {"external_reference": "INK:books:17:stock move:1", "date": "2026-10-06", "from_warehouse": "MILL",
         "to_warehouse": "DYEHOUSE", "lines": [{"item": "YRN", "quantity": "20"}]}  # fmt: skip
LEVEL = {"external_reference": "INK:shop:6:stock level:1", "date": "2026-10-06", "item": "YRN", "warehouse": "Mill",
         "on_hand": "9", "available": "7"}  # fmt: skip


@pytest.mark.parametrize(("planned", "changes", "said"), [
    (Dispatch.read(SENT), {}, []),
    (Dispatch.read(SENT), {"carrier": "Heron"}, ["carrier: planned Otter Parcels, found Heron"]),
    (Dispatch.read(SENT), {"tracking_number": "OT2"}, ["tracking_number: planned OT1, found OT2"]),
    (Dispatch.read(SENT), {"order_number": "MW-502"}, ["order_number: planned MW-501, found MW-502"]),
    (Dispatch.read(SENT), {"lines": [{**SENT["lines"][0], "quantity": "3", "lot": "BATH-8", "serials": ["S2"]}]},
     ["lines/0/quantity: planned 2, found 3", "lines/0/lot: planned BATH-7, found BATH-8",
      "lines/0/serials: planned S1, found S2"]),
    (StockMove.read(MOVED), {}, []),
    (StockMove.read(MOVED), {"to_warehouse": "MILL"}, ["to_warehouse: planned DYEHOUSE, found MILL"]),
    (StockMove.read(MOVED), {"lines": [*MOVED["lines"], *MOVED["lines"]]},
     ["lines: planned 1 line, found 2 lines"]),
    (StockLevel.read(LEVEL), {}, []),
    (StockLevel.read(LEVEL), {"available": "6"}, ["available: planned 7, found 6"]),
    (StockLevel.read(LEVEL), {"on_hand": "10", "item": "NDL"},
     ["item: planned YRN, found NDL", "on_hand: planned 9, found 10"]),
])  # fmt: skip
def test_goods_are_compared_line_by_line(planned: BooksDocument, changes: dict[str, Any], said: list[str]) -> None:
    """Whatever a parcel, a move or a level says, with its lots and serial numbers."""
    found = type(planned).read(planned.as_json() | changes)
    record = BooksRecord(id="7", standing=Standing.POSTED, document=found)
    findings = prove(planned, [record], contact_id="", standing=Standing.POSTED)
    assert [one.text for one in findings] == said


@pytest.mark.parametrize(("changes", "said"), [
    ({"account": "1200"}, ["account: planned 1250, found 1200"]),
    ({"transaction": "wg_2"}, ["transaction: planned wg_1, found wg_2"]),
    ({"order_number": "MW-502"}, ["order_number: planned MW-501, found MW-502"]),
    ({"amount": "40.95"}, ["amount: planned 40.96, found 40.95"]),
])  # fmt: skip
def test_money_is_compared_field_by_field(changes: dict[str, str], said: list[str]) -> None:
    """The account that it came in on, how much, and the provider's own number."""
    assert told(Payment.read(PAYMENT), record(Payment.read({**PAYMENT, **changes}))) == said


@pytest.mark.parametrize(
    "applied",
    [
        [],
        [{"external_reference": "INK:shop:501:invoice:1", "amount": "40.00"}],
        [{"external_reference": "INK:shop:502:invoice:1", "amount": "40.96"}],
    ],
)
def test_money_that_settles_something_else_is_named(applied: list[dict[str, str]]) -> None:
    """Not applied at all, in part, or to another invoice."""
    (said,) = told(Payment.read(PAYMENT), record(Payment.read({**PAYMENT, "applied": applied})))
    assert said.startswith("applied: planned ")


@pytest.mark.parametrize(("field", "other", "said"), [
    ("account", "4010", "lines/1/account: planned 4000, found 4010"),
    ("tax_code", "Z00", "lines/1/tax_code: planned S20, found Z00"),
    ("item", "YRN", "lines/1/item: planned , found YRN"),
    ("line_reference", "9", "lines/1/line_reference: planned 2, found 9"),
])  # fmt: skip
def test_a_line_is_compared_where_it_stands(field: str, other: str, said: str) -> None:
    """Also where every total agrees."""
    invoice = Invoice.read(INVOICE)
    first, second = invoice.lines
    changed = invoice.model_copy(update={"lines": (first, second.model_copy(update={field: other}))})
    assert told(invoice, record(changed)) == [said]


def test_another_number_of_lines_is_told_once() -> None:
    """And not line by line."""
    invoice = Invoice.read(INVOICE)
    short = invoice.model_copy(update={"lines": invoice.lines[:1]})
    assert told(invoice, record(short, net="34.13", tax="6.83", gross="40.96")) == [
        "lines: planned 2 lines, found 1 line"
    ]


def test_a_posting_on_another_account_or_of_another_amount_is_named() -> None:
    """Both sides of a journal."""
    journal = Journal.read(JOURNAL)
    gift, against = JOURNAL["lines"]
    moved = Journal.read({**JOURNAL, "lines": [{**gift, "account": "2320"}, against]})
    assert told(journal, record(moved)) == ["lines/0/account: planned 2310, found 2320"]
    less = Journal.read({**JOURNAL, "lines": [{**gift, "base": "-100.00", "amount": "-100.00"},
                                              {**against, "base": "100.00", "amount": "100.00"}]})  # fmt: skip
    assert told(journal, record(less)) == [
        "lines/0/base: planned -120.00, found -100.00", "lines/1/base: planned 120.00, found 100.00",
    ]  # fmt: skip


def test_a_document_of_another_kind_has_none_of_its_lines() -> None:
    """A payment found under an invoice's mark."""
    assert "lines: planned 2 lines, found 0 lines" in told(
        Invoice.read(INVOICE), record(Payment.read(PAYMENT), net="34.13", tax="6.83", gross="40.96")
    )
    assert "lines: planned 2 postings, found 0 postings" in told(Journal.read(JOURNAL), record(Payment.read(PAYMENT)))


@pytest.mark.parametrize(("number", "said"), [
    ("", []), ("N-7", []), ("MW-501", ["number: planned MW-501, found N-7"]),
])  # fmt: skip
def test_the_legal_number_is_compared_where_it_is_the_shops(number: str, said: list[str]) -> None:
    """Where it is the books' own to give, any will do."""
    assert told(Invoice.read({**INVOICE, "number": number}), record(Invoice.read(INVOICE))) == said


def test_totals_are_compared_with_the_books_own() -> None:
    """They may say other totals than their lines make."""
    invoice = Invoice.read(INVOICE)
    assert (invoice.net, invoice.tax, invoice.gross) == (Decimal("34.13"), Decimal("6.83"), Decimal("40.96"))
    assert told(invoice, record(invoice, tax="6.82", gross="40.95")) == [
        "tax: planned 6.83, found 6.82", "gross: planned 40.96, found 40.95",
    ]  # fmt: skip
