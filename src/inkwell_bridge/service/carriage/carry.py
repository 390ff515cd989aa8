"""Carrying a lot of crossings: the steps of their kind, side by side, and what becomes of each when one fails."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Generator, Mapping, Sequence
from datetime import datetime, timedelta
from typing import NamedTuple

import structlog
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.ends.errors import EndError, Refused, Temporary
from inkwell_bridge.service.carriage import figures, movements, open_balances
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion, write_down
from inkwell_bridge.service.carriage.effects import Effects
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Direction, Kind, target_of
from inkwell_bridge.service.carriage.lot import run_lot
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document
from inkwell_bridge.service.carriage.runs import (
    conclude,
    defer_carrying,
    hurry_waiting,
    in_date_order,
    mark_queue_waiting,
)
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EntryOutcome, EventKind, Trial
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections import breaker
from inkwell_bridge.service.connections.models import ConnectionState
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.locks import Claims
from inkwell_bridge.service.rows import update_rows, write_rows
from inkwell_bridge.service.vault import Unreadable

log = structlog.get_logger("inkwell.carriage")

# So often a document looks for what it must follow before its run goes on without it.
PATIENT_TRIES = 8
LOOK_WHILE_PAUSED = timedelta(minutes=15)
_OF_ONE_DOCUMENT = frozenset({"document", "not found", "locked"})


def carry(workspace_id: int, crossing_ids: Sequence[int]) -> None:
    """Bring these crossings as far as they will go, those of one bridge and kind together.

    Takes the lock of each, and those that its kind names, for as long as it lasts; what somebody else holds is queued
    again. Holds no transaction and no database session over a call. Repeated at any time, by anybody, it goes on from
    what is written down. A document that must wait is queued again by itself, for its own moment.

    Raises:
        ClaimLost, OperationalError, InterfaceError: the database went away; all of them are to be carried again.
    """
    with Claims() as claims:
        # One statement for all; a lot that was given to two workers is divided between them.
        free = claims.take([(f"crossing:{workspace_id}:{pk}",) for pk in crossing_ids])
        ours = [pk for pk, is_free in zip(crossing_ids, free, strict=True) if is_free]
        crossings = _load(workspace_id, crossing_ids)
        waiting = [one for one in crossings if one.pk in set(ours) and one.state == CrossingState.WAITING]
        # Brought to their end while a run still read them as waiting; that run must hear of it.
        conclude({one.pk: EntryOutcome(one.state) for one in crossings if one.state != CrossingState.WAITING})
        waiting, busy = _with_locks(waiting, claims)
        # A worker that was thought dead may still hold some; its locks end with it.
        busy += [one for one in crossings if one.pk not in set(ours) and one.state == CrossingState.WAITING]
        if busy:
            at = after_pause(0)
            defer_carrying(busy, at={one.pk: at for one in busy})
        # A lot is made of one bridge and kind; after an upgrade or a hurry it may hold several.
        alike: dict[tuple[int, str], list[Crossing]] = defaultdict(list)
        for crossing in waiting:
            alike[crossing.bridge_id, crossing.kind].append(crossing)
        for (_, kind), of_kind in alike.items():
            _Carriage(kind_named(kind), of_kind, claims).carry()


def _load(workspace_id: int, crossing_ids: Sequence[int]) -> list[Crossing]:
    """The crossings with all that is read of them. As many statements for a hundred as for one."""
    rows = Crossing.objects.select_related(
        "workspace", "snapshot__personal", "posted_snapshot", "rulebook", "tried_under", "master_data",
        "bridge__workspace", "bridge__company", "bridge__source__workspace", "bridge__books__workspace",
    )  # fmt: skip
    rows = rows.prefetch_related("shares__document").defer("master_data__content", "posted_snapshot__content")
    found = {one.pk: one for one in rows.filter(workspace=workspace_id, pk__in=crossing_ids)}
    return [found[pk] for pk in crossing_ids if pk in found]


def _with_locks(crossings: Sequence[Crossing], claims: Claims) -> tuple[list[Crossing], list[Crossing]]:
    """Those whose kind's further locks came free, and those where a document that belongs to it goes first."""
    named = [(one, tuple(kind_named(one.kind).lock_names(one))) for one in crossings]
    asked = [(one, names) for one, names in named if names]
    free = claims.take([names for _, names in asked]) if asked else []
    busy = {one.pk for (one, _), is_free in zip(asked, free, strict=True) if not is_free}
    return [one for one in crossings if one.pk not in busy], [one for one in crossings if one.pk in busy]


