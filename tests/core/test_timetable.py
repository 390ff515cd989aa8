"""Timetables: their moments over the changes of the clocks, their rules of RFC 5545, and their words."""

from __future__ import annotations

from contextlib import suppress
from datetime import UTC, date, datetime, time, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo, available_timezones

import pytest
from dateutil.rrule import rrulestr
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from inkwell_bridge.core.timetable import (
    Days,
    Hours,
    Season,
    Times,
    Timetable,
    coming,
    from_rule,
    from_words,
    in_words,
    next_after,
    to_rule,
)

LONDON = "Europe/London"
IN_A_DAY = [minutes for minutes in range(1, 1441) if 1440 % minutes == 0]
ZONES = sorted(available_timezones())


def utc(*parts: int) -> datetime:
    """A moment in UTC."""
    return datetime(*parts, tzinfo=UTC)  # type: ignore[arg-type, misc]


def daily(at: time, zone: str = LONDON) -> Timetable:
    """Every day at a time."""
    return Timetable(time_zone=zone, times=Times(at=(at,)))


def every(minutes: int, zone: str = LONDON) -> Timetable:
    """Every so many minutes."""
    return Timetable(time_zone=zone, times=Times(every_minutes=minutes))


def days(first: date, last: date) -> Days:
    """From one to the other."""
    return Days(first=first, last=last)


# -- both changes of the clocks ----------------------------------------------------------------------------------------


def test_every_fifteen_minutes_counts_real_time() -> None:
    """Also through the hour that comes twice: a day of 25 hours has a hundred of them."""
    found = coming(every(15), utc(2026, 10, 24, 22, 59), 101)
    assert {(later - earlier).total_seconds() for earlier, later in pairwise(found)} == {900}
    assert (found[0], found[-1]) == (utc(2026, 10, 24, 23, 0), utc(2026, 10, 26, 0, 0))


def test_an_hour_that_is_skipped_has_no_times() -> None:
    """On 28 March 2027 the clocks of London go from 01:00 to 02:00: every half-hour goes on, in real time."""
    found = coming(every(30), utc(2027, 3, 28, 0, 15), 3)
    assert [f"{one.astimezone(ZoneInfo(LONDON)):%H:%M}" for one in found] == ["00:30", "02:00", "02:30"]


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
    assert next_after(daily(time(18, 30)), after) == coming


