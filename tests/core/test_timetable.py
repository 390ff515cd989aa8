"""Timetables over the changes to and from summer time."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo, available_timezones

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.timetable import coming, daily, every, in_words, next_after

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


@pytest.mark.parametrize(("zone", "at", "after", "coming"), [
    # 01:10Z is 01:10 by the clock for the second time: 01:30 was at 00:30Z, and comes again tomorrow.
    (LONDON, time(1, 30), utc(2026, 10, 25, 1, 10), utc(2026, 10, 26, 1, 30)),
    # 01:10Z is 02:10 by the clock, an hour on: 01:30, which was skipped, is made up for at 02:30, still to come.
    (LONDON, time(1, 30), utc(2027, 3, 28, 1, 10), utc(2027, 3, 28, 1, 30)),
    (LONDON, time(1, 30), utc(2027, 3, 28, 1, 30), utc(2027, 3, 29, 0, 30)),
    # Half an hour back at 02:00 (+11:00) on Lord Howe: 01:45 comes at 14:45Z, and once more at 15:15Z.
    ("Australia/Lord_Howe", time(1, 45), utc(2027, 4, 3, 14, 50), utc(2027, 4, 4, 15, 15)),
    # Half past two is skipped in Berlin on 28 March 2027, and comes at 03:30 (+02:00).
    ("Europe/Berlin", time(2, 30), utc(2027, 3, 28, 0, 59), utc(2027, 3, 28, 1, 30)),
])  # fmt: skip
def test_what_is_past_by_real_time_is_never_answered(zone: str, at: time, after: datetime, coming: datetime) -> None:
    """In the hour that comes twice, and in the one that is skipped."""
    assert next_after(daily(at), after, zone=zone, start=utc(2026, 1, 1)) == coming


@settings(max_examples=400, deadline=None)
@given(
    zone=st.sampled_from(sorted(available_timezones())),
    minute=st.integers(0, 24 * 60 - 1),
    after=st.datetimes(datetime(2026, 1, 1), datetime(2036, 1, 1), timezones=st.just(UTC)),  # noqa: DTZ001 given UTC
)
def test_every_day_of_ten_years_has_its_time_once(zone: str, minute: int, after: datetime) -> None:
    """Later than asked, at that time by the wall clock or as much later as it skips, and no day left out."""
    at, start = time(minute // 60, minute % 60), utc(2025, 12, 1)
    first = next_after(daily(at), after, zone=zone, start=start)
    second = next_after(daily(at), first, zone=zone, start=start)
    assert after < first < second
    local = [moment.astimezone(ZoneInfo(zone)) for moment in (first, second)]
    for found in local:
        assert found.time() == at or found.replace(tzinfo=None) - datetime.combine(found.date(), at) <= timedelta(
            hours=2
        )
    assert (local[1].date() - local[0].date()) == timedelta(days=1)


@pytest.mark.parametrize("minutes", [0, -5, 1441])
def test_minutes_out_of_range(minutes: int) -> None:
    """Said with what is expected."""
    with pytest.raises(ValueError, match="expected 1 to 1440 minutes"):
        every(minutes)


def test_a_moment_without_offset_is_refused() -> None:
    """It could be any of twenty-four."""
    with pytest.raises(ValueError, match="offset"):
        next_after(every(5), datetime(2026, 10, 1), zone=LONDON, start=utc(2026, 10, 1))  # noqa: DTZ001


def test_the_next_times_and_what_people_call_them() -> None:
    """Over the end of summer time: half past six by the clocks of London is an hour later by UTC from 25 October on."""
    rule = daily(time(18, 30))
    first = utc(2026, 10, 23, 17, 30)
    times = coming(rule, first, zone=LONDON, start=first, count=4)
    assert times == [first, utc(2026, 10, 24, 17, 30), utc(2026, 10, 25, 18, 30), utc(2026, 10, 26, 18, 30)]
    assert in_words(rule, LONDON) == "daily at 18:30 (Europe/London)"
    assert (in_words(every(1), LONDON), in_words(every(15), LONDON)) == ("every minute", "every 15 minutes")
    ends = "FREQ=DAILY;COUNT=2;BYHOUR=17;BYMINUTE=30;BYSECOND=0"
    assert len(coming(ends, first, zone="UTC", start=first, count=10)) == 2


def test_a_rule_that_never_comes_again() -> None:
    """Is said, not waited for."""
    with pytest.raises(ValueError, match="never comes again"):
        next_after("FREQ=DAILY;COUNT=1", utc(2026, 10, 9), zone=LONDON, start=utc(2026, 10, 1))
