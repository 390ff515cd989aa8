"""Documents of the sales side: exact in their currency, people apart, changes told by what matters."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.commerce import Buyer, Note, Payment, Payout, Refund, SourceKind, TillDay, books_digest
from inkwell_bridge.core.errors import DocumentInvalid, NotExact
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.priced import amounts_of
from tests.core.test_formats import example
from tests.support.orders import line, order


def test_every_amount_of_an_order_is_found() -> None:
    """Lines, discounts, taxes, carriage, extras, payments, edits; not the settlement, which has its own currency."""
    rich = order(
        lines=[line(discount="0.10", components=[{"sku": "A", "quantity": "1", "share": "0.20"}])],
        discounts=[{"amount": "0.30"}],
        extras=[{"id": "t", "title": "Tip", "amount": "0.40", "kind": "tip"}],
        cash_rounding="0.50",
        payments=[{"transaction": "x", "method": "card", "amount": "0.60",
                   "settled": {"currency": "JPY", "amount": "70", "rate": "1"}}],
        history=[{"id": "1", "kind": "edited", "at": "2026-10-05T10:00:00Z", "total_before": "0.80",
                  "total_after": "0.90"}],
        settlement={"currency": "JPY", "amount": "1000", "rate": "1"},
    )  # fmt: skip
    found = set(amounts_of(rich))
    assert {Decimal(tenth).scaleb(-1) for tenth in range(1, 10) if tenth != 7} <= found
    assert not found & {Decimal(70), Decimal(1000)}


@pytest.mark.parametrize(("currency", "good", "bad"), [("JPY", "22", "22.5"), ("GBP", "22.45", "22.455"),
                                                       ("KWD", "22.455", "22.4555")])  # fmt: skip
def test_amounts_have_the_digits_of_their_currency(currency: str, good: str, bad: str) -> None:
    """ISO 4217: none, two, three."""
    payout = {**example("sales-payout"), "currency": currency, "entries": []}
    assert Payout.read({**payout, "total": good}).total == Decimal(good)
    with pytest.raises(DocumentInvalid, match="more than"):
        Payout.read({**payout, "total": bad})
    with pytest.raises(NotExact):
        exact(bad, currency)


def test_money_counts_once_it_has_come_in() -> None:
    """Authorised, failed or promised money is none."""
    parts = [("received", "5.00"), ("authorised", "7.00"), ("failed", "9.00"), ("received", "1.00")]
    payments = [
        {"transaction": str(number), "method": "card", "amount": amount, "state": state}
        for number, (state, amount) in enumerate(parts)
    ]
    assert order(payments=payments).received == Decimal("6.00")


def test_without_people_nothing_tells_who_it_was() -> None:
    """Buyer and notes go, figures and tags stay."""
    before = order(notes=[{"text": "Ring at Wren's"}], tags=["gift"])
    after = before.without_people()
    assert (after.buyer, after.notes, after.tags, after.total) == (None, (), ("gift",), before.total)
    assert before.buyer is not None
    assert "wren" not in after.written().lower()


@pytest.mark.parametrize(
    ("change", "matters"),
    [
        ({"buyer": {"email": "other@loom.example"}}, False),
        ({"notes": [{"text": "x"}]}, False),
        ({"tags": ["x"]}, False),
        ({"link": "https://elsewhere.example"}, False),
        ({"changed_at": "2026-11-05T10:00:00Z"}, False),
        ({"status": "completed"}, False),
        ({"status": "cancelled"}, True),
        ({"country": "IE"}, True),
        ({"lines": [line(sku="OTHER")]}, True),
        ({"attributes": [{"name": "collection", "value": "shore"}]}, True),
        ({"payments": [{"transaction": "x", "method": "card", "amount": "22.45"}]}, True),
        ({"cash_rounding": "0.00"}, False),
        ({"extras": []}, False),
    ],
)
def test_the_fingerprint_changes_with_what_matters_to_the_books(change: dict[str, Any], matters: bool) -> None:
    """And with nothing else: saying a default aloud is no change."""
    assert (books_digest(order(**change)) != books_digest(order())) is matters


@pytest.mark.parametrize("kind", list(SourceKind))
def test_each_kind_has_a_shape_with_an_id_a_number_and_a_time_of_change(kind: SourceKind) -> None:
    """By which it is known, found and read anew."""
    assert {"id", "number", "changed_at"} <= set(kind.shape.model_fields)


def test_emails_are_compared_without_case_and_space() -> None:
    """As the trade does."""
    assert Buyer(email="  Wren@LOOM.example ").email_key == "wren@loom.example"


def test_values_of_one_kind_compare_by_what_they_say() -> None:
    """Two notes, two payments."""
    assert Note(text="a") == Note(text="a") != Note(text="b")
    first = Payment(transaction="t", method="card", amount=Decimal("1.00"))
    assert first == Payment.read(first.written())


def test_a_till_that_is_short_says_by_how_much() -> None:
    """Three pounds and ten pence, as counted."""
    day = TillDay.read(example("sales-till-day"))
    cash = day.tenders[0]
    assert cash.counted is not None
    assert cash.counted - cash.amount == day.over_short == Decimal("-3.10")
    assert sum(tender.amount for tender in day.tenders) == day.total


def test_a_refunds_parts_make_its_total() -> None:
    """Of the published example: a skein, and goodwill for the trouble."""
    refund = Refund.read(example("sales-refund"))
    parts = sum(part.amount for part in (*refund.lines, *refund.shipping, *refund.goodwill))
    assert parts == refund.total == sum(money.amount for money in refund.payments)


def test_a_payouts_entries_make_its_total() -> None:
    """Each entry's net is its amount less fee and the tax on it."""
    payout = Payout.read(example("sales-payout"))
    assert all(entry.amount + entry.fee + entry.fee_tax == entry.net for entry in payout.entries)
    assert sum(entry.net for entry in payout.entries) == payout.total
