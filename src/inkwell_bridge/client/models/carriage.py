"""What was read, what it became, and the totals of both sides."""

from __future__ import annotations

import datetime as _dt
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.bridges import Finding


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


class ReadAgain(Answer):
    """How many documents are to be read again in the books."""

    due: int


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
    withheld: Totals
    vouchers: Totals
    cancelled: Totals
    converted: Totals
    deposits: Totals
    difference: Totals
    tax_lines: Totals
    rounding: Totals


class Waits(Answer):
    """An end that a run waits for, when it is tried again, and how many documents wait with it."""

    text: str
    next_try_at: datetime
    documents: int

    def in_words(self) -> str:
        """Such as: 3 documents wait: the books did not answer; next try 12:04:10."""
        who = {0: "Waits", 1: "1 document waits"}.get(self.documents, f"{self.documents} documents wait")
        return f"{who}: {self.text.rstrip('. ')}; next try {self.next_try_at.astimezone():%H:%M:%S}"


class Run(Answer):
    """One going-over of a bridge."""

    id: int
    bridge: str
    purpose: str = "carry"
    state: str
    started_by: str
    by_timetable: bool
    numbers: list[str]
    lanes: list[str]
    first_day: date | None
    last_day: date | None
    again: int | None
    outcomes: list[str]
    started_at: datetime
    ended_at: datetime | None
    trouble: str
    counts: Counts
    totals: list[SidesTotals] = []
    waits: Waits | None = None

    @property
    def under_way(self) -> bool:
        """Whether it still moves."""
        return self.state in {"reading", "carrying"}


class SourceShare(Answer):
    """What one source document has in a document; the shares of all add up to it."""

    crossing: int
    number: str
    part: int
    currency: str
    net: Decimal | None
    tax: Decimal | None
    gross: Decimal | None


class HistoryEvent(Answer):
    """Something that happened to a source document on its way."""

    at: datetime
    kind: str
    by: str
    run: int | None
    document: str
    detail: dict[str, Any]


class Document(Answer):
    """A document in the books; ``planned``, ``settled`` (where that is another) and ``record`` (as read back) are there
    only where one was asked for."""

    id: int
    crossing: int
    bridge: str
    connection: str
    order_number: str
    sources: list[SourceShare] = []
    role: str
    external_reference: str
    amendment: int = 0
    state: str
    books_id: str
    books_number: str
    link: str
    date: _dt.date | None = None
    currency: str
    net: Decimal | None
    tax: Decimal | None
    gross: Decimal | None
    difference: Decimal | None
    proved_at: datetime | None
    read_at: datetime | None = None
    planned: dict[str, Any] | None = None
    settled: dict[str, Any] | None = None
    record: dict[str, Any] | None = None


class InBooks(Answer):
    """What a source document has in the books in a line: its first document's number, how many further ones made
    changes good, and what all of these come to, in ``currency``."""

    number: str
    further: int
    currency: str
    net: Decimal | None
    tax: Decimal | None
    gross: Decimal | None
    difference: Decimal | None


class Crossing(Answer):
    """A source document and what became of it."""

    id: int
    bridge: str
    kind: str
    number: str
    state: str
    cause: str
    left_out_by: str
    trial: str
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
    in_books: InBooks | None = None
    updated_at: datetime


class BooksContact(Answer):
    """The contact in the books that documents are made out to; no name where it was not loaded yet."""

    id: str
    code: str
    name: str


class Following(Answer):
    """A document that belongs to another, such as a refund, or a payout that its money is in."""

    id: int
    kind: str
    number: str
    state: str
    cause: str
    currency: str
    gross: Decimal | None


class SourceChange(Answer):
    """One value of the source document that is another now; absent where nothing was said."""

    what: str
    before: str | None
    after: str | None


class Amendment(Answer):
    """A change after something was posted that further documents made good; these bear its number."""

    number: int
    at: datetime | None
    documents: list[str]
    changes: list[SourceChange]
    put_right: bool = False


class Spread(Crossing):
    """One crossing in full: both sides, and the reason of every amount."""

    order: dict[str, Any] | None
    buyer: dict[str, Any] | None
    contact: BooksContact | None = None
    following: list[Following] = []
    reasons: list[dict[str, Any]]
    findings: list[Finding]
    changes: list[SourceChange] = []
    amendments: list[Amendment] = []
    rulebook: int | None
    links_version: int | None = None
    source_checksum: str
    fetched_at: datetime
    history: list[HistoryEvent] = []


class LogEntry(Answer):
    """Something that happened, or a call to an end (``connection``) with how long it took and what was said."""

    at: datetime
    text: str
    by: str
    run: int | None
    connection: str
    call: str
    milliseconds: int | None
    outcome: str
    sent: Any
    answered: Any
