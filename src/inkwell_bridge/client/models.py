"""What the API answers with, typed. Amounts are exact decimals."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Any

from pydantic import BaseModel, ConfigDict


class Answer(BaseModel):
    """Frozen; what a newer service adds is passed over."""

    model_config = ConfigDict(frozen=True, extra="ignore")


class Entry(Answer):
    """A workspace and one's role in it."""

    slug: str
    name: str
    role: str


class Session(Answer):
    """Who is signed in."""

    signed_in: bool
    name: str
    email: str
    now: datetime
    workspaces: list[Entry]


class Kind(Answer):
    """A dialect that connections can speak."""

    name: str
    title: str
    side: str
    credentials_schema: dict[str, Any]
    capabilities: dict[str, Any]


class Token(Answer):
    """A token as listed, without its text."""

    id: int
    name: str
    workspace: str | None
    role: str
    created_at: datetime
    expires_at: datetime | None


class Company(Answer):
    """A company of the client."""

    slug: str
    name: str
    country: str
    currency: str
    time_zone: str


class Member(Answer):
    """A person with a role."""

    id: int
    email: str
    name: str
    role: str


class TrailEntry(Answer):
    """Who did what, when."""

    id: int
    at: datetime
    person: str
    action: str
    about: str
    details: dict[str, Any]


class Permission(Answer):
    """A right that the work needs."""

    name: str
    granted: bool
    remedy: str


class Described(Answer):
    """What an end said of itself."""

    company: str
    currency: str
    time_zone: str
    languages: list[str]
    permissions: list[Permission]


class Connection(Answer):
    """One end."""

    slug: str
    name: str
    kind: str
    side: str
    company: str | None
    address: str
    state: str
    state_text: str
    checked_at: datetime | None
    heard_at: datetime | None
    described: Described | None
    settled_company: str
    key_expires_at: datetime | None
    credentials_entered: list[str]
    check_every_minutes: int
    reload_every_hours: int
    mended: list[str]


class Loading(Answer):
    """One going-over of one part of an end's names."""

    id: int
    part: str
    state: str
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    first: bool
    read: int
    expected: int | None
    added: int
    changed: int
    gone: int
    unreadable: int
    trouble: str

    @property
    def under_way(self) -> bool:
        """Whether it still moves."""
        return self.state in {"waiting", "loading"}


class NameKind(Answer):
    """A list of an end, and what the last loading changed in it."""

    kind: str
    count: int
    added: int
    changed: int
    gone: int


class Name(Answer):
    """One thing that an end has a name for."""

    id: int
    source_id: str
    kind: str
    code: str
    name: str
    details: dict[str, Any]
    active: bool
    gone: bool


class LinkTarget(Answer):
    """Where a link leads, and how many of it one sold is."""

    id: str
    code: str
    quantity: Decimal
    share: Decimal | None
    rule: str


class Linked(Name):
    """One of the sales side, with where it leads."""

    state: str
    links: list[LinkTarget]


class LinkCounts(Answer):
    """How many are linked, have no counterpart, and are open."""

    linked: int
    none: int
    open: int
    version: int


class Offered(Answer):
    """An item or contact that a suggestion leads to."""

    id: str
    code: str
    name: str
    email: str
    postcode: str
    quantity: Decimal
    share: Decimal | None


class Suggestion(Answer):
    """What one may be, with points of 100 and the reason for them."""

    targets: list[Offered]
    points: int
    reason: str


class Question(Answer):
    """One that is not linked yet."""

    entry: Name
    suggestions: list[Suggestion]


class LinkChange(Answer):
    """One change of links."""

    id: int
    what: str
    at: datetime
    person: str
    text: str
    undone: bool


class BadRow(Answer):
    """A row of a table that cannot be taken; row 1 is the heading."""

    row: int
    column: str
    text: str


class ImportPreview(Answer):
    """What an import would change, or has changed."""

    rows: int
    added: int
    changed: int
    unchanged: int
    unanswered: int
    bad: list[BadRow]
    applied: bool
    change: int | None


class Reference(Answer):
    """What an end calls things, but for its long lists."""

    loaded_at: datetime
    checksum: str
    content: dict[str, Any]


