"""Money that is entered in the books: which orders it pays, and which books know of it already."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.core.books import Payment
from inkwell_bridge.core.commerce import Receipt
from inkwell_bridge.core.planner import Outcome, PaidOrder, Plan, plan_order, plan_receipt
from tests.core.test_cases import context, order

FIRST = PaidOrder(source_id="1", number="MW-1", currency="GBP")
SECOND = PaidOrder(source_id="2", number="MW-2", currency="GBP")
NOON = "2026-10-21T12:00:00+00:00"
BEHIND = {"INK:shop:1:invoice:1": FIRST, "INK:shop:1:invoice:change 1": FIRST, "INK:shop:2:invoice:1": SECOND}


def receipt(amount: str, *settles: tuple[str, str], **fields: Any) -> Receipt:
    """Money in the books, set against these documents."""
    parts = [{"external_reference": reference, "amount": part} for reference, part in settles]
    said = {"id": "31", "number": "RC-31", "received_at": NOON, "changed_at": NOON, "account": "1200",
            "currency": "GBP", "amount": amount, "settles": parts}  # fmt: skip
    return Receipt.read({**said, **fields})


def paid(plan: Plan) -> list[tuple[str, str, str]]:
    """The orders that are told, with how much, and under which reference."""
    return [(one.order_number, str(one.amount), one.external_reference)
            for one in plan.documents if isinstance(one, Payment)]  # fmt: skip


def test_each_order_is_told_of_its_part() -> None:
    """Two invoices of one order are one part; what is set against no order of ours is nobody's."""
    money = receipt("50.00", ("INK:shop:1:invoice:1", "20.00"), ("INK:shop:1:invoice:change 1", "4.00"),
                    ("INK:shop:2:invoice:1", "16.00"), ("BY-HAND", "10.00"))  # fmt: skip
    assert paid(plan_receipt(money, "books", BEHIND, None)) == [
        ("MW-1", "24.00", "INK:books:31:payment:1"), ("MW-2", "16.00", "INK:books:31:payment:2")]  # fmt: skip


def test_the_number_counts_only_where_it_is_set_against_nothing_of_ours() -> None:
    """Else the invoices say more than what somebody typed."""
    assert paid(plan_receipt(receipt("24.00"), "books", {}, FIRST)) == [("MW-1", "24.00", "INK:books:31:payment:1")]
    against = receipt("24.00", ("INK:shop:2:invoice:1", "24.00"))
    assert [number for number, _, _ in paid(plan_receipt(against, "books", BEHIND, FIRST))] == ["MW-2"]
    assert plan_receipt(receipt("24.00"), "books", {}, None).outcome is Outcome.LEFT_OUT


def test_another_currency_is_a_persons() -> None:
    """With both currencies named."""
    plan = plan_receipt(receipt("24.00", currency="EUR"), "books", {}, FIRST)
    assert (plan.outcome, plan.documents) == (Outcome.HOLD, ())
    assert "in EUR, order MW-1 in GBP" in plan.findings[0].text


@pytest.mark.parametrize(("books", "documents", "open_"), [
    ("books", ["invoice"], "0.00"),
    # Other books have not heard of it, nor those whose name only begins alike.
    ("others", ["invoice", "payment"], "0.00"),
    ("book", ["invoice", "payment"], "0.00"),
    ("", ["invoice", "payment"], "0.00"),
])  # fmt: skip
def test_money_told_from_these_books_is_not_posted_into_them(books: str, documents: list[str], open_: str) -> None:
    """The order is paid all the same."""
    said = {"lines": [{"sum": "24.00", "class": "zero"}], "paid": [{"sum": "24.00", "tender": "card"}]}
    made = order(said)
    (money,) = made.payments
    told = made.model_copy(update={"payments": (money.model_copy(update={"transaction": "INK:books:31:payment:1"}),)})
    given = context({"order": said, "rules": {"payments": {"accounts": {"default": "1250"}}}})
    plan = plan_order(told, given.model_copy(update={"books": books}))
    assert ([one.role for one in plan.documents], str(plan.open_balance)) == (documents, open_)
