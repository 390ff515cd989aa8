"""What the steps make of a decision that a person has taken; see ``decisions.py``."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.core.findings import DIFFERS_THERE, Finding, Level
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import DecisionKind

NOTHING_CROSSES = frozenset({DecisionKind.LEAVE_OUT.value, DecisionKind.BY_HAND.value})
# What becomes of what somebody changed in the books.
ABOUT_THEIRS = frozenset({DecisionKind.KEEP_THEIRS.value, DecisionKind.PUT_BACK.value})
# What makes further documents of what differs in the books.
PUTS_RIGHT = frozenset({DecisionKind.PUT_BACK.value, DecisionKind.REISSUE.value})
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


def posts_difference(crossing: Crossing) -> bool:
    """Whether a person chose the newer version of what changed after it was posted: that reading, and no later."""
    decision = crossing.decision
    if decision is None or decision["kind"] != DecisionKind.POST_DIFFERENCE.value:
        return False
    return bool(decision["digest"] == crossing.snapshot.books_digest)


def accepts_difference(crossing: Crossing) -> bool:
    """Whether a person accepts what the books computed otherwise for this document."""
    decision = crossing.decision
    if decision is None or decision["kind"] != DecisionKind.ACCEPT_DIFFERENCE.value:
        return False
    # One that was taken when the proof failed is about what was read back then, and about a penny before it too.
    return ACCEPTED not in decision or bool(decision.get(PENNY))


# In a decision: the digest of what somebody had changed in the books.
EDITED = "edited"
# In a decision: the digest of the differences that it was taken about, the cause that the crossing differed for, and
# whether a penny was accepted before that.
ACCEPTED, DIFFERED, PENNY = "accepted", "differed", "penny"


def differences_digest(findings: Iterable[Finding]) -> str:
    """Tells these differences from any others: what differs, and what either side says."""
    return checksum(sorted([one.id, one.at, one.text] for one in findings if one.cause in DIFFERS_THERE))


def as_accepted(crossing: Crossing, findings: Sequence[Finding]) -> list[Finding]:
    """The findings of a proof, as notes where a person accepts just these differences; as they are, where not."""
    decision = crossing.decision
    if decision is None or decision.get(ACCEPTED) != differences_digest(findings):
        return list(findings)
    noted = [
        one.model_copy(update={"level": Level.NOTE, "cause": None}) if one.cause in DIFFERS_THERE else one
        for one in findings
    ]
    return [
        *noted,
        Finding(
            id="PROOF-N004",
            level=Level.NOTE,
            text=f"What differs was accepted: {decided_in_words(decision)}",
            hint="Should the books hold something else again, it is asked about again.",
        ),
    ]
