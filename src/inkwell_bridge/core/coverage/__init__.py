"""What the orders of a period hold, value by value, and by which rule each is mapped, or that none maps it."""

from inkwell_bridge.core.coverage.coverage import Coverage
from inkwell_bridge.core.coverage.met import Aspect, MetValue, RuleUse, Standing
from inkwell_bridge.core.coverage.suggestions import Suggestion, suggestion

__all__ = ["Aspect", "Coverage", "MetValue", "RuleUse", "Standing", "Suggestion", "suggestion"]
