"""Timetables over the changes to and from summer time."""

from __future__ import annotations

from datetime import UTC, datetime, time
from itertools import pairwise

import pytest

from inkwell_bridge.core.timetable import daily, every, next_after

LONDON = "Europe/London"


def utc(*parts: int) -> datetime:
    """A moment in UTC."""
    return datetime(*parts, tzinfo=UTC)  # type: ignore[arg-type, misc]


def test_every_fifteen_minutes_counts_real_time() -> None:
    """Also through the hour that comes twice."""
    start = utc(2026, 10, 25, 0, 0)
    found = [start]
    for _ in range(10):
        found.append(next_after(every(15), found[-1], zone=LONDON, start=start))
    assert {(later - earlier).total_seconds() for earlier, later in pairwise(found)} == {900}


@pytest.mark.parametrize(
    ("after", "coming"),
    [
        (utc(2026, 10, 24, 18, 0), utc(2026, 10, 25, 18, 30)),  # winter time from this day on
        (utc(2026, 10, 24, 17, 0), utc(2026, 10, 24, 17, 30)),  # summer time still
        (utc(2026, 10, 24, 17, 30), utc(2026, 10, 25, 18, 30)),  # not the same moment again
    ],
)
def test_daily_follows_the_wall_clock(after: datetime, coming: datetime) -> None:
    """18:30 in London, whatever that is in UTC."""
    assert next_after(daily(time(18, 30)), after, zone=LONDON, start=utc(2026, 10, 1)) == coming


def test_a_time_that_the_clocks_skip_comes_an_hour_later() -> None:
    """01:30 does not exist on 28 March 2027 in London."""
    found = next_after(daily(time(1, 30)), utc(2027, 3, 27, 12), zone=LONDON, start=utc(2027, 3, 1))
    assert found == utc(2027, 3, 28, 1, 30)


def test_a_time_that_comes_twice_is_taken_once() -> None:
    """01:30 on 25 October 2026: the first of the two, then the next day."""
    first = next_after(daily(time(1, 30)), utc(2026, 10, 24, 12), zone=LONDON, start=utc(2026, 10, 1))
    second = next_after(daily(time(1, 30)), first, zone=LONDON, start=utc(2026, 10, 1))
    assert (first, second) == (utc(2026, 10, 25, 0, 30), utc(2026, 10, 26, 1, 30))


@pytest.mark.parametrize("minutes", [0, -5, 1441])
def test_minutes_out_of_range(minutes: int) -> None:
    """Said with what is expected."""
    with pytest.raises(ValueError, match="expected 1 to 1440 minutes"):
        every(minutes)


def test_a_moment_without_offset_is_refused() -> None:
    """It could be any of twenty-four."""
    with pytest.raises(ValueError, match="offset"):
        next_after(every(5), datetime(2026, 10, 1), zone=LONDON, start=utc(2026, 10, 1))  # noqa: DTZ001


def test_a_rule_that_never_comes_again() -> None:
    """Is said, not waited for."""
    with pytest.raises(ValueError, match="never comes again"):
        next_after("FREQ=DAILY;COUNT=1", utc(2026, 10, 9), zone=LONDON, start=utc(2026, 10, 1))
