"""Planning: what the source document becomes under the rules, held against what was posted of it already."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from inkwell_bridge.core.books import BooksDocument, Role, WriteOff
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner import Outcome, Plan, on_open_days, with_free_numbers
from inkwell_bridge.service.carriage.amending import changed_since_posted
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.decided import NOTHING_CROSSES, decided_in_words, keeps_posted
from inkwell_bridge.service.carriage.effects import Ask, Effects, Save
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Kind
from inkwell_bridge.service.carriage.models import Document
from inkwell_bridge.service.carriage.posting import withdraw
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState
from inkwell_bridge.service.carriage.steps.amend import amend, renew_drafts
from inkwell_bridge.service.carriage.steps.taken_numbers import TAKEN_NUMBERS

# In place of the rule that leaves a document out.
BRIDGE_REMOVED = "removal of the bridge"
_PLANNED = ("rulebook", "master_data", "planned", "pinned", "posted_snapshot", "updated_at")


def plan_documents(carrying: Carrying) -> Effects[Conclusion | None]:
    """Plan the document, keep the plan with its versions, and end here where it is left out.

    Reads the database only, but for drafts that are voided because the plan has changed since they were made, and for
    what stands in the books of one that changed after it was posted.
    """
    crossing, kind = carrying.crossing, carrying.kind
    if crossing.bridge.removed_at is not None and not carrying.decided:
        # What stands in the books is seen through to its end; nothing else crosses a bridge that was removed.
        yield from _discard(carrying)
        carrying.plan = Plan(outcome=Outcome.LEFT_OUT, left_out_by=BRIDGE_REMOVED)
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=BRIDGE_REMOVED)
    if crossing.decision and not carrying.decided and crossing.decision["kind"] in NOTHING_CROSSES:
        yield from _discard(carrying)
        by = decided_in_words(crossing.decision)
        carrying.plan = Plan(outcome=Outcome.LEFT_OUT, left_out_by=by)
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=by)
    if crossing.snapshot.problem:
        return Conclusion(state=CrossingState.HELD, findings=[_unreadable(carrying)])
    source = carrying.source = document_of(crossing.snapshot)
    gathered: Gathered = yield Ask(_gather, kind, carrying)
    if carrying.decided and keeps_posted(crossing):
        return (yield from _as_posted(carrying, gathered))
    plan = _under_known_references(gathered.ready or kind.plan(source, gathered), carrying.documents)
    yield Ask(_before_posting, kind, (carrying, plan))
    if kind.latest_only:
        yield from _leave_behind(carrying, plan)
    # Something stands in the books: a plan that still asks for just that goes on.
    is_cancelled = carrying.decided and kind.is_cancelled(source)
    if carrying.decided and (is_cancelled or not _as_planned(plan, carrying.documents)):
        # Today's rules make another document of it; whether that is anybody's fault depends on what changed.
        if not changed_since_posted(carrying) and not gathered.more_is_known:
            return (yield from _as_posted(carrying, gathered))
        if gathered.earlier is None:
            raise _changed(carrying, f"was {'cancelled' if is_cancelled else 'changed'} after it became")
        # What is in the books cannot be left out any more: what is missing there is posted besides.
        amended = yield from amend(carrying, gathered)
        if isinstance(amended, Conclusion):
            return amended
        plan = amended
    elif carrying.decided:
        carrying.gathered = gathered
        plan = yield Ask(_given_up, kind, (carrying, plan))
    elif not _as_planned(plan, carrying.documents):
        yield from _discard(carrying)
    carrying.plan, carrying.gathered = plan, gathered
    _keep_plan(carrying)
    yield Save((crossing,), _PLANNED)
    if plan.outcome is Outcome.LEFT_OUT:
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=plan.left_out_by or "")
    return None


def _gather(kind: Kind, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
    return kind.gather(carryings)


def _given_up(kind: Kind, carryings: Sequence[tuple[Carrying, Plan]]) -> Sequence[Plan | Exception]:
    return kind.given_up(carryings)


def _before_posting(kind: Kind, planned: Sequence[tuple[Carrying, Plan]]) -> Sequence[Exception | None]:
    return kind.before_posting(planned)


def hold_where_planned(carrying: Carrying) -> Conclusion | None:
    """End here where the plan asks a person; what somebody typed into the books was adopted before that."""
    plan = carrying.plan
    assert plan is not None
    return Conclusion(state=CrossingState.HELD, findings=plan.findings) if plan.outcome is Outcome.HOLD else None


def _under_known_references(plan: Plan, documents: Sequence[Document]) -> Plan:
    """The plan, with money that was posted under another reference by an earlier version left under that one.

    Money is known by its provider's transaction; what names its document at the end must not change any more.
    """
    posted = {
        (document.role, transaction): document.external_reference
        for document in documents
        if (transaction := (document.planned or {}).get("transaction"))
    }
    renamed: dict[str, str] = {}
    made = []
    for planned in plan.documents:
        kept = posted.get((planned.role, getattr(planned, "transaction", "")))
        if kept is not None and kept != planned.external_reference:
            renamed[planned.external_reference] = kept
            planned = planned.model_copy(update={"external_reference": kept})
        made.append(planned)
    if not renamed:
        return plan
    drafts = tuple(renamed.get(draft, draft) for draft in plan.drafts)
    return plan.model_copy(update={"documents": tuple(made), "drafts": drafts})


def _leave_behind(carrying: Carrying, plan: Plan) -> Effects[None]:
    """Go on without the documents of earlier states: they stay as they were proved, and are compared with nothing. One
    that the plan asks for under the same reference is to say what it says now."""
    wanted = {planned.external_reference: planned for planned in plan.documents}
    shares = {share.document_id: share for share in carrying.shares}
    carrying.documents = [one for one in carrying.documents if one.external_reference in wanted]
    carrying.shares = [shares[one.pk] for one in carrying.documents]
    renewed = []
    for document in carrying.documents:
        planned = wanted[document.external_reference]
        if document.begun and Role(document.role).shape.read(document.planned) != planned:
            # Waiting with the id that it has there: posting sets that right before anything else.
            document.planned, document.state = planned.as_json(), DocumentState.WAITING
            document.snapshot_id, document.proved_at = carrying.crossing.snapshot_id, None
            renewed.append(document)
    yield Save(tuple(renewed), ("planned", "state", "snapshot", "proved_at"))


def _as_posted(carrying: Carrying, gathered: Gathered) -> Effects[Conclusion | None]:
    """Nothing that matters changed, so what was posted stays, whatever today's rules would make of it.

    What is not at its end yet goes on as it was planned.
    """
    plan = Plan.read(carrying.crossing.planned)
    carrying.gathered = gathered
    given_up: Plan = yield Ask(_given_up, carrying.kind, (carrying, plan))
    if given_up is not plan:
        plan = given_up
        carrying.crossing.planned = plan.model_copy(update={"contact": None}).as_json()
        yield Save((carrying.crossing,), ("planned", "updated_at"))
    # Whether the sales side has heard of it is asked there alone, so what is to be written back is written again.
    if _is_done(carrying, plan) and not carrying.kind.written_back(carrying):
        kept = [_kept_as_posted(carrying)] if keeps_posted(carrying.crossing) else []
        return Conclusion(state=CrossingState.CARRIED, findings=kept)
    if gathered.planning is not None:
        # What is not there yet was planned before its period was locked.
        posted = [document.external_reference for document in carrying.documents if document.posting_at]
        plan = on_open_days(plan, gathered.planning, keep=posted)
        taken = carrying.crossing.pinned.get(TAKEN_NUMBERS, ())
        plan = with_free_numbers(
            plan, carrying.crossing.number, gathered.planning.rulebook.orders, taken, keep=posted
        )  # fmt: skip
        yield from renew_drafts(carrying, plan)
    carrying.plan, carrying.gathered = plan, gathered
    return None


def _is_done(carrying: Carrying, plan: Plan) -> bool:
    """Whether every document of the plan is made and proved, and every one cancelled that it cancels."""
    states = {document.external_reference: document for document in carrying.documents}
    if not all(document.proved_at for document in carrying.documents):
        return False
    is_cancelled = all(states[one].state == DocumentState.CANCELLED for one in plan.cancels if one in states)
    # What the sale was planned as may have been adopted since; what came later is there, or still to come.
    later = [one for one in plan.documents if plan.amendment or isinstance(one, WriteOff)]
    return is_cancelled and all(one.external_reference in states for one in later)


def _as_planned(plan: Plan, documents: Sequence[Document]) -> bool:
    """Whether the plan still asks for each of these documents; money that came in since makes further ones.

    Read first, for an older one lacks what is new in the shapes.
    """
    wanted: Mapping[str, BooksDocument] = {planned.external_reference: planned for planned in plan.documents}
    return all(
        Role(document.role).shape.read(document.planned) == wanted.get(document.external_reference)
        for document in documents
    )


def _discard(carrying: Carrying) -> Effects[None]:
    """Documents that were not posted are made anew when the plan changes; their drafts are voided first."""
    for document in carrying.documents:
        if document.begun:
            yield from withdraw(carrying, document)
        document.delete()
    carrying.documents, carrying.shares = [], []


def _changed(carrying: Carrying, how: str) -> Hold:
    numbers = ", ".join(document.books_number or document.books_id for document in carrying.documents)
    return hold(
        "SRC-E011",
        Cause.SOURCE_CHANGED,
        f"The order {how} {numbers}; what it would become now is something else.",
        "Compare what it was with what it is. Correct the document in the books, put the order back, or keep what was "
        "posted.",
    )


def _kept_as_posted(carrying: Carrying) -> Finding:
    decision = carrying.crossing.decision
    assert decision is not None
    return Finding(
        id="SRC-N012",
        level=Level.NOTE,
        text=f"What was posted stays, though the order is another now: {decided_in_words(decision)}",
        hint="A further change at the sales side is asked about again.",
    )


def _unreadable(carrying: Carrying) -> Finding:
    crossing = carrying.crossing
    return Finding(
        id="SRC-E010",
        level=Level.ERROR,
        cause=Cause.SOURCE_INVALID,
        text=f"{crossing.number} could not be understood: {crossing.snapshot.problem}",
        hint="Correct it at the source, then run again.",
    )


def _keep_plan(carrying: Carrying) -> None:
    """Keep the plan, what it was made from and under; the contact is left out, for it is personal."""
    crossing, plan, gathered = carrying.crossing, carrying.plan, carrying.gathered
    assert plan is not None
    assert gathered is not None
    crossing.rulebook, crossing.master_data = gathered.version, gathered.master_data
    crossing.planned = plan.model_copy(update={"contact": None}).as_json()
    # What planning depended on besides, so that planning again after a crash gives the same documents.
    crossing.pinned = gathered.pinned
    # Held and left-out plans are kept to be looked at; only one that makes something new is posted from.
    known = {document.external_reference for document in carrying.documents}
    is_new = not all(one.external_reference in known for one in plan.documents)
    if plan.outcome is Outcome.CARRY and (is_new or carrying.decided):
        # Something is posted from this one, or the books are right by it; each document keeps its own besides.
        crossing.posted_snapshot = crossing.snapshot
