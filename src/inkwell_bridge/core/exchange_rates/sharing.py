"""Several amounts of one currency in another, so that they add up there as they did here."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import ROUND_FLOOR, Decimal

from inkwell_bridge.core.money import minor_unit


def converted_to(total: Decimal, amounts: Sequence[Decimal], rate: Decimal, currency: str) -> list[Decimal]:
    """Each of ``amounts`` at ``rate``, the remainders shared so that they come to ``total`` in ``currency``.

    Amounts may be below zero, as discounts are. An amount of nothing stays nothing: no penny arises where none was.

    Source: the largest remainder method, as in ``money.allocate``.

    Example:
        >>> converted_to(Decimal("85.71"), [Decimal("33.33"), Decimal("33.33"), Decimal("33.34")], Decimal("0.8571"),
        ...              "GBP")
        [Decimal('28.57'), Decimal('28.57'), Decimal('28.57')]
    """
    unit = minor_unit(currency)
    ideal = [amount * rate / unit for amount in amounts]
    # Rounded down, those below zero away from it: then what is missing is never less than nothing.
    parts = [int(one.to_integral_value(rounding=ROUND_FLOOR)) for one in ideal]
    able = [place for place, amount in enumerate(amounts) if amount]
    missing = int(total / unit) - sum(parts)
    if able and missing:
        each, missing = divmod(missing, len(able))
        by_remainder = sorted(able, key=lambda place: (parts[place] - ideal[place], place))
        for order, place in enumerate(by_remainder):
            parts[place] += each + (1 if order < missing else 0)
    return [(unit * part).quantize(unit) for part in parts]
