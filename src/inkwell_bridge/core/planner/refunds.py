"""Planning a refund as a credit note and the money that went back.

What comes back takes the accounts and codes that it went out under, at the rates it went out at: the order is given
with it, and the rules are those that the order was posted under.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import CreditNote, Payment, Role
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.expressions import evaluation_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking, source_error
from inkwell_bridge.core.planner.at_exchange_rates import (
    InCurrencies,
    at_exchange_rates,
    exchange_rate_of,
    is_converted,
)
from inkwell_bridge.core.planner.conservation import charged, conserved, whole_tax
from inkwell_bridge.core.planner.deposits import as_sale
from inkwell_bridge.core.planner.money import Paid, set_against
from inkwell_bridge.core.planner.open_credits import NOTHING_OWING, Owing, Settling, settling
from inkwell_bridge.core.planner.open_days import on_open_days
from inkwell_bridge.core.planner.own_currency import (
    RefundsInOwnCurrency,
    money_as_posted,
    order_in_own_currency,
)
from inkwell_bridge.core.planner.pipeline import Coded, code, held, held_where_not_evaluated, place_money, planned
from inkwell_bridge.core.planner.plan import CreditedBefore, Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.refund_as_order import as_order
from inkwell_bridge.core.planner.refund_checks import check_amounts, check_refund
from inkwell_bridge.core.planner.returns import Returns
from inkwell_bridge.core.planner.sale import Wanted, ledger_role, wanted_of
from inkwell_bridge.core.planner.tellers import believed
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)
# What money is set against that pays nothing which stands in the books.
_NO_DOCUMENT = "no document"


def plan_refund(
    refund: Refund,
    order: Order,
    context: PlanningContext,
    *,
    refunded_before: Sequence[Refund] = (),
    held_before: Sequence[Refund] = (),
    final_invoice: bool = True,
    owing: Owing = NOTHING_OWING,
) -> Plan:
    """Plan a refund of an order; ``refunded_before`` are those of it that were carried already, in their order.
    ``held_before`` came before it and wait for a person: their money is gone as well.

    ``final_invoice`` is whether the one that ends the order's deposits went before, where the rules want it by now.
    ``owing`` is what changes of the order have left owing to the buyer.
    """
    if context.rulebook.refunds is None:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by="/refunds")
    payments = context.rulebook.payments
    order, refund = believed(order, payments), believed(refund, payments)
    refunded_before = [believed(one, payments) for one in refunded_before]
    held_before = [believed(one, payments) for one in held_before]
    # By the rate that its order was posted at, whatever it is by now: what comes off comes off as it went on.
    rate, at_source, told, told_before = exchange_rate_of(order, context), order, refund, refunded_before
    if rate is not None and is_converted(order, context) and refund.currency == order.currency:
        order = money_as_posted(order_in_own_currency(order, rate), owing.receipts)
        in_own = RefundsInOwnCurrency(at_source, order, rate, repaid=owing.repaid)
        refunded_before = [in_own.take(one) for one in refunded_before]
        refund = in_own.take(refund)
    settled = settling(refund, order, owing)
    findings = [*check_refund(refund, order, context, refunded_before, settled)]
    # Amounts of another currency cannot be held against those of the order.
    if refund.currency in context.currencies and told.currency == at_source.currency:
        findings += check_amounts(told, at_source, context, told_before, settled, held_before)
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))
    plan = held_where_not_evaluated(
        "refund",
        refund.number,
        lambda: _planned(settled, order, context, refunded_before, findings, final_invoice=final_invoice, owing=owing),
    )
    rated = at_exchange_rates(plan, at_source, InCurrencies(here=told, there=refund), rate, context)
    return on_open_days(rated, context)


def _planned(
    settled: Settling, order: Order, context: PlanningContext, before: Sequence[Refund], told: Sequence[Finding], *,
    final_invoice: bool, owing: Owing,
) -> Plan:  # fmt: skip
    refund = settled.rest
    # Read as an order of what came back, so that it is coded exactly as it was when it went out.
    returned = as_order(refund, order)
    evaluation = evaluation_of_order(order, context.day)
    wanted = wanted_of(order, context, evaluation)
    returns = Returns(order, context)
    for earlier in before:
        returns.take(earlier)
    charges, found = returns.take(refund)
    if wanted.delivered is not None and final_invoice:
        # What was paid ahead is a sale by now: no debt is left to take back from.
        charges = [as_sale(charge) for charge in charges]
    # The accounts and codes are those of the order's own rules and country: a refund has none of its own.
    coded = code(returned, (charges, found), refund.payments, context, evaluation)
    findings = [*told, *coded.findings, *_not_invoiced(refund, order, wanted, context)]
    if blocking(findings) or coded.contact is None:
        return held(coded, findings)

    # The credit note is one document, whatever it takes back: refunds at the shop are one act as well.
    note = None if settled.is_all else _credit_note(refund, order, coded, wanted, context)
    paid = _paid_back(settled, note, coded, order, context, owing)
    reasons: tuple[Reason, ...] = ()
    if note is not None:
        reasons = (*_header_reasons(refund, note, wanted), *coded.lines.reasons)
        amounts = _amounts(refund, returned, context.rulebook.tax_codes)
        amounts |= {one.source: -one.gross for one in coded.lines.deducted}
        total = refund.total - coded.deducted
        findings += conserved(amounts, total, note, reasons, coded.lines.withheld)
    findings += paid.findings
    # Left as drafts, the money waits with its note: a repayment that is posted against a draft would be refused.
    as_drafts = context.rulebook.refunds is not None and context.rulebook.refunds.arrive == "draft"
    notes = () if note is None else (note,)
    references = tuple(one.external_reference for one in (*notes, *paid.documents))
    return planned(
        coded, notes, paid, drafts=references if as_drafts else (), reasons=reasons, findings=findings
    ).model_copy(update={
        "marketplace_tax_returned": settled.marketplace_tax or None,
        "credited_before": CreditedBefore(net=settled.pays - settled.tax, tax=settled.tax) if settled.pays else None,
    })  # fmt: skip


def _paid_back(
    settled: Settling, note: CreditNote | None, coded: Coded, order: Order, context: PlanningContext,
    owing: Owing,
) -> Paid:  # fmt: skip
    """The money: what changes of the order left owing is paid first, the oldest first; then the note."""
    refund = settled.rest
    left: dict[str, Decimal] = {}
    pays = settled.by_seller
    for one in owing.credits:
        left[one.external_reference] = min(one.amount, pays)
        pays -= left[one.external_reference]
    # What was overpaid is set against nothing: it stands open on the contact, as it came in.
    left[_NO_DOCUMENT] = pays
    if note is not None:
        left[note.external_reference] = note.gross
    paid = place_money(
        refund.payments, coded, context, role=Role.REFUND_PAYMENT, source_id=refund.id, number=order.number,
        against=note.external_reference if note else _NO_DOCUMENT, currency=refund.currency,
        day=context.day(refund.refunded_at),
        owed=sum(left.values(), ZERO), first=0 if note is None else 1, withheld=settled.marketplace_tax,
    )  # fmt: skip
    paid.documents = [_without_overpaid(set_against(one, left)) for one in paid.documents]
    if settled.pays:
        text = f"{settled.pays} {refund.currency} of it pay what a change of the order left owing."
        if settled.marketplace_tax:
            text += f" {settled.marketplace_tax} {refund.currency} of that are tax which the marketplace kept."
        paid.findings.append(Finding(id="REFUND-N003", level=Level.NOTE, text=text, at="/payments",
                                     hint="That was credited with the change, and is credited no more."))  # fmt: skip
    return paid


def _without_overpaid(payment: Payment) -> Payment:
    return payment.model_copy(
        update={"applied": tuple(one for one in payment.applied if one.external_reference != _NO_DOCUMENT)}
    )


def _credit_note(refund: Refund, order: Order, coded: Coded, wanted: Wanted, context: PlanningContext) -> CreditNote:
    return CreditNote(
        external_reference=context.external_reference(refund.id, Role.CREDIT_NOTE),
        date=context.day(refund.refunded_at),
        order_number=order.number,
        link=refund.link,
        currency=refund.currency,
        lines=tuple(coded.lines.lines),
        credits=context.external_reference(order.id, ledger_role(wanted.role, context)),
        reason=refund.reason,
        # As its sale was: else a unit's turnover would never come down by what comes back.
        **wanted.header.header_codes(),
    )


def _amounts(refund: Refund, returned: Order, rules: TaxRules) -> dict[str, Decimal]:
    """Every amount that the refund's total is made of, by its JSON Pointer."""
    inclusive = refund.prices_include_tax
    charges = (*returned.lines, *refund.shipping, *refund.goodwill)
    rounding = {"/cash_rounding": refund.cash_rounding} if refund.cash_rounding else {}
    return {
        **rounding,
        **charged("/lines", returned.lines, rules, inclusive=inclusive),
        **charged("/shipping", refund.shipping, rules, inclusive=inclusive),
        **charged("/goodwill", refund.goodwill, rules, inclusive=inclusive),
        **whole_tax(charges, refund.tax_total, rules, inclusive=inclusive),
    }


def _not_invoiced(refund: Refund, order: Order, wanted: Wanted, context: PlanningContext) -> Iterator[Finding]:
    """Of a sales order that is still to be invoiced there is nothing to credit yet."""
    waits = wanted.role is Role.SALES_ORDER and wanted.invoiced is None and context.rulebook.orders.invoiced
    if waits:
        yield source_error("REFUND-E005", "/order_id", f"Refund {refund.number} comes before the invoice of order "
                     f"{order.number}.", "It goes by itself once the order is invoiced.",
                     cause=Cause.INVOICE_FIRST)  # fmt: skip


def _header_reasons(refund: Refund, note: CreditNote, wanted: Wanted) -> tuple[Reason, ...]:
    return (
        Reason(target="/documents/0/date", sources=("/refunded_at",), rule="planner:date-refunded",
               text=f"The day of the refund: {note.date.isoformat()}."),
        Reason(target="/documents/0/credits", sources=("/order_id",), rule="planner:credits-the-sale",
               text=f"It reduces what order {note.order_number} became."),
        *wanted.header.reasons(note, 0),
    )  # fmt: skip
