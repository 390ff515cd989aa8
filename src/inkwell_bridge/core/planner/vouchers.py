"""Vouchers for one known thing, used: they were taxed when they were sold, so they are deducted with that tax.

Source: directive 2006/112/EC, article 30b: handing over the goods is no supply of its own any more.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.books import LineKind
from inkwell_bridge.core.commerce import MoneyState, Nature, Order, Tender
from inkwell_bridge.core.commerce import Payment as Money
from inkwell_bridge.core.expressions import EvaluationContext
from inkwell_bridge.core.findings import Cause, Finding, blocking, source_error
from inkwell_bridge.core.money import tax_inside
from inkwell_bridge.core.planner.lines import Lines, add_line
from inkwell_bridge.core.planner.plan import AllocatedAmount, Deducted
from inkwell_bridge.core.planner.planned_lines import PlannedLine
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.rulebook.levels import Chosen, Facts, facts_of_charge
from inkwell_bridge.core.rulebook.taxes import Supply

ZERO = Decimal(0)
_RULE = "/payments/vouchers"


def deduct_vouchers(
    made: Lines, money: Sequence[Money], order: Order, context: PlanningContext, evaluation: EvaluationContext
) -> None:
    """Put the vouchers that paid for these lines below them, where the rules have a class that they were taxed as."""
    payments = context.rulebook.payments
    used = [(index, one) for index, one in enumerate(money) if _is_used(one)]
    if payments is None or payments.vouchers is None or not used or blocking(made.findings):
        return
    tax_class = payments.vouchers.taxed_as
    # Both are looked for before any is used, so that half a voucher never stands on a document.
    account, code = _account(order, context), _code(order, tax_class, context)
    if account is None or code is None:
        made.findings.append(_missing(*used[0], order, tax_class=tax_class if account else ""))
        return
    # A voucher takes off what is to pay here, and never more: what is left on it stays the buyer's.
    left = sum((line.net + line.tax for line in made.lines), ZERO)
    for index, one in used:
        if one.amount > left:
            made.findings.append(_too_much(index, one, left, order))
            return
        left -= one.amount
        # It was taxed when it was sold, at the class that the rules name, so it takes off that tax again.
        tax = tax_inside(one.amount, context.master_data.rate(code.code), order.currency)[1]
        if tax > _tax_left(made):
            made.findings.append(_untaxed(index, one, tax, order))
            return
        deducted = Deducted(source=f"/payments/{index}/amount", net=one.amount - tax, tax=tax)
        add_line(made, _part(index, one, deducted, account, code), order=order, context=context, evaluation=evaluation)
        made.deducted.append(deducted)


def _tax_left(made: Lines) -> Decimal:
    """The tax on the lines so far, also where it stands on lines of its own."""
    return sum((line.tax + (line.net if line.kind is LineKind.TAX else ZERO) for line in made.lines), ZERO)


def _untaxed(index: int, one: Money, tax: Decimal, order: Order) -> Finding:
    return source_error(
        "PAY-E004",
        f"/payments/{index}",
        f"A voucher of {one.amount} {order.currency} that was taxed with {tax} when it was sold pays for "
        f"{order.number}, which bears less tax than that.",
        "A voucher for one known thing pays for that thing. Look at the payments, or enter it by hand.",
        cause=Cause.TAX_UNCLEAR,
    )


def _is_used(one: Money) -> bool:
    return one.tender is Tender.VOUCHER and one.state is MoneyState.RECEIVED and bool(one.amount)


def _account(order: Order, context: PlanningContext) -> Chosen | None:
    rule = context.rulebook.accounts.vouchers
    return rule.chosen("vouchers", facts_of_charge(order)) if rule else None


def _code(order: Order, tax_class: str, context: PlanningContext) -> Chosen | None:
    # Taxed when it was sold, whatever is true of the order that it pays for now.
    return context.rulebook.tax_codes.chosen(Facts(), Supply(order.country, tax_class, str(Nature.VOUCHER)))


def _part(index: int, one: Money, deducted: Deducted, account: Chosen, code: Chosen) -> PlannedLine:
    text = f"The voucher of {one.amount} was taxed when it was sold, with {deducted.tax}."
    return PlannedLine(
        kind=LineKind.VOUCHER,
        line_reference=f"voucher {index + 1}",
        at=f"/payments/{index}",
        title=" ".join(filter(None, ("Voucher", one.voucher))),
        account=account,
        code=code,
        net=(AllocatedAmount(source=deducted.source, amount=-deducted.net),),
        tax=(AllocatedAmount(source=deducted.source, amount=-deducted.tax),),
        net_reason=(_RULE, text),
        tax_reason=(_RULE, text),
    )


def _missing(index: int, one: Money, order: Order, *, tax_class: str) -> Finding:
    """The rules lack an account for vouchers, or a code for the class that they were taxed as."""
    text = f"Order {order.number} is paid by a voucher of {one.amount} {order.currency}, and the rulebook names no"
    what, coding = (f"tax code for '{tax_class}'", "tax_codes: by_class") if tax_class else ("account", "accounts")
    return source_error(
        "TAX-E001" if tax_class else "PLAN-E002",
        f"/payments/{index}",
        f"{text} {what} for vouchers.",
        f"Add '{tax_class or 'vouchers'}' under {coding} in the rulebook, then release the order.",
        cause=Cause.TAX_CLASS_UNMAPPED if tax_class else Cause.RULE_MISSING,
    )


def _too_much(index: int, one: Money, left: Decimal, order: Order) -> Finding:
    return source_error(
        "PAY-E003",
        f"/payments/{index}",
        f"A voucher of {one.amount} {order.currency} pays for {order.number}, of which {left} is left to pay.",
        "Look at the payments in the shop; what is left on a voucher should not count as used.",
    )
