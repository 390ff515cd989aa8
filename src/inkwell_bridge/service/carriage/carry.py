"""Carrying one crossing: its kind's steps, one after the other, and what becomes of it when one fails."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.ends.errors import EndError, Refused, Temporary
from inkwell_bridge.service.carriage import figures, movements
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.kinds import kind_of
from inkwell_bridge.service.carriage.kinds.protocol import target_of
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document
from inkwell_bridge.service.carriage.runs import conclude, hurry_waiting, in_date_order, mark_queue_waiting
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EntryOutcome, EventKind, Side
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections import breaker
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.connections.vault import Unreadable
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.locks import ClaimLost, try_advisory_lock

# So often a document looks for what it must follow before its run goes on without it.
PATIENT_TRIES = 8
_OF_ONE_DOCUMENT = frozenset({"document", "not found", "locked"})


def carry(workspace_id: int, crossing_id: int) -> None:
    """Bring a crossing as far as it will go.

    Takes the crossing's lock, and those that its kind names, for as long as it lasts; holds no transaction over a call.
    Repeated at any time, by anybody, it goes on from what is written down.

    Raises:
        TryLater: the trouble is of the kind that passes.
    """
    with try_advisory_lock(f"crossing:{workspace_id}:{crossing_id}") as free:
        if not free:
            # A worker that was thought dead still holds it; its lock ends with it.
            raise TryLater("Another worker is carrying this document.", after_pause(0))
        crossing = _load(workspace_id, crossing_id)
        if crossing.state != CrossingState.WAITING:
            # It was brought to its end while a run still read it as waiting; that run must hear of it.
            conclude(crossing, EntryOutcome(crossing.state))
            return
        kind = kind_of(crossing)
        with try_advisory_lock(*kind.lock_names(crossing)) as free:
            if not free:
                raise TryLater("A document that belongs to it goes first.", after_pause(0))
            _carry(crossing)


def _load(workspace_id: int, crossing_id: int) -> Crossing:
    rows = Crossing.objects.select_related(
        "workspace", "snapshot__personal", "posted_snapshot", "rulebook", "master_data",
        "bridge__workspace", "bridge__company", "bridge__source__workspace", "bridge__books__workspace",
    )  # fmt: skip
    rows = rows.prefetch_related("shares__document").defer("master_data__content", "posted_snapshot__content")
    return rows.get(workspace=workspace_id, pk=crossing_id)


def _carry(crossing: Crossing) -> None:
    kind, target = kind_of(crossing), target_of(kind_of(crossing), crossing.bridge)
    carrying = Carrying(
        crossing=crossing,
        kind=kind,
        target=target,
        books=books_end(target),
        documents=crossing.documents_in_order,
    )
    try:
        _only_its_own_company(crossing)
        _only_while_the_end_is_there(crossing, target)
        for step in kind.steps:
            conclusion = step(carrying)
            if conclusion is not None:
                answered = carrying.exchanges or conclusion.state not in (CrossingState.LEFT_OUT, CrossingState.HELD)
                if answered and breaker.close(target):
                    # It is back: what waited for it need not wait its own pause out.
                    hurry_waiting(target)
                _finish(carrying, conclusion)
                return
        raise RuntimeError(f"the steps of {kind.name} end without a conclusion")
    except Hold as held:
        _finish(carrying, Conclusion(state=CrossingState.HELD, findings=[held.finding]))
    except ClaimLost as lost:
        later = TryLater(str(lost), timezone.now())
        _wait(carrying, str(later), later.at)
        raise later from lost
    except TryLater as later:
        _wait(carrying, str(later), later.at)
        if crossing.tries > PATIENT_TRIES:
            # What it waits for is in trouble; the run need not stay open for both.
            conclude(crossing, EntryOutcome.WAITING)
        raise
    except (EndError, Unreadable) as error:
        _troubled(carrying, target, error)


def _only_its_own_company(crossing: Crossing) -> None:
    """Wait where an end turned out to be another company's: nothing is planned from it, nothing posted to it."""
    for connection in (crossing.bridge.source, crossing.bridge.books):
        if connection.state == ConnectionState.OTHER_COMPANY:
            _let_runs_end(crossing)
            raise TryLater(connection.state_text, after_pause(crossing.tries))


def _only_while_the_end_is_there(crossing: Crossing, target: Connection) -> None:
    """Wait, without a call, while the end is away and somebody else asks whether it is back."""
    try:
        breaker.pass_or_wait(target, after_pause(crossing.tries))
    except TryLater:
        _let_runs_end(crossing)
        raise


def _let_runs_end(crossing: Crossing) -> None:
    """A run need not stay open for an end that is away: what waits goes on by itself."""
    conclude(crossing, EntryOutcome.WAITING)
    if in_date_order(crossing.bridge):
        mark_queue_waiting(crossing)


