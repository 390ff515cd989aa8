"""A kit as the articles in it: its price, reductions and taxes shared out, each to the last minor unit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TypeVar

from inkwell_bridge.core.commerce import Component, Nature, OrderLine
from inkwell_bridge.core.findings import Cause, Finding, source_error
from inkwell_bridge.core.money import allocate, minor_unit, tax_of
from inkwell_bridge.core.planner.charges import ChargeTax, PlannedCharge
from inkwell_bridge.core.planner.discounts import DiscountShare
from inkwell_bridge.core.planner.plan import AllocatedAmount

ZERO = Decimal(0)
# The rate that the books' code for a tax class has.
RateOf = Callable[[PlannedCharge], Decimal | None]
Share = TypeVar("Share", AllocatedAmount, DiscountShare)


def in_components(
    charge: PlannedCharge, *, currency: str, inclusive: bool, rate_of: RateOf
) -> tuple[list[PlannedCharge], list[Finding]]:
    """A charge for each article of a kit; anything else stays one charge."""
    line = charge.charge
    if not isinstance(line, OrderLine) or not line.components:
        return [charge], []
    return shared_out(charge, line.components, currency=currency, inclusive=inclusive, rate_of=rate_of)


def shared_out(
    charge: PlannedCharge, parts: Sequence[Component], *, currency: str, inclusive: bool, rate_of: RateOf
) -> tuple[list[PlannedCharge], list[Finding]]:
    """A charge for each of these parts.

    The price goes by the seller's shares, or where there are none by quantity. Each article is taxed at the rate of
    its own class; the minor units by which that misses the tax of the whole go to the largest.
    """
    # Once for everything of the kit, so that price, discounts and kept taxes fall apart in the same way.
    weights = _weights(charge, parts)
    if weights is None:
        return [charge], [_no_price_left(charge, currency)]
    amounts = allocate(charge.amount, weights, currency)
    made = [
        replace(
            charge,
            line_reference=f"{charge.line_reference}.{index}",
            amount=amount,
            quantity=charge.quantity * part.quantity,
            sku=part.sku,
            nature=Nature.GOODS,
            title=part.title or f"{charge.title}: {part.sku}",
            tax_class=part.tax_class or charge.tax_class,
            reductions=_shared(charge.reductions, weights, currency, index - 1),
            discounts=_shared(charge.discounts, weights, currency, index - 1),
        )
        for index, (part, amount) in enumerate(zip(parts, amounts, strict=True), start=1)
    ]
    own, finding = _taxed(charge, made, currency=currency, inclusive=inclusive, rate_of=rate_of)
    return [replace(one, own=tax, kept=kept) for one, tax, kept in zip(
        made, own, _split(charge.kept, weights, currency), strict=True)], finding  # fmt: skip


def _weights(charge: PlannedCharge, parts: Sequence[Component]) -> list[Decimal] | None:
    """What each article weighs in the price: its share, or its count where there are no shares. An article without one
    beside others that have one shares what these leave of the price; nothing where they leave nothing."""
    shares = [part.share for part in parts]
    if all(share is None for share in shares):
        return [part.quantity for part in parts]
    if None not in shares:
        return [share or ZERO for share in shares]
    price = charge.amount / charge.quantity if charge.quantity else charge.amount
    left = price - sum((share for share in shares if share is not None), ZERO)
    if left <= 0:
        return None
    counted = sum((part.quantity for part in parts if part.share is None), ZERO)
    return [part.quantity * left / counted if part.share is None else part.share for part in parts]


def _no_price_left(charge: PlannedCharge, currency: str) -> Finding:
    return source_error(
        "ITEM-E004",
        charge.at,
        f"Of '{charge.title[:80]}' at {charge.amount} {currency} the articles that have a share take all, and "
        "leave nothing for those that have none.",
        "Give each article of it a share of the price, in the shop or with the link, then release the order.",
        cause=Cause.ITEM_UNCLEAR,
    )


def _shared(amounts: Sequence[Share], weights: Sequence[Decimal], currency: str, index: int) -> tuple[Share, ...]:
    """The part of each of these reductions that falls on the article in this place."""
    shares = ((one, allocate(one.amount, weights, currency)[index]) for one in amounts)
    return tuple(replace(one, amount=share) for one, share in shares if share)


def _split(taxes: Sequence[ChargeTax], weights: Sequence[Decimal], currency: str) -> list[tuple[ChargeTax, ...]]:
    """Each tax shared out over the articles by weight."""
    shared = [(one, allocate(one.tax.amount, weights, currency)) for one in taxes]
    return [
        tuple(_part_of(one, shares[index]) for one, shares in shared if shares[index]) for index in range(len(weights))
    ]


def _part_of(one: ChargeTax, amount: Decimal) -> ChargeTax:
    return ChargeTax(source=one.source, tax=one.tax.model_copy(update={"amount": amount}))


def _taxed(
    charge: PlannedCharge, made: Sequence[PlannedCharge], *, currency: str, inclusive: bool, rate_of: RateOf
) -> tuple[list[tuple[ChargeTax, ...]], list[Finding]]:
    """The taxes of each article."""
    # A discount may be larger than an article's share; less than nothing takes no tax.
    reduced = [max(one.reduced, ZERO) for one in made]
    rates = [rate_of(one) for one in made]
    # Of one class and rate the kit's own tax is shared: no rate could say it more exactly. A class without a code is
    # told where the code is looked for.
    alike = len({(one.tax_class, rate) for one, rate in zip(made, rates, strict=True)}) == 1
    if charge.worked_out or alike or any(rate is None for rate in rates):
        return _split(charge.own, reduced, currency), []
    taxes = [
        tax_of(amount, rate or ZERO, currency, inclusive=inclusive) for amount, rate in zip(reduced, rates, strict=True)
    ]
    missed = charge.tax - sum(taxes, ZERO)
    # More than rounding of each article: the kit was taxed at another rate than its articles have.
    if abs(missed) > minor_unit(currency) * len(made):
        return _split(charge.own, reduced, currency), [_other_rates(charge, sum(taxes, ZERO), currency)]
    # Where the pennies weigh least; of two as large the first, so that planning again gives the same.
    largest = max(range(len(made)), key=lambda index: (taxes[index], -index))
    taxes[largest] += missed
    return _at_their_rates(_split(charge.own, taxes, currency), rates), []


def _at_their_rates(
    shares: Sequence[tuple[ChargeTax, ...]], rates: Sequence[Decimal | None]
) -> list[tuple[ChargeTax, ...]]:  # fmt: skip
    """The one tax of a kit, on each article at the rate of that: a discount takes its tax off by it."""
    return [
        tuple(replace(one, tax=one.tax.model_copy(update={"rate_percent": rate})) for one in taxes)
        if rate is not None and len(taxes) == 1
        else taxes
        for taxes, rate in zip(shares, rates, strict=True)
    ]


def _other_rates(charge: PlannedCharge, worked_out: Decimal, currency: str) -> Finding:
    return source_error(
        "TAX-E004",
        charge.at,
        f"The articles of '{charge.title[:80]}' come to {worked_out} {currency} of tax at the rates of their "
        f"classes; the shop charged {charge.tax}.",
        "Check the tax classes of the kit's articles in the shop, and the codes of these classes.",
        cause=Cause.TAX_UNCLEAR,
    )
