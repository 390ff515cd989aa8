"""The moments of a timetable: right over both changes of the clocks, and never one that is past."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta
from itertools import islice
from zoneinfo import ZoneInfo

from dateutil.tz import resolve_imaginary

from inkwell_bridge.core.timetable.timetable import LONGEST_PAUSE, MOST_PAUSES, Times, Timetable

_DAY = timedelta(days=1)
# Pauses one after the other, and a week for the days of the week; after that a time comes.
_MOST_DAYS = MOST_PAUSES * (LONGEST_PAUSE.days + 1) + 8


def next_after(timetable: Timetable, moment: datetime) -> datetime:
    """The first time later than ``moment``, in UTC.

    Times of the day follow the wall clock: one that the change to summer time skips comes as much later, one that comes
    twice is taken once. Every so many minutes counts real time from the day's first: the hour that comes twice has all
    of its times twice, the one that is skipped has none.

    Raises:
        ValueError: the moment does not know its offset from UTC.
    """
    if moment.tzinfo is None:
        raise ValueError("expected a moment that knows its offset from UTC")
    return next(_after(timetable, moment))


def coming(timetable: Timetable, moment: datetime, count: int) -> list[datetime]:
    """The next times later than ``moment``, in UTC."""
    return list(islice(_after(timetable, moment), count))


def _after(timetable: Timetable, moment: datetime) -> Iterator[datetime]:
    local = ZoneInfo(timetable.time_zone)
    # What the clocks skip comes later, perhaps on the next day: so the day before is looked at as well.
    day = moment.astimezone(local).date() - _DAY
    last, idle = moment, 0
    while idle <= _MOST_DAYS:
        idle += 1
        times = timetable.times_of(day)
        if times is not None and times.on(day):
            for found in _of_day(times, day, local):
                if found > last:
                    yield found
                    last, idle = found, 0
        day += _DAY


def _of_day(times: Times, day: date, local: ZoneInfo) -> list[datetime]:
    """The times of one day, the earliest first."""
    if times.every_minutes is None:
        return sorted(_real(day, at, local) for at in times.at)
    step = timedelta(minutes=times.every_minutes)
    if times.between is None:
        first, last = _real(day, time(), local), _real(day + _DAY, time(), local) - timedelta(seconds=1)
    else:
        # Hours that end within the one that comes twice last until its second end.
        first, last = _real(day, times.between.first, local), _real(day, times.between.last, local, fold=1)
    return [first + number * step for number in range((last - first) // step + 1)]


def _real(day: date, at: time, local: ZoneInfo, *, fold: int = 0) -> datetime:
    """The moment in UTC that the clocks show: of two the first (with ``fold`` the second), or as much later as they
    skip it."""
    wall = datetime.combine(day, at, tzinfo=local).replace(fold=fold)
    return resolve_imaginary(wall).astimezone(UTC)
