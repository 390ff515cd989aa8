"""When a trouble is worth a message: at first, when it has grown, when it lasts, and when it is over."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo


class Reason(StrEnum):
    """Why it is told now."""

    NEW = "new"
    GREW = "grew"
    LASTS = "lasts"
    OVER = "over"


@dataclass(frozen=True, slots=True)
class TroubleState:
    """A trouble as it stands: since when, how many documents are behind it, and when it was over."""

    opened_at: datetime
    count: int
    ended_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class LastNotice:
    """When somebody was last sent word of it, and how it stood then."""

    at: datetime
    count: int
    over: bool = False


@dataclass(frozen=True, slots=True)
class Intervals:
    """How long a new trouble is watched before it is told, so that four hundred failures are one message; how soon it
    may be told again when it has doubled; and after how long it is told again though nothing changed."""

    bundle: timedelta = timedelta(minutes=1)
    grew: timedelta = timedelta(hours=1)
    lasts: timedelta = timedelta(hours=24)


def reason_to_send(
    trouble: TroubleState, last: LastNotice | None, now: datetime, intervals: Intervals
) -> Reason | None:
    """Why a message is due now; nothing where none is.

    What was over before anybody was told of it is not told at all.

    Example:
        >>> from datetime import UTC
        >>> opened = datetime(2026, 10, 31, 20, tzinfo=UTC)
        >>> reason_to_send(TroubleState(opened, 40), None, opened + timedelta(minutes=2), Intervals()).value
        'new'
    """
    if last is None:
        is_settled = now - trouble.opened_at >= intervals.bundle
        return Reason.NEW if trouble.ended_at is None and is_settled else None
    if trouble.ended_at is not None:
        return None if last.over else Reason.OVER
    since = now - last.at
    if trouble.count >= 2 * max(last.count, 1) and since >= intervals.grew:
        return Reason.GREW
    return Reason.LASTS if since >= intervals.lasts else None


def is_quiet(now: datetime, quiet: tuple[time, time] | None, zone: str) -> bool:
    """Whether it is within somebody's quiet hours, by their own clocks; hours may go over midnight.

    Example:
        >>> from datetime import UTC
        >>> is_quiet(datetime(2026, 10, 31, 23, tzinfo=UTC), (time(22), time(7)), "UTC")
        True
    """
    if quiet is None or quiet[0] == quiet[1]:
        return False
    first, last = quiet
    at = now.astimezone(ZoneInfo(zone)).time()
    return first <= at < last if first < last else at >= first or at < last
