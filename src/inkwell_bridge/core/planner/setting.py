"""All that a plan depends on besides the source document."""

from __future__ import annotations

from datetime import date, datetime
from functools import cached_property
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import BooksCapabilities, Reference
from inkwell_bridge.core.commerce import Refund
from inkwell_bridge.core.planner.articles import Articles
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.core.values import Value


class Setting(Value):
    """All that a plan depends on besides the order itself.

    Shape: ``source`` is the unchanging name of the sales-side connection; ``time_zone`` (IANA) is the
    company's own, in which a moment becomes a date; ``country`` (ISO 3166) is the company's. ``articles`` is what was
    found out of the order's own articles, where the rules put lines on items. ``given_back`` are the order's refunds
    that were carried before what was paid ahead for it is delivered.
    """

    source: str
    rulebook: OrderRulebook
    reference: Reference
    capabilities: BooksCapabilities
    time_zone: str
    country: str = ""
    articles: Articles = Articles()
    given_back: tuple[Refund, ...] = ()

    def day(self, moment: datetime) -> date:
        """The day of a moment, on the company's clocks."""
        return moment.astimezone(self._zone).date()

    @cached_property
    def _zone(self) -> ZoneInfo:
        return ZoneInfo(self.time_zone)

    def mark(self, source_id: str, role: str, part: int | str = 1) -> str:
        """Our name for a document in the books: the same for every attempt."""
        return f"INK:{self.source}:{source_id}:{role}:{part}"
