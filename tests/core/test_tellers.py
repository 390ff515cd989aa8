"""Whose word counts of money: planned with the odd orders of the demo, each amount worked out by hand."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.commerce import Payment, counted_once
from inkwell_bridge.core.planner import believed, plan_order
from inkwell_bridge.core.rulebook.money import PaymentRules
from tests.support.orders import context, order, rulebook

D = Decimal


def money(number: str, amount: str, *, by: str = "sales side", state: str = "received", **fields: Any) -> Payment:
    """Money by bank transfer."""
    return Payment.read({"transaction": number, "method": "bank", "tender": "bank transfer", "amount": amount,
                         "state": state, "told_by": by, **fields})  # fmt: skip


def rules(**told_by: Any) -> PaymentRules:
    """Who is believed of what."""
    return PaymentRules.read({"accounts": {"default": "1200"}, **({"told_by": told_by} if told_by else {})})


@pytest.mark.parametrize(
    ("told_by", "teller", "rule"),
    [
        ({}, "sales side", "/payments/told_by/default"),
        ({"default": "bank"}, "bank", "/payments/told_by/default"),
        ({"by_tender": {"bank transfer": "bank"}}, "bank", "/payments/told_by/by_tender/bank transfer"),
        ({"by_tender": {"bank transfer": "bank"}, "by_method": {"bank": "provider"}}, "provider",
         "/payments/told_by/by_method/bank"),
        ({"by_gateway": {"W/G": "provider"}, "by_method": {"bank": "bank"}}, "provider",
         "/payments/told_by/by_gateway/W~1G"),
        ({"by_brand": {"Kestrel": "bank"}, "default": "provider"}, "provider", "/payments/told_by/default"),
    ],
)  # fmt: skip
def test_the_first_table_that_fits_says_who_tells(told_by: dict[str, Any], teller: str, rule: str) -> None:
    """Brand, gateway, method, tender, then the default."""
    found = rules(**told_by).tellers.of(money("t1", "5.00", gateway="W/G"))
    assert (str(found[0]), found[1]) == (teller, rule)


def test_what_another_tells_of_is_a_promise_in_the_sales_sides_mouth() -> None:
    """Its place stays; what the other told stays money; cash is the shop's own."""
    mine = order(payments=[money("a", "5.00"), money("b", "5.00", by="bank"),
                           money("c", "2.00", tender="cash", method="cash"),
                           money("d", "1.00", state="failed")])  # fmt: skip
    found = believed(mine, rules(by_tender={"bank transfer": "bank"}))
    assert [str(one.state) for one in found.payments] == ["promised", "received", "received", "failed"]
    assert found.received == D("7.00")
    assert believed(mine, rules()) is mine
    assert believed(mine, None) is mine


def test_of_a_tender_that_the_bank_tells_of_the_shops_word_is_not_counted_again() -> None:
    """5.00 of one transfer, told by both; 2.00 of cash by the shop alone."""
    payments = [money("a", "5.00"), money("b", "5.00", by="bank"), money("c", "2.00", tender="cash")]
    assert [one.transaction for one in counted_once(payments)] == ["b", "c"]
    assert [one.transaction for one in counted_once(payments[:1])] == ["a"]


def test_it_comes_in_on_the_account_and_day_of_whoever_saw_it() -> None:
    """No rule names the account."""
    told = money("b", "20.00", by="bank", arrived_on="1210", paid_at="2026-10-20T12:00:00Z")
    mine = order(payments=[money("a", "20.00"), told])
    made = plan_order(mine, context(rulebook(payments=rules(by_tender={"bank transfer": "bank"}))))
    (receipt,) = [one for one in made.documents if one.role == "payment"]
    assert (receipt.account, f"{receipt.amount}", str(receipt.date), receipt.transaction) == (
        "1210", "20.00", "2026-10-20", "b")  # fmt: skip
    said = {one.target: one for one in made.reasons}
    assert said["/documents/1/account"].rule == "planner:money-arrived"
    assert said["/documents/1/amount"].sources == ("/payments/1/amount",)
    # As much as the shop promised was told of: there is nothing more to wait for.
    assert [one.id for one in made.findings if one.id.startswith("PAY")] == []


def test_whoever_is_believed_of_nothing_holds_the_order() -> None:
    """Their word and the shop's would both be posted."""
    mine = order(payments=[money("a", "20.00"), money("b", "20.00", by="bank", arrived_on="1210")])
    made = plan_order(mine, context(rulebook(payments=rules())))
    assert [(one.id, one.at) for one in made.findings if one.level == "error"] == [("PAY-E005", "/payments/1")]
    assert made.outcome == "hold"


@pytest.mark.parametrize(("told", "notes"), [("", 1), ("12.00", 1), ("20.00", 0), ("25.00", 0)])
def test_a_promise_is_noted_until_as_much_was_told_of(told: str, notes: int) -> None:
    """20.00 by transfer, and what of it the bank has."""
    there = [money("b", told, by="bank", arrived_on="1210")] if told else []
    mine = order(payments=[money("a", "20.00", state="promised"), *there])
    made = plan_order(mine, context(rulebook(payments=rules(by_tender={"bank transfer": "bank"}))))
    assert len([one for one in made.findings if one.id == "PAY-N003"]) == notes
