"""What is left open of a sale, and giving it up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.amendments.open_amounts import open_amounts
from inkwell_bridge.core.books import (
    Application,
    BooksDocument,
    CashSale,
    CreditNote,
    Invoice,
    Payment,
    RefundPayment,
    Role,
    WriteOff,
)
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.levels import NOTHING

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenBalance:
    """What is left open of a sale in the books: above zero the customer owes it, below zero it is owed to the customer.

    ``since`` is the day of the last document of the sale.
    """

    amount: Decimal
    currency: str
    since: date


def open_balance(own: Sequence[BooksDocument], refunded: Sequence[BooksDocument]) -> OpenBalance | None:
    """The balance of an order's ``own`` posted documents and those of its refunds; none where nothing took it into the
    ledger."""
    every = (*own, *refunded)
    ledger = [one for one in own if isinstance(one, Invoice | CashSale)]
    if not ledger:
        return None
    days = [day for one in every if (day := getattr(one, "date", None))]
    amount = sum((_owed(one) for one in every), ZERO)
    return OpenBalance(amount=amount, currency=ledger[0].currency, since=max(days))


def _owed(document: BooksDocument) -> Decimal:
    """By how much more a customer owes through a document."""
    match document:
        case Invoice() | CashSale():
            return document.gross
        case CreditNote():
            return -document.gross
        # What goes back is a kind of payment, so it is asked about first.
        case RefundPayment():
            return document.settles
        case Payment():
            return -document.settles
        case WriteOff():
            return -document.amount if document.owed_by == "customer" else document.amount
    return ZERO


def is_due(balance: OpenBalance, context: PlanningContext, today: date) -> bool:
    """Whether the rules give such a balance up by now."""
    rules = context.rulebook.write_offs
    if rules is None or not balance.amount:
        return False
    limit = rules.limit(balance.currency, own=context.master_data.currency)
    return abs(balance.amount) <= limit and (today - balance.since).days >= rules.after_days


def with_write_off(
    plan: Plan, order_id: str, number: str, own: Sequence[BooksDocument], refunded: Sequence[BooksDocument],
    context: PlanningContext, today: date,
) -> Plan:  # fmt: skip
    """The plan of an order that stands in the books as it is, and gives up what is left open of it, where that is due.

    ``own`` and ``refunded`` are the documents that are posted of the order and of its refunds. The same plan again
    where nothing is due, or where it gives something up already that is not posted yet.
    """
    posted = {one.external_reference for one in own}
    under_way = any(isinstance(one, WriteOff) and one.external_reference not in posted for one in plan.documents)
    balance = open_balance(own, refunded)
    if under_way or balance is None or not is_due(balance, context, today):
        return plan
    rule = context.rulebook.accounts.write_offs
    assert rule is not None, "rules that give balances up name an account for that"
    chosen = rule.chosen("write_offs", NOTHING)
    by_customer, part = balance.amount > 0, 1 + sum(1 for one in own if isinstance(one, WriteOff))
    left = open_amounts((*own, *refunded), Invoice if by_customer else CreditNote)
    rate = plan.exchange_rate if plan.exchange_rate and plan.exchange_rate.currency == balance.currency else None
    made = WriteOff(
        external_reference=context.external_reference(order_id, Role.WRITE_OFF, part),
        date=today,
        currency=balance.currency,
        account=chosen.code,
        amount=abs(balance.amount),
        owed_by="customer" if by_customer else "company",
        order_number=number,
        text=f"Open since {balance.since}",
        applied=_against(left, abs(balance.amount)),
        rate=rate.rate if rate else None,
        rate_from=rate.source if rate else "",
    )
    place = len(plan.documents)
    whose = "The customer owes" if by_customer else "The customer is owed"
    said = f"{whose} {made.amount} {made.currency} since {balance.since}, which is given up."
    why = Reason(target=f"/documents/{place}/amount", sources=("/payments",), rule="/write_offs/up_to", text=said)
    where = Reason(target=f"/documents/{place}/account", sources=("/payments",), rule=chosen.rule, text=chosen.text)
    note = Finding(id="WRITE-N001", level=Level.NOTE, text=said, hint="The rulebook's rule /write_offs says so.")
    return plan.model_copy(
        update={
            "outcome": Outcome.CARRY,
            "documents": (*plan.documents, made),
            "open_balance": ZERO,
            "reasons": (*plan.reasons, why, where),
            "findings": (*(one for one in plan.findings if one.id != note.id), note),
        }
    )


def _against(left: Mapping[str, Decimal], amount: Decimal) -> tuple[Application, ...]:
    """What is open of each document, the oldest first, up to the amount; the rest stands open on the contact."""
    applied = []
    for reference, open_of_it in left.items():
        part = max(min(open_of_it, amount), ZERO)
        if part:
            applied.append(Application(external_reference=reference, amount=part))
            amount -= part
    return tuple(applied)