class _Waits(NamedTuple):
    """A document that goes on later, why, and when."""

    carrying: Carrying
    why: str
    at: datetime


class _Ends(NamedTuple):
    """A document that was brought to an end."""

    carrying: Carrying
    conclusion: Conclusion


class _Carriage:
    """Crossings of one bridge and kind, whose locks are ours."""

    def __init__(self, kind: Kind, crossings: Sequence[Crossing], claims: Claims) -> None:
        self._kind, self._claims = kind, claims
        self._bridge = crossings[0].bridge
        self._target = target_of(kind, self._bridge)
        self._all = [self._carrying(one) for one in crossings]

    def _carrying(self, crossing: Crossing) -> Carrying:
        # One bridge, and with it one row of each end, for all of them.
        crossing.bridge = self._bridge
        shares = crossing.shares_in_order
        return Carrying(
            crossing=crossing,
            kind=self._kind,
            target=self._target,
            documents=[share.document for share in shares],
            shares=shares,
        )

    def carry(self) -> None:
        """Carry them, and write down what became of each."""
        going = self._may_go()
        if not going:
            return
        # Their steps run side by side, and every call has been answered or given up on once this returns.
        outcomes = run_lot({one: _steps(one) for one in going}, self._claims)
        self._conclude(outcomes)

    def _may_go(self) -> list[Carrying]:
        """Those that may go now: none while bridge or end is paused, or an end is another company's; one as a probe
        while the end is away."""
        going = self._all
        for paused in (self._bridge, self._bridge.source, self._bridge.books):
            if paused.paused_at is not None:
                # Looked at again now and then, should it go on without a word to the queue.
                at = timezone.now() + LOOK_WHILE_PAUSED
                self._wait([_Waits(one, f"{paused.name} is {paused.paused_text}.", at) for one in going], ends=True)
                return []
        for end in (self._bridge.source, self._bridge.books):
            if end.state == ConnectionState.OTHER_COMPANY:
                self._wait([_Waits(one, end.state_text, after_pause(one.crossing.tries)) for one in going], ends=True)
                return []
        allowed = breaker.passes(self._target)
        if allowed.most is None:
            return going
        later = going[allowed.most :]
        at = max(allowed.until or timezone.now(), _after_pause(later))
        self._wait([_Waits(one, allowed.why, at) for one in later], ends=True)
        return going[: allowed.most]

    def _conclude(self, outcomes: Mapping[Carrying, Conclusion | Exception]) -> None:
        """What became of each: at its end, to be tried later, or in trouble."""
        ends: list[_Ends] = []
        waits: list[_Waits] = []
        troubles: list[tuple[Carrying, EndError | Unreadable]] = []
        for one, outcome in outcomes.items():
            if isinstance(outcome, Conclusion):
                ends.append(_Ends(one, outcome))
            elif isinstance(outcome, Hold):
                ends.append(_Ends(one, Conclusion(state=CrossingState.HELD, findings=[outcome.finding])))
            elif isinstance(outcome, TryLater):
                waits.append(_Waits(one, str(outcome), outcome.at))
            elif isinstance(outcome, Refused) and outcome.why in _OF_ONE_DOCUMENT:
                refusal = _refusal(one, outcome).finding
                ends.append(_Ends(one, Conclusion(state=CrossingState.HELD, findings=[refusal])))
            elif isinstance(outcome, EndError | Unreadable):
                troubles.append((one, outcome))
            else:
                log.error("crossing.failed", workspace=one.crossing.workspace_id, crossing=one.crossing.pk,
                          exc_info=outcome)  # fmt: skip
                ends.append(_Ends(one, _unforeseen(one.crossing)))
        # Those that are in trouble open the breaker before those that were answered close it.
        self._trouble(troubles)
        self._wait(waits)
        self._end(ends)

    def _end(self, ends: Sequence[_Ends]) -> None:
        if not ends:
            return
        answered = any(
            conclusion.state not in (CrossingState.LEFT_OUT, CrossingState.HELD)
            or any(exchange.answered for exchange in one.exchanges)
            for one, conclusion in ends
        )
        finish(ends)
        if answered:
            connections.answered(self._target)
        if answered and breaker.close(self._target):
            # It is back: what waited for it need not wait its own pause out.
            hurry_waiting(self._target)

    def _trouble(self, troubles: Sequence[tuple[Carrying, EndError | Unreadable]]) -> None:
        """Trouble of the whole connection is a pause of all that goes there."""
        if not troubles:
            return
        asked = [error.retry_after_seconds or 0.0 for _, error in troubles if isinstance(error, Temporary)]
        at = _after_pause([one for one, _ in troubles], max(asked, default=0.0))
        # They all met the same end in the same moment: one of their errors speaks for it.
        error = troubles[0][1]
        connections.note(self._target, error)
        again = breaker.note(self._target, error, len(troubles), at)
        self._wait([_Waits(one, str(met), again) for one, met in troubles], ends=True)

    def _wait(self, waits: Sequence[_Waits], *, ends: bool = False) -> None:
        """Queue each again for its moment. A run stays open for what goes on in a while; with ``ends``, or once that
        has taken many tries, it need not, for what waits goes on by itself."""
        if not waits:
            return
        rows = [one.carrying.crossing for one in waits]
        with transaction.atomic():
            for one, why, at in waits:
                crossing = one.crossing
                if not crossing.trouble:
                    # Each further try tells nothing new; the history keeps the first.
                    one.happened(EventKind.WAITING, text=why)
                crossing.trouble, crossing.next_try_at, crossing.tries = why, at, crossing.tries + 1
            write_rows(rows, ("trouble", "next_try_at", "tries", "written_back"))
            write_down([one.carrying for one in waits])
            defer_carrying(rows, at={one.carrying.crossing.pk: one.at for one in waits})
            # Others in the run are done; one that waits for an end need not keep it open.
            impatient = [row for row in rows if ends or row.tries > PATIENT_TRIES]
            conclude(dict.fromkeys((row.pk for row in impatient), EntryOutcome.WAITING))
        if ends and in_date_order(self._bridge):
            mark_queue_waiting(self._bridge.books)


