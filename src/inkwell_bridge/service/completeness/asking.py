"""Asking for a check: by a person, and each night by the program."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta
from zoneinfo import ZoneInfo

from django.db.models import Max, Q

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.asked_work import ACTIVE, AlreadyUnderWay, begin, forget_old
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.kinds import lane_kinds
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Kind
from inkwell_bridge.service.completeness.models import CompletenessCheck
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# Of each bridge: enough to look back over some months of nights.
MOST_KEPT = 120
# A year, and the month before and after it.
MOST_DAYS = timedelta(days=427)
# Late edits of a week are found with its days; what is older is seen when its month is looked at as a whole.
LOOKS_BACK = timedelta(days=7)
EVERY = timedelta(hours=20)


class CannotCheck(Refusal):
    """There is nothing to hold against what was read."""

    code = "cannot-check"
    hint = "A check needs a sales side that lists its documents by day, and a lane that is on and has read before."


class AlreadyChecking(AlreadyUnderWay):
    """The same bridge is being checked."""

    code = "already-checking"
    what = "check"


def ask(bridge: Bridge, person: Person | None, *, first: date, last: date) -> CompletenessCheck:
    """Have it checked in the background whether everything of these days was read; what was not is fetched.

    Raises:
        CannotCheck: its sales side does not list its documents by day or may not be asked, or nothing was read yet.
        AlreadyChecking: the same bridge is being checked.
    """
    why_not = cannot_be_checked(bridge)
    if why_not:
        raise CannotCheck(f"{why_not}.")
    of_bridge = CompletenessCheck.objects.filter(bridge=bridge)

    def make() -> CompletenessCheck:
        check = CompletenessCheck.objects.create(
            workspace_id=bridge.workspace_id, bridge=bridge, first=first, last=last, asked_by=person,
            asked_at=clock.now(),
        )  # fmt: skip
        arguments = {"workspace_id": bridge.workspace_id, "check_id": check.pk}
        priority = queue.ASKED_FOR if person else 0
        lock = f"completeness:{bridge.pk}"
        queue.defer(queue.CHECK_COMPLETENESS, [queue.Call(arguments=arguments, lock=lock, priority=priority)])
        if person is not None:
            record(bridge.workspace, person, "completeness.checked", bridge.slug, first=first.isoformat(),
                   last=last.isoformat())  # fmt: skip
        forget_old(of_bridge, keep=MOST_KEPT)
        return check

    return begin(make, of_bridge, lambda running: AlreadyChecking(f"{bridge.name} is being checked.", running.pk))


def cannot_be_checked(bridge: Bridge) -> str:
    """Why a bridge cannot be checked now, in words; nothing where it can. Without a statement, where ``source`` and
    ``lanes`` were fetched before."""
    if not bridge.source.may_be_asked:
        return f"{bridge.source.name} is paused, or another company's, so it is not asked"
    if not lists_periods(bridge.source):
        return f"{bridge.source.name} does not list its documents by day"
    if not kinds_of(bridge):
        return f"Nothing was read over {bridge.name} yet, or the lanes of what could be checked are off"
    return ""


def kinds_of(bridge: Bridge) -> list[Kind]:
    """The kinds that can be checked: listed by day, their lane is on, and everything up to now was read once."""
    listed: Sequence[SourceKind] = dialect_of(bridge.source).capabilities.lists_periods
    on = {lane.kind for lane in bridge.lanes.all() if lane.on and lane.read_up_to is not None}
    return [kind for kind in lane_kinds() if kind.name in on and is_of_sheet(kind) and kind.source_kind in listed]


def carries_to_sheet(bridge: Bridge) -> bool:
    """Whether any lane is on of what counts on the sheet; see ``cannot_be_checked``."""
    on = {lane.kind for lane in bridge.lanes.all() if lane.on}
    return any(kind.name in on and is_of_sheet(kind) for kind in lane_kinds())


def is_of_sheet(kind: Kind) -> bool:
    """Whether its documents come from the sales side and count on the sheet."""
    return kind.direction is Direction.SALES_TO_BOOKS and bool(kind.section)


def lists_periods(source: Connection) -> bool:
    """Whether a sales side lists anything by day."""
    return bool(getattr(dialect_of(source).capabilities, "lists_periods", ()))


def ask_due() -> int:
    """Ask for the check of each bridge once a day, of the month so far and at least a week; answers how many. Two
    statements, and some for each bridge that is due."""
    before = clock.now() - EVERY
    waiting = Q(completeness_checks__state__in=ACTIVE)
    rows = Bridge.current.filter(paused_at=None, source__paused_at=None, created_at__lt=before).exclude(waiting)
    rows = rows.filter(lanes__on=True, lanes__read_up_to__isnull=False)
    newest = rows.annotate(newest=Max("completeness_checks__asked_at"))
    due = (
        newest.filter(Q(newest=None) | Q(newest__lt=before))
        .select_related("source", "company", "workspace")
        .prefetch_related("lanes")
    )
    asked = 0
    for bridge in due:
        if cannot_be_checked(bridge):
            continue
        last = clock.now().astimezone(ZoneInfo(bridge.company.time_zone)).date() - timedelta(days=1)
        # In the first days of a month the one before is looked at as a whole: it is about to be closed.
        ask(bridge, None, first=(last - LOOKS_BACK).replace(day=1), last=last)
        asked += 1
    return asked
