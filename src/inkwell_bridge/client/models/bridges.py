"""Bridges, their rules, and their set-up."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.client.models.answer import Answer


class Timetable(Answer):
    """When a bridge, or a lane of it (``kind``), runs by itself: by rules of RFC 5545, and in words."""

    kind: str
    rule: str
    time_zone: str
    next_at: datetime
    words: str


class WholeTimetable(Timetable):
    """The same in fields, and with the next times, of which ``next_at`` is the first."""

    table: dict[str, Any]
    coming: list[datetime]


class TriedTimetable(Answer):
    """What a timetable would be: as rules, in words and in fields, and its next times."""

    rule: str
    time_zone: str
    words: str
    table: dict[str, Any]
    coming: list[datetime]


class Lane(Answer):
    """One kind of document over a bridge."""

    kind: str
    on: bool
    read_up_to: datetime | None


class LaneOfBridge(Lane):
    """The same with its own timetable; without one it runs whenever the bridge does. ``ends_cannot`` is what the ends
    lack for it."""

    timetable: Timetable | None
    ends_cannot: str = ""


class Bridge(Answer):
    """What carries from one connection to another."""

    slug: str
    name: str
    source: str
    books: str
    company: str
    time_zone: str
    starts_on: date | None
    paused_at: datetime | None
    lanes: list[LaneOfBridge]
    timetable: Timetable | None
    rulebook_in_force: int | None


class Finding(Answer):
    """One thing a check has to say."""

    id: str
    level: str
    text: str
    hint: str
    at: str
    line: int | None
    cause: str | None


class RulebookHead(Answer):
    """A version of a bridge's rules, without its text."""

    number: int
    author: str
    created_at: datetime
    published_at: datetime | None
    note: str = ""


class Layer(Answer):
    """A base rulebook that a version builds on; ``newest`` is its newest version by now."""

    name: str
    number: int
    newest: int


class Rulebook(RulebookHead):
    """A version of a bridge's rules."""

    text: str
    findings: list[Finding]
    layers: list[Layer]


class RuleChange(Answer):
    """One thing that is otherwise in a version of the rules, in words."""

    at: str
    text: str


class BaseHead(Answer):
    """A base rulebook as it is listed."""

    name: str
    number: int
    author: str
    created_at: datetime


class BuiltOn(Answer):
    """A bridge that builds on a base: its newest version, and the version of the base that this was written on."""

    bridge: str
    rulebook: int
    on: int
    published: bool
    errors: int


class BaseRulebook(BaseHead):
    """A base rulebook with the bridges that build on it."""

    text: str
    bridges: list[BuiltOn]


class Step(Answer):
    """One step of a bridge's set-up; ``needed``: nothing runs without it."""

    id: str
    title: str
    state: str
    text: str
    why: str
    needed: bool


class OpeningBalance(Answer):
    """One balance of a cut-over."""

    of: str
    amount: Decimal
    account: str
    text: str


class Opening(Answer):
    """The opening balances of a bridge, and what became of them."""

    crossing: int
    state: str
    opened_on: date
    currency: str
    against: str
    balances: list[OpeningBalance]
    books_number: str
    findings: list[Finding]


class RuleStep(Answer):
    """A rule that was asked: by what it goes, the value that was met there, and the code that it gave, if any."""

    by: str
    met: str
    gave: str
    rule: str


class RuleSteps(Answer):
    """The rules that were asked for one value of a plan, in their order; the last one answered."""

    target: str
    steps: list[RuleStep]


class Tried(Answer):
    """An order as it is now, and what a run would make of it; nothing was sent.

    ``outcome``: carry, hold, left out, or adopt where somebody typed it into the books.
    """

    number: str
    rulebook: int | None
    outcome: str
    not_checked: list[str]
    open_balance: Decimal | None
    left_out_by: str
    order: dict[str, Any]
    contact: dict[str, Any] | None
    documents: list[dict[str, Any]]
    reasons: list[dict[str, Any]]
    steps: list[RuleSteps]
    findings: list[Finding]