class Timetable(Answer):
    """When a bridge runs by itself."""

    rule: str
    time_zone: str
    next_at: datetime


class Lane(Answer):
    """One kind of document over a bridge."""

    kind: str
    on: bool
    read_up_to: datetime | None


class Bridge(Answer):
    """What carries from one connection to another."""

    slug: str
    name: str
    source: str
    books: str
    company: str
    starts_on: date | None
    lanes: list[Lane]
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


class Rulebook(RulebookHead):
    """A version of a bridge's rules."""

    text: str
    findings: list[Finding]


class Step(Answer):
    """One step of a bridge's set-up; ``needed``: nothing runs without it."""

    id: str
    title: str
    state: str
    text: str
    why: str
    needed: bool


class Tried(Answer):
    """An order as it is now, and what it would become; nothing was sent."""

    number: str
    rulebook: int
    outcome: str
    left_out_by: str
    order: dict[str, Any]
    contact: dict[str, Any] | None
    documents: list[dict[str, Any]]
    reasons: list[dict[str, Any]]
    findings: list[Finding]


class Counts(Answer):
    """How many documents a run read, and how many came to what."""

    read: int
    pending: int
    unchanged: int
    waiting: int
    carried: int
    held: int
    differs: int
    left_out: int
    adopted: int = 0


class Totals(Answer):
    """Count, net, tax and gross."""

    count: int
    net: Decimal
    tax: Decimal
    gross: Decimal


class SidesTotals(Answer):
    """Both sides in one currency."""

    currency: str
    source: Totals
    books: Totals
    difference: Totals


class PeriodTotals(SidesTotals):
    """Both sides of a period, every difference named."""

    left_out: Totals
    adopted: Totals
    held: Totals
    waiting: Totals
    rounding: Totals
    unexplained: Totals


class TieOut(Answer):
    """A period and its totals by currency."""

    first: date
    last: date
    totals: list[PeriodTotals]


class Run(Answer):
    """One going-over of a bridge."""

    id: int
    bridge: str
    purpose: str = "carry"
    state: str
    started_by: str
    by_timetable: bool
    started_at: datetime
    ended_at: datetime | None
    trouble: str
    counts: Counts
    totals: list[SidesTotals] = []

    @property
    def under_way(self) -> bool:
        """Whether it still moves."""
        return self.state in {"reading", "carrying"}


class Document(Answer):
    """A document in the books; ``planned``, ``settled`` and ``held`` only where one was asked for."""

    id: int
    crossing: int
    bridge: str
    connection: str
    order_number: str
    role: str
    mark: str
    state: str
    books_id: str
    books_number: str
    link: str
    currency: str
    net: Decimal | None
    tax: Decimal | None
    gross: Decimal | None
    difference: Decimal | None
    proved_at: datetime | None
    planned: dict[str, Any] | None = None
    settled: dict[str, Any] | None = None
    held: dict[str, Any] | None = None


class Crossing(Answer):
    """A source document and what became of it."""

    id: int
    bridge: str
    kind: str
    number: str
    state: str
    cause: str
    left_out_by: str
    trouble: str
    next_try_at: datetime | None
    placed_at: datetime | None
    business_date: date | None
    time_zone: str
    currency: str
    net: Decimal | None
    tax: Decimal | None
    gross: Decimal | None
    documents: list[Document]
    updated_at: datetime


class Spread(Crossing):
    """One crossing in full: both sides, and the reason of every amount."""

    order: dict[str, Any] | None
    buyer: dict[str, Any] | None
    reasons: list[dict[str, Any]]
    findings: list[Finding]
    rulebook: int | None
    source_checksum: str
    fetched_at: datetime


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


class BridgeToday(Answer):
    """A bridge, its last run and its next."""

    slug: str
    name: str
    time_zone: str
    next_at: datetime | None
    last_run: Run | None


class Today(Answer):
    """What needs a person now, and whether the figures tie."""

    now: datetime
    holds: list[Hold]
    troubled: list[Troubled]
    bridges: list[BridgeToday]
    tie_out: TieOut
