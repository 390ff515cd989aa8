"""All that a plan depends on besides the source document."""

from __future__ import annotations

import hashlib
from datetime import date, datetime
from functools import cached_property
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import BooksCapabilities, MasterData
from inkwell_bridge.core.commerce import Refund
from inkwell_bridge.core.exchange_rates.rate import ExchangeRate
from inkwell_bridge.core.planner.articles import Articles
from inkwell_bridge.core.planner.plan import PostedShare
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.values import Value

_OURS = "INK:"
LONGEST_REFERENCE = 250


def external_reference(source: str, source_id: str, role: str, part: int | str = 1) -> str:
    """Our name for a document at its end: connection, source document, role, part; nothing is ever read out of it.

    One that would be too long for its place ends in a digest of the whole.
    """
    whole = f"{prefix_of(source)}{source_id}:{role}:{part}"
    if len(whole) <= LONGEST_REFERENCE:
        return whole
    digest = hashlib.sha256(whole.encode()).hexdigest()[:32]
    return f"{whole[: LONGEST_REFERENCE - 33]}~{digest}"


def prefix_of(source: str) -> str:
    """What all our references for documents of one sales-side connection begin with."""
    return f"{_OURS}{source}:"


def is_ours(reference: str) -> bool:
    """Whether a reference is one of ours, of whichever connection."""
    return reference.startswith(_OURS)


class PlanningContext(Value):
    """All that a plan depends on besides the order itself.

    Shape: ``source`` is the unchanging name of the sales-side connection; ``time_zone`` (IANA) is the
    company's own, in which a moment becomes a date; ``country`` (ISO 3166) is the company's. ``articles`` is what was
    found out of the order's own articles, where the rules put lines on items. ``refunds_before_invoice`` are the
    order's refunds that were carried before what was paid ahead for it is delivered. ``decided`` tells that
    something of the order was posted: which orders cross is asked no more. ``posted_shares`` are those of its discounts
    that were posted then. ``locked_until`` is the newest lock date of the books, where ``master_data`` is older.
    ``books`` is the unchanging name of the books' connection: money that the sales side was told of from there stands
    in the books already. ``exchange_rate`` is the one that the order was posted at; ``daily_rates`` are those of the
    company's table that may be asked for.
    """

    source: str
    rulebook: OrderRulebook
    master_data: MasterData
    capabilities: BooksCapabilities
    time_zone: str
    country: str = ""
    articles: Articles = Articles()
    refunds_before_invoice: tuple[Refund, ...] = ()
    decided: bool = False
    posted_shares: tuple[PostedShare, ...] = ()
    locked_until: date | None = None
    books: str = ""
    exchange_rate: ExchangeRate | None = None
    daily_rates: tuple[ExchangeRate, ...] = ()

    def day(self, moment: datetime) -> date:
        """The day of a moment, on the company's clocks."""
        return moment.astimezone(self._zone).date()

    @property
    def currencies(self) -> tuple[str, ...]:
        """The currencies that documents may be in: the books' own, and by rule those that they keep besides."""
        own = self.master_data.currency
        return (own, *self.master_data.currencies) if self.rulebook.orders.currencies == "kept" else (own,)

    @cached_property
    def _zone(self) -> ZoneInfo:
        return ZoneInfo(self.time_zone)

    def is_from_books(self, transaction: str) -> bool:
        """Whether the sales side was told of money from these books; what other books told of is news to them."""
        return bool(self.books) and transaction.startswith(prefix_of(self.books))

    def external_reference(self, source_id: str, role: str, part: int | str = 1) -> str:
        """Our name for a document in the books: the same for every attempt."""
        return external_reference(self.source, source_id, role, part)
