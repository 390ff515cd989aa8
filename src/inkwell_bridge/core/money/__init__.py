"""Exact amounts: currencies, rounding, sharing out."""

from inkwell_bridge.core.money.allocation import allocate
from inkwell_bridge.core.money.currency import digits, exact, minor_unit
from inkwell_bridge.core.money.rounding import (
    net_inside,
    room_for_rounding,
    rounded,
    tax_inside,
    tax_of,
    tax_on_top,
)

__all__ = [
    "allocate",
    "digits",
    "exact",
    "minor_unit",
    "net_inside",
    "room_for_rounding",
    "rounded",
    "tax_inside",
    "tax_of",
    "tax_on_top",
]
