"""A timetable as text of RFC 5545 (iCalendar): recurrence rules, the days of seasons, and pauses.

    RRULE:FREQ=DAILY;BYDAY=MO,TU,WE,TH,FR;BYHOUR=18;BYMINUTE=30;BYSECOND=0
    DTSTART:20261120T000000
    RRULE:FREQ=MINUTELY;INTERVAL=15;BYHOUR=8,9,10,11;UNTIL=20261231T235959
    FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20261224T000000Z/20261228T000000Z

Rules before any DTSTART are the ordinary times; a DTSTART begins a season, which lasts until its rules' UNTIL and
replaces the ordinary times meanwhile. FREEBUSY is a pause, in UTC, as the standard has it. All else is by the clocks of
the time zone that is kept beside the text. One rule alone stands without its name.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from datetime import UTC, date, datetime, time, timedelta
from itertools import groupby
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from inkwell_bridge.core.timetable.timetable import DAY_MINUTES, Days, Hours, Season, Times, Timetable

LONGEST_RULE = 8000
_BYDAY = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
_WALL, _UTC = "%Y%m%dT%H%M%S", "%Y%m%dT%H%M%SZ"
_FREEBUSY = "FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:"
_PARTS = frozenset({"FREQ", "INTERVAL", "BYDAY", "BYHOUR", "BYMINUTE", "BYSECOND", "UNTIL"})
_MOST_LINES = 400
_EXAMPLE = datetime(2026, 11, 20, tzinfo=UTC)


def to_rule(timetable: Timetable) -> str:
    """The text of a timetable, always the same for the same; its time zone is not in it.

    Example:
        >>> to_rule(Timetable(time_zone="UTC", times=Times(every_minutes=15)))
        'FREQ=MINUTELY;INTERVAL=15'
    """
    lines = [f"RRULE:{rule}" for rule in _rules(timetable.times, "")]
    for season in timetable.seasons:
        lines.append(f"DTSTART:{datetime.combine(season.days.first, time()).strftime(_WALL)}")
        until = datetime.combine(season.days.last, time(23, 59, 59)).strftime(_WALL)
        lines += [f"RRULE:{rule}" for rule in _rules(season.times, f";UNTIL={until}")]
    local = ZoneInfo(timetable.time_zone)
    for pause in timetable.pauses:
        begins, ends = (_midnight(day, local) for day in (pause.first, pause.last + timedelta(days=1)))
        lines.append(f"{_FREEBUSY}{begins}/{ends}")
    return lines[0].removeprefix("RRULE:") if len(lines) == 1 else "\n".join(lines)


def from_rule(text: str, zone: str) -> Timetable:
    """The timetable that a text of :func:`to_rule` tells.

    Raises:
        ValueError: with what was expected; not everything that the standard allows is a timetable of ours.
    """
    if len(text) > LONGEST_RULE:
        raise ValueError(f"a rule of at most {LONGEST_RULE} characters")
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > _MOST_LINES:
        raise ValueError(f"a rule of at most {_MOST_LINES} lines")
    # A list of rules for each season, the ordinary ones first.
    starts: list[date] = []
    rules: list[list[dict[str, str]]] = [[]]
    pauses: list[Days] = []
    for line in lines:
        if line.startswith(_FREEBUSY):
            pauses.append(_pause(line.removeprefix(_FREEBUSY), zone))
        elif line.startswith("DTSTART:"):
            starts.append(_moment(line.removeprefix("DTSTART:"), _WALL).date())
            rules.append([])
        else:
            rules[-1].append(_parts(line.removeprefix("RRULE:")))
    try:
        seasons = tuple(_season(first, of_season) for first, of_season in zip(starts, rules[1:], strict=True))
        return Timetable(time_zone=zone, times=_times(rules[0]), seasons=seasons, pauses=tuple(pauses))
    except ValidationError as error:
        raise ValueError(why(error)) from error


def why(error: ValidationError) -> str:
    """What was expected where a timetable is none, as a person reads it."""
    return str(error.errors(include_url=False)[0]["msg"]).removeprefix("Value error, ")


def _rules(times: Times, until: str) -> Iterator[str]:
    days = f";BYDAY={','.join(_BYDAY[day] for day in times.weekdays)}" if times.weekdays else ""
    if times.every_minutes is None:
        # Times of the same minute are one rule: 06:00 and 18:00, but not 06:00 and 18:30.
        by_minute = sorted(times.at, key=lambda at: (at.minute, at.hour))
        for minute, of_minute in groupby(by_minute, key=lambda at: at.minute):
            hours = ",".join(str(at.hour) for at in of_minute)
            yield f"FREQ=DAILY{days};BYHOUR={hours};BYMINUTE={minute};BYSECOND=0{until}"
        return
    for within in _within(times.between):
        yield f"FREQ=MINUTELY;INTERVAL={times.every_minutes}{days}{within}{until}"


def _within(hours: Hours | None) -> Iterator[str]:
    """The parts of a rule that keep it within hours: whole hours, and those of which only some minutes are among
    them."""
    if hours is None:
        yield ""
        return
    minutes: dict[int, list[int]] = {}
    for minute in range(_minute_of_day(hours.first), _minute_of_day(hours.last) + 1):
        minutes.setdefault(minute // 60, []).append(minute % 60)
    for those, group in groupby(minutes.items(), key=lambda hour: hour[1]):
        named = "" if len(those) == 60 else f";BYMINUTE={','.join(map(str, those))}"
        yield f";BYHOUR={','.join(str(hour) for hour, _ in group)}{named}"


def _minute_of_day(at: time) -> int:
    return 60 * at.hour + at.minute


def _parts(rule: str) -> dict[str, str]:
    found: dict[str, str] = {}
    for part in rule.split(";"):
        name, equals, value = part.partition("=")
        if name not in _PARTS or not equals or name in found:
            raise ValueError(f"a recurrence rule of {', '.join(sorted(_PARTS))}, each once; got {part[:40]!r}")
        found[name] = value
    if found.get("FREQ") not in ("MINUTELY", "DAILY"):
        raise ValueError("FREQ=MINUTELY or FREQ=DAILY")
    return found


def _season(first: date, rules: list[dict[str, str]]) -> Season:
    untils = {rule.get("UNTIL", "") for rule in rules}
    if len(untils) != 1:
        raise ValueError("rules of one season that end on one day, as UNTIL=20261231T235959")
    return Season(days=Days(first=first, last=_moment(untils.pop(), _WALL).date()), times=_times(rules))


def _times(rules: list[dict[str, str]]) -> Times:
    """What rules that belong together say: each allows some of the minutes of a day."""
    if not rules:
        raise ValueError("at least one recurrence rule for the ordinary times")
    first = rules[0]
    if any((rule["FREQ"], rule.get("BYDAY")) != (first["FREQ"], first.get("BYDAY")) for rule in rules):
        raise ValueError("rules of one kind and of the same days of the week")
    weekdays = tuple(_weekdays(first.get("BYDAY")))
    allowed = sorted({minute for rule in rules for minute in _minutes(rule)})
    if first["FREQ"] == "DAILY":
        if any("INTERVAL" in rule for rule in rules):
            raise ValueError("every day, or days of the week by BYDAY, and no INTERVAL of days")
        return Times(at=tuple(time(minute // 60, minute % 60) for minute in allowed), weekdays=weekdays)
    intervals = {rule.get("INTERVAL", "1") for rule in rules}
    if len(intervals) != 1:
        raise ValueError("one INTERVAL for all rules that belong together")
    if len(allowed) == DAY_MINUTES:
        between = None
    elif allowed[-1] - allowed[0] == len(allowed) - 1:
        begins, ends = (time(minute // 60, minute % 60) for minute in (allowed[0], allowed[-1]))
        between = Hours(first=begins, last=ends)
    else:
        raise ValueError("hours of the day that follow each other, without a gap")
    return Times(every_minutes=_number(intervals.pop(), DAY_MINUTES), between=between, weekdays=weekdays)


def _weekdays(said: str | None) -> Iterator[int]:
    for name in said.split(",") if said else ():
        if name not in _BYDAY:
            raise ValueError(f"days of the week among {', '.join(_BYDAY)}; got {name[:10]!r}")
        yield _BYDAY.index(name)


def _minutes(rule: dict[str, str]) -> Iterable[int]:
    if rule["FREQ"] == "DAILY" and not {"BYHOUR", "BYMINUTE"} <= set(rule):
        raise ValueError("a time of the day by BYHOUR and BYMINUTE")
    hours = _numbers(rule.get("BYHOUR"), 23)
    minutes = _numbers(rule.get("BYMINUTE"), 59)
    if rule.get("BYSECOND", "0") != "0":
        raise ValueError("whole minutes: BYSECOND=0")
    return (60 * hour + minute for hour in hours for minute in minutes)


def _numbers(said: str | None, most: int) -> list[int]:
    return [_number(one, most) for one in said.split(",")] if said else list(range(most + 1))


def _number(said: str, most: int) -> int:
    if not re.fullmatch(r"[0-9]{1,4}", said) or int(said) > most:
        raise ValueError(f"a number up to {most}; got {said[:10]!r}")
    return int(said)


def _moment(said: str, form: str) -> datetime:
    try:
        found = datetime.strptime(said, form)  # noqa: DTZ007 the zone stands beside the text, or is UTC
    except ValueError as error:
        raise ValueError(f"a moment such as {_EXAMPLE.strftime(form)}; got {said[:30]!r}") from error
    # As days are bounded, and a day more for where it is another day in UTC.
    if not 1899 <= found.year <= 2201:
        raise ValueError(f"a moment from 1900 to 2200; got {said[:30]!r}")
    return found


def _midnight(day: date, local: ZoneInfo) -> str:
    return datetime.combine(day, time(), tzinfo=local).astimezone(UTC).strftime(_UTC)


def _pause(period: str, zone: str) -> Days:
    begins, _, ends = period.partition("/")
    local = ZoneInfo(zone)
    first, after = (_moment(said, _UTC).replace(tzinfo=UTC) for said in (begins, ends))
    # By the clocks a day may begin at one o'clock, where they go forward at midnight; the day before ends a second
    # before that in UTC, not on the wall.
    last = after - timedelta(seconds=1)
    return Days(first=first.astimezone(local).date(), last=last.astimezone(local).date())