def _after_pause(waiting: Sequence[Carrying], asked_seconds: float = 0.0) -> datetime:
    """One moment for all of a lot, so that they stay together: one by one they would go a good deal slower later."""
    return after_pause(max((one.crossing.tries for one in waiting), default=0), asked_seconds)


def _steps(carrying: Carrying) -> Effects[Conclusion]:
    """The steps of its kind, one after the other, until one says where it ends."""
    for step in carrying.kind.steps:
        said = step(carrying)
        conclusion = (yield from said) if isinstance(said, Generator) else said
        if conclusion is not None:
            return conclusion
    raise RuntimeError(f"the steps of {carrying.kind.name} end without a conclusion")


_OUTCOME = (
    "state",
    "cause",
    "left_out_by",
    "findings",
    "written_back",
    "trouble",
    "next_try_at",
    "tries",
    "updated_at",
)
_STOPPED = (CrossingState.HELD, CrossingState.DIFFERS)


def finish(ends: Sequence[_Ends]) -> None:
    """Write the outcomes: states, events, figures, movements and the runs that wait for them, in one transaction.

    As many statements for a hundred as for one. Expects the crossings' locks.
    """
    concluded = [Concluded(one.crossing, conclusion.state, _cause(conclusion)) for one, conclusion in ends]
    with transaction.atomic():
        # A run that read a newer version meanwhile has queued it anew: what became of the old one is not the end.
        current = _write_states(ends)
        for (one, conclusion), (_, state, cause) in zip(ends, concluded, strict=True):
            one.happened(EventKind(state.value), **_described(conclusion, cause))
        write_down([one for one, _ in ends])
        # Of what was read anew meanwhile the events stay, and nothing else: the newer version is queued.
        of_now = [(one, conclusion.state) for one, conclusion in ends if one.crossing.pk in current]
        held = [one for one, state in of_now if state == CrossingState.HELD]
        # Nothing of these was sent, so their rows say so; what was begun keeps how far it came.
        never_posted = [document.pk for one in held for document in one.documents if not document.posting_at]
        Document.objects.filter(pk__in=never_posted).update(state=DocumentState.HELD)
        _count([one for one, state in of_now if state != CrossingState.HELD and one.documents])
        _end_trials(of_now)
        conclude({one.crossing.pk: EntryOutcome(state.value) for one, state in of_now})
    # After the commit: what is woken must find the outcome.
    ends[0].carrying.kind.after([one for one in concluded if one.crossing.pk in current])


def _end_trials(ends: Sequence[tuple[Carrying, CrossingState]]) -> None:
    """A trial of which nothing stands in the books is over by itself: let go again, the order goes like any other."""
    over = [
        one.crossing.pk
        for one, state in ends
        if one.crossing.trial == Trial.SENT
        and (state == CrossingState.ADOPTED or not any(document.begun for document in one.documents))
    ]
    if over:
        Crossing.objects.filter(pk__in=over, trial=Trial.SENT).update(trial=Trial.NONE, tried_under=None)


