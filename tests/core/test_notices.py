"""When a trouble is told, and in which words."""

from __future__ import annotations

import itertools
from datetime import UTC, date, datetime, time, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.cause_words import CAUSE_WORDS
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.notices import (
    DayOfBridge,
    Intervals,
    LastNotice,
    Reason,
    ReportedTrouble,
    TroubleKind,
    TroubleState,
    is_quiet,
    message,
    reason_to_send,
    summary,
)

OPENED = datetime(2026, 10, 31, 20, tzinfo=UTC)
INTERVALS = Intervals()


def after(**time_passed: float) -> datetime:
    """So long after it was opened."""
    return OPENED + timedelta(**time_passed)


@pytest.mark.parametrize(("standing", "told", "now", "reason"), [
    # Watched for a minute first: four hundred failures in it are one message.
    (TroubleState(OPENED, 1), None, after(seconds=59), None),
    (TroubleState(OPENED, 400), None, after(seconds=60), Reason.NEW),
    # Over before anybody was told of it.
    (TroubleState(OPENED, 1, ended_at=after(seconds=30)), None, after(minutes=5), None),
    # Told: again only once it has doubled, and not sooner than in an hour.
    (TroubleState(OPENED, 799), LastNotice(after(minutes=1), 400), after(hours=2), None),
    (TroubleState(OPENED, 800), LastNotice(after(minutes=1), 400), after(minutes=60), None),
    (TroubleState(OPENED, 800), LastNotice(after(minutes=1), 400), after(minutes=61), Reason.GREW),
    # An end has no documents behind it at first: one that waits is twice as many as none, and so are two.
    (TroubleState(OPENED, 1), LastNotice(after(minutes=1), 0), after(hours=2), None),
    (TroubleState(OPENED, 2), LastNotice(after(minutes=1), 0), after(hours=2), Reason.GREW),
    # Unchanged, it is told again after a day.
    (TroubleState(OPENED, 400), LastNotice(after(minutes=1), 400), after(hours=24), None),
    (TroubleState(OPENED, 400), LastNotice(after(minutes=1), 400), after(hours=24, minutes=1), Reason.LASTS),
    # Well again: told once, to whoever was told of it.
    (TroubleState(OPENED, 0, ended_at=after(hours=3)), LastNotice(after(minutes=1), 400), after(hours=3), Reason.OVER),
    (TroubleState(OPENED, 0, ended_at=after(hours=3)), LastNotice(after(hours=3), 0, over=True), after(hours=9), None),
])  # fmt: skip
def test_when_it_is_told(standing: TroubleState, told: LastNotice | None, now: datetime, reason: Reason | None) -> None:
    """Each by itself."""
    assert reason_to_send(standing, told, now, INTERVALS) is reason


@given(st.lists(st.tuples(st.integers(1, 3600), st.integers(0, 1000)), min_size=1, max_size=60))
def test_however_it_goes_nobody_is_told_more_often_than_it_grows_or_lasts(steps: list[tuple[int, int]]) -> None:
    """A day of ups and downs, looked at as often as one likes: no two messages within an hour of each other."""
    now, told, moments = OPENED, None, []
    for seconds, count in steps:
        now += timedelta(seconds=seconds)
        if reason_to_send(TroubleState(OPENED, count), told, now, INTERVALS):
            told = LastNotice(now, count)
            moments.append(now)
    assert all(later - earlier >= INTERVALS.grew for earlier, later in itertools.pairwise(moments))


@pytest.mark.parametrize(("at", "quiet"), [
    (datetime(2026, 7, 1, 20, 59, tzinfo=UTC), False),  # 21:59 in London
    (datetime(2026, 7, 1, 21, 0, tzinfo=UTC), True),
    (datetime(2026, 7, 2, 5, 59, tzinfo=UTC), True),
    (datetime(2026, 7, 2, 6, 0, tzinfo=UTC), False),
    (datetime(2026, 12, 1, 6, 30, tzinfo=UTC), True),  # winter: 06:30 in London
])  # fmt: skip
def test_quiet_hours_go_over_midnight_by_ones_own_clocks(at: datetime, quiet: bool) -> None:
    """From ten to seven."""
    assert is_quiet(at, (time(22), time(7)), "Europe/London") is quiet
    assert not is_quiet(at, None, "Europe/London")


def held(**fields: object) -> ReportedTrouble:
    """Forty orders held."""
    return ReportedTrouble(**{
        "kind": TroubleKind.HELD, "reason": Reason.NEW, "about": "Web shop to UK books", "lane": "orders",
        "cause": "tax-class-unmapped", "count": 40, "amounts": {"GBP": Decimal("1234.5000"), "JPY": Decimal(99_000)},
        "since": OPENED, "oldest": "MW-10031", "link": "http://here/holds?cause=x"
    , **fields})  # type: ignore[arg-type] # fmt: skip


