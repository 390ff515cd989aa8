"""What the steps make of a decision that a person has taken; see ``decisions.py``."""

from __future__ import annotations

from collections.abc import Mapping

from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import DecisionKind

NOTHING_CROSSES = frozenset({DecisionKind.LEAVE_OUT.value, DecisionKind.BY_HAND.value})
# As long as what left a document out may be.
_LONGEST = 120


def decided_in_words(decision: Mapping[str, str]) -> str:
    """A decision in place of the rule that leaves a document out."""
    what = "settled by hand" if decision["kind"] == DecisionKind.BY_HAND.value else "decided"
    said = f"{what} by {decision['by']}: {decision['note']}"
    return said if len(said) <= _LONGEST else f"{said[: _LONGEST - 1]}…"


def keeps_posted(crossing: Crossing) -> bool:
    """Whether a person lets stand what was posted, though the source is as it is now: of that reading, and no later."""
    decision = crossing.decision
    if decision is None or decision["kind"] != DecisionKind.KEEP_POSTED.value:
        return False
    return bool(decision["digest"] == crossing.snapshot.books_digest)


def accepts_difference(crossing: Crossing) -> bool:
    """Whether a person accepts what the books computed otherwise for this document."""
    return crossing.decision is not None and crossing.decision["kind"] == DecisionKind.ACCEPT_DIFFERENCE.value
