"""Runs: starting one, ending it, and what it counts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import partial, reduce
from math import ceil
from operator import or_
from typing import Any, NamedTuple

from django.db import IntegrityError, connection, transaction
from django.db.models import Count, Exists, Min, OuterRef, Q

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.kinds import kind_named, kind_of
from inkwell_bridge.service.carriage.kinds.protocol import target_of
from inkwell_bridge.service.carriage.models import Crossing, Run, RunEntry
from inkwell_bridge.service.carriage.states import ACTIVE_RUN, CrossingState, EntryOutcome, RunPurpose, RunState
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# What a run by number reads, whatever lanes are on.
BY_NUMBER = "orders"
# Documents that are carried together, as one job; between two such lots of a workspace every other has its turn.
LOT = 25
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
    hint = "Follow the run that is under way, or stop it."

    def __init__(self, run: Run) -> None:
        self.run = run
        super().__init__(f"{run.bridge.name} is running already, as run {run.pk}.")

    def members(self) -> dict[str, Any]:
        """The run that is under way."""
        return {"run": self.run.pk}


def start_adopting(bridge: Bridge, person: Person) -> Run:
    """Start a run that adopts what the books hold under our references; while it is under way nothing else runs.

    Raises:
        NotReady: it is paused, or an end is another company's.
        AlreadyRunning: with the run that is under way.
    """
    _not_paused(bridge)
    _only_its_own_company(bridge)
    return _started(bridge, person, RunPurpose.ADOPT)


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What a run is to read: everything new, unless it says less.

    ``lanes`` of those that are on; ``numbers``: these orders alone, whatever lanes are on; ``first_day`` to
    ``last_day``: what is dated on these days, by the company's clocks; ``again``: what came to ``outcomes`` in that
    run.
    """

    lanes: Sequence[str] = ()
    numbers: Sequence[str] = ()
    first_day: date | None = None
    last_day: date | None = None
    again: Run | None = None
    outcomes: Sequence[EntryOutcome] = ()


EVERYTHING = Choice()


def start(bridge: Bridge, person: Person | None, chosen: Choice = EVERYTHING) -> Run:
    """Start a run, by a person or (without one) by the timetable.

    Raises:
        NotReady: it is paused, an end is another company's, every lane is off, or no rulebook is published.
        AlreadyRunning: with the run that is under way.
    """
    _not_paused(bridge)
    _only_its_own_company(bridge)
    version = in_force(bridge)
    if version is None:
        raise NotReady(f"{bridge.name} has no published rulebook. Publish one first.")
    for name in _to_be_read(bridge, chosen):
        missing = kind_named(name).rules_missing(parsed(version))
        missing = missing or kind_named(name).ends_cannot(bridge)
        if missing:
            raise NotReady(f"{name.replace('_', ' ').capitalize()} are to cross {bridge.name}, but {missing}.")
    return _started(
        bridge, person, RunPurpose.CARRY, lanes=list(chosen.lanes), numbers=list(chosen.numbers),
        first_day=chosen.first_day, last_day=chosen.last_day, again=chosen.again,
        outcomes=[outcome.value for outcome in chosen.outcomes],
    )  # fmt: skip


def _to_be_read(bridge: Bridge, chosen: Choice) -> list[str]:
    """The kinds of document that a run will read."""
    if chosen.numbers:
        return [BY_NUMBER]
    if chosen.again is not None:
        kinds = Crossing.objects.filter(entries__run=chosen.again, entries__outcome__in=chosen.outcomes)
        found = sorted(set(kinds.values_list("kind", flat=True)))
        if not found:
            named = ", ".join(outcome.value for outcome in chosen.outcomes)
            raise NotReady(f"Run {chosen.again.pk} has nothing that is {named}, so there is nothing to run again.")
        return found
    on = list(bridge.lanes.filter(on=True).order_by("kind").values_list("kind", flat=True))
    if not on:
        raise NotReady(f"Every lane of {bridge.name} is off. Switch one on first.")
    for off in sorted(set(chosen.lanes) - set(on)):
        raise NotReady(f"The {off} lane of {bridge.name} is off. Switch it on first.")
    return [kind for kind in on if not chosen.lanes or kind in chosen.lanes]


def _not_paused(bridge: Bridge) -> None:
    for one in (bridge, bridge.source, bridge.books):
        if one.paused_at is not None:
            raise NotReady(f"{one.name} is {one.paused_text}. Let it go on first.")


