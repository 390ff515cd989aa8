"""Whose word counts of money: each tender has one who tells of it, so that the same money is never posted twice."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal
from typing import TypeVar

from inkwell_bridge.core.commerce import MoneyState, Order, Payment, Refund, Teller
from inkwell_bridge.core.findings import Finding, Level, source_error
from inkwell_bridge.core.rulebook.money import PaymentRules

_Document = TypeVar("_Document", Order, Refund)


def believed(document: _Document, rules: PaymentRules | None) -> _Document:
    """The order or refund with its money as the rules believe it: what the sales side says of money that another tells
    of is a promise, whatever it says."""
    if rules is None or rules.tellers.every == {Teller.SALES_SIDE}:
        return document
    payments = tuple(_promised(one) if is_left_to(one, rules) else one for one in document.payments)
    return document if payments == document.payments else document.model_copy(update={"payments": payments})


def is_left_to(money: Payment, rules: PaymentRules) -> Teller | None:
    """Who tells of money that the sales side has named; nothing where its own word counts, or another's is given."""
    if money.told_by is not Teller.SALES_SIDE:
        return None
    teller, _ = rules.tellers.of(money)
    return teller if teller is not Teller.SALES_SIDE else None


def _promised(money: Payment) -> Payment:
    # Its place among the payments stays: reasons point there.
    if money.state in (MoneyState.RECEIVED, MoneyState.AUTHORISED):
        return money.model_copy(update={"state": MoneyState.PROMISED})
    return money


def left_to_others(payments: Sequence[Payment], rules: PaymentRules, currency: str) -> list[Finding]:
    """A note of each payment that is posted once somebody else tells of it; of what they told of there is none."""
    found = []
    heard: dict[Teller, Decimal] = defaultdict(Decimal)
    for one in payments:
        if one.told_by is not Teller.SALES_SIDE and one.state is MoneyState.RECEIVED:
            heard[one.told_by] += one.amount
    for index, one in enumerate(payments):
        teller = is_left_to(one, rules)
        if teller is None or one.state is not MoneyState.PROMISED:
            continue
        # Their numbers are others than the sales side's: only by the amount is it known that both mean the same.
        heard[teller] -= one.amount
        if heard[teller] < 0:
            found.append(
                Finding(id="PAY-N003", level=Level.NOTE, at=f"/payments/{index}/amount",
                        text=f"Payment of {one.amount} {currency} by {one.method} is posted when the {teller} tells of "
                        "it.", hint=f"The rulebook's rule {rules.tellers.of(one)[1]} says so.")
            )  # fmt: skip
    return found


def not_believed(money: Payment, index: int, currency: str, rules: PaymentRules) -> Finding | None:
    """What is wrong with money that was told by somebody whom the rules believe nothing; else both would be posted."""
    if money.told_by is Teller.SALES_SIDE or money.told_by in rules.tellers.every:
        return None
    return source_error(
        "PAY-E005", f"/payments/{index}",
        f"The {money.told_by} told of {money.amount} {currency} ({money.method}), and by the rules the sales side "
        "tells of all money: the same money might be posted twice.",
        f"Name the {money.told_by} under payments: told_by again, or take back what was matched there.",
    )  # fmt: skip
