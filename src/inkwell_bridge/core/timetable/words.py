"""A timetable in words, both ways: what is said of it can be typed in again, and means the same.

every 15 minutes between 08:00 and 18:30 on weekdays; from 20 November 2026 to 31 December 2026 every 5 minutes;
not from 25 December 2026 to 26 December 2026
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, time

from pydantic import ValidationError

from inkwell_bridge.core.timetable.rules import why
from inkwell_bridge.core.timetable.timetable import WEEKDAYS, Days, Hours, Season, Times, Timetable

LONGEST_WORDS = 4000
EXAMPLES = "every 15 minutes; every hour between 08:00 and 18:00 on weekdays; daily at 06:00 and 18:30"
_MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
           "December")  # fmt: skip
_ALL_DAY = "every day of the week"


def in_words(timetable: Timetable) -> str:
    """When a bridge runs, as people say it; with its time zone wherever that matters.

    Example:
        >>> in_words(Timetable(time_zone="Europe/London", times=Times(at=(time(18, 30),))))
        'daily at 18:30 (Europe/London)'
    """
    said = _times_said(timetable.times)
    said += "".join(f"; {_days_said(season.days)} {_times_said(season.times)}" for season in timetable.seasons)
    said += "".join(f"; not {_days_said(pause)}" for pause in timetable.pauses)
    only_minutes = re.fullmatch(r"every (hour|minute|\d+ (minutes|hours))", said)
    return said if only_minutes else f"{said} ({timetable.time_zone})"


def from_words(said: str, zone: str) -> Timetable:
    """The timetable that words tell; a time zone in brackets at their end goes before ``zone``.

    Raises:
        ValueError: with what was not understood, and how it may be said.
    """
    if len(said) > LONGEST_WORDS:
        raise ValueError(f"a timetable of at most {LONGEST_WORDS} characters")
    text = " ".join(said.split())
    if named := re.fullmatch(r"(.*) ?\(([\w/+-]+)\)", text):
        text, zone = named[1], named[2]
    ordinary, *others = (clause.strip() for clause in text.split(";"))
    seasons, pauses = [], []
    for clause in filter(None, others):
        days, rest, pause = _days_and_rest(clause)
        if pause:
            pauses.append(days)
        else:
            seasons.append(Season(days=days, times=_times(rest)))
    try:
        return Timetable(time_zone=zone, times=_times(ordinary), seasons=tuple(seasons), pauses=tuple(pauses))
    except ValidationError as error:
        raise ValueError(f"Expected {why(error)}.") from error


def _times_said(times: Times) -> str:
    if times.every_minutes is None:
        on_days = "" if times.weekdays else "daily "
        said = f"{on_days}at {_listed([f'{at:%H:%M}' for at in times.at])}"
    else:
        said = _every_said(times.every_minutes)
    if times.between:
        said += f" between {times.between.first:%H:%M} and {times.between.last:%H:%M}"
    return f"{said} on {_weekdays_said(times.weekdays)}" if times.weekdays else said


def _every_said(minutes: int) -> str:
    number, unit = (minutes // 60, "hour") if minutes % 60 == 0 else (minutes, "minute")
    return f"every {unit}" if number == 1 else f"every {number} {unit}s"


def _weekdays_said(days: Sequence[int]) -> str:
    named = {(0, 1, 2, 3, 4): "weekdays", (5, 6): "weekends"}.get(tuple(days))
    return named or _listed([WEEKDAYS[day] for day in days])


def _days_said(days: Days) -> str:
    return f"on {_day_said(days.first)}" if days.first == days.last else (
        f"from {_day_said(days.first)} to {_day_said(days.last)}"
    )  # fmt: skip


def _day_said(day: date) -> str:
    return f"{day.day} {_MONTHS[day.month - 1]} {day.year}"


def _listed(names: Sequence[str]) -> str:
    *most, last = names
    return f"{', '.join(most)} and {last}" if most else last


_DAY = r"(?:\d{4}-\d\d-\d\d|\d{1,2} [A-Za-z]{3,9} \d{4})"
_CLAUSE = re.compile(
    rf"(?P<pause>(?:not|paused|except) )?(?:from (?P<first>{_DAY}) (?:to|until) (?P<last>{_DAY})|on (?P<only>{_DAY}))"
    r"[,:]?(?: (?P<rest>.+))?", re.IGNORECASE,
)  # fmt: skip
_AT = r"\S+(?: [ap]m)?"
_TIMES = re.compile(
    r"(?:every (?P<number>\d{1,4})? ?(?P<unit>minutes?|mins?|m|hours?|h)|(?P<hourly>hourly)"
    r"|(?:daily |every day )?at (?P<at>[\d:.apm, and]+?))"
    rf"(?: (?:between (?P<from>{_AT}) and|from (?P<from2>{_AT}) to) (?P<to>{_AT}))?"
    r"(?: (?:only )?on (?P<days>[a-z, ]+?))?", re.IGNORECASE,
)  # fmt: skip
_TIME = re.compile(r"(\d{1,2})(?:[:.](\d\d))? ?(am|pm)?", re.IGNORECASE)


def _days_and_rest(clause: str) -> tuple[Days, str, bool]:
    found = _CLAUSE.fullmatch(clause)
    if not found or bool(found["pause"]) == bool(found["rest"]):
        raise _not_understood(
            clause, "from 20 November 2026 to 31 December 2026 every 5 minutes, or not from 25 December 2026 to "
            "26 December 2026"
        )  # fmt: skip
    first = _day(found["first"] or found["only"])
    last = _day(found["last"]) if found["last"] else first
    try:
        return Days(first=first, last=last), found["rest"] or "", bool(found["pause"])
    except ValidationError as error:
        raise ValueError(f"Expected {why(error)}.") from error


def _times(said: str) -> Times:
    found = _TIMES.fullmatch(said.strip())
    if not found:
        raise _not_understood(said, EXAMPLES)
    begins = found["from"] or found["from2"]
    days = tuple(_weekdays(found["days"])) if found["days"] else ()
    at = tuple(_time(one) for one in re.split(r", and |, | and |,", found["at"])) if found["at"] else ()
    try:
        hours = Hours(first=_time(begins), last=_time(found["to"])) if begins else None
        return Times(every_minutes=None if at else _minutes(found), between=hours, at=at, weekdays=days)
    except ValidationError as error:
        raise ValueError(f"Expected {why(error)}.") from error


def _minutes(found: re.Match[str]) -> int:
    number = int(found["number"] or 1)
    return number * (60 if found["hourly"] or found["unit"].lower().startswith("h") else 1)


def _time(said: str) -> time:
    found = _TIME.fullmatch(said.strip())
    if not found:
        raise _not_understood(said, "a time such as 18:30")
    hour, minute, half = int(found[1]), int(found[2] or 0), (found[3] or "").lower()
    if half:
        # Twelve comes first in each half of the day.
        hour = hour % 12 + (12 if half == "pm" else 0) if 1 <= hour <= 12 else 99
    if hour > 23 or minute > 59:
        raise _not_understood(said, "a time such as 18:30")
    return time(hour, minute)


def _weekdays(said: str) -> list[int]:
    text = said.strip().lower()
    groups = {"weekdays": range(5), "working days": range(5), "weekends": range(5, 7), _ALL_DAY: range(7)}
    if text in groups:
        return list(groups[text])
    if spread := re.fullmatch(r"([a-z]+) to ([a-z]+)", text):
        first, last = _weekday(spread[1]), _weekday(spread[2])
        return [(first + number) % 7 for number in range((last - first) % 7 + 1)]
    return [_weekday(one) for one in re.split(r", and |, | and |,", text)]


def _weekday(said: str) -> int:
    name = said.strip().lower().removesuffix("s") if len(said) > 4 else said.strip().lower()
    hits = [place for place, day in enumerate(WEEKDAYS) if len(name) >= 3 and day.lower().startswith(name)]
    if len(hits) != 1:
        raise _not_understood(said, "days such as Monday, or weekdays, or Monday to Friday")
    return hits[0]


def _day(said: str) -> date:
    try:
        if "-" in said:
            return date.fromisoformat(said)
        day, month, year = said.split()
        months = [number for number, name in enumerate(_MONTHS, 1) if name.lower().startswith(month.lower())]
        return date(int(year), months[0] if len(months) == 1 else 0, int(day))
    except ValueError as error:
        raise _not_understood(said, "a day such as 24 December 2026 or 2026-12-24") from error


def _not_understood(said: str, example: str) -> ValueError:
    return ValueError(f"“{said[:80]}” was not understood. It may be said like this: {example}.")