def _finish(carrying: Carrying, conclusion: Conclusion) -> None:
    """Write the outcome: state, event, figures, movements and the runs that wait for it, in one transaction."""
    crossing, state, findings = carrying.crossing, conclusion.state, list(conclusion.findings)
    cause = next((finding.cause for finding in findings if finding.cause), None)
    stopped = state in (CrossingState.HELD, CrossingState.DIFFERS)
    with transaction.atomic():
        # A run that read a newer version meanwhile has queued it anew: what became of the old one is not the end.
        current = Crossing.objects.filter(pk=crossing.pk, snapshot=crossing.snapshot_id).update(
            state=state,
            cause=cause.value if cause and stopped else "",
            left_out_by=conclusion.left_out_by,
            findings=[finding.as_json() for finding in findings],
            trouble="",
            next_try_at=None,
            tries=0,
            updated_at=timezone.now(),
        )
        carrying.happened(EventKind(state.value), **_told(conclusion, cause))
        carrying.write_down()
        if not current:
            return
        if state == CrossingState.HELD:
            held = [document.pk for document in carrying.documents if not document.posting_at]
            Document.objects.filter(pk__in=held).update(state=DocumentState.HELD)
        elif carrying.documents:
            _count(carrying)
        conclude(crossing, EntryOutcome(state.value))
    carrying.kind.after(crossing, state, cause)


def _told(conclusion: Conclusion, cause: Cause | None) -> dict[str, str]:
    if conclusion.left_out_by:
        return {"rule": conclusion.left_out_by}
    return {"cause": cause.value, "text": conclusion.findings[0].text} if cause and conclusion.findings else {}


def _count(carrying: Carrying) -> None:
    """The figures of both sides, and which document posted which money."""
    crossing = carrying.crossing
    tenders = figures.tenders_of(crossing.snapshot.content)
    wanted = figures.of_documents(crossing, carrying.plan_kept(), carrying.documents, tenders)
    figures.write({crossing: wanted}, (Side.CODED, Side.BOOKS, Side.RECONCILING))
    movements.posted(crossing, carrying.documents)


def _wait(carrying: Carrying, why: str, at: datetime) -> None:
    crossing = carrying.crossing
    first = not crossing.trouble
    crossing.trouble, crossing.next_try_at, crossing.tries = why, at, crossing.tries + 1
    with transaction.atomic():
        crossing.save(update_fields=["trouble", "next_try_at", "tries"])
        if first:
            # Each further try tells nothing new; the history keeps the first.
            carrying.happened(EventKind.WAITING, text=why)
        carrying.write_down()


def _troubled(carrying: Carrying, target: Connection, error: InkwellError) -> None:
    """Trouble at an end: of one document it is a hold, of the whole connection a pause of all that goes there."""
    crossing = carrying.crossing
    if isinstance(error, Refused) and error.why in _OF_ONE_DOCUMENT:
        finding = _refusal(crossing, error).finding
        _finish(carrying, Conclusion(state=CrossingState.HELD, findings=[finding]))
        return
    connections.note(target, error)
    asked = error.retry_after_seconds if isinstance(error, Temporary) else None
    at = breaker.open_until(target, error, after_pause(crossing.tries, asked))
    _wait(carrying, str(error), at)
    _let_runs_end(crossing)
    raise TryLater(str(error), at) from error


def _refusal(crossing: Crossing, error: Refused) -> Hold:
    """Both are held; a locked period has a cause of its own, as its cure is the accountant's to give."""
    text = f"The books refused {crossing.number}: {error}"
    if error.why == "locked":
        hint = "Ask whoever locked the period to open it, then release the order; or enter it by hand."
        return hold("BOOKS-E002", Cause.PERIOD_LOCKED, text, hint)
    return hold("BOOKS-E001", Cause.BOOKS_REFUSED, text, "Mend what the books name, then release the order.")


def hold_unforeseen(workspace_id: int, crossing_id: int) -> None:
    """Hold a crossing on which the program itself failed. It touches nothing that may have made it fail."""
    crossing = Crossing.objects.only("pk", "workspace_id", "number", "state").get(
        workspace=workspace_id, pk=crossing_id
    )  # fmt: skip
    finding = Finding(
        id="INT-E001",
        level=Level.ERROR,
        cause=Cause.UNFORESEEN,
        text=f"Inkwell Bridge itself failed on {crossing.number}.",
        hint="The log names the failure under this order's number. Release the order to try once more.",
    )
    with transaction.atomic():
        rows = Crossing.objects.filter(pk=crossing.pk, state=CrossingState.WAITING)
        if rows.update(state=CrossingState.HELD, cause=Cause.UNFORESEEN.value, findings=[finding.as_json()],
                       trouble="", next_try_at=None, tries=0, updated_at=timezone.now()):  # fmt: skip
            CrossingEvent.objects.create(
                workspace_id=workspace_id, crossing=crossing, at=timezone.now(), kind=EventKind.HELD,
                detail={"cause": Cause.UNFORESEEN.value, "text": finding.text},
            )  # fmt: skip
            conclude(crossing, EntryOutcome.HELD)
