"""Which documents a change of the rules can touch at all: the others need not be planned twice.

A row of a table (an account for a country, a code for a tax class) answers only for what it names. Whatever else is
changed is taken to touch everything, for it is better to plan an order twice than to miss one that changes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from inkwell_bridge.core.commerce import Nature, Order
from inkwell_bridge.core.languages import ranges
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.core.rulebook.levels import LEVELS, facts_of_order

Touches = Callable[[Order], bool]
# What people call a rulebook, and what it was written on, changes no plan.
_IDLE = {"name", "based_on", "rulebook"}
_EXTRAS = {"tips": "tip", "donations": "donation", "duties": "duty", "surcharges": "surcharge"}
_OF_MONEY = frozenset({"by_brand", "by_gateway", "by_method", "by_tender"})
_TABLES = {f"by_{level}" for level in LEVELS}
# Tables of settings by their own names; and taxes, whose articles are the taxes' names.
_NO_SETTING = {"tax", "further", "line_further"}
_NATURES = {"gift_cards": Nature.GIFT_CARD, "vouchers": Nature.VOUCHER, "deposits": Nature.DEPOSIT}


class Reach:
    """What a change of rules can touch; ``is_nothing`` where both say the same."""

    def __init__(self, tests: tuple[Touches | None, ...]) -> None:
        self.is_nothing = not tests
        self._everything = None in tests
        self._tests = tuple(test for test in tests if test is not None)

    def touches(self, order: Order) -> bool:
        """Whether the plan of an order, or of what is refunded of it, may be another."""
        return self._everything or any(test(order) for test in self._tests)


def reach_of(before: Rulebook, after: Rulebook) -> Reach:
    """What the change from the first to the second can touch."""
    changed = _changed(before.as_json(), after.as_json(), ())
    return Reach(tuple(_test(path) for path in changed if path[0] not in _IDLE))


def _changed(before: Any, after: Any, at: tuple[str, ...]) -> Iterator[tuple[str, ...]]:
    """The paths of the smallest groups that differ; a list is one value."""
    if before == after:
        return
    if isinstance(before, dict) and isinstance(after, dict):
        for name in {**before, **after}:
            yield from _changed(before.get(name), after.get(name), (*at, name))
    else:
        yield at


def _test(path: tuple[str, ...]) -> Touches | None:
    """Whether an order holds what a changed rule names; none where any order may."""
    match path:
        case "accounts" | "dimensions" | "fields", name, table, value if name not in _NO_SETTING and table in _TABLES:
            return _of_level(table.removeprefix("by_"), value)
        case "orders", "become" | "arrive", table, value if table in _TABLES:
            return _of_level(table.removeprefix("by_"), value)
        case "warehouses", table, value if table in _TABLES:
            return _of_level(table.removeprefix("by_"), value)
        case ("accounts", role, *_):
            return _of_role(role)
        case ("tax_codes", "by_class", value):
            return lambda order: value in _tax_classes(order)
        case ("payments", "accounts" | "told_by", table, value) if table in _OF_MONEY:
            name = table.removeprefix("by_")
            return lambda order: any(str(getattr(one, name)) == value for one in order.payments)
        case ("customers", "groups", value):
            return lambda order: order.customer_group == value
        case ("customers", "languages", value):
            return lambda order: (
                order.buyer is not None and (value == order.buyer.language or value in ranges(order.buyer.language))
            )
        case ("customers", "terms", value):
            return lambda order: order.payment_terms == value
    return None


def _of_level(level: str, value: str) -> Touches:
    """Whether an order, or one line of it, is met at a level of a setting."""
    if level == "location":
        return lambda order: value == order.location or any(line.location == value for line in order.lines)
    return lambda order: value in facts_of_order(order).met(level)


def _of_role(role: str) -> Touches | None:
    """Whether an order charges for what an account is for; none where rules themselves decide it."""
    if role == "shipping":
        return lambda order: bool(order.shipping)
    if role in _EXTRAS:
        return lambda order: any(str(extra.kind) == _EXTRAS[role] for extra in order.extras)
    if role in _NATURES:
        return lambda order: (
            any(line.nature is _NATURES[role] for line in order.lines)
            or any(str(one.tender) == "voucher" for one in order.payments)
        )
    if role == "discounts":
        return lambda order: bool(order.discounts) or any(charge.discount for charge in order.charges)
    return None


def _tax_classes(order: Order) -> set[str]:
    classes = {charge.tax_class for charge in order.charges}
    return classes | {part.tax_class for line in order.lines for part in line.components}