def _write_states(ends: Sequence[_Ends]) -> set[int]:
    """Write where each ends, unless it was read anew meanwhile; answers the keys of those that it was written for."""
    for one, conclusion in ends:
        crossing, cause = one.crossing, _cause(conclusion)
        crossing.state = conclusion.state
        crossing.cause = cause.value if cause and conclusion.state in _STOPPED else ""
        crossing.left_out_by = conclusion.left_out_by
        crossing.findings = [finding.as_json() for finding in conclusion.findings]
        crossing.trouble, crossing.next_try_at, crossing.tries = "", None, 0
    return update_rows([one.crossing for one, _ in ends], _OUTCOME, unless_changed="snapshot")


def _cause(conclusion: Conclusion) -> Cause | None:
    return next((finding.cause for finding in conclusion.findings if finding.cause), None)


def _described(conclusion: Conclusion, cause: Cause | None) -> dict[str, str]:
    if conclusion.left_out_by:
        return {"rule": conclusion.left_out_by}
    return {"cause": cause.value, "text": conclusion.findings[0].text} if cause and conclusion.findings else {}


def _count(carryings: Sequence[Carrying]) -> None:
    """The figures of both sides, and which document posted which money."""
    if not carryings:
        return
    if carryings[0].kind.direction is Direction.BOOKS_TO_SALES:
        # Money that the shop is told of stands in the books already: counted, it would be there twice.
        return
    figures.write_documents((one.crossing, one.plan_kept(), one.documents) for one in carryings)
    movements.posted({one.crossing: one.documents for one in carryings})
    open_balances.keep(carryings)


def _refusal(carrying: Carrying, error: Refused) -> Hold:
    """All are held; a locked period has a cause of its own, as its cure is the accountant's to give."""
    crossing = carrying.crossing
    if carrying.kind.direction is Direction.BOOKS_TO_SALES:
        text = f"{carrying.target.name} refused {crossing.number}: {error}"
        return hold("SALES-E001", Cause.SALES_REFUSED, text, "Mend what it names there, then release the document.")
    text = f"The books refused {crossing.number}: {error}"
    if error.why == "locked":
        hint = "Ask whoever locked the period to open it, then release the order; or enter it by hand."
        return hold("BOOKS-E002", Cause.PERIOD_LOCKED, text, hint)
    return hold("BOOKS-E001", Cause.BOOKS_REFUSED, text, "Mend what the books name, then release the order.")


def _unforeseen(crossing: Crossing) -> Conclusion:
    finding = Finding(
        id="INT-E001",
        level=Level.ERROR,
        cause=Cause.UNFORESEEN,
        text=f"Inkwell Bridge itself failed on {crossing.number}.",
        hint="The log names the failure under this order's number. Release the order to try once more.",
    )
    return Conclusion(state=CrossingState.HELD, findings=[finding])


def carry_each(workspace_id: int, crossing_ids: Sequence[int]) -> None:
    """Queue each of a lot by itself, where the lot failed as a whole: only one of them need be to blame."""
    rows = Crossing.objects.select_related("bridge__books").filter(
        workspace=workspace_id, pk__in=crossing_ids, state=CrossingState.WAITING
    )
    defer_carrying(rows, lot=1)


def hold_unforeseen(workspace_id: int, crossing_ids: Sequence[int]) -> None:
    """Hold crossings on which the program itself failed. It touches nothing that may have made it fail."""
    rows = Crossing.objects.filter(workspace=workspace_id, pk__in=crossing_ids, state=CrossingState.WAITING)
    for crossing in rows.only("pk", "workspace_id", "number", "state"):
        (finding,) = _unforeseen(crossing).findings
        with transaction.atomic():
            Crossing.objects.filter(pk=crossing.pk).update(
                state=CrossingState.HELD, cause=Cause.UNFORESEEN.value, findings=[finding.as_json()],
                trouble="", next_try_at=None, tries=0, updated_at=timezone.now(),
            )  # fmt: skip
            CrossingEvent.objects.create(
                workspace_id=workspace_id, crossing=crossing, at=timezone.now(), kind=EventKind.HELD,
                detail={"cause": Cause.UNFORESEEN.value, "text": finding.text},
            )  # fmt: skip
            conclude({crossing.pk: EntryOutcome.HELD})
