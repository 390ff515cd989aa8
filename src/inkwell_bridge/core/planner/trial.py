"""The verdict that a run would give: what a plan by itself does not say.

A plan says what a document becomes. A run asks more before it lets it through: whether the rules fit the books at all,
whether the books will compute a total that the rules settle, whether its day is open. A trial that left these out would
promise what the run then holds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.core.findings import Cause, Finding, Level, source_error
from inkwell_bridge.core.planner.plan import Outcome, Plan

# What a run holds once the books have computed it.
_HELD_BY_A_RUN = frozenset({"PENNY-W004"})


def as_a_run_would(plan: Plan, wrong: Sequence[Finding], master_data: MasterData) -> Plan:
    """The plan with the findings and the outcome of a run, as far as the rules and the books' lists tell.

    ``wrong`` is what the rules name that the books do not have: found once, for all documents under them. What only the
    books themselves know (their contacts, what somebody typed in) is for whoever can ask them.
    """
    if wrong:
        return Plan(outcome=Outcome.HOLD, findings=tuple(wrong))
    if plan.outcome is Outcome.LEFT_OUT:
        return plan
    found = [*plan.findings, *_closed(plan, master_data)]
    held = any(one.level is Level.ERROR or one.id in _HELD_BY_A_RUN for one in found)
    return plan.model_copy(update={"findings": tuple(found), "outcome": Outcome.HOLD if held else plan.outcome})


def _closed(plan: Plan, master_data: MasterData) -> Iterator[Finding]:
    """An error for the first document that is dated in a closed period; drafts may stand in one."""
    until = master_data.locked_until
    if until is None:
        return
    for index, document in enumerate(plan.documents):
        day = getattr(document, "date", None)
        if day is not None and day <= until and document.external_reference not in plan.drafts:
            yield source_error(
                "BOOKS-E002",
                f"/documents/{index}/date",
                f"The {document.role} would be dated {day}, and the books are locked up to {until}.",
                "Ask whoever locked the period to open it; or enter it by hand.",
                cause=Cause.PERIOD_LOCKED,
            )
            return
