"""Watching days that have tied: one that ties no longer needs somebody, though nobody looks at it any more."""

from __future__ import annotations

from datetime import date, timedelta
from zoneinfo import ZoneInfo

from inkwell_bridge.core.proof import SETTLED, Reason, Section
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing, DayTotal, Difference
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.completeness.models import Lacking
from inkwell_bridge.service.rows import insert_rows, remove_in_chunks
from inkwell_bridge.service.tieout.at_provider import days_known_to_provider_only
from inkwell_bridge.service.tieout.models import TiedDay
from inkwell_bridge.service.tieout.money_alone import days_with_held

# Two months: what changes in a month that was closed is told of for as long as it is kept.
WATCHED = timedelta(days=62)
# What waits goes on by itself.
_NOT_OPEN = [*(reason.value for reason in SETTLED), Reason.WAITING.value]
Day = tuple[int, date]


def watch() -> int:
    """Bring the days up to date: those that tie for the first time, that tie no longer, and that do so again; answers
    how many changed. Six statements, and one for each kind of change; while nothing changes, nothing is written."""
    since = clock.now().date() - WATCHED
    open_days = _open_days(since)
    bridges = {one.pk: one for one in Bridge.current.select_related("company")}
    known = {(one.bridge_id, one.date): one for one in TiedDay.objects.filter(date__gte=since)}
    rows = DayTotal.objects.filter(date__gte=since).exclude(section=Section.NONE).order_by()
    told = {day for day in rows.values_list("bridge", "date").distinct() if day[0] in bridges}
    new = [
        TiedDay(workspace_id=bridges[bridge].workspace_id, bridge_id=bridge, date=day)
        for bridge, day in told
        if (bridge, day) not in known and (bridge, day) not in open_days and _is_over(day, bridges[bridge])
    ]
    insert_rows(new)
    untied = [one.pk for key, one in known.items() if key in open_days and one.untied_at is None]
    again = [one.pk for key, one in known.items() if key not in open_days and one.untied_at is not None]
    if untied:
        TiedDay.objects.filter(pk__in=untied).update(untied_at=clock.now())
    if again:
        TiedDay.objects.filter(pk__in=again).update(untied_at=None)
    return len(new) + len(untied) + len(again)


def forget() -> int:
    """Forget the days of longer ago than are watched."""
    return remove_in_chunks(TiedDay.objects.filter(date__lt=clock.now().date() - WATCHED))


def _open_days(since: date) -> set[Day]:
    """The days on which a difference is open, a document that is dated then differs, or one is lacking."""
    rows = Difference.objects.filter(date__gte=since).exclude(reason__in=_NOT_OPEN)
    found = set(rows.order_by().values_list("bridge", "date").distinct())
    differing = Crossing.objects.filter(state=CrossingState.DIFFERS, business_date__gte=since)
    found |= days_known_to_provider_only(since)
    found |= days_with_held(since)
    found |= set(differing.order_by().values_list("bridge", "business_date").distinct())
    return found | set(Lacking.objects.filter(date__gte=since).order_by().values_list("bridge", "date").distinct())


def _is_over(day: date, bridge: Bridge) -> bool:
    """Whether nothing of the ordinary comes to it any more: latecomers of a night have had the day after."""
    today = clock.now().astimezone(ZoneInfo(bridge.company.time_zone)).date()
    return day < today - timedelta(days=1)
