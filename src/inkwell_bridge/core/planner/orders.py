"""Planning an order as the document of its sale, and its payments."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import Invoice, Role, SalesOrder
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import NotEvaluated, seen_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.charges import charges_of
from inkwell_bridge.core.planner.conservation import conserved, paid_up, source_amounts
from inkwell_bridge.core.planner.contacts import plan_contact
from inkwell_bridge.core.planner.lines import Lines, add_rounding, plan_lines
from inkwell_bridge.core.planner.moments import undated
from inkwell_bridge.core.planner.money import Against, Paid, plan_money
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Plan
from inkwell_bridge.core.planner.sale import Documents, documents_of, ends_deposits, wanted_of
from inkwell_bridge.core.planner.selection import left_out_by
from inkwell_bridge.core.planner.setting import Setting
from inkwell_bridge.core.planner.source_checks import check_order
from inkwell_bridge.core.planner.treatments import check_treatment
from inkwell_bridge.core.planner.vouchers import deduct_vouchers
from inkwell_bridge.core.rulebook.accounts import Chosen
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)


def plan_order(order: Order, setting: Setting) -> Plan:
    """Plan one order. The same order and setting give the same plan, byte for byte."""
    try:
        return _planned(order, setting)
    except NotEvaluated as error:
        text = f"A rule could not be worked out for order {order.number}: {error}."
        hint = "Let the rule ask for what every order has, such as with has(), then release the order."
        finding = Finding(id="RULE-E006", level=Level.ERROR, cause=Cause.RULE_MISSING, text=text, hint=hint)
        return Plan(outcome=Outcome.HOLD, findings=(finding,))


def _planned(order: Order, setting: Setting) -> Plan:
    seen = seen_of_order(order, setting.day)
    left_out = left_out_by(order, setting, seen)
    if left_out:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=left_out)
    rules, wanted = setting.rulebook, wanted_of(setting, seen)
    moments = (rules.orders.dated, rules.orders.tax_point, *wanted.moments)
    by_line = not rules.tax_codes.works_out
    findings = [*check_order(order, kept_currencies(setting), by_line=by_line), *undated(order, moments)]
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))

    contact, contact_reason, contact_findings = plan_contact(order, rules.customers, setting.reference)
    made = plan_lines(charges_of(order, discounts_apart=rules.orders.discounts == "own lines"), order, setting, seen)
    _round_cash(made, order, setting)
    deduct_vouchers(made, order.payments, order, setting, seen)
    findings += [*check_treatment(order, rules, setting.country), *contact_findings, *made.findings]
    if blocking(findings) or contact is None:
        return Plan(outcome=Outcome.HOLD, contact=contact, findings=tuple(findings))

    sale = documents_of(order, made, wanted, setting, seen)
    paid = _paid(order, sale, made, setting)
    findings += [*sale.findings, *paid.findings, *_conserved(order, sale, made, rules.tax_codes)]
    if not blocking(paid.findings):
        findings += paid_up(order.total, paid.documents, made.aside, paid.left, paid.open)
    for invoice in sale.made:
        if isinstance(invoice, Invoice):
            findings += foreseen(invoice, setting.reference, rules.penny, setting.capabilities)
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=contact,
        documents=(*sale.made, *paid.documents),
        drafts=(*sale.drafts, *(one.mark for one in paid.documents if wanted.arrive == "draft")),
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
    for place, document in enumerate(sale.made):
        final, target = ends_deposits(document.mark), f"/documents/{place}/"
        yield from conserved(
            {} if final else wanted,
            ZERO if final else total,
            document,
            [reason for reason in sale.reasons if reason.placed and reason.target.startswith(target)],
            () if final else made.withheld,
            place=place,
        )


def kept_currencies(setting: Setting) -> tuple[str, ...]:
    """The currencies that documents may be in: the books' own, and by rule those that they keep besides."""
    own = setting.reference.currency
    return (own, *setting.reference.currencies) if setting.rulebook.orders.currencies == "kept" else (own,)


def _round_cash(made: Lines, order: Order, setting: Setting) -> None:
    """Rounding of cash, on a line of its own outside tax."""
    if not order.cash_rounding or blocking(made.findings):
        return
    place = Chosen(setting.rulebook.accounts.rounding.default, "/accounts/rounding", "")
    text = f"The shop rounded what was paid in cash by {order.cash_rounding}."
    add_rounding(made, order.cash_rounding, place, order, setting, source="/cash_rounding", mark="cash rounding",
                 says=("Rounding of cash", text))  # fmt: skip


def _paid(order: Order, sale: Documents, made: Lines, setting: Setting) -> Paid:
    """The money: set against what took the sale into the ledger.

    Of a sales order that is invoiced later it waits for the invoice; of one that never is, it stands open on the
    contact.
    """
    ledger = sale.made[sale.ledger]
    against = Against(
        role=Role.PAYMENT,
        source_id=order.id,
        number=order.number,
        mark=ledger.mark,
        currency=order.currency,
        day=ledger.date,
        open=sale.made[0].gross,
        withheld=sum((part.amount for part in made.withheld), ZERO),
        deducted=frozenset(one.source for one in made.deducted),
    )
    waits = isinstance(ledger, SalesOrder) and setting.rulebook.orders.invoiced is not None
    paid = plan_money(order.payments, against, setting, first=len(sale.made), waits=waits)
    if not isinstance(ledger, Invoice):
        paid.documents = [one.model_copy(update={"applied": ()}) for one in paid.documents]
    return paid
