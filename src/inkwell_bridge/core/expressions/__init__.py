"""Conditions and computed texts of a rulebook, in the Common Expression Language: checked when they are written."""

from inkwell_bridge.core.expressions.condition import Condition
from inkwell_bridge.core.expressions.expression import Expression, NotEvaluated, NotUsable, compiled
from inkwell_bridge.core.expressions.seen import LINE, ORDER, Seen, seen_of_line, seen_of_order

__all__ = ["LINE", "ORDER", "Condition", "Expression", "NotEvaluated", "NotUsable", "Seen", "compiled", "seen_of_line",
           "seen_of_order"]  # fmt: skip
