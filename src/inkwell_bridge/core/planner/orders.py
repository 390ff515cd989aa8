"""Planning an order as the document of its sale, and its payments."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import CashSale, DocumentLine, Invoice, LineKind, Payment, Role, SalesOrder
from inkwell_bridge.core.commerce import MoneyState, Order
from inkwell_bridge.core.expressions import ORDER, NotEvaluated, seen_of_order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.charges import charges_of
from inkwell_bridge.core.planner.conservation import conserved, paid_up, source_amounts
from inkwell_bridge.core.planner.contacts import plan_contact
from inkwell_bridge.core.planner.lines import Lines, plan_lines
from inkwell_bridge.core.planner.money import Against, Paid, plan_money
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Placed, Plan, Reason
from inkwell_bridge.core.planner.selection import left_out_by
from inkwell_bridge.core.planner.setting import Setting
from inkwell_bridge.core.planner.source_checks import check_order
from inkwell_bridge.core.planner.treatments import check_treatment

ZERO = Decimal(0)


def plan_order(order: Order, setting: Setting) -> Plan:
    """Plan one order. The same order and setting give the same plan, byte for byte."""
    try:
        return _planned(order, setting)
    except NotEvaluated as error:
        text = f"A rule could not be worked out for order {order.number}: {error}."
        hint = "Let the rule ask for what every order has, such as with has(), then release the order."
        finding = Finding(id="RULE-E006", level=Level.ERROR, cause=Cause.RULE_MISSING, text=text[:2000], hint=hint)
        return Plan(outcome=Outcome.HOLD, findings=(finding,))


def _planned(order: Order, setting: Setting) -> Plan:
    seen = seen_of_order(order, setting.day(order.placed_at))
    left_out = left_out_by(order, setting, seen)
    if left_out:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=left_out)
    rules = setting.rulebook
    findings = [*check_order(order, kept_currencies(setting)), *_undated(order, setting)]
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))

    contact, contact_reason, contact_findings = plan_contact(order, rules.customers)
    made = plan_lines(charges_of(order, discounts_apart=rules.orders.discounts == "own lines"), order, setting, seen)
    _round_cash(made, order, setting)
    findings += [*check_treatment(order, rules, setting.country), *contact_findings, *made.findings]
    if blocking(findings) or contact is None:
        return Plan(outcome=Outcome.HOLD, contact=contact, findings=tuple(findings))

    sale = _sale(order, made, setting, seen)
    paid = _paid(order, sale, made, setting)
    reasons = (*contact_reason, *_header_reasons(order, sale, setting), *made.reasons)
    findings += [*paid.findings, *conserved(source_amounts(order), order.total, sale, reasons, made.withheld)]
    if not blocking(paid.findings):
        findings += paid_up(order.total, paid.documents, made.withheld, paid.left, paid.open)
    if isinstance(sale, Invoice):
        findings += foreseen(sale, setting.reference, rules.penny, setting.capabilities)
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=contact,
        documents=(sale, *paid.documents),
        withheld=tuple(made.withheld),
        open_balance=paid.open,
        reasons=(*reasons, *paid.reasons),
        findings=tuple(findings),
    )


def blocking(findings: list[Finding]) -> bool:
    """Whether a finding holds the document."""
    return any(finding.level is Level.ERROR for finding in findings)


def kept_currencies(setting: Setting) -> tuple[str, ...]:
    """The currencies that documents may be in: the books' own, and by rule those that they keep besides."""
    own = setting.reference.currency
    return (own, *setting.reference.currencies) if setting.rulebook.orders.currencies == "kept" else (own,)


def sale_role(setting: Setting) -> Role:
    """What an order becomes."""
    return Role(setting.rulebook.orders.become)


