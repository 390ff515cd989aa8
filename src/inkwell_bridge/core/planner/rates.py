"""Taxes as the shop charged them, held against the rates of the codes that the rules give them.

Books that take a tax as it is given post 19 % under a code of 20 % without a word, and the tax return is wrong by it.
The penny of rounding is no contradiction: a shop may round line by line, piece by piece or once for all.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.commerce import Order, OrderLine
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import minor_unit, room_for_rounding, tax_of
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import PlannedCharge

ZERO, HUNDRED = Decimal(0), Decimal(100)
# Shops that write a rate with two digits still mean the one that the code has.
_SAME_RATE = Decimal("0.005")


def check_rates(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> Iterator[Finding]:
    """A finding for each kind of charge whose tax is not that of its code: held, or a warning where the rules say so.

    What is worked out has its code's rate by itself, and a tax on a line of its own stands under no rate.
    """
    told: set[tuple[str, str]] = set()
    for charge in charges:
        if charge.worked_out or coding.taxes_apart(charge):
            continue
        code, rate = coding.code(charge).code, coding.rate_of(charge) or ZERO
        if _agrees(charge, rate, order):
            continue
        said = _contradiction(charge, code, rate, order)
        # One of each kind is enough to mend the rule by.
        if said and (code, said) not in told:
            told.add((code, said))
            yield _finding(charge, said, order, held=coding.rules.tax_codes.other_rates == "hold")


def _agrees(charge: PlannedCharge, rate: Decimal, order: Order) -> bool:
    """Whether a tax of one rate is that of the code, as nearly all are: told without rounding anything."""
    if charge.kept or len(charge.own) != 1:
        return False
    tax = charge.own[0].tax
    if tax.rate_percent != rate:
        return False
    whole = HUNDRED + rate if order.prices_include_tax else HUNDRED
    return abs(tax.amount * whole - charge.reduced * rate) <= _unit(order) * whole


def _contradiction(charge: PlannedCharge, code: str, rate: Decimal, order: Order) -> str:
    """What differs, with both rates; nothing where they agree."""
    own_rate = f"its code {code} has {_percent(rate)}" if rate else f"its code {code} has none"
    expected = tax_of(charge.reduced, rate, order.currency, inclusive=order.prices_include_tax)
    if charge.kept and not charge.tax:
        return f"bears a tax that the marketplace keeps, and {own_rate}" if expected else ""
    if not charge.tax:
        return f"bears no tax, and {own_rate}" if abs(expected) > _room(charge, order) else ""
    rates = {one.tax.rate_percent for one in charge.own if one.tax.amount}
    if len(rates) == 1 and abs(min(rates) - rate) >= _SAME_RATE:
        return f"was taxed at {_percent(min(rates))}, and {own_rate}"
    # Several taxes on one price act together, so that only the amounts can be compared.
    if abs(charge.tax - expected) > _room(charge, order):
        return f"bears {charge.tax} of tax on {charge.reduced}, and {own_rate}, which makes {expected}"
    return ""


def _room(charge: PlannedCharge, order: Order) -> Decimal:
    pieces = charge.charge.quantity if isinstance(charge.charge, OrderLine) else ZERO
    return room_for_rounding(pieces, order.currency)


def _unit(order: Order) -> Decimal:
    return minor_unit(order.currency)


def _percent(rate: Decimal) -> str:
    return f"{rate.normalize():f} %"


def _finding(charge: PlannedCharge, said: str, order: Order, *, held: bool) -> Finding:
    return Finding(
        id="TAX-E007" if held else "TAX-W007",
        level=Level.ERROR if held else Level.WARNING,
        at=f"{charge.at}/taxes",
        cause=Cause.TAX_UNCLEAR if held else None,
        text=f"'{charge.title[:80]}' of order {order.number} {said}.",
        hint="Give such sales a code of the same rate, by class or as an exception (treatment, country), then release "
        "the order. Where the shop's tax is meant to stand, set tax_codes: other_rates to 'warn'.",
    )
