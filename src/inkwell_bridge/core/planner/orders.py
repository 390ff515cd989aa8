"""Planning an order as the document of its sale, and its payments."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import Invoice, Role, SalesOrder
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import evaluation_of_order
from inkwell_bridge.core.findings import Finding, blocking
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.at_exchange_rates import (
    InCurrencies,
    at_exchange_rates,
    exchange_rate_of,
    is_converted,
    rate_missing,
)
from inkwell_bridge.core.planner.charges import charges_of
from inkwell_bridge.core.planner.conservation import conserved, paid_up, source_amounts
from inkwell_bridge.core.planner.lines import ready
from inkwell_bridge.core.planner.moments import undated
from inkwell_bridge.core.planner.money import Paid
from inkwell_bridge.core.planner.open_days import on_open_days
from inkwell_bridge.core.planner.own_currency import order_in_own_currency
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.pipeline import Coded, code, held, held_where_not_evaluated, place_money, planned
from inkwell_bridge.core.planner.plan import Outcome, Plan
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.sale import Documents, documents_of, is_final_invoice, wanted_of
from inkwell_bridge.core.planner.selection import left_out_by
from inkwell_bridge.core.planner.source_checks import check_order
from inkwell_bridge.core.planner.tellers import believed
from inkwell_bridge.core.planner.treatments import check_treatment
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)


def plan_order(order: Order, context: PlanningContext) -> Plan:
    """Plan one order. The same order and context give the same plan, byte for byte."""
    return held_where_not_evaluated("order", order.number, lambda: _planned(order, context))


def _planned(order: Order, context: PlanningContext) -> Plan:
    order = believed(order, context.rulebook.payments)
    evaluation = evaluation_of_order(order, context.day)
    # Which orders cross is asked until something of one was posted, and never after.
    left_out = None if context.decided else left_out_by(order, context, evaluation)
    if left_out:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=left_out)
    rules, wanted = context.rulebook, wanted_of(order, context, evaluation)
    # A document that is to bear the day of its payment or dispatch cannot be made before that day is known.
    moments = (rules.orders.dated, rules.orders.tax_point, *wanted.moments)
    by_line = not rules.tax_codes.works_out
    converted = is_converted(order, context)
    currencies = (*context.currencies, order.currency) if converted else context.currencies
    findings = [*check_order(order, currencies, by_line=by_line), *undated(order, moments)]
    # Before that is known the order may have no day, which a rate is of.
    rate = None if blocking(findings) else exchange_rate_of(order, context)
    if not blocking(findings):
        findings += rate_missing(order, context, rate)
    if blocking(findings):
        # What does not add up at its source is not worth coding: each further finding would be a consequence.
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))
    at_source = order
    if converted and rate is not None:
        order = order_in_own_currency(order, rate)
        evaluation = evaluation_of_order(order, context.day)

    apart = rules.orders.discounts == "own lines"
    charges = charges_of(order, discounts_apart=apart, posted_shares=context.posted_shares)
    standing = ready(charges, order, context, AccountCoding(order, context))
    coded = code(order, standing, order.payments, context, evaluation)
    findings += [*check_treatment(order, rules, context.country), *coded.findings]
    if blocking(findings) or coded.contact is None:
        return held(coded, findings)

    sale = documents_of(order, coded.lines, wanted, context, evaluation)
    paid = _paid(order, sale, coded, context)
    findings += [*sale.findings, *paid.findings, *_conserved(order, sale, coded, rules.tax_codes)]
    # A payment without an account leaves the second equation open, and has said so itself.
    if not blocking(paid.findings):
        findings += paid_up(order.total, paid.documents, coded.lines.aside, paid.left, paid.open)
    for invoice in sale.made:
        if isinstance(invoice, Invoice):
            # What these books will compute otherwise is foreseen here, so that a trial says what a run will do.
            findings += foreseen(invoice, context.master_data, rules.penny, context.capabilities)
    # Money set against a draft waits as a draft, or the books would refuse it.
    draft_money = [one.external_reference for one in paid.documents if wanted.arrive == "draft"]
    plan = planned(
        coded, sale.made, paid, drafts=(*sale.drafts, *draft_money), reasons=sale.reasons, findings=findings,
        untaxed=coded.lines.untaxed,
    )  # fmt: skip
    rated = at_exchange_rates(plan, at_source, InCurrencies(here=at_source, there=order), rate, context)
    return on_open_days(rated, context)


def _conserved(order: Order, sale: Documents, coded: Coded, rules: TaxRules) -> Iterator[Finding]:
    """Every document of the sale but for one that ends deposits makes the order's total; that one makes nothing."""
    made = coded.lines
    wanted = source_amounts(order, rules) | {one.source: -one.gross for one in made.deducted}
    total = order.total - coded.deducted
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


def _paid(order: Order, sale: Documents, coded: Coded, context: PlanningContext) -> Paid:
    """The money: set against what took the sale into the ledger.

    Of a sales order that is invoiced later it waits for the invoice; of one that never is, it stands open on the
    contact.
    """
    ledger = sale.made[sale.ledger]
    waits = isinstance(ledger, SalesOrder) and context.rulebook.orders.invoiced is not None
    paid = place_money(
        order.payments, coded, context, role=Role.PAYMENT, source_id=order.id, number=order.number,
        against=ledger.external_reference, currency=order.currency, day=ledger.date, owed=sale.made[0].gross,
        first=len(sale.made), waits=waits,
    )  # fmt: skip
    # A cash sale is paid as it is made, and a sales order owes nothing: money is set against invoices alone.
    if not isinstance(ledger, Invoice):
        paid.documents = [one.model_copy(update={"applied": ()}) for one in paid.documents]
    return paid
