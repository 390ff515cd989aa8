"""Sharing one amount out over several, to the last minor unit."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_DOWN, Decimal

from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.money.currency import exact, minor_unit


def allocate(amount: Decimal, weights: Sequence[Decimal], currency: str) -> tuple[Decimal, ...]:
    """Share ``amount`` over ``weights`` by largest remainder; ties go to the earlier share.

    The shares add up to ``amount`` exactly. Where all weights are zero, the shares are equal.

    Raises:
        NotExact: no weights, a negative weight, or an amount finer than its currency.
    Source:
        The largest remainder method (Hamilton), as trade practice shares a discount over lines.

    Example:
        >>> allocate(Decimal("10.00"), [Decimal(18)] * 3, "GBP")
        (Decimal('3.34'), Decimal('3.33'), Decimal('3.33'))
    """
    amount = exact(amount, currency)
    if not weights or any(weight < 0 for weight in weights):
        raise NotExact(f"{amount} {currency} cannot be shared over {len(weights)} weights: one or more, none negative")
    total = sum(weights, Decimal(0))
    # A discount over lines that are all free still has to go somewhere.
    if total == 0:
        weights, total = [Decimal(1)] * len(weights), Decimal(len(weights))
    # Whole minor units from here on: every share is one that can be paid.
    unit = minor_unit(currency)
    units = int(abs(amount) / unit)
    ideal = [Decimal(units) * weight / total for weight in weights]
    shares = [int(share.to_integral_value(rounding=ROUND_DOWN)) for share in ideal]
    # Each share lost less than a unit to rounding down; what is missing in all goes to those that lost most.
    by_remainder = sorted(range(len(shares)), key=lambda place: (shares[place] - ideal[place], place))
    for place in by_remainder[: units - sum(shares)]:
        shares[place] += 1
    sign = -1 if amount < 0 else 1
    return tuple((unit * sign * share).quantize(unit) for share in shares)
