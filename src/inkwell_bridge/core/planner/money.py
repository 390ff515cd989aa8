"""The money of an order: a document for each payment received, set against the sale's own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.books import Application, Payment, RefundPayment, Role
from inkwell_bridge.core.commerce import MoneyState, Tender
from inkwell_bridge.core.commerce import Payment as Money
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import AllocatedAmount, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.tellers import left_to_others, not_believed
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.levels import Chosen

ZERO = Decimal(0)


@record
class OpenItem:
    """What the money is set against: the external reference of a document, what is open on it, and the document's own
    day.

    ``deducted`` are the pointers of what stands on that document already.
    """

    role: Role
    source_id: str
    number: str
    external_reference: str
    currency: str
    day: date
    open: Decimal
    withheld: Decimal = ZERO
    deducted: frozenset[str] = frozenset()


@dataclass(slots=True)
class Paid:
    """What became of the money: its documents, what is left for later, and what stays open."""

    documents: list[Payment] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    left: Decimal = ZERO
    open: Decimal = ZERO


def plan_money(
    money: Sequence[Money], against: OpenItem, context: PlanningContext, *, first: int = 1, waits: bool = False
) -> Paid:
    """A document for each payment that was received; promised, failed and cancelled ones are none yet.

    ``first`` is the place of the first of them in the plan; where the money ``waits`` for the invoice there is none.
    What a marketplace withheld never reaches the seller, and is taken off the money that came through it.
    """
    paid = Paid(open=against.open)
    rules = context.rulebook.payments
    # Promises are no money; a voucher that stands on the sale already would be counted twice.
    received = {
        index: one
        for index, one in enumerate(money)
        if one.state is MoneyState.RECEIVED and one.amount and f"/payments/{index}/amount" not in against.deducted
    }
    if rules is not None:
        paid.findings += left_to_others(money, rules, against.currency)
    kept_of = _kept(received, against.withheld)
    for index, one in received.items():
        kept = kept_of[index]
        if context.is_from_books(one.transaction):
            # It was entered in the books, and the shop was told of it from there: posted, it would stand there twice.
            paid.left += one.amount
            paid.open -= one.amount
            paid.findings.append(_from_books(one, index, against))
            continue
        # It is money received, so the contact owes less; only its document comes later.
        if rules is None or waits:
            paid.left += one.amount - kept
            paid.open -= one.amount - kept
            paid.findings.append(_left(one, index, against, waits=waits))
            continue
        unknown = not_believed(one, index, against.currency, rules)
        chosen = _arrived(one) or rules.accounts.chosen(one)
        if unknown is not None or chosen is None:
            paid.findings.append(unknown or _no_account(one, index, against))
            continue
        # All of it was withheld: no money reaches the seller, and none is posted.
        if one.amount == kept:
            continue
        document = _document(one, one.amount - kept, chosen.code, paid, against, context)
        target = f"/documents/{first + len(paid.documents)}"
        paid.documents.append(document)
        paid.open -= document.amount
        source = f"/payments/{index}/amount"
        text = f"The {one.method} payment of {one.amount!s} {against.currency}"
        text += f", less {kept} that the marketplace keeps." if kept else "."
        paid.reasons += [
            Reason(target=f"{target}/amount", sources=(source,), rule="planner:money-as-received", text=text,
                   allocated=(AllocatedAmount(source=source, amount=document.amount),)),
            Reason(target=f"{target}/account", sources=(f"/payments/{index}",), rule=chosen.rule, text=chosen.text),
            _date_reason(one, document.date, index, target, against, context),
        ]  # fmt: skip
    return paid


def set_against(payment: Payment, left: dict[str, Decimal]) -> Payment:
    """The payment, set against what is ``left`` open of each document, in their order; that becomes less by it.

    No document may be paid more than it asks: what goes beyond stands open on the contact.
    """
    rest, applied = payment.amount, []
    for reference, amount in left.items():
        part = max(min(rest, amount), ZERO)
        if part:
            applied.append(Application(external_reference=reference, amount=part))
            left[reference] -= part
            rest -= part
    return payment.model_copy(update={"applied": tuple(applied)})


# What the seller gave out itself: it is the last that a marketplace can have kept something of.
_OWN = frozenset({Tender.GIFT_CARD, Tender.VOUCHER})


def _kept(received: Mapping[int, Money], withheld: Decimal) -> dict[int, Decimal]:
    """How much of each payment a marketplace kept: of what came through it first, and of other money where shops do not
    say which did."""
    kept: dict[int, Decimal] = {}
    in_turn = sorted(
        received.items(), key=lambda pair: (pair[1].tender is not Tender.MARKETPLACE, pair[1].tender in _OWN)
    )
    for index, one in in_turn:
        kept[index] = min(withheld, one.amount)
        withheld -= kept[index]
    return kept


def _document(
    one: Money, amount: Decimal, account: str, paid: Paid, against: OpenItem, context: PlanningContext
) -> Payment:
    # What comes beyond the open balance is the buyer's credit: no document may be paid more than it asks.
    applied = max(min(amount, paid.open), ZERO)
    shape = RefundPayment if against.role is Role.REFUND_PAYMENT else Payment
    # The provider's transaction tells one payment from another: their order in a list is nobody's promise.
    twice = sum(1 for other in paid.documents if other.transaction == one.transaction)
    part = f"{one.transaction}~{twice + 1}" if twice else one.transaction
    return shape(
        external_reference=context.external_reference(against.source_id, against.role, part),
        date=_day(one, against, context),
        currency=against.currency,
        account=account,
        amount=amount,
        transaction=one.transaction,
        order_number=against.number,
        text=" ".join(filter(None, (one.method, one.brand)))[:200],
        applied=(Application(external_reference=against.external_reference, amount=applied),) if applied else (),
    )


def _day(one: Money, against: OpenItem, context: PlanningContext) -> date:
    """The money's own day; in books that number in the order of dates never before the document it is set against."""
    own = context.day(one.paid_at) if one.paid_at else against.day
    return max(own, against.day) if context.capabilities.numbers_in_date_order else own


