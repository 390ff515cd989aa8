"""How many orders each condition of the rules is true of: what it lets through, leaves out, or makes otherwise."""

from __future__ import annotations

from collections import Counter

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import ORDER, NotEvaluated, evaluation_of_order
from inkwell_bridge.core.expressions.expression import compiled
from inkwell_bridge.core.planner import PlanningContext
from inkwell_bridge.core.rulebook.expressions import conditions_of
from inkwell_bridge.core.rulebook.orders import OrderRules
from inkwell_bridge.core.values import Text, Value


class ConditionHits(Value):
    """An expression of a condition, the orders that it is true of, and those for which it came to nothing."""

    expression: Text
    orders: int
    unclear: int = 0


class Conditions:
    """The conditions of one rulebook, counted over the orders that were added."""

    def __init__(self, rules: OrderRules | None) -> None:
        conditions = conditions_of(rules) if rules else ()
        # Each expression alone, whichever conditions it is a part of.
        self._expressions = tuple(
            dict.fromkeys(text for at, condition in conditions for _, text in condition.expressions(at))
        )
        self._true: Counter[str] = Counter()
        self._unclear: Counter[str] = Counter()

    def add(self, order: Order, context: PlanningContext) -> None:
        """Count one order; whether it crosses does not matter."""
        if not self._expressions:
            return
        evaluation = evaluation_of_order(order, context.day)
        for text in self._expressions:
            try:
                self._true[text] += compiled(text, ORDER).of(evaluation) is True
            except NotEvaluated:
                self._unclear[text] += 1

    def hits(self) -> tuple[ConditionHits, ...]:
        """Of every expression, in the order in which they stand in the rules."""
        return tuple(
            ConditionHits(expression=text, orders=self._true[text], unclear=self._unclear[text])
            for text in self._expressions
        )
