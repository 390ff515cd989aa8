"""Runs: starting one, ending it, and what it counts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import Count, Exists, OuterRef

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.api.refusal import Refusal
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.models import Crossing, Run, RunEntry
from inkwell_bridge.service.carriage.states import ACTIVE_RUN, EntryOutcome, RunPurpose, RunState
from inkwell_bridge.service.connections.ends import kind_of
from inkwell_bridge.service.connections.models import ConnectionState
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record


class NotReady(Refusal):
    """A bridge cannot run yet; the text says what is missing."""

    code = "not-ready"
    hint = "The bridge's page shows what is still missing."


class AlreadyRunning(Refusal):
    """The bridge runs already."""

    code = "already-running"
    hint = "Follow the run that is under way."

    def __init__(self, run: Run) -> None:
        self.run = run
        super().__init__(f"{run.bridge.name} is running already, as run {run.pk}.")

    def members(self) -> dict[str, Any]:
        """The run that is under way."""
        return {"run": self.run.pk}


def start_adopting(bridge: Bridge, person: Person) -> Run:
    """Start a run that adopts what the books hold under our marks; while it is under way nothing else runs.

    Raises:
        NotReady: an end is another company's.
        AlreadyRunning: with the run that is under way.
    """
    _only_its_own_company(bridge)
    return _started(bridge, person, RunPurpose.ADOPT)


def start(bridge: Bridge, person: Person | None, *, numbers: Sequence[str] = ()) -> Run:
    """Start a run, by a person or (without one) by the timetable; of the orders named alone, whatever lanes are on.

    Raises:
        NotReady: an end is another company's, every lane is off, or no rulebook is published.
        AlreadyRunning: with the run that is under way.
    """
    _only_its_own_company(bridge)
    lanes = set(bridge.lanes.filter(on=True).values_list("kind", flat=True))
    if not lanes and not numbers:
        raise NotReady(f"Every lane of {bridge.name} is off. Switch one on first.")
    version = in_force(bridge)
    if version is None:
        raise NotReady(f"{bridge.name} has no published rulebook. Publish one first.")
    if (numbers or {SourceKind.ORDERS, SourceKind.REFUNDS} & lanes) and parsed(version).orders is None:
        raise NotReady(f"Orders are to cross {bridge.name}, but its rulebook says nothing of orders.")
    return _started(bridge, person, RunPurpose.CARRY, numbers=list(numbers))


def _only_its_own_company(bridge: Bridge) -> None:
    for end in (bridge.source, bridge.books):
        if end.state == ConnectionState.OTHER_COMPANY:
            raise NotReady(f"{end.name}: {end.state_text}")


def _started(bridge: Bridge, person: Person | None, purpose: RunPurpose, **fields: Any) -> Run:
    try:
        return _create(bridge, person, purpose, **fields)
    except IntegrityError:
        run = Run.objects.filter(workspace=bridge.workspace_id, bridge=bridge, state__in=ACTIVE_RUN).first()
        if run is None:
            # It ended between our try and our look, so the way is free now.
            return _create(bridge, person, purpose, **fields)
        raise AlreadyRunning(run) from None


@transaction.atomic
def _create(bridge: Bridge, person: Person | None, purpose: RunPurpose, **fields: Any) -> Run:
    run = Run.objects.create(
        workspace=bridge.workspace,
        bridge=bridge,
        purpose=purpose,
        **fields,
        started_by=person,
        by_timetable=person is None,
        started_at=clock.now(),
    )
    record(bridge.workspace, person, "run.started", bridge.slug, run=run.pk, purpose=purpose.value)
    arguments = {"workspace_id": bridge.workspace_id, "run_id": run.pk}
    queue.defer(queue.READ_RUN, [queue.Call(arguments=arguments, lock=f"bridge:{bridge.workspace_id}:{bridge.pk}")])
    return run


def fail(run: Run, why: str) -> None:
    """End a run that cannot go on; what it carried stays carried."""
    Run.objects.filter(pk=run.pk, workspace=run.workspace_id).update(
        state=RunState.FAILED, ended_at=clock.now(), trouble=why
    )


def defer_carrying(crossings: Iterable[Crossing]) -> None:
    """Queue the jobs that carry these crossings.

    Into books that number in the order of dates they go one after the other, the earliest first.
    """
    queue.defer(queue.CARRY, [_carrying(crossing) for crossing in crossings])


def _carrying(crossing: Crossing) -> queue.Call:
    arguments = {"workspace_id": crossing.workspace_id, "crossing_id": crossing.pk}
    if not in_date_order(crossing.bridge):
        return queue.Call(arguments=arguments, lock=f"crossing:{crossing.workspace_id}:{crossing.pk}")
    minute = int(crossing.placed_at.timestamp()) // 60 if crossing.placed_at else 0
    return queue.Call(arguments=arguments, lock=f"numbering:{crossing.bridge.books_id}", priority=-minute)


def in_date_order(bridge: Bridge) -> bool:
    """Whether the books of a bridge refuse a date before that of the last document they numbered."""
    capabilities = kind_of(bridge.books).capabilities
    return isinstance(capabilities, BooksCapabilities) and capabilities.numbers_in_date_order


@transaction.atomic
def conclude(crossing: Crossing, outcome: EntryOutcome) -> None:
    """Write what became of a crossing into the runs that still wait for it, and end those that are done.

    The runs are locked first: of two crossings that come last at the same time, one sees the other.
    """
    open_entries = RunEntry.objects.filter(
        workspace=crossing.workspace_id, crossing=crossing, outcome__in=(EntryOutcome.PENDING, EntryOutcome.WAITING)
    )
    runs = sorted(open_entries.values_list("run_id", flat=True))
    list(Run.objects.select_for_update().filter(pk__in=runs).order_by("pk"))
    open_entries.update(outcome=outcome)
    end_if_done(runs)


@transaction.atomic
def let_all_wait(crossing: Crossing) -> None:
    """Where one document must wait for the books, those that go in line behind it wait as well: the runs can end."""
    open_runs = Run.objects.select_for_update().filter(
        workspace=crossing.workspace_id, bridge__books=crossing.bridge.books_id, state=RunState.CARRYING
    )
    runs = [run.pk for run in open_runs.order_by("pk")]
    RunEntry.objects.filter(run__in=runs, outcome=EntryOutcome.PENDING).update(outcome=EntryOutcome.WAITING)
    end_if_done(runs)


def end_if_done(run_ids: Sequence[int]) -> None:
    """End those of these runs that have read everything and have no entry pending."""
    pending = RunEntry.objects.filter(run=OuterRef("pk"), outcome=EntryOutcome.PENDING)
    Run.objects.filter(~Exists(pending), pk__in=run_ids, state=RunState.CARRYING).update(
        state=RunState.ENDED, ended_at=clock.now()
    )


def counts(run_ids: Sequence[int]) -> dict[int, dict[str, int]]:
    """For each run, how many documents it read, and how many came to each outcome; one statement for all."""
    result: dict[int, dict[str, int]] = {
        run: {"read": 0, **{outcome.value.replace(" ", "_"): 0 for outcome in EntryOutcome}} for run in run_ids
    }
    rows = RunEntry.objects.filter(run__in=run_ids).values_list("run_id", "outcome").annotate(number=Count("id"))
    for run, outcome, number in rows:
        result[run][outcome.replace(" ", "_")] = number
        result[run]["read"] += number
    return result
