"""What other rules would have made of the same documents."""

from inkwell_bridge.core.rehearsal.condition_hits import ConditionHits, Conditions
from inkwell_bridge.core.rehearsal.odd_ones import OddOne, OddOnes
from inkwell_bridge.core.rehearsal.plan_changes import PlanChange, plan_changes
from inkwell_bridge.core.rehearsal.reach import Reach, reach_of
from inkwell_bridge.core.rehearsal.rehearsal import Compared, FindingCount, OutcomeCount, Rehearsal, TotalChange

__all__ = [
    "Compared",
    "ConditionHits",
    "Conditions",
    "FindingCount",
    "OddOne",
    "OddOnes",
    "OutcomeCount",
    "PlanChange",
    "Reach",
    "Rehearsal",
    "TotalChange",
    "plan_changes",
    "reach_of",
]
