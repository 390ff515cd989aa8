"""What is paid ahead for one known thing: a debt until that is delivered.

Where the law makes a payment a tax point, its tax is due at once (directive 2006/112/EC, article 65); elsewhere the
rules let it wait for the delivery, and until then all of the payment is a debt outside tax.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.books import LineKind
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.money import allocate
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import ChargeTax, PlannedCharge
from inkwell_bridge.core.planner.discounts import DiscountShare
from inkwell_bridge.core.planner.plan import AllocatedAmount
from inkwell_bridge.core.planner.planned_lines import PlannedLine, charge_line, discount_lines, tax_lines

ZERO = Decimal(0)
_TAXED = "/orders/deposits"
_DELIVERED = "/orders/delivered"


def is_deposit(charge: PlannedCharge) -> bool:
    """Whether it was paid ahead."""
    return charge.kind is LineKind.DEPOSIT


def taxed_late(coding: AccountCoding) -> bool:
    """Whether the rules let the tax of deposits wait for their delivery."""
    return coding.rules.orders.deposits == "taxed when delivered"


def waits_for_tax(charge: PlannedCharge, coding: AccountCoding) -> bool:
    """Whether its tax falls on its delivery."""
    return is_deposit(charge) and taxed_late(coding)


def tax_that_waits(charges: Sequence[PlannedCharge], coding: AccountCoding) -> Decimal:
    """The tax of those that wait for their delivery."""
    return sum((one.tax for one in charges if waits_for_tax(one, coding)), ZERO)


def lines_of_charges(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> Iterator[PlannedLine]:
    """The lines of charges: one for each, then discounts and taxes that stand apart; what waits is whole in its own."""
    for one in charges:
        yield deposit_line(one, order, coding)
    # What waits for its tax is whole on its own line already: its discounts and taxes may not stand apart again.
    taxed = [one for one in charges if not waits_for_tax(one, coding)]
    yield from discount_lines(taxed, order, coding)
    yield from tax_lines(taxed, order, coding)


def as_sale(charge: PlannedCharge) -> PlannedCharge:
    """What was paid ahead, as the sale that it becomes."""
    return replace(charge, kind=LineKind.GOODS, role="sales") if is_deposit(charge) else charge


def delivered(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> Iterator[PlannedLine]:
    """The lines of the final invoice: each deposit as a sale, then what was paid ahead, deducted."""
    # The final invoice is of the whole sale, and takes off below what was paid for it before (VAT Directive, 226).
    sold = [as_sale(one) for one in charges]
    parts = (
        lines_of_charges(sold, order, coding)
        if taxed_late(coding)
        else (charge_line(one, order, coding) for one in sold)
    )
    for part in parts:
        yield replace(part, net_reason=(_DELIVERED, f"What was paid ahead is delivered. {part.net_reason[1]}"))
    for charge in charges:
        yield _deducted(deposit_line(charge, order, coding))


def deposit_line(charge: PlannedCharge, order: Order, coding: AccountCoding) -> PlannedLine:
    """The line of a charge as it is charged: a deposit that waits for its tax is one amount, outside tax."""
    part = charge_line(charge, order, coding)
    if not waits_for_tax(charge, coding):
        return part
    whole = (part, *discount_lines([charge], order, coding), *tax_lines([charge], order, coding))
    # Money held for somebody is a debt of its gross: the tax in it is nobody's yet (VAT Directive, 63 and 65).
    net = tuple(allocated for one in whole for allocated in (*one.net, *one.tax))
    text = f"Paid ahead, with the tax of {charge.tax} that is due once it is delivered: a debt until then."
    tax_text = "No tax is due on what is paid ahead; by rule it falls on the delivery."
    return replace(part, net=net, tax=(), code=coding.outside(_TAXED), net_reason=(_TAXED, text),
                   tax_reason=(_TAXED, tax_text))  # fmt: skip


def _deducted(part: PlannedLine) -> PlannedLine:
    text = "What was paid ahead is deducted, with its tax." if part.tax else "What was paid ahead is deducted."
    return replace(part, line_reference=f"{part.line_reference} paid", prefix="Paid ahead: ", net=_negative(part.net),
                   tax=_negative(part.tax), net_reason=(_DELIVERED, text), tax_reason=(_DELIVERED, text))  # fmt: skip


def _negative(allocated: Sequence[AllocatedAmount]) -> tuple[AllocatedAmount, ...]:
    return tuple(AllocatedAmount(source=one.source, amount=-one.amount) for one in allocated)


def less(charge: PlannedCharge, back: PlannedCharge, currency: str) -> PlannedCharge:
    """What is left of a deposit after so much of it was given back; below zero where more went back than there was."""
    # A refund of money alone may take back all pieces; what is left is still one thing.
    left = charge.quantity - back.quantity
    return replace(
        charge,
        amount=charge.amount - back.full,
        discounts=_discounts_less(charge.discounts, back.discounts),
        quantity=left if left > 0 else Decimal(1),
        own=_taxes_less(charge.own, back.tax, currency),
        kept=_taxes_less(charge.kept, back.kept_tax, currency),
    )


def _discounts_less(
    discounts: Sequence[DiscountShare], back: Sequence[DiscountShare]
) -> tuple[DiscountShare, ...]:  # fmt: skip
    """What is left of the discounts that stand on lines of their own; those that come back are below zero too."""
    gone = {one.number: one for one in back}
    left = (
        replace(one, amount=one.amount - gone[one.number].amount, tax=one.tax - gone[one.number].tax)
        if one.number in gone
        else one
        for one in discounts
    )
    return tuple(one for one in left if one.amount or one.tax)


def _taxes_less(taxes: Sequence[ChargeTax], back: Decimal, currency: str) -> tuple[ChargeTax, ...]:
    """What is left of several taxes, each in the same part of the whole."""
    if not back or not taxes:
        return tuple(taxes)
    amounts = [one.tax.amount for one in taxes]
    left = allocate(sum(amounts, ZERO) - back, amounts, currency)
    pairs = zip(taxes, left, strict=True)
    return tuple(replace(one, tax=one.tax.model_copy(update={"amount": amount})) for one, amount in pairs)