def start_trial(bridge: Bridge, person: Person, number: str, version: RulebookVersion) -> Run:
    """Start a run that carries one order on trial, under a version of the rules.

    Raises:
        NotReady: it is paused, or an end is another company's.
        AlreadyRunning: with the run that is under way.
    """
    _not_paused(bridge)
    _only_its_own_company(bridge)
    return _started(bridge, person, RunPurpose.TRIAL, numbers=[number], rulebook=version)


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
        state=RunState.FAILED, ended_at=clock.now(), trouble=why, next_try_at=None
    )


@transaction.atomic
def stop(run: Run, person: Person) -> Run:
    """End a run by a person's word, so that the bridge can start another; what it read is carried all the same.

    Raises:
        NotUnderWay: it has ended.
    """
    ended = Run.objects.filter(pk=run.pk, workspace=run.workspace_id, state__in=ACTIVE_RUN).update(
        state=RunState.STOPPED, ended_at=clock.now(), trouble=f"Stopped by {person.email}.", next_try_at=None
    )
    if not ended:
        raise NotUnderWay(f"Run {run.pk} is {run.state}, so there is nothing to stop.")
    RunEntry.objects.filter(run=run, outcome=EntryOutcome.PENDING).update(outcome=EntryOutcome.WAITING)
    record(run.workspace, person, "run.stopped", run.bridge.slug, run=run.pk)
    run.refresh_from_db()
    return run


class Waits(NamedTuple):
    """What a run waits for: an end that could not be asked, when it is tried again, and how many documents wait with it
    (none while the run reads)."""

    text: str
    next_try_at: datetime
    documents: int


# Set while an end fails, and while somebody has paused it.
_STOPPING = ("away_until", "paused_at")


def waits(run: Run) -> Waits | None:
    """What a run waits for; nothing where it goes on, or came to its end in full. One statement."""
    if run.next_try_at is not None:
        return Waits(run.trouble, run.next_try_at, 0)
    rows = Crossing.objects.filter(entries__run=run, state=CrossingState.WAITING, next_try_at__isnull=False)
    # One document waits for another all the time, for a moment: that is no news. An end that fails, or is paused, is.
    ends = ("bridge__books", "bridge__source")
    rows = rows.filter(reduce(or_, (Q(**{f"{end}__{name}__isnull": False}) for end in ends for name in _STOPPING)))
    # Summed up by the database: this is asked several times a second while somebody looks on.
    by_text = rows.exclude(trouble="").values("trouble").annotate(number=Count("pk"), at=Min("next_try_at"))
    waiting = list(by_text.order_by("-number", "at"))
    if not waiting:
        return None
    # What most of them met; the first of these is the next to ask.
    return Waits(waiting[0]["trouble"], waiting[0]["at"], sum(one["number"] for one in waiting))