def _date_reason(one: Money, day: date, index: int, target: str, against: OpenItem, context: PlanningContext) -> Reason:
    if one.paid_at is None:
        text, rule = f"The payment has no date of its own, so it takes the document's: {day}.", "planner:money-undated"
    elif day != context.day(one.paid_at):
        text = f"Paid on {context.day(one.paid_at)}; these books take no date before that of the document, {day}."
        rule = "planner:numbers-in-date-order"
    else:
        text, rule = f"The day the money moved in {context.time_zone}: {day}.", "planner:money-date"
    return Reason(target=f"{target}/date", sources=(f"/payments/{index}/paid_at",), rule=rule, text=text)


def _left(one: Money, index: int, against: OpenItem, *, waits: bool) -> Finding:
    return Finding(
        id="PAY-N001",
        level=Level.NOTE,
        at=f"/payments/{index}/amount",
        text=f"Payment of {one.amount} {against.currency} by {one.method} is left for later.",
        hint="It is carried with the order's invoice." if waits else "The rulebook's rule /payments says later.",
    )


def _from_books(one: Money, index: int, against: OpenItem) -> Finding:
    return Finding(
        id="PAY-N002",
        level=Level.NOTE,
        at=f"/payments/{index}/amount",
        text=f"Payment of {one.amount} {against.currency} was entered in the books, and told to the shop from there.",
        hint="It stands in the books already.",
    )


def _arrived(one: Money) -> Chosen | None:
    """The account that money came in on by the word of whoever saw it there; rules are asked where nobody did."""
    if not one.arrived_on:
        return None
    return Chosen(one.arrived_on, "planner:money-arrived", f"The {one.told_by} has it on account {one.arrived_on}.")


def _no_account(one: Money, index: int, against: OpenItem) -> Finding:
    said = ", ".join(filter(None, (f"tender '{one.tender}'", f"method '{one.method}'", one.gateway, one.brand)))
    return Finding(
        id="PAY-E002",
        level=Level.ERROR,
        at=f"/payments/{index}",
        cause=Cause.RULE_MISSING,
        text=f"No account takes the payment of {one.amount} {against.currency} for {against.number} ({said}).",
        hint="Add its tender under payments: accounts: by_tender in the rulebook, then release the order.",
    )
