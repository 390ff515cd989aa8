"""Timetables as recurrence rules (RFC 5545) in a time zone (IANA)."""

from __future__ import annotations

import re
from datetime import UTC, datetime, time, timedelta, tzinfo
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from dateutil.tz import resolve_imaginary

SHORTEST_MINUTES, LONGEST_MINUTES = 1, 24 * 60
_MINUTES = re.compile(r"FREQ=MINUTELY;INTERVAL=(\d+)")
# Longer than any clock was ever changed by, short of a day that a country left out.
_LOOKED_BACK = timedelta(hours=26)


def every(minutes: int) -> str:
    """The rule of a run every so many minutes.

    Example:
        >>> every(15)
        'FREQ=MINUTELY;INTERVAL=15'
    """
    if not SHORTEST_MINUTES <= minutes <= LONGEST_MINUTES:
        raise ValueError(f"expected {SHORTEST_MINUTES} to {LONGEST_MINUTES} minutes, got {minutes}")
    return f"FREQ=MINUTELY;INTERVAL={minutes}"


def daily(at: time) -> str:
    """The rule of a run every day at a time of the wall clock.

    Example:
        >>> daily(time(18, 30))
        'FREQ=DAILY;BYHOUR=18;BYMINUTE=30;BYSECOND=0'
    """
    return f"FREQ=DAILY;BYHOUR={at.hour};BYMINUTE={at.minute};BYSECOND=0"


def next_after(rule: str, moment: datetime, *, zone: str, start: datetime) -> datetime:
    """The first time of ``rule`` after ``moment``, in UTC; never one that is past.

    Rules of minutes count real time from ``start``. Daily rules follow the wall clock of ``zone``:
    a time that the change to summer time skips comes as much later, one that comes twice is taken once.

    Raises:
        ValueError: the rule is none, or it never comes again.
    """
    if moment.tzinfo is None or start.tzinfo is None:
        raise ValueError("expected moments that know their offset from UTC")
    # A day of minutes is counted in real time, so that neither change of the clocks moves or doubles a run.
    local = UTC if "FREQ=MINUTELY" in rule or "FREQ=HOURLY" in rule else ZoneInfo(zone)
    wall = moment.astimezone(local).replace(tzinfo=None)
    times = rrulestr(rule, dtstart=_near(rule, start.astimezone(local).replace(tzinfo=None), wall))
    # The wall clock goes back once a year, and over what it skips a run is late: only real time tells what is past.
    coming = times.after(wall if local is UTC else wall - _LOOKED_BACK)
    while coming is not None and (found := _real(coming, local)) <= moment:
        coming = times.after(coming)
    if coming is None:
        raise ValueError(f"{rule} never comes again after {moment.isoformat()}")
    return found


def coming(rule: str, first: datetime, *, zone: str, start: datetime, count: int) -> list[datetime]:
    """The times of ``rule`` from ``first`` on, which is one of them, in UTC; fewer than ``count`` where it ends."""
    found = [first]
    while len(found) < count:
        try:
            found.append(next_after(rule, found[-1], zone=zone, start=start))
        except ValueError:
            break
    return found


def in_words(rule: str, zone: str) -> str:
    """When a bridge runs, as people say it.

    Example:
        >>> in_words("FREQ=DAILY;BYHOUR=18;BYMINUTE=30;BYSECOND=0", "Europe/London")
        'daily at 18:30 (Europe/London)'
    """
    parts = dict(part.split("=") for part in rule.split(";"))
    if parts["FREQ"] == "MINUTELY":
        minutes = int(parts["INTERVAL"])
        return "every minute" if minutes == 1 else f"every {minutes} minutes"
    return f"daily at {int(parts['BYHOUR']):02}:{int(parts['BYMINUTE']):02} ({zone})"


def _near(rule: str, start: datetime, wall: datetime) -> datetime:
    """A time of the rule not long before ``wall``, to count from: a timetable of years ago has as many times as it ever
    had, and all of them would be gone through."""
    every = _MINUTES.fullmatch(rule)
    if every:
        step = timedelta(minutes=int(every[1]))
        return start + max((wall - start) // step - 1, 0) * step
    if "FREQ=DAILY" in rule and "INTERVAL" not in rule:
        return start + max((wall - start).days - 3, 0) * timedelta(days=1)
    return start


def _real(wall: datetime, local: tzinfo) -> datetime:
    """The moment in UTC that a wall clock shows: the first of two, or as much later as the clock skips it."""
    return resolve_imaginary(wall.replace(tzinfo=local)).astimezone(UTC)
