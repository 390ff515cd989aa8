"""Every amount of an order lands in exactly one place. A plan that does not conserve is never posted."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import Invoice
from inkwell_bridge.core.commerce import Charge, Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import Reason

ZERO = Decimal(0)


def source_amounts(order: Order) -> dict[str, Decimal]:
    """Every amount that the order's total is made of, signed, by its JSON Pointer."""
    amounts: dict[str, Decimal] = {}
    for where, charges in (("/lines", order.lines), ("/shipping", order.shipping), ("/extras", order.extras)):
        amounts |= _charged(where, charges)
        if not order.prices_include_tax:
            amounts |= _taxes(where, charges)
    for place, discount in enumerate(order.discounts):
        amounts[f"/discounts/{place}/amount"] = -discount.amount
    if order.cash_rounding:
        amounts["/cash_rounding"] = order.cash_rounding
    return amounts


def _charged(where: str, charges: Sequence[Charge]) -> dict[str, Decimal]:
    amounts = {f"{where}/{place}/amount": charge.amount for place, charge in enumerate(charges)}
    return amounts | {
        f"{where}/{place}/discount": -charge.discount for place, charge in enumerate(charges) if charge.discount
    }


def _taxes(where: str, charges: Sequence[Charge]) -> dict[str, Decimal]:
    return {
        f"{where}/{place}/taxes/{number}/amount": tax.amount
        for place, charge in enumerate(charges)
        for number, tax in enumerate(charge.taxes)
    }


def conserved(order: Order, invoice: Invoice, reasons: Sequence[Reason]) -> Iterator[Finding]:
    """What breaks conservation: an amount placed not at all, twice, in part, or out of nothing."""
    by_source: dict[str, Decimal] = defaultdict(lambda: ZERO)
    by_target: dict[str, Decimal] = {}
    for reason in reasons:
        for part in reason.placed:
            by_source[part.source] += part.amount
        if reason.placed:
            by_target[reason.target] = sum((part.amount for part in reason.placed), ZERO)
    wanted = source_amounts(order)
    for source in wanted.keys() | by_source.keys():
        if wanted.get(source, ZERO) != by_source[source]:
            yield _broken(source, f"{source} is {wanted.get(source, ZERO)}, of which {by_source[source]} was placed")
    for target, amount in _target_amounts(invoice).items():
        if by_target.get(target, ZERO) != amount:
            yield _broken(target, f"{target} is {amount}, but its sources give {by_target.get(target, ZERO)}")
    if invoice.gross != order.total:
        yield _broken("/total", f"the order's total is {order.total}, the invoice's {invoice.gross}")


def _target_amounts(invoice: Invoice) -> dict[str, Decimal]:
    amounts: dict[str, Decimal] = {}
    for place, line in enumerate(invoice.lines):
        amounts[f"/documents/0/lines/{place}/net"] = line.net
        amounts[f"/documents/0/lines/{place}/tax"] = line.tax
    return amounts


def _broken(at: str, text: str) -> Finding:
    return Finding(
        id="PLAN-E001",
        level=Level.ERROR,
        at=at,
        cause=Cause.SOURCE_INVALID,
        text=f"The plan does not conserve: {text}.",
        hint="Nothing was posted. Please report this order to the makers of Inkwell Bridge.",
    )
