"""Money that came in, or was taken back, after an order was posted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import cast

from inkwell_bridge.core.amendments.open_amounts import open_amounts
from inkwell_bridge.core.amendments.owing import receipts_of
from inkwell_bridge.core.amendments.taken_back import RULE as MONEY_TAKEN_BACK
from inkwell_bridge.core.amendments.taken_back import TAKEN_BACK, mirror
from inkwell_bridge.core.books import (
    CreditNote,
    Invoice,
    LedgerDocument,
    Payment,
    RefundPayment,
    Role,
    WriteOff,
)
from inkwell_bridge.core.commerce import MoneyState, Order
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.money import OpenItem, plan_money, set_against
from inkwell_bridge.core.planner.plan import Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.values import Value

ZERO = Decimal(0)
TAX_COMES_BACK = "planner:marketplace-tax-comes-back"


@dataclass(slots=True)
class LaterMoney:
    """The documents of money that was not posted yet."""

    documents: list[Payment] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)

    def add(self, receipts: Iterable[Payment], first: int) -> None:
        """Receipts for tax that a marketplace does not keep any more; the plan has ``first`` documents before these."""
        for receipt in receipts:
            amount = f"{receipt.amount} {receipt.currency}"
            text = (
                f"Of the payment {receipt.transaction} the marketplace had kept {amount} for tax that is none any more."
            )
            self.reasons.append(Reason(target=f"/documents/{first + len(self.documents)}/amount",
                                       sources=("/payments",), rule=TAX_COMES_BACK, text=text))  # fmt: skip
            self.findings.append(Finding(id="AMEND-N007", level=Level.NOTE, at="/payments", text=text,
                                         hint="It comes with what the marketplace pays out."))  # fmt: skip
            self.documents.append(receipt)


def plan_later_money(
    order: Order, ledger: Sequence[LedgerDocument], posted: Sequence[Payment], context: PlanningContext, *,
    withheld: Decimal, comes_back: Decimal, day: date, first: int, written_off: Sequence[WriteOff] = (),
) -> LaterMoney:  # fmt: skip
    """A document for each payment that was received since, set against what is open of these documents, the oldest
    first; one for each receipt that bounced, which leaves its invoice to be paid again; and one for what ``comes_back``
    of the tax that a marketplace took off earlier payments, for the order is less by now.

    ``first`` is the place of the first of them in the plan.
    """
    left = _open([*ledger, *posted, *written_off])
    # By the provider's transaction: a shop may list the same money in another order each time.
    known = {one.transaction for one in posted}
    item = OpenItem(
        role=Role.PAYMENT, source_id=order.id, number=order.number, external_reference=ledger[0].external_reference,
        currency=order.currency, day=ledger[0].date, open=sum(left.values(), ZERO), withheld=withheld,
        deducted=frozenset(f"/payments/{index}/amount" for index, one in enumerate(order.payments)
                           if one.transaction in known),
    )  # fmt: skip
    paid = plan_money(order.payments, item, context, first=first)
    made = LaterMoney(reasons=paid.reasons, findings=paid.findings)
    made.documents = [set_against(one, left) for one in paid.documents]
    if comes_back:
        made.add(_tax_back(order, posted, comes_back, left, context, day), first)
    bounced: Counter[str] = Counter()
    for receipt in _bounced(order, posted):
        bounced[receipt.transaction] += 1
        target = f"/documents/{first + len(made.documents)}"
        made.documents.append(_taken_back(receipt, order, context, day, bounced[receipt.transaction]))
        made.findings.append(Finding(id="AMEND-N003", level=Level.NOTE, at="/payments",
            text=f"The payment {receipt.transaction} of {receipt.amount} {order.currency} was taken back after it was "
            "posted.", hint="What it had paid is open again."))  # fmt: skip
        made.reasons.append(Reason(target=f"{target}/amount", sources=("/payments",), rule=MONEY_TAKEN_BACK,
            text=f"The payment of {receipt.amount} {order.currency} was taken back."))  # fmt: skip
    return made


def _open(documents: Sequence[Value]) -> dict[str, Decimal]:
    """What is left to be paid of each invoice, by its reference: a credit note takes it off the oldest that is open."""
    left = open_amounts(documents, Invoice)
    credited = sum((one.gross for one in documents if isinstance(one, CreditNote)), ZERO)
    # What was credited need not be paid: else a later payment would be set against what nobody owes any more.
    for reference, amount in left.items():
        taken = max(min(credited, amount), ZERO)
        left[reference] -= taken
        credited -= taken
    return left


def _tax_back(
    order: Order, posted: Sequence[Payment], amount: Decimal, left: dict[str, Decimal], context: PlanningContext,
    day: date,
) -> Iterator[Payment]:  # fmt: skip
    """What the marketplace took off the payments, the newest first, and does not keep any more."""
    receipts = receipts_of(posted)
    for payment in reversed(order.payments):
        posted_of = [one for one in posted if one.transaction == payment.transaction]
        taken = payment.amount - receipts.get(payment.transaction, payment.amount)
        back = min(taken, amount)
        if back <= 0 or payment.state is not MoneyState.RECEIVED:
            continue
        amount -= back
        part = f"{payment.transaction} tax {len(posted_of)}"
        # Its own document: what was posted of the payment is never touched.
        receipt = posted_of[0].model_copy(update={
            "external_reference": context.external_reference(order.id, Role.PAYMENT, part), "date": day,
            "amount": back, "applied": (), "rate": None, "rate_from": "", "base": None, "exchange_difference": None,
        })  # fmt: skip
        yield set_against(receipt, left)


def _bounced(order: Order, posted: Sequence[Payment]) -> Iterator[Payment]:
    """Receipts whose money did not stay, and that were not taken back yet."""
    stays = {one.transaction for one in order.payments if one.state is MoneyState.RECEIVED}
    back = {one.transaction for one in posted if isinstance(one, RefundPayment)}
    for receipt in posted:
        if not isinstance(receipt, RefundPayment) and receipt.transaction not in stays | back:
            yield receipt


def _taken_back(
    receipt: Payment, order: Order, context: PlanningContext, day: date, number: int
) -> RefundPayment:  # fmt: skip
    # Of one payment there may be several receipts, of which each is taken back.
    part = f"{receipt.transaction} {TAKEN_BACK}" + (f" {number}" if number > 1 else "")
    reference = context.external_reference(order.id, Role.REFUND_PAYMENT, part)
    back = cast(RefundPayment, mirror(receipt, reference, day))
    # The rate of the day is not that of the receipt: all money of an order gets its rates together, after this.
    return back.model_copy(update={"rate": None, "rate_from": "", "base": None, "exchange_difference": None})
