"""Rules that say nothing yet: under them an order falls into the amounts that its documents must hold somewhere.

What an amount is for (goods, carriage, a discount) is the planner's to say, and the same whichever rules are learnt; so
it is the planner that takes the examples apart. Only the few rules that change which lines there are come in several
forms, of which the one is taken whose lines stand in the books.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import product
from typing import NamedTuple

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.rulebook.accounts import ALLOWED_TYPES
from inkwell_bridge.core.rulebook.model import Rulebook

# In place of every account and code: nothing in the books is called like this.
NOTHING = "?"


class Structure(NamedTuple):
    """The rules that say which lines there are: see ``orders.discounts`` and ``tax_codes`` of the rulebook."""

    discounts: str = "in lines"
    carry: str = "on lines"
    as_lines: tuple[str, ...] = ()


def structures(orders: Sequence[Order]) -> Iterator[Structure]:
    """The forms that these orders could take, the plainest first."""
    discounted = any(order.discounts or any(line.discount for line in order.lines) for order in orders)
    several = sorted({
        charge.tax_class for order in orders for charge in order.charges if charge.tax_class and len(charge.taxes) > 1
    })  # fmt: skip
    taxes: list[tuple[str, tuple[str, ...]]] = [("on lines", ())]
    if several:
        taxes.append(("on lines", tuple(several)))
    taxes.append(("one line", ()))
    for discounts, (carry, as_lines) in product(["in lines", *(["own lines"] if discounted else [])], taxes):
        yield Structure(discounts, carry, as_lines)


def skeleton(structure: Structure, statuses: Iterable[str], classes: Iterable[str]) -> OrderRulebook:
    """Rules under which everything crosses, and nothing has its place yet."""
    said = {
        "rulebook": 1,
        "orders": {"statuses": sorted(set(statuses)), "currencies": "kept", "discounts": structure.discounts},
        "customers": {"house": NOTHING, "house_for": "everybody"},
        "accounts": dict.fromkeys(ALLOWED_TYPES, NOTHING),
        "tax_codes": {
            "by_class": dict.fromkeys(sorted(set(classes)), NOTHING),
            "outside": NOTHING,
            "carry": structure.carry,
            "as_lines": list(structure.as_lines),
            "kept": "leave out",
            "other_rates": "warn",
            "tax_numbers": "trust",
        },
        "payments": {"accounts": {"default": NOTHING}},
        "penny": {"allowance": "0", "goes_to": "rounding account"},
    }
    return Rulebook.read(said).for_orders
