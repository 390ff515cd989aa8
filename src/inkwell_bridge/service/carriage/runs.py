"""Runs: starting one, ending it, and what it counts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import count
from typing import Any

from django.db import IntegrityError, connection, transaction
from django.db.models import Count, Exists, OuterRef

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import Crossing, Run, RunEntry
from inkwell_bridge.service.carriage.states import ACTIVE_RUN, CrossingState, EntryOutcome, RunPurpose, RunState
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# What a run by number reads, whatever lanes are on.
BY_NUMBER = "orders"
# Jobs of one workspace that go at one priority: between two such lots, every other workspace has its turn.
LOT = 20
MOST_COUNTED = 100_000


class NotReady(Refusal):
    """A bridge cannot run yet; the text says what is missing."""

    code = "not-ready"
    hint = "The bridge's page shows what is still missing."


class NotUnderWay(Refusal):
    """The run has ended already."""

    code = "not-under-way"
    hint = "Look at the bridge's newest run."


class AlreadyRunning(Refusal):
    """The bridge runs already."""

    code = "already-running"
    hint = "Follow the run that is under way, or abandon it."

    def __init__(self, run: Run) -> None:
        self.run = run
        super().__init__(f"{run.bridge.name} is running already, as run {run.pk}.")

    def members(self) -> dict[str, Any]:
        """The run that is under way."""
        return {"run": self.run.pk}


def start_adopting(bridge: Bridge, person: Person) -> Run:
    """Start a run that adopts what the books hold under our references; while it is under way nothing else runs.

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
    lanes = list(bridge.lanes.filter(on=True).order_by("kind").values_list("kind", flat=True))
    if not lanes and not numbers:
        raise NotReady(f"Every lane of {bridge.name} is off. Switch one on first.")
    version = in_force(bridge)
    if version is None:
        raise NotReady(f"{bridge.name} has no published rulebook. Publish one first.")
    for name in [BY_NUMBER] if numbers else lanes:
        missing = kind_named(name).rules_missing(parsed(version))
        if missing:
            raise NotReady(f"{name.capitalize()} are to cross {bridge.name}, but {missing}.")
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
    defer_reading(run)
    return run


def defer_reading(run: Run) -> None:
    """Queue the job that reads for a run."""
    arguments = {"workspace_id": run.workspace_id, "run_id": run.pk}
    queue.defer(queue.READ_RUN, [queue.Call(arguments=arguments, lock=f"bridge:{run.workspace_id}:{run.bridge_id}")])


def fail(run: Run, why: str) -> None:
    """End a run that cannot go on; what it carried stays carried."""
    Run.objects.filter(pk=run.pk, workspace=run.workspace_id).update(
        state=RunState.FAILED, ended_at=clock.now(), trouble=why
    )


@transaction.atomic
def abandon(run: Run, person: Person) -> Run:
    """End a run by a person's word, so that the bridge can start another; what it read is carried all the same.

    Raises:
        NotUnderWay: it has ended.
    """
    ended = Run.objects.filter(pk=run.pk, workspace=run.workspace_id, state__in=ACTIVE_RUN).update(
        state=RunState.ABANDONED, ended_at=clock.now(), trouble=f"Abandoned by {person.email}."
    )
    if not ended:
        raise NotUnderWay(f"Run {run.pk} is {run.state}, so there is nothing to abandon.")
    RunEntry.objects.filter(run=run, outcome=EntryOutcome.PENDING).update(outcome=EntryOutcome.WAITING)
    record(run.workspace, person, "run.abandoned", run.bridge.slug, run=run.pk)
    run.refresh_from_db()
    return run


def defer_carrying(crossings: Iterable[Crossing]) -> None:
    """Queue the jobs that carry these crossings, fair between workspaces.

    Each further lot of a workspace has a lower priority, so that a backlog of one never stands before another's
    documents. Into books that number in the order of dates they go one after the other, the earliest first.
    """
    fresh = list(crossings)
    backlog: dict[int, count[int]] = {}
    calls = []
    for crossing in fresh:
        if crossing.workspace_id not in backlog:
            backlog[crossing.workspace_id] = count(_backlog(crossing.workspace_id))
        calls.append(_carrying(crossing, ahead=next(backlog[crossing.workspace_id])))
    queue.defer(queue.CARRY, calls, queue=queue.CARRYING)


def _backlog(workspace_id: int) -> int:
    """How many jobs of a workspace wait, counted up to where it does not matter any more."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM (SELECT 1 FROM carriage_crossing "
            "WHERE workspace_id = %s AND state = %s LIMIT %s) AS few",
            [workspace_id, CrossingState.WAITING, MOST_COUNTED],
        )
        return int(cursor.fetchone()[0])


def _carrying(crossing: Crossing, *, ahead: int) -> queue.Call:
    arguments = {"workspace_id": crossing.workspace_id, "crossing_id": crossing.pk}
    if not in_date_order(crossing.bridge):
        return queue.Call(arguments=arguments, lock=f"crossing:{crossing.workspace_id}:{crossing.pk}",
                          priority=-(ahead // LOT))  # fmt: skip
    minute = int(crossing.moment.timestamp()) // 60 if crossing.moment else 0
    return queue.Call(arguments=arguments, lock=f"numbering:{crossing.bridge.books_id}", priority=-minute)


def hurry_waiting(books: Connection) -> None:
    """Let what waits for an end that is back go now, and not after its own pause. One statement."""
    with connection.cursor() as cursor:
        cursor.execute(_HURRY, [queue.CARRY, books.pk, CrossingState.WAITING])


_HURRY = """
    UPDATE procrastinate_jobs AS job SET scheduled_at = now() + random() * interval '2 seconds'
    FROM carriage_crossing AS crossing JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
    WHERE job.status = 'todo' AND job.task_name = %s AND job.scheduled_at > now() + interval '2 seconds'
      AND bridge.books_id = %s AND crossing.state = %s AND (job.args ->> 'crossing_id')::bigint = crossing.id
"""


def in_date_order(bridge: Bridge) -> bool:
    """Whether the books of a bridge refuse a date before that of the last document they numbered."""
    capabilities = dialect_of(bridge.books).capabilities
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
    if not runs:
        return
    list(Run.objects.select_for_update().filter(pk__in=runs).order_by("pk").values_list("pk"))
    open_entries.update(outcome=outcome)
    end_if_done(runs)


@transaction.atomic
def mark_queue_waiting(crossing: Crossing) -> None:
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
    """For each run, how many documents it read, and how many came to each outcome; two statements for all."""
    names = [outcome.value.replace(" ", "_") for outcome in EntryOutcome]
    unchanged = dict(Run.objects.filter(pk__in=run_ids).values_list("pk", "unchanged"))
    result = {
        run: {"read": unchanged.get(run, 0), "unchanged": unchanged.get(run, 0), **dict.fromkeys(names, 0)}
        for run in run_ids
    }
    rows = RunEntry.objects.filter(run__in=run_ids).values_list("run_id", "outcome").annotate(number=Count("id"))
    for run, outcome, number in rows:
        result[run][outcome.replace(" ", "_")] = number
        result[run]["read"] += number
    return result
