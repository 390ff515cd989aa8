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
from inkwell_bridge.core.planner.charges import OneCharge, OneTax
from inkwell_bridge.core.planner.parts import Part, of_charge, of_discounts, of_taxes
from inkwell_bridge.core.planner.places import Where
from inkwell_bridge.core.planner.plan import Placed

ZERO = Decimal(0)
_TAXED = "/orders/deposits"
_DELIVERED = "/orders/delivered"


def is_deposit(charge: OneCharge) -> bool:
    """Whether it was paid ahead."""
    return charge.kind is LineKind.DEPOSIT


def taxed_late(where: Where) -> bool:
    """Whether the rules let the tax of deposits wait for their delivery."""
    return where.rules.orders.deposits == "taxed when delivered"


def waits_for_tax(charge: OneCharge, where: Where) -> bool:
    """Whether its tax falls on its delivery."""
    return is_deposit(charge) and taxed_late(where)


def tax_that_waits(charges: Sequence[OneCharge], where: Where) -> Decimal:
    """The tax of those that wait for their delivery."""
    return sum((one.tax for one in charges if waits_for_tax(one, where)), ZERO)


def of_every(charges: Sequence[OneCharge], order: Order, where: Where) -> Iterator[Part]:
    """The lines of charges: one for each, then discounts and taxes that stand apart; what waits is whole in its own."""
    for one in charges:
        yield held(one, order, where)
    taxed = [one for one in charges if not waits_for_tax(one, where)]
    yield from of_discounts(taxed, order, where)
    yield from of_taxes(taxed, order, where)


def as_sale(charge: OneCharge) -> OneCharge:
    """What was paid ahead, as the sale that it becomes."""
    return replace(charge, kind=LineKind.GOODS, role="sales") if is_deposit(charge) else charge


def delivered(charges: Sequence[OneCharge], order: Order, where: Where) -> Iterator[Part]:
    """The lines of the final invoice: each deposit as a sale, then what was paid ahead, deducted."""
    sold = [as_sale(one) for one in charges]
    parts = of_every(sold, order, where) if taxed_late(where) else (of_charge(one, order, where) for one in sold)
    for part in parts:
        yield replace(part, net_reason=(_DELIVERED, f"What was paid ahead is delivered. {part.net_reason[1]}"))
    for charge in charges:
        yield _deducted(held(charge, order, where))


def held(charge: OneCharge, order: Order, where: Where) -> Part:
    """The line of a charge as it is charged: a deposit that waits for its tax is one amount, outside tax."""
    part = of_charge(charge, order, where)
    if not waits_for_tax(charge, where):
        return part
    whole = (part, *of_discounts([charge], order, where), *of_taxes([charge], order, where))
    net = tuple(placed for one in whole for placed in (*one.net, *one.tax))
    text = f"Paid ahead, with the tax of {charge.tax} that is due once it is delivered: a debt until then."
    tax_text = "No tax is due on what is paid ahead; by rule it falls on the delivery."
    return replace(part, net=net, tax=(), code=where.outside(_TAXED), net_reason=(_TAXED, text),
                   tax_reason=(_TAXED, tax_text))  # fmt: skip


def _deducted(part: Part) -> Part:
    text = "What was paid ahead is deducted, with its tax." if part.tax else "What was paid ahead is deducted."
    return replace(part, mark=f"{part.mark} paid", prefix="Paid ahead: ", net=_negative(part.net),
                   tax=_negative(part.tax), net_reason=(_DELIVERED, text), tax_reason=(_DELIVERED, text))  # fmt: skip


def _negative(placed: Sequence[Placed]) -> tuple[Placed, ...]:
    return tuple(Placed(source=one.source, amount=-one.amount) for one in placed)


def less(charge: OneCharge, back: OneCharge, currency: str) -> OneCharge:
    """What is left of a deposit after so much of it was given back; below zero where more went back than there was."""
    left = charge.quantity - back.quantity
    return replace(
        charge,
        amount=charge.amount - back.amount,
        quantity=left if left > 0 else Decimal(1),
        own=_taxes_less(charge.own, back.tax, currency),
        kept=_taxes_less(charge.kept, back.kept_tax, currency),
    )


def _taxes_less(taxes: Sequence[OneTax], back: Decimal, currency: str) -> tuple[OneTax, ...]:
    """What is left of several taxes, each in the same part of the whole."""
    if not back or not taxes:
        return tuple(taxes)
    amounts = [one.tax.amount for one in taxes]
    left = allocate(sum(amounts, ZERO) - back, amounts, currency)
    pairs = zip(taxes, left, strict=True)
    return tuple(replace(one, tax=one.tax.model_copy(update={"amount": amount})) for one, amount in pairs)