def _sale(order: Order, made: Lines, setting: Setting, seen: dict[str, Any]) -> Invoice | SalesOrder | CashSale:
    """The document of the sale."""
    rules, role = setting.rulebook, sale_role(setting)
    day = _moment_of(order, rules.orders.dated, setting)
    text = rules.fields.text.of(ORDER, seen) if rules.fields.text else ""
    base = {
        "mark": setting.mark(order.id, role),
        "date": day,
        "order_number": order.number,
        "link": order.link,
        "text": text,
        "currency": order.currency,
        "lines": tuple(made.lines),
    }
    if role is Role.SALES_ORDER:
        return SalesOrder(**base, warehouse=rules.warehouses.of(order.location))
    if role is Role.CASH_SALE:
        return CashSale(**base)
    point = None if rules.orders.tax_point == "document" else _moment_of(order, rules.orders.tax_point, setting)
    days = rules.orders.due_after_days
    return Invoice(
        **base,
        tax_point=point if point != day else None,
        due_on=None if days is None else day + timedelta(days=days),
        terms=rules.fields.terms.of(ORDER, seen) if rules.fields.terms else "",
    )


def _moment_of(order: Order, which: str, setting: Setting) -> date:
    if which == "paid":
        moments = [money.paid_at for money in order.payments if money.state is MoneyState.RECEIVED and money.paid_at]
        return setting.day(max(moments))
    return setting.day(order.placed_at)


def _undated(order: Order, setting: Setting) -> Iterator[Finding]:
    """An order that is dated by its payment, and was not paid."""
    rules = setting.rulebook.orders
    paid = any(money.state is MoneyState.RECEIVED and money.paid_at for money in order.payments)
    if "paid" in {rules.dated, rules.tax_point} and not paid:
        yield Finding(
            id="DATE-E001",
            level=Level.ERROR,
            at="/payments",
            cause=Cause.RULE_MISSING,
            text=f"Order {order.number} is to be dated by its payment, and none has come in with a date.",
            hint="Date orders by when they were placed, or leave out those that nobody has paid for.",
        )


def _round_cash(made: Lines, order: Order, setting: Setting) -> None:
    """Rounding of cash, on a line of its own outside tax."""
    if not order.cash_rounding or made.findings:
        return
    chosen = setting.rulebook.accounts.rounding.default
    target = f"/documents/0/lines/{len(made.lines)}"
    made.lines.append(
        DocumentLine(kind=LineKind.ROUNDING, mark="cash rounding", text="Rounding of cash", account=chosen,
                     quantity=Decimal(1), unit_price=order.cash_rounding, net=order.cash_rounding, tax=ZERO,
                     tax_code=setting.rulebook.tax_codes.outside)
    )  # fmt: skip
    made.reasons.append(
        Reason(target=f"{target}/net", sources=("/cash_rounding",), rule="/accounts/rounding",
               text=f"The shop rounded what was paid in cash by {order.cash_rounding}.",
               placed=(Placed(source="/cash_rounding", amount=order.cash_rounding),))
    )  # fmt: skip


def _paid(order: Order, sale: Invoice | SalesOrder | CashSale, made: Lines, setting: Setting) -> Paid:
    """The money: set against an invoice; of a sales order it waits for the invoice, and stands open on the contact."""
    against = Against(
        role=Role.PAYMENT,
        source_id=order.id,
        number=order.number,
        mark=sale.mark,
        currency=order.currency,
        day=sale.date,
        open=sale.gross,
        withheld=sum((part.amount for part in made.withheld), ZERO),
    )
    paid = plan_money(order.payments, against, setting)
    if not isinstance(sale, Invoice):
        paid.documents = [one.model_copy(update={"applied": ()}) for one in paid.documents]
    return paid


def _header_reasons(order: Order, sale: Invoice | SalesOrder | CashSale, setting: Setting) -> Iterator[Reason]:
    dated = setting.rulebook.orders.dated
    yield Reason(
        target="/documents/0/date",
        sources=("/placed_at",) if dated == "placed" else ("/payments",),
        rule="planner:date-placed" if dated == "placed" else "/orders/dated",
        text=f"The day the order was {dated} in {setting.time_zone}: {sale.date.isoformat()}.",
    )
    yield Reason(
        target="/documents/0/order_number",
        sources=("/number",),
        rule="planner:order-number",
        text="The shop's own number, so that anyone can find the way back.",
    )


def money_of(plan: Plan) -> tuple[Payment, ...]:
    """The money's documents of a plan."""
    return tuple(one for one in plan.documents if isinstance(one, Payment))