def defer_carrying(crossings: Iterable[Crossing], *, at: Mapping[int, datetime] | None = None, lot: int = LOT) -> None:
    """Queue the jobs that carry these crossings, a lot of one kind and bridge in each, fair between workspaces.

    Each further lot of a workspace has a lower priority, so that a backlog of one never stands before another's
    documents. Into books that number in the order of dates they go one by one, the earliest first. With ``at``, each is
    tried again by itself at its moment.
    """
    groups: dict[tuple[int, int, str, datetime | None], list[Crossing]] = defaultdict(list)
    for crossing in crossings:
        moment = (at or {}).get(crossing.pk)
        groups[crossing.workspace_id, crossing.bridge_id, crossing.kind, moment].append(crossing)
    backlog = {workspace: _backlog(workspace) // LOT for workspace, *_ in groups}
    calls = []
    for (workspace, _, _, moment), of_group in groups.items():
        if in_date_order(of_group[0].bridge):
            calls += [_in_line(crossing, moment) for crossing in of_group]
            continue
        # Lots of nearly one size: the last of a page need not go nearly empty.
        size = ceil(len(of_group) / ceil(len(of_group) / lot))
        for start in range(0, len(of_group), size):
            keys = [crossing.pk for crossing in of_group[start : start + size]]
            arguments = {"workspace_id": workspace, "crossing_ids": keys}
            calls.append(queue.Call(arguments=arguments, priority=-backlog[workspace], at=moment))
            backlog[workspace] += 1
    queue.defer(queue.CARRY, calls, queue=queue.CARRYING)


def _backlog(workspace_id: int) -> int:
    """How many documents of a workspace wait, counted up to where it does not matter any more."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM (SELECT 1 FROM carriage_crossing "
            "WHERE workspace_id = %s AND state = %s LIMIT %s) AS few",
            [workspace_id, CrossingState.WAITING, MOST_COUNTED],
        )
        return int(cursor.fetchone()[0])


def _in_line(crossing: Crossing, at: datetime | None) -> queue.Call:
    arguments = {"workspace_id": crossing.workspace_id, "crossing_ids": [crossing.pk]}
    minute = int(crossing.moment.timestamp()) // 60 if crossing.moment else 0
    return queue.Call(arguments=arguments, lock=f"numbering:{crossing.bridge.books_id}", priority=-minute, at=at)


def hurry_waiting(target: Connection) -> None:
    """Let what waits for an end that is back go now, in lots, and not each after a pause of its own."""
    here = Q(bridge__books=target) | Q(bridge__source=target)
    _hurry(here, lambda crossing: target_of(kind_of(crossing), crossing.bridge) == target)


def hurry_paused(over: Q) -> None:
    """Let what waited while bridges or ends were paused go now; ``over`` says which crossings."""
    _hurry(over, lambda crossing: True)


@transaction.atomic
def _hurry(which: Q, is_meant: Callable[[Crossing], bool]) -> None:
    waiting = Crossing.objects.select_related("bridge__books", "bridge__source").filter(
        which, state=CrossingState.WAITING, next_try_at__isnull=False
    )
    rows = waiting.only("workspace", "kind", "moment", "bridge").order_by("pk")
    found = [crossing for crossing in rows if is_meant(crossing)]
    with connection.cursor() as cursor:
        cursor.execute(_FORGET, [queue.CARRY, [crossing.pk for crossing in found]])
        hurried = {row[0] for row in cursor.fetchall()}
    defer_carrying([crossing for crossing in found if crossing.pk in hurried])


# Jobs that wait for their time; those under way, or due, come by themselves.
_FORGET = """
    WITH forgotten AS (
        DELETE FROM procrastinate_jobs AS job
        WHERE job.status = 'todo' AND job.task_name = %s AND job.scheduled_at > now() + interval '1 second'
          AND job.args -> 'crossing_ids' <@ to_jsonb(%s::bigint[])
        RETURNING job.args -> 'crossing_ids' AS keys)
    SELECT jsonb_array_elements_text(keys)::bigint FROM forgotten
"""


def in_date_order(bridge: Bridge) -> bool:
    """Whether the books of a bridge refuse a date before that of the last document they numbered."""
    capabilities = dialect_of(bridge.books).capabilities
    return isinstance(capabilities, BooksCapabilities) and capabilities.numbers_in_date_order


def conclude(outcomes: Mapping[int, EntryOutcome]) -> None:
    """Write what became of crossings, by their keys, into the runs that still wait for them; once that is committed,
    end the runs that are done. Two statements, however many there are.

    Of two that come last at the same time, the later one to look sees that both are done: runs are looked at after the
    commit, so no run has to be locked while documents are concluded.
    """
    if not outcomes:
        return
    with connection.cursor() as cursor:
        values = [outcome.value for outcome in outcomes.values()]
        cursor.execute(_CONCLUDE, [list(outcomes), values, [EntryOutcome.PENDING, EntryOutcome.WAITING]])
        runs = sorted({row[0] for row in cursor.fetchall()})
    if runs:
        transaction.on_commit(partial(end_if_done, runs))


_CONCLUDE = """
    UPDATE carriage_runentry AS entry SET outcome = new.outcome
    FROM unnest(%s::bigint[], %s::text[]) AS new (crossing_id, outcome)
    WHERE entry.crossing_id = new.crossing_id AND entry.outcome = ANY(%s)
    RETURNING entry.run_id
"""


def mark_queue_waiting(books: Connection) -> None:
    """Where one document must wait for books that take them in a line, those behind it wait as well: the runs can
    end."""
    open_runs = list(
        Run.objects.filter(bridge__books=books, state=RunState.CARRYING).order_by("pk").values_list("pk", flat=True)
    )
    RunEntry.objects.filter(run__in=open_runs, outcome=EntryOutcome.PENDING).update(outcome=EntryOutcome.WAITING)
    end_if_done(open_runs)


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
