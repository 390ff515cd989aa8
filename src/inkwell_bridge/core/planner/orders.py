"""Planning an order as an invoice."""

from __future__ import annotations

from datetime import date
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import BooksCapabilities, Invoice, Reference
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.findings import Finding, Level
from inkwell_bridge.core.planner.conservation import conserved
from inkwell_bridge.core.planner.contacts import plan_contact
from inkwell_bridge.core.planner.lines import plan_lines
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.source_checks import check_order
from inkwell_bridge.core.planner.unruled import unruled
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.values import Value


class Setting(Value):
    """All that a plan depends on besides the order itself.

    Shape: ``source`` is the unchanging name of the sales-side connection; ``time_zone`` (IANA) is the
    company's own, in which a moment becomes a date.
    """

    source: str
    rulebook: OrderRulebook
    reference: Reference
    capabilities: BooksCapabilities
    time_zone: str


def plan_order(order: Order, setting: Setting) -> Plan:
    """Plan one order. The same order and setting give the same plan, byte for byte."""
    left_out_by = _left_out_by(order, setting)
    if left_out_by:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=left_out_by)
    findings = [*check_order(order, setting.reference.currency), *unruled(order)]
    if _blocking(findings):
        return Plan(outcome=Outcome.HOLD, findings=tuple(findings))

    contact, contact_reason, contact_findings = plan_contact(order, setting.rulebook.customers)
    lines, line_reasons, line_findings = plan_lines(order, setting.rulebook, setting.capabilities.price_digits)
    findings += [*contact_findings, *line_findings]
    if _blocking(findings) or contact is None:
        return Plan(outcome=Outcome.HOLD, contact=contact, findings=tuple(findings))

    invoice = Invoice(
        mark=f"INK:{setting.source}:{order.id}:invoice:1",
        date=_document_date(order, setting),
        order_number=order.number,
        link=order.link,
        currency=order.currency,
        lines=lines,
    )
    reasons = (*contact_reason, *_header_reasons(order, setting), *line_reasons)
    findings += [*_payments_left(order), *conserved(order, invoice, reasons)]
    findings += foreseen(invoice, setting.reference, setting.rulebook.penny, setting.capabilities)
    outcome = Outcome.HOLD if _blocking(findings) else Outcome.CARRY
    return Plan(outcome=outcome, contact=contact, documents=(invoice,), reasons=reasons, findings=tuple(findings))


def _blocking(findings: list[Finding]) -> bool:
    return any(finding.level is Level.ERROR for finding in findings)


def _document_date(order: Order, setting: Setting) -> date:
    return order.placed_at.astimezone(ZoneInfo(setting.time_zone)).date()


def _left_out_by(order: Order, setting: Setting) -> str | None:
    rules = setting.rulebook.orders
    if order.status not in rules.statuses:
        return "/orders/statuses"
    if rules.placed_from and _document_date(order, setting) < rules.placed_from:
        return "/orders/placed_from"
    return None


def _header_reasons(order: Order, setting: Setting) -> tuple[Reason, ...]:
    day = _document_date(order, setting)
    return (
        Reason(
            target="/documents/0/date",
            sources=("/placed_at",),
            rule="planner:date-placed",
            text=f"The day the order was placed in {setting.time_zone}: {day.isoformat()}.",
        ),
        Reason(
            target="/documents/0/order_number",
            sources=("/number",),
            rule="planner:order-number",
            text="The shop's own number, so that anyone can find the way back.",
        ),
    )


def _payments_left(order: Order) -> tuple[Finding, ...]:
    return tuple(
        Finding(
            id="PAY-N001",
            level=Level.NOTE,
            at=f"/payments/{place}/amount",
            text=f"Payment of {payment.amount} {order.currency} by {payment.method} is left for later.",
            hint="The rulebook's rule /payments says later.",
        )
        for place, payment in enumerate(order.payments)
    )
