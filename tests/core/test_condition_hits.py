"""How many orders each condition of the rules is true of."""

from __future__ import annotations

from inkwell_bridge.core.rehearsal import Conditions
from tests.support.orders import context, order, rulebook

GIFT, DEAR, SIZE = "'gift' in order.tags", "order.total > 5000", "order.attributes['size'] == 'L'"
ORDERS = {
    "statuses": ["paid"],
    "leave_out": [{"name": "gifts", "when": {"any": [GIFT, {"all": [DEAR, GIFT]}]}}, {"name": "large", "when": SIZE}],
}


def test_each_expression_is_counted_by_itself_once() -> None:
    """By hand: two gifts of three; none of more than 50.00; no sizes at all, so that nothing is known of them."""
    rules = rulebook(orders=ORDERS)
    found = Conditions(rules.orders)
    for number, tags in (("A", ["gift"]), ("B", []), ("C", ["rush", "gift"])):
        found.add(order(id=number, number=number, tags=tags), context(rules))
    assert [(one.expression, one.orders, one.unclear) for one in found.hits()] == [
        (GIFT, 2, 0), (DEAR, 0, 0), (SIZE, 0, 3),
    ]  # fmt: skip


def test_without_conditions_there_is_nothing_to_count() -> None:
    """Nor is an order looked at."""
    rules = rulebook()
    found = Conditions(rules.orders)
    found.add(order(), context(rules))
    assert found.hits() == ()
