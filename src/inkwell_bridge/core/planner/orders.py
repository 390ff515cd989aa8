"""Planning an order as the document of its sale, and its payments."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import Invoice, Role, SalesOrder
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import NotEvaluated, evaluation_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.charges import charges_of
from inkwell_bridge.core.planner.conservation import conserved, paid_up, source_amounts
from inkwell_bridge.core.planner.contacts import plan_contact
from inkwell_bridge.core.planner.lines import Lines, add_rounding, plan_lines
from inkwell_bridge.core.planner.moments import undated
from inkwell_bridge.core.planner.money import OpenItem, Paid, plan_money
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Plan
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.sale import Documents, documents_of, is_final_invoice, wanted_of
from inkwell_bridge.core.planner.selection import left_out_by
from inkwell_bridge.core.planner.source_checks import check_order
from inkwell_bridge.core.planner.treatments import check_treatment
from inkwell_bridge.core.planner.vouchers import deduct_vouchers
from inkwell_bridge.core.rulebook.accounts import Chosen
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)


def plan_order(order: Order, context: PlanningContext) -> Plan:
    """Plan one order. The same order and setting give the same plan, byte for byte."""
    try:
        return _planned(order, context)
    except NotEvaluated as error:
        text = f"A rule could not be worked out for order {order.number}: {error}."
        hint = "Let the rule ask for what every order has, such as with has(), then release the order."
        finding = Finding(id="RULE-E006", level=Level.ERROR, cause=Cause.RULE_MISSING, text=text, hint=hint)
        return Plan(outcome=Outcome.HOLD, findings=(finding,))


def _planned(order: Order, context: PlanningContext) -> Plan:
    evaluation = evaluation_of_order(order, context.day)
    left_out = None if context.decided else left_out_by(order, context, evaluation)
    if left_out:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=left_out)
    rules, wanted = context.rulebook, wanted_of(context, evaluation)
    moments = (rules.orders.dated, rules.orders.tax_point, *wanted.moments)
    by_line = not rules.tax_codes.works_out
    findings = [*check_order(order, kept_currencies(context), by_line=by_line), *undated(order, moments)]
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))

    contact, contact_reason, contact_findings = plan_contact(order, rules.customers, context.master_data)
    made = plan_lines(
        charges_of(order, discounts_apart=rules.orders.discounts == "own lines"), order, context, evaluation
    )
    _round_cash(made, order, context)
    deduct_vouchers(made, order.payments, order, context, evaluation)
    findings += [*check_treatment(order, rules, context.country), *contact_findings, *made.findings]
    if blocking(findings) or contact is None:
        return Plan(outcome=Outcome.HOLD, contact=contact, findings=tuple(findings))

    sale = documents_of(order, made, wanted, context, evaluation)
    paid = _paid(order, sale, made, context)
    findings += [*sale.findings, *paid.findings, *_conserved(order, sale, made, rules.tax_codes)]
    if not blocking(paid.findings):
        findings += paid_up(order.total, paid.documents, made.aside, paid.left, paid.open)
    for invoice in sale.made:
        if isinstance(invoice, Invoice):
            findings += foreseen(invoice, context.master_data, rules.penny, context.capabilities)
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=contact,
        documents=(*sale.made, *paid.documents),
        drafts=(*sale.drafts, *(one.external_reference for one in paid.documents if wanted.arrive == "draft")),
        withheld=tuple(made.withheld),
        deducted=tuple(made.deducted),
        untaxed=made.untaxed or None,
        open_balance=paid.open,
        reasons=(*contact_reason, *sale.reasons, *paid.reasons),
        findings=tuple(findings),
    )


def _conserved(order: Order, sale: Documents, made: Lines, rules: TaxRules) -> Iterator[Finding]:
    """Every document of the sale but for one that ends deposits makes the order's total; that one makes nothing."""
    wanted = source_amounts(order, rules) | {one.source: -one.gross for one in made.deducted}
    total = order.total - sum((one.gross for one in made.deducted), ZERO)
    for index, document in enumerate(sale.made):
        final, target = is_final_invoice(document), f"/documents/{index}/"
        yield from conserved(
            {} if final else wanted,
            ZERO if final else total,
            document,
            [reason for reason in sale.reasons if reason.allocated and reason.target.startswith(target)],
            () if final else made.withheld,
            index=index,
        )


def kept_currencies(context: PlanningContext) -> tuple[str, ...]:
    """The currencies that documents may be in: the books' own, and by rule those that they keep besides."""
    own = context.master_data.currency
    return (own, *context.master_data.currencies) if context.rulebook.orders.currencies == "kept" else (own,)


def _round_cash(made: Lines, order: Order, context: PlanningContext) -> None:
    """Rounding of cash, on a line of its own outside tax."""
    if not order.cash_rounding or blocking(made.findings):
        return
    index = Chosen(context.rulebook.accounts.rounding.default, "/accounts/rounding", "")
    text = f"The shop rounded what was paid in cash by {order.cash_rounding}."
    add_rounding(
        made,
        order.cash_rounding,
        index,
        order,
        context,
        source="/cash_rounding",
        line_reference="cash rounding",
        says=("Rounding of cash", text),
    )


def _paid(order: Order, sale: Documents, made: Lines, context: PlanningContext) -> Paid:
    """The money: set against what took the sale into the ledger.

    Of a sales order that is invoiced later it waits for the invoice; of one that never is, it stands open on the
    contact.
    """
    ledger = sale.made[sale.ledger]
    against = OpenItem(
        role=Role.PAYMENT,
        source_id=order.id,
        number=order.number,
        external_reference=ledger.external_reference,
        currency=order.currency,
        day=ledger.date,
        open=sale.made[0].gross,
        withheld=sum((part.amount for part in made.withheld), ZERO),
        deducted=frozenset(one.source for one in made.deducted),
    )
    waits = isinstance(ledger, SalesOrder) and context.rulebook.orders.invoiced is not None
    paid = plan_money(order.payments, against, context, first=len(sale.made), waits=waits)
    if not isinstance(ledger, Invoice):
        paid.documents = [one.model_copy(update={"applied": ()}) for one in paid.documents]
    return paid
