"""Planning a refund as a credit note and the money that went back.

What comes back takes the accounts and codes that it went out under, at the rates it went out at: the order is given
with it, and the rules are those that the order was posted under.
"""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import CreditNote, Role
from inkwell_bridge.core.commerce import MoneyState, Order, Refund
from inkwell_bridge.core.expressions import evaluation_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.charges import charges_of, goodwill_of
from inkwell_bridge.core.planner.conservation import charged, conserved, whole_tax
from inkwell_bridge.core.planner.deposits import as_sale
from inkwell_bridge.core.planner.orders import kept_currencies
from inkwell_bridge.core.planner.pipeline import Coded, code, held, held_where_not_evaluated, place_money, planned
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.refund_as_order import as_order
from inkwell_bridge.core.planner.sale import Wanted, ledger_role, wanted_of
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)


def plan_refund(
    refund: Refund,
    order: Order,
    context: PlanningContext,
    *,
    refunded_before: Decimal = ZERO,
    final_invoice: bool = True,
) -> Plan:
    """Plan a refund of an order; ``refunded_before`` is what went back already, in the order's currency.

    ``final_invoice`` is whether the one that ends the order's deposits went before, where the rules want it by now.
    """
    if context.rulebook.refunds is None:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by="/refunds")
    findings = [*_check(refund, order, context, refunded_before)]
    if findings:
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))
    return held_where_not_evaluated(
        "refund", refund.number, lambda: _planned(refund, order, context, final_invoice=final_invoice)
    )


def _planned(refund: Refund, order: Order, context: PlanningContext, *, final_invoice: bool) -> Plan:
    # Read as an order of what came back, so that it is coded exactly as it was when it went out.
    returned = as_order(refund, order)
    evaluation = evaluation_of_order(order, context.day)
    wanted = wanted_of(context, evaluation)
    charges = [*charges_of(returned, discounts_apart=False), *goodwill_of(refund.goodwill)]
    if wanted.delivered is not None and final_invoice:
        # What was paid ahead is a sale by now: no debt is left to take back from.
        charges = [as_sale(charge) for charge in charges]
    coded = code(returned, charges, refund.payments, context, evaluation)
    findings = [*coded.findings, *_not_invoiced(refund, order, wanted, context)]
    if blocking(findings) or coded.contact is None:
        return held(coded, findings)

    note = _credit_note(refund, order, coded, wanted, context)
    paid = place_money(
        refund.payments, coded, context, role=Role.REFUND_PAYMENT, source_id=refund.id, number=order.number,
        against=note.external_reference, currency=refund.currency, day=note.date, owed=note.gross,
    )  # fmt: skip
    reasons = (*_header_reasons(refund, note), *coded.lines.reasons)
    amounts = _amounts(refund, returned, context.rulebook.tax_codes)
    amounts |= {one.source: -one.gross for one in coded.lines.deducted}
    total = refund.total - coded.deducted
    findings += [*paid.findings, *conserved(amounts, total, note, reasons, coded.lines.withheld)]
    as_drafts = context.rulebook.refunds is not None and context.rulebook.refunds.arrive == "draft"
    references = (note.external_reference, *(one.external_reference for one in paid.documents))
    return planned(
        coded, (note,), paid, drafts=references if as_drafts else (), reasons=reasons, findings=findings
    )  # fmt: skip


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
    )


def _amounts(refund: Refund, returned: Order, rules: TaxRules) -> dict[str, Decimal]:
    """Every amount that the refund's total is made of, by its JSON Pointer."""
    inclusive = refund.prices_include_tax
    charges = (*returned.lines, *refund.shipping, *refund.goodwill)
    return {
        **charged("/lines", returned.lines, rules, inclusive=inclusive),
        **charged("/shipping", refund.shipping, rules, inclusive=inclusive),
        **charged("/goodwill", refund.goodwill, rules, inclusive=inclusive),
        **whole_tax(charges, refund.tax_total, rules, inclusive=inclusive),
    }


def _check(refund: Refund, order: Order, context: PlanningContext, before: Decimal) -> list[Finding]:
    """What is wrong with the refund itself, each as an error that holds it."""
    found: list[Finding] = []
    known = {line.id for line in order.lines}
    unknown = [one.line for one in refund.lines if one.line not in known]
    if unknown:
        found.append(_error("REFUND-E001", "/lines", f"Refund {refund.number} names line {unknown[0]}, which order "
                            f"{order.number} does not have.", "Look at both in the shop."))  # fmt: skip
    if not (refund.lines or refund.shipping or refund.goodwill):
        found.append(_error("REFUND-E003", "", f"Refund {refund.number} gives nothing back that has a line.",
                            "Look at it in the shop."))  # fmt: skip
    if refund.currency not in kept_currencies(context) or refund.currency != order.currency:
        found.append(_error("SRC-E003", "/currency", f"Refund {refund.number} is in {refund.currency}, the order in "
                            f"{order.currency}, the books in {context.master_data.currency}.",
                            "Enter it in the books by hand.", cause=Cause.CURRENCY_NOT_KEPT))  # fmt: skip
    elif before + refund.total > (limit := _most_that_can_come_back(refund, order)):
        moved = any(one.state is MoneyState.RECEIVED for one in refund.payments)
        what = "what was paid" if moved else "what was charged"
        told = f"{limit} {order.currency} was {what.rpartition(' ')[2]} for order {order.number}"
        found.append(_error("REFUND-E002", "/total", f"Refund {refund.number} of {refund.total}, after {before} "
                            f"before, goes beyond {what}: {told}.",
                            "Compare the order in the shop; enter it by hand if the money really went."))  # fmt: skip
    return found


def _most_that_can_come_back(refund: Refund, order: Order) -> Decimal:
    """What was paid, where money went back; of a credit without money what was charged, paid or not."""
    moved = any(one.state is MoneyState.RECEIVED for one in refund.payments)
    return order.received if moved else max(order.received, order.total)


def _not_invoiced(refund: Refund, order: Order, wanted: Wanted, context: PlanningContext) -> Iterator[Finding]:
    """Of a sales order that is still to be invoiced there is nothing to credit yet."""
    waits = wanted.role is Role.SALES_ORDER and wanted.invoiced is None and context.rulebook.orders.invoiced
    if waits:
        yield _error("REFUND-E005", "/order_id", f"Refund {refund.number} comes before the invoice of order "
                     f"{order.number}.", "It goes by itself once the order is invoiced.",
                     cause=Cause.INVOICE_FIRST)  # fmt: skip


def _header_reasons(refund: Refund, note: CreditNote) -> tuple[Reason, ...]:
    return (
        Reason(target="/documents/0/date", sources=("/refunded_at",), rule="planner:date-refunded",
               text=f"The day of the refund: {note.date.isoformat()}."),
        Reason(target="/documents/0/credits", sources=("/order_id",), rule="planner:credits-the-sale",
               text=f"It takes back of what order {note.order_number} became."),
    )  # fmt: skip


def _error(code: str, at: str, text: str, hint: str, *, cause: Cause = Cause.SOURCE_INVALID) -> Finding:
    return Finding(id=code, level=Level.ERROR, text=text, hint=hint, at=at, cause=cause)
