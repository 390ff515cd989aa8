"""The pipeline that an order and a refund go through: their charges are coded, their money is placed, and a plan comes
of both. What is particular to either is which documents its lines become (``orders.py``, ``refunds.py``)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, Contact, Role
from inkwell_bridge.core.commerce import Order, Payment
from inkwell_bridge.core.expressions import EvaluationContext, NotEvaluated
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.contacts import plan_contact
from inkwell_bridge.core.planner.lines import Lines, Split, add_rounding, plan_lines
from inkwell_bridge.core.planner.money import OpenItem, Paid, plan_money
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.vouchers import deduct_vouchers
from inkwell_bridge.core.rulebook.levels import Chosen

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Coded:
    """The charges of a source document on lines with accounts and tax codes, and whom they are made out to."""

    contact: Contact | None
    lines: Lines
    reasons: Sequence[Reason]
    findings: Sequence[Finding]

    @property
    def deducted(self) -> Decimal:
        """What vouchers took off the sale itself, gross in the document's currency."""
        return sum((one.gross for one in self.lines.deducted), ZERO)


def held_where_not_evaluated(kind: str, number: str, plan: Callable[[], Plan]) -> Plan:
    """``plan()``, or a hold where an expression of the rules could not be worked out for this document."""
    try:
        return plan()
    except NotEvaluated as error:
        text = f"A rule could not be worked out for {kind} {number}: {error}."
        hint = f"Let the rule ask for what every {kind} has, such as with has(), then release the {kind}."
        finding = Finding(id="RULE-E006", level=Level.ERROR, cause=Cause.RULE_MISSING, text=text, hint=hint)
        return Plan(outcome=Outcome.HOLD, findings=(finding,))


def code(
    source: Order, standing: Split, payments: Sequence[Payment], context: PlanningContext,
    evaluation: EvaluationContext,
) -> Coded:  # fmt: skip
    """Find the contact, and put each charge on a line.

    ``source`` is the order, or a refund read as one (``refund_as_order.py``); ``standing`` are its charges as they are
    to stand, ``payments`` its own.
    """
    # Whom it is for is asked first: without a contact no document can be made out, whatever its lines are.
    contact, reasons, findings = plan_contact(source, context.rulebook.customers, context.master_data)
    lines = plan_lines(standing, source, context, evaluation)
    _round_cash(lines, source, context)
    # After all charges: a voucher that was taxed when it was sold takes off what is there.
    deduct_vouchers(lines, payments, source, context, evaluation)
    return Coded(contact=contact, lines=lines, reasons=reasons, findings=(*findings, *lines.findings))


def _round_cash(lines: Lines, source: Order, context: PlanningContext) -> None:
    """Rounding of cash, on a line of its own outside tax."""
    # It is what coins cannot say, and no part of any price: taxed, it would change the tax of the sale.
    if not source.cash_rounding or blocking(lines.findings):
        return
    index = Chosen(context.rulebook.accounts.rounding.default, "/accounts/rounding", "")
    text = f"The shop rounded what was paid in cash by {source.cash_rounding}."
    add_rounding(
        lines,
        source.cash_rounding,
        index,
        source,
        context,
        source="/cash_rounding",
        line_reference="cash rounding",
        says=("Rounding of cash", text),
    )


def place_money(
    payments: Sequence[Payment], coded: Coded, context: PlanningContext, *, role: Role, source_id: str, number: str,
    against: str, currency: str, day: date, owed: Decimal, first: int = 1, waits: bool = False,
    withheld: Decimal = ZERO,
) -> Paid:  # fmt: skip
    """A document for each payment, set against the document with the reference ``against``, of which ``owed`` is open.

    ``first`` is the place of the first of them in the plan; with ``waits`` they are set against nothing yet. What is
    ``withheld`` comes beside what the lines name as such.
    """
    item = OpenItem(
        role=role,
        source_id=source_id,
        number=number,
        external_reference=against,
        currency=currency,
        day=day,
        open=owed,
        withheld=sum((part.amount for part in coded.lines.withheld), withheld),
        deducted=frozenset(one.source for one in coded.lines.deducted),
    )
    return plan_money(payments, item, context, first=first, waits=waits)


def held(coded: Coded, findings: Sequence[Finding]) -> Plan:
    """The plan of what could not be coded."""
    # Without documents: half a plan would look like something that could be posted.
    return Plan(outcome=Outcome.HOLD, contact=coded.contact, findings=tuple(findings))


def planned(
    coded: Coded, documents: Sequence[BooksDocument], paid: Paid, *, drafts: Sequence[str],
    reasons: Sequence[Reason], findings: Sequence[Finding], untaxed: Decimal = ZERO,
) -> Plan:  # fmt: skip
    """The plan that these documents and this money make; held where one of the findings asks a person.

    ``untaxed`` is the tax that waits until what was paid ahead is delivered.
    """
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=coded.contact,
        documents=(*documents, *paid.documents),
        drafts=tuple(drafts),
        withheld=tuple(coded.lines.withheld),
        deducted=tuple(coded.lines.deducted),
        untaxed=untaxed or None,
        open_balance=paid.open,
        reasons=(*coded.reasons, *reasons, *paid.reasons),
        findings=tuple(findings),
    )