@pytest.mark.parametrize(("zone", "at", "after", "coming"), [
    # 01:30 does not exist on 28 March 2027 in London, and comes an hour later.
    (LONDON, time(1, 30), utc(2027, 3, 27, 12), utc(2027, 3, 28, 1, 30)),
    # 01:30 on 25 October 2026: the first of the two, then the next day.
    (LONDON, time(1, 30), utc(2026, 10, 24, 12), utc(2026, 10, 25, 0, 30)),
    (LONDON, time(1, 30), utc(2026, 10, 25, 0, 30), utc(2026, 10, 26, 1, 30)),
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
    assert next_after(daily(at, zone), after) == coming


@settings(max_examples=400, deadline=None)
@given(
    zone=st.sampled_from(ZONES),
    minute=st.integers(0, 24 * 60 - 1),
    after=st.datetimes(datetime(2026, 1, 1), datetime(2036, 1, 1), timezones=st.just(UTC)),  # noqa: DTZ001 given UTC
)
def test_every_day_of_ten_years_has_its_time_once(zone: str, minute: int, after: datetime) -> None:
    """Later than asked, at that time by the wall clock or as much later as it skips, and no day left out."""
    at = time(minute // 60, minute % 60)
    first, second = coming(daily(at, zone), after, 2)
    assert after < first < second
    local = [moment.astimezone(ZoneInfo(zone)) for moment in (first, second)]
    for found in local:
        assert found.time() == at or found.replace(tzinfo=None) - datetime.combine(found.date(), at) <= timedelta(
            hours=2
        )
    assert (local[1].date() - local[0].date()) == timedelta(days=1)


@settings(max_examples=300, deadline=None)
@given(
    zone=st.sampled_from(ZONES),
    minutes=st.sampled_from(IN_A_DAY),
    after=st.datetimes(datetime(2026, 1, 1), datetime(2036, 1, 1), timezones=st.just(UTC)),  # noqa: DTZ001 given UTC
)
def test_no_gap_is_longer_than_asked_and_no_two_are_closer(zone: str, minutes: int, after: datetime) -> None:
    """Every so many minutes all day, in real time. Only where a day of another length begins anew may a gap be shorter,
    or longer by what the clocks went back."""
    found = [after, *coming(every(minutes, zone), after, 40)]
    for earlier, later in pairwise(found[1:]):
        gap, local = later - earlier, later.astimezone(ZoneInfo(zone))
        begins_anew = (local.hour, local.minute) <= (2, 0) and earlier.astimezone(ZoneInfo(zone)).date() != local.date()
        assert gap == timedelta(minutes=minutes) or (begins_anew and gap <= timedelta(minutes=minutes + 120)), local
    assert after < found[1]


# -- hours, days of the week, seasons, pauses --------------------------------------------------------------------------


def wall(timetable: Timetable, after: datetime, count: int) -> list[str]:
    """The next times as the clocks show them."""
    zone = ZoneInfo(timetable.time_zone)
    return [f"{one.astimezone(zone):%a %d %b %H:%M}" for one in coming(timetable, after, count)]


def test_only_within_hours_on_weekdays() -> None:
    """From Friday evening to Monday morning; the first and the last of the hours are among the times."""
    office = Times(every_minutes=240, between=Hours(first=time(8, 30), last=time(16, 30)), weekdays=(0, 1, 2, 3, 4))
    found = wall(Timetable(time_zone=LONDON, times=office), utc(2026, 11, 27, 12, 0), 4)
    assert found == ["Fri 27 Nov 12:30", "Fri 27 Nov 16:30", "Mon 30 Nov 08:30", "Mon 30 Nov 12:30"]


def test_a_season_goes_instead_and_a_pause_goes_before_it() -> None:
    """Daily but for the peak, when it is every eight hours; nothing on Christmas Day."""
    peak = Season(days=days(date(2026, 12, 24), date(2026, 12, 26)), times=Times(every_minutes=480))
    table = Timetable(
        time_zone=LONDON, times=Times(at=(time(18),)), seasons=(peak,),
        pauses=(days(date(2026, 12, 25), date(2026, 12, 25)),),
    )  # fmt: skip
    assert wall(table, utc(2026, 12, 23, 12), 9) == [
        "Wed 23 Dec 18:00", "Thu 24 Dec 00:00", "Thu 24 Dec 08:00", "Thu 24 Dec 16:00",
        "Sat 26 Dec 00:00", "Sat 26 Dec 08:00", "Sat 26 Dec 16:00", "Sun 27 Dec 18:00", "Mon 28 Dec 18:00",
    ]  # fmt: skip


def test_of_seasons_that_overlap_the_last_named_counts() -> None:
    """A day of its own within a season."""
    season = Season(days=days(date(2026, 11, 1), date(2026, 11, 30)), times=Times(at=(time(12),)))
    friday = Season(days=days(date(2026, 11, 27), date(2026, 11, 27)), times=Times(at=(time(6), time(9))))
    table = Timetable(time_zone="UTC", times=Times(at=(time(18),)), seasons=(season, friday))
    assert wall(table, utc(2026, 11, 26, 13), 3) == ["Fri 27 Nov 06:00", "Fri 27 Nov 09:00", "Sat 28 Nov 12:00"]


def test_a_long_line_of_pauses_ends() -> None:
    """Twenty years of pauses: the next time comes after them."""
    pauses = tuple(days(date(year, 1, 1), date(year, 12, 31)) for year in range(2027, 2047))
    table = Timetable(time_zone="UTC", times=Times(at=(time(18),), weekdays=(6,)), pauses=pauses)
    assert next_after(table, utc(2026, 12, 31)) == utc(2047, 1, 6, 18)


def test_hours_that_end_in_the_hour_that_comes_twice_last_until_its_second_end() -> None:
    """23:00 to 01:30 is no day's hours; 00:30 to 01:30 on 25 October 2026 lasts two hours."""
    table = Timetable(
        time_zone=LONDON, times=Times(every_minutes=30, between=Hours(first=time(0, 30), last=time(1, 30)))
    )
    found = coming(table, utc(2026, 10, 24, 23, 0), 6)
    assert found == [utc(2026, 10, 24, 23, 30), *(utc(2026, 10, 25) + timedelta(minutes=30 * n) for n in range(4)),
                     utc(2026, 10, 26, 0, 30)]  # fmt: skip


@pytest.mark.parametrize(("fields", "expected"), [
    ({"every_minutes": 7}, "6 or 8 instead of 7"),
    ({"every_minutes": 0}, "greater than or equal to 1"),
    ({"every_minutes": 1441}, "less than or equal to 1440"),
    ({}, "either every so many minutes, or times of the day"),
    ({"every_minutes": 5, "at": ["18:30"]}, "either every so many minutes, or times of the day"),
    ({"at": ["18:30"], "between": {"first": "08:00", "last": "18:00"}}, "hours only beside"),
    ({"every_minutes": 5, "between": {"first": "18:00", "last": "08:00"}}, "the later time last"),
    ({"at": ["18:30:20"]}, "a time of hours and minutes"),
    ({"at": ["18:30"], "weekdays": [7]}, "less than or equal to 6"),
])  # fmt: skip
def test_what_is_no_timetable(fields: dict[str, object], expected: str) -> None:
    """Said with what is expected."""
    with pytest.raises(ValidationError, match=expected):
        Times.model_validate(fields)


def test_a_moment_without_offset_is_refused() -> None:
    """It could be any of twenty-four."""
    with pytest.raises(ValueError, match="offset"):
        next_after(every(5), datetime(2026, 10, 1))  # noqa: DTZ001


# -- as rules of RFC 5545 ----------------------------------------------------------------------------------------------

some_times = st.times().map(lambda at: at.replace(second=0, microsecond=0))
some_days = st.tuples(st.dates(date(2026, 1, 1), date(2030, 1, 1)), st.integers(0, 300)).map(
    lambda pair: days(pair[0], pair[0] + timedelta(days=pair[1]))
)
weekdays = st.sets(st.integers(0, 6)).map(tuple)
hours = (
    st.tuples(some_times, some_times).filter(lambda pair: pair[0] < pair[1]).map(lambda p: Hours(first=p[0], last=p[1]))
)
times = st.one_of(
    st.builds(Times, every_minutes=st.sampled_from(IN_A_DAY), between=st.none() | hours, weekdays=weekdays),
    st.builds(Times, at=st.sets(some_times, min_size=1, max_size=5).map(tuple), weekdays=weekdays),
)
timetables = st.builds(
    Timetable,
    time_zone=st.sampled_from(ZONES),
    times=times,
    seasons=st.lists(st.builds(Season, days=some_days, times=times), max_size=3).map(tuple),
    pauses=st.lists(some_days, max_size=3).map(tuple),
)
whole_day = Hours(first=time(0), last=time(23, 59))


def test_a_pause_that_ends_where_the_clocks_go_forward_at_midnight() -> None:
    """In Chile the third of September 2028 begins at one o'clock: a pause up to the second is read as just that."""
    pause = Days(first=date(2028, 3, 1), last=date(2028, 9, 2))
    timetable = Timetable(time_zone="Chile/Continental", times=Times(every_minutes=60), pauses=(pause,))
    assert from_rule(to_rule(timetable), timetable.time_zone).pauses == (pause,)


@pytest.mark.parametrize("moment", ["00010101T000000Z", "99991231T235959Z"])
def test_moments_that_no_clock_can_turn_are_refused(moment: str) -> None:
    """The first and the last there are, of which another zone has none."""
    rule = to_rule(Timetable(time_zone="Chile/Continental", times=Times(every_minutes=60)))
    with pytest.raises(ValueError, match="a moment from 1900 to 2200"):
        from_rule(f"{rule}\nFREEBUSY;FBTYPE=BUSY-UNAVAILABLE:{moment}/{moment}", "Chile/Continental")


@settings(max_examples=300, deadline=None)
@given(timetables)
def test_rules_tell_the_same_timetable(timetable: Timetable) -> None:
    """Hours of a whole day are no hours; all else comes back as it was."""
    back = from_rule(to_rule(timetable), timetable.time_zone)
    assert to_rule(back) == to_rule(timetable)
    if not any(one.between == whole_day for one in (timetable.times, *(season.times for season in timetable.seasons))):
        assert back == timetable


@settings(max_examples=150, deadline=None)
@given(times=times, day=st.dates(date(2026, 1, 1), date(2030, 1, 1)))
def test_another_reader_of_the_standard_finds_the_same_times(times: Times, day: date) -> None:
    """dateutil, on the same lines, counting from the first of the hours of that day."""
    table = Timetable(time_zone="UTC", times=times)
    begins = datetime.combine(day, times.between.first if times.between else time())
    theirs: set[datetime] = set()
    for line in to_rule(table).splitlines():
        # Hours of which no time is one have no rule that it takes; to us they only say where the hours end.
        with suppress(ValueError):
            rule = rrulestr(line.removeprefix("RRULE:"), dtstart=begins)
            theirs.update(one for one, _ in zip(rule.xafter(begins, inc=True), range(60), strict=False))
    ours = [one.replace(tzinfo=None) for one in coming(table, begins.replace(tzinfo=UTC) - timedelta(seconds=1), 60)]
    assert ours == sorted(theirs)[:60]


@pytest.mark.parametrize(("rule", "expected"), [
    ("FREQ=MONTHLY;BYMONTHDAY=1", "each once; got 'BYMONTHDAY=1'"),
    ("FREQ=HOURLY", "FREQ=MINUTELY or FREQ=DAILY"),
    ("FREQ=DAILY;COUNT=1", "got 'COUNT=1'"),
    ("FREQ=DAILY", "BYHOUR and BYMINUTE"),
    ("FREQ=DAILY;BYHOUR=24;BYMINUTE=0", "a number up to 23"),
    ("FREQ=MINUTELY;INTERVAL=99999999999999999999", "a number up to 1440"),
    ("FREQ=MINUTELY;INTERVAL=5;BYHOUR=8,10", "without a gap"),
    ("RRULE:FREQ=MINUTELY;INTERVAL=5\nRRULE:FREQ=DAILY;BYHOUR=8;BYMINUTE=0", "rules of one kind"),
    ("RRULE:FREQ=MINUTELY;INTERVAL=5\nDTSTART:20261120T000000\nRRULE:FREQ=MINUTELY;INTERVAL=5", "a moment such as"),
    ("RRULE:FREQ=MINUTELY;INTERVAL=5\nDTSTART:20261120T000000", "end on one day"),
    ("FREEBUSY;FBTYPE=BUSY-UNAVAILABLE:20261224T000000Z/20261228T000000Z", "at least one recurrence rule"),
    ("FREQ=MINUTELY;INTERVAL=7", "6 or 8 instead of 7"),
    ("FREQ=DAILY;BYDAY=XX;BYHOUR=8;BYMINUTE=0", "days of the week among MO"),
    ("\n".join(["RRULE:FREQ=DAILY"] * 401), "at most 400 lines"),
    ("x" * 8001, "at most 8000 characters"),
])  # fmt: skip
def test_what_is_no_rule_of_ours(rule: str, expected: str) -> None:
    """The standard allows more than a timetable has; what is beyond is refused with what was expected."""
    with pytest.raises(ValueError, match=expected):
        from_rule(rule, LONDON)


# -- in words ----------------------------------------------------------------------------------------------------------


@settings(max_examples=300, deadline=None)
@given(timetables)
def test_what_is_said_can_be_typed_in_again(timetable: Timetable) -> None:
    """The words of any timetable mean that timetable."""
    assert from_words(in_words(timetable), timetable.time_zone) == timetable


@pytest.mark.parametrize(("typed", "said"), [
    ("every 15 minutes", "every 15 minutes"),
    ("every minute", "every minute"),
    ("Hourly", "every hour"),
    ("every 2h", "every 2 hours"),
    ("every 90 min", "every 90 minutes"),
    ("every 15 minutes between 08:00 and 18:30 on weekdays",
     "every 15 minutes between 08:00 and 18:30 on weekdays (Europe/London)"),
    ("every 15m from 8am to 6:30 pm only on Monday to Thursday",
     "every 15 minutes between 08:00 and 18:30 on Monday, Tuesday, Wednesday and Thursday (Europe/London)"),
    ("daily at 6pm, 12am and 12pm", "daily at 00:00, 12:00 and 18:00 (Europe/London)"),
    ("at 06:00 on saturdays and sundays", "at 06:00 on weekends (Europe/London)"),
    ("every day at 18.30", "daily at 18:30 (Europe/London)"),
    ("daily at 18:30 (Asia/Tokyo)", "daily at 18:30 (Asia/Tokyo)"),
    ("every hour; from 20 Nov 2026 until 2026-12-31: every 5 minutes; on 27 November 2026 every minute; "
     "paused from 25 December 2026 to 26 December 2026",
     "every hour; from 20 November 2026 to 31 December 2026 every 5 minutes; on 27 November 2026 every minute; "
     "not from 25 December 2026 to 26 December 2026 (Europe/London)"),
])  # fmt: skip
def test_plain_words(typed: str, said: str) -> None:
    """As people type them, and as they are said back."""
    assert in_words(from_words(typed, LONDON)) == said


@pytest.mark.parametrize(("typed", "expected"), [
    ("", "was not understood. It may be said like this: every 15 minutes"),
    ("now and then", "“now and then” was not understood"),
    ("every 7 minutes", "6 or 8 instead of 7"),
    ("every 0 minutes", "greater than or equal to 1"),
    ("daily at 25:00", "a time such as 18:30"),
    ("daily at 13pm", "a time such as 18:30"),
    ("every hour on Funday", "days such as Monday"),
    ("every hour between 18:00 and 08:00", "the later time last"),
    ("every hour; from 31 February 2026 to 1 March 2026 every minute", "a day such as 24 December 2026"),
    ("every hour; from 2 March 2026 to 1 March 2026 every minute", "a last day that is not before the first"),
    ("every hour; from 1 March 2026 to 2 March 2026", "not from 25 December 2026"),
    ("every hour; not on 1 March 2026 every minute", "not from 25 December 2026"),
    ("daily at 18:30 (Europe/Lundun)", "a time zone, such as Europe/London"),
    ("every hour; not from 1 March 2026 to 1 March 2028", "pauses of a year at most"),
    ("every hour" + "; not on 1 March 2026" * 21, "at most 20"),
    ("x" * 4001, "at most 4000 characters"),
])  # fmt: skip
def test_words_that_are_not_understood(typed: str, expected: str) -> None:
    """Said with the part that was not, and an example."""
    with pytest.raises(ValueError, match=expected):
        from_words(typed, LONDON)
