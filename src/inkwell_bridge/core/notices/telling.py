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
class Standing:
    """A trouble as it stands: since when, how many documents are behind it, and when it was over."""

    opened_at: datetime
    count: int
    ended_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Told:
    """What somebody was told of it last."""

    at: datetime
    count: int
    over: bool = False


@dataclass(frozen=True, slots=True)
class Patience:
    """How long a new trouble is watched before it is told, so that four hundred failures are one message; how soon it
    may be told again when it has doubled; and after how long it is told again though nothing changed."""

    bundle: timedelta = timedelta(minutes=1)
    grew: timedelta = timedelta(hours=1)
    lasts: timedelta = timedelta(hours=24)


def reason_to_tell(standing: Standing, told: Told | None, now: datetime, patience: Patience) -> Reason | None:
    """Why it is to be told now; nothing where it is not.

    What was over before anybody was told of it is not told at all.

    Example:
        >>> from datetime import UTC
        >>> opened = datetime(2026, 10, 31, 20, tzinfo=UTC)
        >>> reason_to_tell(Standing(opened, 40), None, opened + timedelta(minutes=2), Patience()).value
        'new'
    """
    if told is None:
        is_settled = now - standing.opened_at >= patience.bundle
        return Reason.NEW if standing.ended_at is None and is_settled else None
    if standing.ended_at is not None:
        return None if told.over else Reason.OVER
    since = now - told.at
    if standing.count >= 2 * max(told.count, 1) and since >= patience.grew:
        return Reason.GREW
    return Reason.LASTS if since >= patience.lasts else None


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
