"""Why the books say other amounts than planned: each difference by its name, or by none."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import Invoice
from inkwell_bridge.core.proof import Coding, coded_amounts, reconciling_items

LINE = {"kind": "goods", "line_reference": "1", "text": "Merino", "account": "4000", "quantity": "1",
        "unit_price": "8.32", "net": "8.32", "tax": "1.67", "tax_code": "S20"}  # fmt: skip
CARRIAGE = {**LINE, "kind": "shipping", "line_reference": "carriage", "account": "4100", "unit_price": "3.29",
            "net": "3.29", "tax": "0.66"}  # fmt: skip
PENNY = {**LINE, "kind": "rounding", "line_reference": "rounding", "account": "8200", "unit_price": "0.01",
         "net": "0.01", "tax": "0.00", "tax_code": "OUT"}  # fmt: skip


def invoice(*lines: dict[str, Any]) -> Invoice:
    """An invoice with these lines."""
    return Invoice.read({"external_reference": "INK:x:1:invoice:1", "date": "2026-10-05", "order_number": "1",
                         "currency": "GBP", "lines": list(lines)})  # fmt: skip


def named(planned: Invoice, found: Invoice) -> list[tuple[str, str, str, str]]:
    """Reason, code, net and tax of each item."""
    return [(one.reason, one.tax_code, str(one.net), str(one.tax)) for one in reconciling_items(planned, found)]


def test_the_same_has_nothing_to_reconcile() -> None:
    """Line by line."""
    assert named(invoice(LINE, CARRIAGE), invoice(LINE, CARRIAGE)) == []


def test_a_tax_computed_otherwise_and_the_penny_that_settles_it() -> None:
    """1.67 at the shop, 1.66 in the books: a penny of tax less, and a penny on the rounding account more."""
    found = invoice({**LINE, "tax": "1.66"}, CARRIAGE, PENNY)
    assert named(invoice(LINE, CARRIAGE), found) == [
        ("tax computed", "S20", "0", "0.01"), ("penny", "OUT", "-0.01", "0.00"),
    ]  # fmt: skip
    items = reconciling_items(invoice(LINE, CARRIAGE), found)
    assert sum(one.net + one.tax for one in items) == 0


def test_pennies_that_cancel_out_are_each_named() -> None:
    """One line a penny up, the other a penny down: no line of rounding is needed, and both have a name."""
    found = invoice({**LINE, "tax": "1.68"}, {**CARRIAGE, "tax": "0.65"})
    assert named(invoice(LINE, CARRIAGE), found) == [
        ("tax computed", "S20", "0", "-0.01"), ("tax computed", "S20", "0", "0.01"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    "changed",
    [
        {"tax_code": "R05"},
        {"net": "8.33", "unit_price": "8.33", "tax": "1.66"},
        {"line_reference": "typed in"},
    ],
)
def test_what_somebody_changed_has_no_name(changed: dict[str, str]) -> None:
    """Another code, another net or another line is no rounding, though the gross agrees."""
    found = invoice({**LINE, **changed}, CARRIAGE)
    assert found.gross == invoice(LINE, CARRIAGE).gross
    assert named(invoice(LINE, CARRIAGE), found) == []


def test_a_planned_rounding_of_cash_is_no_penny() -> None:
    """It was planned, so both sides have it."""
    assert named(invoice(LINE, PENNY), invoice(LINE, PENNY)) == []


def test_amounts_by_account_and_code() -> None:
    """Lines of one account and code together, in the order in which they first stand there."""
    amounts = coded_amounts(invoice(LINE, CARRIAGE, {**LINE, "line_reference": "2"}))
    assert amounts == {
        Coding("4000", "S20"): (Decimal("16.64"), Decimal("3.34")),
        Coding("4100", "S20"): (Decimal("3.29"), Decimal("0.66")),
    }
