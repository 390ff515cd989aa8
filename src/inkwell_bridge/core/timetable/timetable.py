"""When a bridge, or one of its lanes, runs by itself: in fields, as people set it up."""

from __future__ import annotations

from datetime import date, time, timedelta
from typing import Annotated, Self
from zoneinfo import ZoneInfo

from pydantic import AfterValidator, Field, model_validator

from inkwell_bridge.core.values import FIRST_YEAR, LAST_YEAR, Value

DAY_MINUTES = 24 * 60
MOST_TIMES, MOST_SEASONS, MOST_PAUSES = 24, 10, 20
# A pause that nobody ends is a switch, and a bridge has one of its own.
LONGEST_PAUSE = timedelta(days=366)
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def _a_zone(name: str) -> str:
    """The name itself.

    Raises:
        ValueError: it is no time zone of IANA's.
    """
    try:
        ZoneInfo(name)
    except (KeyError, ValueError, OSError) as error:
        raise ValueError("a time zone, such as Europe/London") from error
    return name


def _a_part_of_a_day(minutes: int) -> int:
    """Times are counted anew each day, so that they are the same every day; 7 minutes would leave a gap at midnight."""
    if DAY_MINUTES % minutes:
        below, above = (
            next(near for near in steps if DAY_MINUTES % near == 0)
            for steps in (range(minutes, 0, -1), range(minutes, DAY_MINUTES + 1))
        )
        raise ValueError(f"minutes that go evenly into a day: {below} or {above} instead of {minutes}")
    return minutes


def _a_minute(at: time) -> time:
    if at.second or at.microsecond or at.tzinfo:
        raise ValueError("a time of hours and minutes, such as 18:30")
    return at


def _of_our_time(day: date) -> date:
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise ValueError(f"a day from {FIRST_YEAR} to {LAST_YEAR}")
    return day


Zone = Annotated[str, Field(min_length=1, max_length=60), AfterValidator(_a_zone)]
Minute = Annotated[time, AfterValidator(_a_minute)]
Minutes = Annotated[int, Field(ge=1, le=DAY_MINUTES), AfterValidator(_a_part_of_a_day)]
Day = Annotated[date, AfterValidator(_of_our_time)]
Weekday = Annotated[int, Field(ge=0, le=6, description="0 is Monday, 6 is Sunday.")]


class Days(Value):
    """From a day to a day, both among them."""

    first: Day
    last: Day

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.last < self.first:
            raise ValueError(f"a last day that is not before the first: {self.first} comes after {self.last}")
        return self

    def __contains__(self, day: date) -> bool:
        return self.first <= day <= self.last


class Hours(Value):
    """From a time to a time of one day, both among them."""

    first: Minute
    last: Minute

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.last <= self.first:
            raise ValueError("hours of one day, the later time last, such as 08:00 to 18:30")
        return self


class Times(Value):
    """The times of a day: every so many minutes, all day or within hours, or at certain times; on all days of the
    week, or on some.

    Every so many minutes is counted from the first of the hours, or from midnight.
    """

    every_minutes: Minutes | None = None
    between: Hours | None = None
    at: Annotated[tuple[Minute, ...], Field(max_length=MOST_TIMES)] = ()
    weekdays: Annotated[tuple[Weekday, ...], Field(max_length=7)] = ()

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.every_minutes is None) == (not self.at):
            raise ValueError("either every so many minutes, or times of the day")
        if self.between and self.at:
            raise ValueError("hours only beside every so many minutes")
        # One way to write the same: in order, each once, and all seven days are no restriction.
        object.__setattr__(self, "at", tuple(sorted(set(self.at))))
        days = tuple(sorted(set(self.weekdays)))
        object.__setattr__(self, "weekdays", () if len(days) == len(WEEKDAYS) else days)
        return self

    def on(self, day: date) -> bool:
        """Whether a day is one of its days of the week."""
        return not self.weekdays or day.weekday() in self.weekdays


class Season(Value):
    """Days on which other times go instead of the ordinary ones."""

    days: Days
    times: Times


class Timetable(Value):
    """The ordinary times, those of seasons, and pauses, by the clocks of a time zone.

    Of seasons that overlap the one that is named last counts.
    """

    time_zone: Zone
    times: Times
    seasons: Annotated[tuple[Season, ...], Field(max_length=MOST_SEASONS)] = ()
    pauses: Annotated[tuple[Days, ...], Field(max_length=MOST_PAUSES)] = ()

    @model_validator(mode="after")
    def _short_pauses(self) -> Self:
        for pause in self.pauses:
            if pause.last - pause.first > LONGEST_PAUSE:
                raise ValueError(f"pauses of a year at most; {pause.first} to {pause.last} is longer")
        return self

    def times_of(self, day: date) -> Times | None:
        """The times that hold on a day, whatever day of the week it is; nothing in a pause."""
        if any(day in pause for pause in self.pauses):
            return None
        return next((season.times for season in reversed(self.seasons) if day in season.days), self.times)
