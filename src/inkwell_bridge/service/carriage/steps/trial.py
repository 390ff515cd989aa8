"""A trial: every document left as a draft, and taken back once it is over."""

from __future__ import annotations

from inkwell_bridge.core.books import BooksCapabilities, Role, Standing
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.proof import Side
from inkwell_bridge.service.carriage import figures
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.effects import Effects
from inkwell_bridge.service.carriage.holding import hold
from inkwell_bridge.service.carriage.posting import find_live, withdraw
from inkwell_bridge.service.carriage.states import CrossingState, Trial

# In place of the rule that leaves an order out.
TAKEN_BACK = "trial taken back"


def take_back_trial(carrying: Carrying) -> Effects[Conclusion | None]:
    """Void the drafts of an order whose trial is over, the last made first; nothing of it counts any more.

    Calls: two for each document. Repeated after an interruption it goes on with what is left.

    Raises:
        Hold: somebody posted one of them in the books; that cannot be taken back from here.
    """
    crossing = carrying.crossing
    if crossing.trial != Trial.TAKEN_BACK:
        return None
    # Money is set against the sale, and goes before it.
    for document in reversed(carrying.documents):
        if document.begun:
            live = yield from find_live(carrying.end, document)
            posted = next((one for one in live if one.standing is Standing.POSTED), None)
            if posted is not None:
                raise hold(
                    "TRIAL-E002",
                    Cause.SOURCE_CHANGED,
                    f"{posted.number or document.external_reference} of the trial of {crossing.number} was posted in "
                    "the books by somebody, so it cannot be taken back.",
                    "Take it back there. Then release the order.",
                )
            yield from withdraw(carrying, document)
    for document in carrying.documents:
        document.delete()
    carrying.documents, carrying.shares = [], []
    figures.write({crossing: {}}, (Side.CODED, Side.BOOKS, Side.RECONCILING))
    carrying.plan = Plan(outcome=Outcome.LEFT_OUT, left_out_by=TAKEN_BACK)
    return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=TAKEN_BACK)


def as_drafts(plan: Plan, capabilities: BooksCapabilities) -> Plan:
    """The plan with every document left as a draft, and without those that these books have no drafts of."""
    if plan.outcome is not Outcome.CARRY:
        return plan
    kept = tuple(one for one in plan.documents if Role(one.role) in capabilities.drafts)
    without = [one.role for one in plan.documents if one not in kept]
    if not kept or plan.documents[0] not in kept:
        return plan.model_copy(update={"outcome": Outcome.HOLD, "findings": (*plan.findings, _no_draft(without[0]))})
    last = len(plan.documents) - len(without)
    # What has drafts comes first in a plan: the sale, and after it the money that is set against it.
    reasons = tuple(
        one for one in plan.reasons if not any(one.target.startswith(f"/documents/{place}/")
        for place in range(last, len(plan.documents)))
    )  # fmt: skip
    drafts = tuple(one.external_reference for one in kept)
    findings = (*plan.findings, _said(without))
    return plan.model_copy(update={"documents": kept, "drafts": drafts, "reasons": reasons, "findings": findings})


def _said(without: list[str]) -> Finding:
    text = "Carried on trial: all of it stands in the books as drafts, and counts there for nothing."
    if without:
        text += f" No draft is possible there of: {', '.join(sorted(set(without)))}."
    hint = "Compare both pages, then take it back, or carry it for good."
    return Finding(id="TRIAL-N001", level=Level.NOTE, text=text, hint=hint)


def _no_draft(role: str) -> Finding:
    text = f"It would become a {role}, of which these books have no drafts: on trial nothing is posted."
    hint = "Try it without sending anything, or carry it for good by its number."
    return Finding(id="TRIAL-E001", level=Level.ERROR, text=text, hint=hint)
