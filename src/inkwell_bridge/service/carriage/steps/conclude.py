"""The end of a crossing whose documents were made and read back."""

from __future__ import annotations

from inkwell_bridge.core.findings import DIFFERS_THERE
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.decided import as_accepted
from inkwell_bridge.service.carriage.states import CrossingState


def conclude_carried(carrying: Carrying) -> Conclusion:
    """Carried, or differing where what was read back is not what was planned, and nobody accepts that."""
    plan = carrying.plan
    assert plan is not None
    findings = as_accepted(carrying.crossing, carrying.findings)
    differs = any(finding.cause in DIFFERS_THERE for finding in findings)
    state = CrossingState.DIFFERS if differs else CrossingState.CARRIED
    return Conclusion(state=state, findings=[*plan.findings, *findings])
