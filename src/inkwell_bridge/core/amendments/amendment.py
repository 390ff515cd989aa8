"""What an order that changed after it was posted still needs: the difference, as further documents.

What was posted is never touched. What went up becomes a further invoice, what went down a credit note; together with
what stands there they make the order as it is now, under every account, tax code and reporting dimension. States count,
and not the steps between them: three edits that are read as one make one difference.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.amendments.before_ledger import plan_before_ledger
from inkwell_bridge.core.amendments.difference import beyond_order
from inkwell_bridge.core.amendments.explaining import reasons_of
from inkwell_bridge.core.amendments.further_documents import Further, day_of_change, further_documents, sums_wanted
from inkwell_bridge.core.amendments.last_payment import settled_by_last_payment
from inkwell_bridge.core.amendments.later_money import LaterMoney, plan_later_money
from inkwell_bridge.core.amendments.owing import MarketplaceTax, owed_to_buyer, receipts_of, taken_from
from inkwell_bridge.core.amendments.posted_sale import Pointers, PostedSale, moved_reasons
from inkwell_bridge.core.books import (
    DocumentLine,
    Invoice,
    LedgerDocument,
    LineKind,
    RefundPayment,
    Role,
    WriteOff,
)
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.at_exchange_rates import (
    InCurrencies,
    at_exchange_rates,
    exchange_rate_of,
    is_converted,
)
from inkwell_bridge.core.planner.discounts import shares_as_posted
from inkwell_bridge.core.planner.open_days import on_open_days, on_own_days
from inkwell_bridge.core.planner.orders import plan_order
from inkwell_bridge.core.planner.own_currency import money_as_posted, order_in_own_currency
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Plan, PostedShare
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.source_checks import PAID_TOO_MUCH
from inkwell_bridge.core.planner.tellers import believed

ZERO = Decimal(0)
OWED_TO_BUYER = "AMEND-N002"
_BY_THE_RULES_OF_THEN = Finding(
    id="AMEND-N005",
    level=Level.NOTE,
    text="What changed goes by the version of the rules that the order was posted under, and not by a later one.",
    hint="Where that version has no place for it, enter it in the books by hand, and keep what was posted.",
)


def plan_amendment(order: Order, sale: PostedSale, context: PlanningContext) -> Plan:
    """The plan that brings the books to what ``order`` says now.

    Its documents are those that stand there and, after them, those that are missing. Of a cancelled order nothing is
    wanted. A plan without a further document says that the books are right.
    """
    order = believed(order, context.rulebook.payments)
    sale = replace(sale, before=believed(sale.before, context.rulebook.payments))
    # In the currency that it is posted in, at the rate that it was posted at: both go by the first of its documents.
    at_source, before_source, rate = order, sale.before, exchange_rate_of(order, context)
    if order.currency != sale.before.currency:
        return Plan(outcome=Outcome.HOLD, findings=(_other_currency(order, sale),))
    if rate is not None and is_converted(order, context):
        order = money_as_posted(order_in_own_currency(order, rate), receipts_of(sale.money))
        sale = replace(sale, before=order_in_own_currency(sale.before, rate))
        order = settled_by_last_payment(order, at_source, sale, context)
    again = on_own_days(context).model_copy(update={"decided": True, "posted_shares": sale.shares})
    wanted, shares = plan_again(order, again)
    findings = [*_cannot(order, wanted, sale, at_source, before_source)]
    if not blocking(findings) and not order.cancelled and wanted.outcome is Outcome.HOLD:
        # A rule that was written since would move what was posted as well: the version of then alone counts.
        findings = [*wanted.findings, _BY_THE_RULES_OF_THEN]
    # A shop may empty what was called off; that it adds up to nothing any more is no matter then.
    noted = () if order.cancelled else wanted.findings
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, contact=wanted.contact, findings=tuple(findings))
    posted = [one.external_reference for one in sale.documents]
    if not sale.ledger:
        before = plan_before_ledger(order, wanted, sale, context).model_copy(update={"posted_shares": shares})
        if order is not at_source:
            said = InCurrencies(here=at_source, there=order)
            before = at_exchange_rates(before, at_source, said, rate, context, keep=posted)
        return on_open_days(before, context, keep=posted)
    lines = [] if order.cancelled else _ledger_lines(wanted)
    should = sums_wanted(order, lines, sale)
    made = further_documents(order, lines, should, wanted, sale, context)
    documents = [document for document, _ in made]
    now = ZERO if order.cancelled else sum((one.amount for one in wanted.withheld), ZERO)
    taken = taken_from(order, sale.money, converted=order is not at_source)
    tax = MarketplaceTax(taken=taken, now=now, returned=sale.marketplace_tax_returned)
    beyond = ZERO if order.cancelled else beyond_order(lines, should)
    owed = owed_to_buyer(order, sale.refunded, called_off=order.cancelled, tax=tax, beyond=beyond)
    money = plan_later_money(
        order,
        [*sale.ledger, *documents],
        sale.money,
        context,
        withheld=tax.due,
        comes_back=ZERO if order.cancelled else tax.comes_back(owed),
        day=day_of_change(order, sale, context),
        first=len(sale.documents) + len(documents),
        written_off=[one for one in sale.documents if isinstance(one, WriteOff)],
    )
    notes = list(_said(order, documents, owed, context))
    # What is owed to the buyer is told once, and with what becomes of it.
    is_owed = any(one.id == OWED_TO_BUYER for one in notes)
    findings += [*(one for one in noted if not (is_owed and one.id == PAID_TOO_MUCH)), *money.findings, *notes]
    for document in documents:
        findings += foreseen(document, context.master_data, context.rulebook.penny, context.capabilities)
        findings += _no_credit_notes(document, order, context)
    plan = _plan(order, wanted, sale, made, money, findings).model_copy(
        update={"posted_shares": shares, "beyond_order": beyond or None}
    )
    rated = at_exchange_rates(plan, at_source, InCurrencies(here=at_source, there=order), rate, context, keep=posted)
    return on_open_days(rated, context, keep=posted)


def plan_again(order: Order, context: PlanningContext) -> tuple[Plan, tuple[PostedShare, ...]]:
    """What an order that was posted would become by itself now, with the shares of its discounts.

    Charges that did not change keep their shares; all are shared anew where the order does not add up by that.
    """
    plan = plan_order(order, context)
    if plan.outcome is not Outcome.HOLD or not context.posted_shares:
        return plan, shares_as_posted(order, context.posted_shares)
    return plan_order(order, context.model_copy(update={"posted_shares": ()})), shares_as_posted(order)


def _cannot(
    order: Order, wanted: Plan, sale: PostedSale, at_source: Order, before: Order
) -> Iterator[Finding]:  # fmt: skip
    """What no difference can make good: a person looks. ``at_source`` and ``before`` are the order as the sales side
    has it, now and when it was posted."""
    if any(isinstance(one, Invoice) and one.final for one in (*sale.documents, *wanted.documents)) or any(
        line.kind is LineKind.DEPOSIT for document in sale.ledger for line in document.lines
    ):
        yield _held("AMEND-E002", f"Order {order.number} was paid ahead, and changed after that was invoiced",
                    "Correct it by hand in the books, then keep what was posted.")  # fmt: skip
    # As the sales side told them: converted, a payment may differ by a penny from one time to the next.
    was = {one.transaction: one.amount for one in before.payments}
    amounts = {one.transaction: one.amount for one in at_source.payments}
    for receipt in sale.money:
        then = was.get(receipt.transaction, receipt.settles)
        other = amounts.get(receipt.transaction, then)
        if not isinstance(receipt, RefundPayment) and not sale.plan.withheld and other != then:
            yield _held("AMEND-E003", f"Payment {receipt.transaction} of order {order.number} was {then} "
                        f"and is {other} now", "Compare both in the shop and at the provider.")  # fmt: skip


def _other_currency(order: Order, sale: PostedSale) -> Finding:
    return _held("AMEND-E001", f"Order {order.number} was in {sale.before.currency} and is in {order.currency} now",
                 "Settle it by hand in the books; what was posted stays in its own currency.")  # fmt: skip


def _held(code: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.ERROR, text=f"{text}.", hint=hint, cause=Cause.SOURCE_CHANGED)


def _ledger_lines(wanted: Plan) -> Sequence[DocumentLine]:
    """The lines that the order is to have in the ledger: all documents of its sale have the same."""
    sales = [one for one in wanted.documents if isinstance(one, LedgerDocument)]
    return sales[-1].lines if sales else ()


def _no_credit_notes(document: LedgerDocument, order: Order, context: PlanningContext) -> Iterator[Finding]:
    role = Role(document.role)  # type: ignore[attr-defined]
    if role not in context.capabilities.documents:
        needed = f"Order {order.number} needs a {role} of {document.gross} {order.currency}"
        hint = "Enter it there by hand, then keep what was posted."
        yield _held("AMEND-E004", f"{needed}, and these books take none", hint)


def _said(
    order: Order, documents: Sequence[LedgerDocument], owed: Decimal, context: PlanningContext
) -> Iterator[Finding]:
    how = "cancelled" if order.cancelled else "changed"
    if documents:
        parts = " and ".join(f"{one.role} of {one.gross} {order.currency}" for one in documents)  # type: ignore[attr-defined]
        rule = "/orders/cancelled" if order.cancelled else "/orders/edited"
        yield Finding(id="AMEND-N001", level=Level.NOTE, text=f"The order was {how} after it was posted. The "
                      f"difference: {parts}.", hint=f"The rulebook's rule {rule} says so.")  # fmt: skip
    if owed > 0 and context.rulebook.payments is not None:
        yield Finding(id=OWED_TO_BUYER, level=Level.NOTE, at="/payments",
                      text=f"By this {owed} {order.currency} of what was paid is owed to the buyer.",
                      hint="It is paid back with the refund that the shop makes of it.")  # fmt: skip


def _plan(
    order: Order, wanted: Plan, sale: PostedSale, made: Sequence[Further],
    money: LaterMoney, findings: Sequence[Finding],
) -> Plan:  # fmt: skip
    further = [document for document, _ in made]
    documents = (*sale.documents, *further, *money.documents)
    reasons = [reason for place, (_, lines) in enumerate(made, start=len(sale.documents))
               for reason in reasons_of(place, lines, wanted, order, sale)]  # fmt: skip
    references_posted = {one.external_reference for one in sale.documents}
    kept = moved_reasons(sale.plan, sale.documents, only=references_posted, pointers=Pointers(sale.before, order))
    references = [*(one.external_reference for one in further), *(one.external_reference for one in money.documents)]
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=wanted.contact or sale.plan.contact,
        documents=documents,
        # As the sale itself arrives: a person posts them all.
        drafts=tuple(references) if wanted.drafts else (),
        withheld=() if order.cancelled else wanted.withheld,
        deducted=() if order.cancelled else wanted.deducted,
        open_balance=-(order.received - sale.repaid) if order.cancelled else wanted.open_balance,
        reasons=(*kept, *reasons, *money.reasons),
        findings=tuple(findings),
        called_off=sale.called_off(order),
        amendment=sale.amendments + 1 if further else sale.amendments,
    )
