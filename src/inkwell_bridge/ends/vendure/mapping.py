"""Vendure's words for things that we have words of our own for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from decimal import ROUND_HALF_UP, Decimal
from typing import Any

Json = Mapping[str, Any]

PAYMENT_STATES = {"Created": "promised", "Authorized": "authorised", "Settled": "received", "Declined": "failed",
                  "Error": "failed", "Cancelled": "cancelled"}  # fmt: skip
REFUND_STATES = {"Pending": "promised", "Settled": "received", "Failed": "failed"}
ZERO = Decimal(0)


class Money:
    """Vendure's whole numbers as amounts: so many digits after the point as the shop is set to."""

    def __init__(self, digits: int) -> None:
        self.digits = digits

    def __call__(self, units: Any) -> Decimal:
        """An amount. Carriage without tax comes with parts of a unit (329.17), which Vendure rounds when it adds up.

        Raises:
            ValueError: it is no number.
        """
        if not isinstance(units, int | Decimal) or isinstance(units, bool):
            raise ValueError(f"a number of minor units, got {units!r}")
        return Decimal(units).quantize(Decimal(1), ROUND_HALF_UP).scaleb(-self.digits)


def moment(text: Any) -> datetime | None:
    """A moment as Vendure writes it; nothing where it writes nothing."""
    return datetime.fromisoformat(text) if text else None


def latest(*texts: Any) -> datetime | None:
    """The latest of these moments."""
    return max((found for found in map(moment, texts) if found), default=None)


def tax_lines(said: Sequence[Json], total: Decimal, step: Decimal) -> list[dict[str, Any]]:
    """The taxes of a charge, by rate. Vendure tells their sum: what is left after rounding goes to the last."""
    rates = [Decimal(str(one["taxRate"])) for one in said]
    whole = sum(rates, ZERO)
    found, left = [], total
    for place, (one, rate) in enumerate(zip(said, rates, strict=True), start=1):
        part = left if place == len(rates) else (total * rate / whole if whole else ZERO).quantize(step, ROUND_HALF_UP)
        left -= part
        found.append({"name": one["description"], "rate_percent": f"{rate:f}", "amount": part})
    return found


def tax_class(said: Sequence[Json]) -> str:
    """By what a tax is called: a category of Vendure's is taxed otherwise in each zone, a rate has one name."""
    return " + ".join(one["description"] for one in said)


def rate_between(net: Decimal, gross: Decimal, rates: Sequence[Decimal]) -> Decimal:
    """Which of the order's rates a carriage was taxed at: the one that comes nearest."""
    if not net or not rates:
        return ZERO
    return min(rates, key=lambda rate: abs(gross - net - net * rate / 100))


def carriage_class(rate: Decimal) -> str:
    """Vendure gives carriage a rate and no category; its class is named by the rate."""
    return f"carriage at {rate.normalize():f}"
