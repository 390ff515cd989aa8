"""Which orders cross: every one that does not is left out by a rule with a name."""

from __future__ import annotations

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import ORDER, EvaluationContext
from inkwell_bridge.core.planner.planning_context import PlanningContext


def left_out_by(order: Order, context: PlanningContext, evaluation: EvaluationContext) -> str | None:
    """The rule that leaves an order out; nothing for one that crosses.

    Raises:
        NotEvaluated: a condition came to nothing for this order.
    """
    rules = context.rulebook.orders
    if order.status not in rules.statuses:
        return "/orders/statuses"
    if rules.placed_from and context.day(order.placed_at) < rules.placed_from:
        return "/orders/placed_from"
    if rules.only is not None and not rules.only.holds(ORDER, evaluation):
        return "/orders/only"
    for rule in rules.leave_out:
        if rule.when.holds(ORDER, evaluation):
            return rule.name
    return None
