"""The demo's second order, as its shop tells it after this and that was done to it; all sums worked by hand."""

from __future__ import annotations

from typing import Any

from tests.support.world import shop_order

# One skein of 9.99, of which 1.67 is tax, and carriage of 3.95, of which 0.66 is: 13.94 and 2.33.
FIRST = "MW-10003"


def at(minute: int) -> dict[str, str]:
    """Changed on the last evening of October, in that minute."""
    return {"last_change": f"2026-10-31T19:{minute:02}:00+00:00"}


def edited(minute: int, *rows: tuple[int, str, str], total: str, tax: str, **fields: Any) -> dict[str, Any]:
    """The order with these rows of skeins: so many, what they come to, and the tax inside."""
    order = shop_order(FIRST)
    (row,) = order["basket"]
    basket = [
        {**row, "row": number, "count": count, "sum": amount, "tax": {**row["tax"], "sum": of_row}}
        for number, (count, amount, of_row) in enumerate(rows, start=1)
    ]
    for one, (count, amount, _) in zip(basket, rows, strict=True):
        one["price"] = f"{float(amount) / count:.2f}"
    return {**order, **at(minute), "basket": basket, "total": total, "tax": tax, **fields}


def three_skeins(minute: int = 50, **fields: Any) -> dict[str, Any]:
    """29.97 hold 5.00 (29.97 / 6 = 4.995), with carriage 33.92 and 5.66."""
    return edited(minute, (3, "29.97", "5.00"), total="33.92", tax="5.66", **fields)


def cheaper(minute: int = 50, **fields: Any) -> dict[str, Any]:
    """The skein for 5.99, which hold 1.00: with carriage 9.94 and 1.66."""
    return edited(minute, (1, "5.99", "1.00"), total="9.94", tax="1.66", **fields)


def cancelled(minute: int = 50, **fields: Any) -> dict[str, Any]:
    """The order, called off."""
    return shop_order(FIRST, state="cancelled", **at(minute), **fields)


def as_it_was(minute: int = 55, **fields: Any) -> dict[str, Any]:
    """The order as it was placed, touched again."""
    return shop_order(FIRST, **at(minute), **fields)
