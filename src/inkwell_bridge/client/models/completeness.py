"""Whether everything of some days was read, as the API tells it."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer, AskedWork


class CompletenessCheckHead(AskedWork):
    """How far a check of a bridge is, and whether everything is here."""

    bridge: str
    first: date
    last: date
    asked_by: str
    asked_at: datetime
    ended_at: datetime | None
    complete: bool | None


class SumIn(Answer):
    """So many documents of a currency, and what they come to with tax."""

    currency: str
    count: int
    gross: Decimal


class NamedDocument(Answer):
    """A document that was not the same on both sides, and what became of it."""

    became: str
    number: str
    currency: str
    gross: Decimal | None


class BecameCount(Answer):
    """How many documents came to this."""

    became: str
    documents: int


class NumberGap(Answer):
    """A number of no document, and the one before it."""

    number: str
    after: str


class KindCompleteness(Answer):
    """One kind: what the sales side lists, what it counts itself, and what is here by now."""

    kind: str
    complete: bool
    listed: list[SumIn]
    told: list[SumIn] | None
    here: list[SumIn]
    counts: list[BecameCount]
    documents: list[NamedDocument]
    counted_otherwise: list[SumIn]
    gaps: list[NumberGap]


class NotCompared(Answer):
    """A kind that could not be compared, and why."""

    kind: str
    why: str


class EnteredInBooks(Answer):
    """What the books hold on the accounts of sales that was not posted from here."""

    accounts: list[str]
    why_not: str
    by_hand: int
    not_posted_here: int
    numbers: list[str]


class CompletenessResult(Answer):
    """What came of a check, kind by kind."""

    kinds: list[KindCompleteness]
    not_compared: list[NotCompared]
    in_books: EnteredInBooks


class CompletenessCheck(CompletenessCheckHead):
    """A check with what came of it, once it has ended."""

    result: CompletenessResult | None


class BridgeCompleteness(Answer):
    """A bridge with the newest check of some days, and one that goes on; or why none can be made."""

    bridge: str
    name: str
    company: str
    time_zone: str
    why_not: str
    under_way: CompletenessCheckHead | None
    check: CompletenessCheck | None


class Lacking(Answer):
    """A document that is not here, and why nothing of it can cross."""

    id: int
    bridge: str
    kind: str
    reason: str
    number: str
    date: date
    currency: str
    count: int
    gross: Decimal | None