@pytest.mark.parametrize(("kind", "cause", "new", "over"), [
    (TroubleKind.RUN_FAILED, "", "A run failed", "Runs again"),
    (TroubleKind.END, "Refused", "Refused", "Answers again"),
    (TroubleKind.SILENT, "", "Not heard, though it should have called", "Heard again"),
    (TroubleKind.STATEMENT, "Current account", "A bank statement was refused: Current account",
     "Statements are read again: Current account"),
    (TroubleKind.ACCOUNT, "1250", "Account 1250 does not prove", "Account 1250 proves again"),
])  # fmt: skip
def test_the_headline_of_each_kind(kind: TroubleKind, cause: str, new: str, over: str) -> None:
    """While it stands, and once it is over."""
    for reason, said in ((Reason.NEW, new), (Reason.OVER, over)):
        one = ReportedTrouble(kind=kind, reason=reason, about="UK books", cause=cause, since=OPENED)
        assert one.headline == f"{said} (UK books)"


def test_the_words_of_a_message() -> None:
    """What, how much money, since when, the oldest, where it is mended, and what ends such messages."""
    away = ReportedTrouble(
        kind=TroubleKind.END, reason=Reason.LASTS, about="UK books", cause="Does not answer", count=1, lane="",
        amounts={"GBP": Decimal("18.5")}, since=OPENED,
    )  # fmt: skip
    told = message("Marrowby", [held(), away], zone="Europe/London", link="http://here/today", stop="http://here/stop")
    assert told.subject == (
        "Marrowby: 40 orders held, 1,234.50 GBP and 99,000 JPY: a tax class has no tax code (Web shop to UK books), "
        "and 1 more"
    )
    assert told.text == (
        "New: 40 orders held, 1,234.50 GBP and 99,000 JPY: a tax class has no tax code (Web shop to UK books)\n"
        "  Since 31 October 2026, 20:00 (Europe/London); the oldest is MW-10031.\n"
        "  http://here/holds?cause=x\n"
        "\n"
        "Still there: Does not answer; 1 document waiting, 18.50 GBP (UK books)\n"
        "  Since 31 October 2026, 20:00 (Europe/London).\n"
        "\n"
        "All of it: http://here/today\n"
        "To get no more of these: http://here/stop\n"
    )


def test_well_again_is_said_in_the_subject() -> None:
    """In words of its own, and it needs no link."""
    told = message("Marrowby", [held(reason=Reason.OVER, count=0, amounts={})], zone="UTC", link="http://x", stop="")
    assert told.subject == "Marrowby: No orders held any more: a tax class has no tax code (Web shop to UK books)"
    assert told.text.startswith("Well again: No orders held any more")
    assert "http://here/holds" not in told.text


def test_a_subject_is_one_line_and_not_too_long() -> None:
    """Whatever an end is called: a line break would be another head of the mail."""
    told = message("M", [held(about="a\r\nBcc: x@y.example\r\n" + "b" * 300)], zone="UTC", link="", stop="")
    assert (len(told.subject), "\n" in told.subject, "\r" in told.subject) == (150, False, False)


def test_four_hundred_troubles_are_one_message_of_twenty() -> None:
    """And how many more there are."""
    told = message("M", [held() for _ in range(400)], zone="UTC", link="", stop="")
    assert told.text.count("New: 40 orders held") == 20
    assert "And 380 more." in told.text
    assert told.subject.endswith("and 399 more")


def test_the_summary_of_a_day() -> None:
    """What crossed, and what waits."""
    day = DayOfBridge(
        bridge="Web shop to UK books", numbers={"carried": 12, "held": 2}, carried={"GBP": Decimal("480.10")}
    )
    told = summary("Marrowby", date(2026, 10, 30), [day], [held()], link="http://here/today", stop="")
    assert told.subject == "Marrowby, 30 October 2026: 12 documents carried, 40 documents waiting for somebody"
    assert told.text.splitlines()[2] == "  Web shop to UK books: 12 carried, 2 held; carried 480.10 GBP"
    quiet = summary("Marrowby", date(2026, 10, 30), [], [], link="http://here/today", stop="")
    assert (quiet.subject, quiet.text.count("  Nothing.")) == ("Marrowby, 30 October 2026: 0 documents carried", 2)


def test_every_cause_has_words() -> None:
    """And no words are for a cause that there is not."""
    assert set(CAUSE_WORDS) == {cause.value for cause in Cause}
