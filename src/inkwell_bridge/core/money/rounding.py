"""Rounding, with its mode named: half away from zero, as tax authorities and most books round."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal

from inkwell_bridge.core.money.currency import minor_unit

HUNDRED = Decimal(100)


def rounded(value: Decimal, currency: str) -> Decimal:
    """``value`` to the minor unit of ``currency``, halves away from zero; a zero has no sign.

    Example:
        >>> rounded(Decimal("1.665"), "GBP"), rounded(Decimal("-1.665"), "GBP"), rounded(Decimal("-0.001"), "GBP")
        (Decimal('1.67'), Decimal('-1.67'), Decimal('0.00'))
    """
    # Adding nothing takes the sign off a zero, which would be another text for the same amount.
    return value.quantize(minor_unit(currency), rounding=ROUND_HALF_UP) + 0


def tax_inside(gross: Decimal, rate_percent: Decimal, currency: str) -> tuple[Decimal, Decimal]:
    """Net and tax of a price that includes tax.

    The tax is rounded and the net is what remains: rounding both could make a total that nobody paid.

    Example:
        >>> tax_inside(Decimal("9.99"), Decimal("20"), "GBP")
        (Decimal('8.32'), Decimal('1.67'))
    """
    tax = rounded(gross * rate_percent / (HUNDRED + rate_percent), currency)
    return gross - tax, tax


def net_inside(gross: Decimal, rate_percent: Decimal, currency: str) -> tuple[Decimal, Decimal]:
    """Net and tax of a price that includes tax, where the net is rounded and the tax is what remains.

    Example:
        >>> net_inside(Decimal("9.99"), Decimal("20"), "GBP")
        (Decimal('8.33'), Decimal('1.66'))
    """
    net = rounded(gross * HUNDRED / (HUNDRED + rate_percent), currency)
    return net, gross - net


def tax_of(amount: Decimal, rate_percent: Decimal, currency: str, *, inclusive: bool) -> Decimal:
    """The tax of a price at a rate: inside it, or on top of it.

    Example:
        >>> tax_of(Decimal("12.00"), Decimal("20"), "GBP", inclusive=True)
        Decimal('2.00')
    """
    if inclusive:
        return tax_inside(amount, rate_percent, currency)[1]
    return tax_on_top(amount, rate_percent, currency)


def room_for_rounding(pieces: Decimal, currency: str) -> Decimal:
    """By how much the tax of a line may be another by rounding alone: a minor unit for the line, and half of one for
    each piece that was rounded by itself."""
    return minor_unit(currency) * (1 + abs(pieces) / 2)


def tax_on_top(net: Decimal, rate_percent: Decimal, currency: str) -> Decimal:
    """The tax that is added to a price without tax."""
    return rounded(net * rate_percent / HUNDRED, currency)
