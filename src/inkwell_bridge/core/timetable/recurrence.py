"""Timetables as recurrence rules (RFC 5545) in a time zone (IANA)."""

from __future__ import annotations

from datetime import UTC, datetime, time
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr
from dateutil.tz import resolve_imaginary

SHORTEST_MINUTES, LONGEST_MINUTES = 1, 24 * 60


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
    """The first time of ``rule`` after ``moment``, in UTC.

    Rules of minutes count real time from ``start``. Daily rules follow the wall clock of ``zone``:
    a time that the change to summer time skips comes as much later, one that comes twice is taken once.

    Raises:
        ValueError: the rule is none, or it never comes again.
    """
    if moment.tzinfo is None or start.tzinfo is None:
        raise ValueError("expected moments that know their offset from UTC")
    local = UTC if "FREQ=MINUTELY" in rule or "FREQ=HOURLY" in rule else ZoneInfo(zone)
    begin = start.astimezone(local).replace(tzinfo=None)
    after = moment.astimezone(local).replace(tzinfo=None)
    coming = rrulestr(rule, dtstart=begin).after(after)
    if coming is None:
        raise ValueError(f"{rule} never comes again after {moment.isoformat()}")
    return resolve_imaginary(coming.replace(tzinfo=local)).astimezone(UTC)
