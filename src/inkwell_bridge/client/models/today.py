"""What needs a person now, and whether the month ties."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.carriage import Run
from inkwell_bridge.client.models.tie_out import Differing, SheetRow


class Hold(Answer):
    """A cause, and what waits behind it."""

    cause: str
    currency: str
    count: int
    gross: Decimal | None


class Troubled(Answer):
    """An end that does not answer as it should."""

    slug: str
    name: str
    state: str
    state_text: str
    checked_at: datetime | None


class DayTies(Answer):
    """Whether both sides of a day tie, over one bridge."""

    day: date
    ties: bool


class BridgeToday(Answer):
    """A bridge, its last run and its next, and which days of the month tie."""

    slug: str
    name: str
    time_zone: str
    next_at: datetime | None
    last_run: Run | None
    days: list[DayTies]


class Today(Answer):
    """What needs a person now, and whether the figures tie."""

    now: datetime
    holds: list[Hold]
    troubled: list[Troubled]
    bridges: list[BridgeToday]
    first: date
    last: date
    ties: bool
    differing: list[Differing]
    rows: list[SheetRow]
