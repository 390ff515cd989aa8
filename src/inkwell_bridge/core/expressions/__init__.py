"""Conditions and computed texts of a rulebook, in the Common Expression Language: checked when they are written."""

from inkwell_bridge.core.expressions.condition import Condition
from inkwell_bridge.core.expressions.evaluation import (
    INVOICE,
    LINE,
    ORDER,
    EvaluationContext,
    evaluation_of_invoice,
    evaluation_of_line,
    evaluation_of_order,
)
from inkwell_bridge.core.expressions.expression import Expression, NotEvaluated, NotUsable, compiled

__all__ = [
    "INVOICE",
    "LINE",
    "ORDER",
    "Condition",
    "EvaluationContext",
    "Expression",
    "NotEvaluated",
    "NotUsable",
    "compiled",
    "evaluation_of_invoice",
    "evaluation_of_line",
    "evaluation_of_order",
]  # fmt: skip
