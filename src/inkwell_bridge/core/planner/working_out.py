"""Taxes worked out from the rates of the books' codes, where the shop's own are not taken line by line.

In a price that includes tax one figure is rounded and the other is what remains; rounding both could make a total
that nobody paid. By document, the lines of a rate are rounded together and the tax is then shared over them.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.commerce import Charge, Extra, ExtraKind, Goodwill, Order, TaxLine
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import allocate, net_inside, rounded, tax_of
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import ChargeTax, PlannedCharge
from inkwell_bridge.core.planner.discounts import DiscountShare
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)
# The one amount of tax that is left of an order whose lines' own are not taken.
WHOLE_TAX = "/tax_total"


def is_worked_out(charge: Charge, rules: TaxRules) -> bool:
    """Whether the taxes of a charge come from rates: not those that stand apart by name, nor what others keep, nor the
    tax that the shop put on a tip, a donation, a duty or goodwill, of which a code says nothing."""
    kept = any(tax.kept for tax in charge.taxes)
    passed_on = isinstance(charge, Goodwill) or (isinstance(charge, Extra) and charge.kind is not ExtraKind.SURCHARGE)
    return rules.works_out and not kept and charge.tax_class not in rules.as_lines and not (passed_on and charge.tax)


def without_own_taxes(charges: Sequence[PlannedCharge], rules: TaxRules) -> list[PlannedCharge]:
    """The charges, those that are to be worked out without the shop's taxes."""
    if not rules.works_out:
        return list(charges)
    return [
        replace(charge, own=(), worked_out=True) if is_worked_out(charge.charge, rules) else charge
        for charge in charges
    ]


def with_worked_out_taxes(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> list[PlannedCharge]:
    """The same charges with the taxes that the rates of their codes make of them."""
    if not coding.rules.tax_codes.works_out:
        return list(charges)
    rates = [coding.rate_of(charge) if charge.worked_out else None for charge in charges]
    by_rate: dict[Decimal, list[int]] = defaultdict(list)
    for index, rate in enumerate(rates):
        if rate:
            by_rate[rate].append(index)
    made = list(charges)
    # By rate and not by class: two classes of one rate are one sum on the tax return.
    for rate, places in by_rate.items():
        taxes = _taxes([charges[index].reduced for index in places], rate, order, coding)
        for index, tax in zip(places, taxes, strict=True):
            line = TaxLine(rate_percent=rate, amount=tax)
            made[index] = replace(charges[index], own=(ChargeTax(source=WHOLE_TAX, tax=line),))
    return made


def with_taxes_of_discounts(
    charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding
) -> list[PlannedCharge]:  # fmt: skip
    """The same charges, each discount that stands on a line of its own with the tax that it takes with it.

    Worked out once, when all else is known: given back in parts, it is cut out of this figure.
    """
    return [
        replace(
            charge, discounts=tuple(replace(one, tax=-_tax_off(one, charge, order, coding)) for one in charge.discounts)
        )
        if charge.discounts and not coding.taxes_apart(charge)
        else charge
        for charge in charges
    ]


def _tax_off(share: DiscountShare, charge: PlannedCharge, order: Order, coding: AccountCoding) -> Decimal:
    reduced = charge.reduced
    if len(charge.own) > 1 and charge.tax and reduced:
        # Several taxes, on each other or beside each other: only what was charged tells how they work together.
        return rounded(-share.amount * charge.tax / reduced, order.currency)
    # Where nothing is left to tax the shop tells no rate: it is that of the code.
    rate = charge.own[0].tax.rate_percent if charge.own else coding.rate_of(charge) or ZERO
    return tax_of(-share.amount, rate, order.currency, inclusive=order.prices_include_tax)


def _taxes(amounts: Sequence[Decimal], rate: Decimal, order: Order, coding: AccountCoding) -> Sequence[Decimal]:
    """The taxes of lines of one rate."""
    # By document only where all lines go one way: a return among them would be given tax of what it is not.
    if coding.rounds_by == "line" or any(amount < 0 for amount in amounts):
        return [_tax(amount, rate, order, coding.rules.tax_codes) for amount in amounts]
    whole = _tax(sum(amounts, ZERO), rate, order, coding.rules.tax_codes)
    return allocate(whole, amounts, order.currency)


def _tax(amount: Decimal, rate: Decimal, order: Order, rules: TaxRules) -> Decimal:
    if order.prices_include_tax and rules.rounded == "net":
        return net_inside(amount, rate, order.currency)[1]
    return tax_of(amount, rate, order.currency, inclusive=order.prices_include_tax)


def missed(charges: Sequence[PlannedCharge], order: Order) -> Decimal:
    """By how much the whole tax that the shop charged is more than what was worked out."""
    return order.tax_total - sum((charge.tax + charge.kept_tax for charge in charges), ZERO)


def check_missed(difference: Decimal, order: Order, coding: AccountCoding) -> Iterator[Finding]:
    """What there is to say of a difference between the shop's tax and the one that was worked out."""
    if not difference:
        return
    penny = coding.rules.penny
    worked_out = order.tax_total - difference
    text = f"The shop charged {order.tax_total} {order.currency} of tax, the rates of the codes make {worked_out}"
    allowed = penny.allowed(order.currency, own=coding.own_currency)
    if abs(difference) > allowed or penny.goes_to == "hold":
        why = "the rulebook holds any difference" if penny.goes_to == "hold" else f"more than {allowed} apart"
        hint = "Check that each tax class has the code of the same rate, then release the order."
        yield Finding(
            id="TAX-E005", level=Level.ERROR, at=WHOLE_TAX, cause=Cause.PENNY, text=f"{text}: {why}.", hint=hint
        )
    # The total is what was paid; only its split differs, and the rates are what the books go by.
    elif order.prices_include_tax:
        yield Finding(id="TAX-N001", level=Level.NOTE, at=WHOLE_TAX, text=f"{text}. The total is the same.",
                      hint="Prices include tax, so nothing is left to settle.")  # fmt: skip
