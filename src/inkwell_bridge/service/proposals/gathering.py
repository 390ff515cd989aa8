"""Gathering examples: the orders of a period from the shop, and what the books hold for each, whoever entered it.

It needs no rules and no crossings, so it serves a bridge that nothing was ever carried over. Both ends are only read.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import BooksRecord, Brief, Role, Standing
from inkwell_bridge.core.commerce import Order, SourceKind
from inkwell_bridge.core.examples import Example, pair
from inkwell_bridge.core.examples.pairing import totals_like
from inkwell_bridge.core.linking import Known, LinkKind
from inkwell_bridge.core.rulebook.items import ItemRules
from inkwell_bridge.ends.contract import BooksEnd, SalesEnd
from inkwell_bridge.ends.errors import Misstated, NotOffered, Refused
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.articles import articles_for
from inkwell_bridge.service.carriage.snapshots import fit_to_keep
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.reference.entries import known_of

# The first so many orders of a period show what is done; all of them are held in memory at once.
MOST_ORDERS = 3_000
# Pages come by the day of the last change, so those after the period may hold one of it still.
MOST_PAGES = 2_000
# Of documents that bear no order's number so many are looked through for amount, day and customer.
MOST_LISTED = 5_000
CHUNK = 50
SALES = (Role.INVOICE, Role.CASH_SALE, Role.SALES_ORDER)
# Somebody enters an order days before or after it was placed.
_AROUND = timedelta(days=31)
Heard = Callable[[int], bool]


class Stopped(Exception):
    """Whoever asked for it wants it no more."""


class Gathering:
    """The examples of a bridge; ``unread`` counts what the books hold and nobody could understand.

    ``heard`` is told how many orders were gone over, and answers whether to go on.
    """

    def __init__(self, bridge: Bridge, first: date, last: date, heard: Heard) -> None:
        self._bridge, self._first, self._last, self._heard = bridge, first, last, heard
        self._zone = ZoneInfo(bridge.company.time_zone)
        self.unread = 0

    def orders(self) -> list[Order]:
        """The orders that were placed in the period, on the company's clocks.

        Raises:
            EndError: the shop does not answer.
        """
        shop: SalesEnd = sales_end(self._bridge.source)
        # What was placed on a day changed on it at the earliest.
        since = datetime.combine(self._first, time(), self._zone)
        found: dict[str, Order] = {}
        page: str | None = None
        for _ in range(MOST_PAGES):
            answer = shop.documents(SourceKind.ORDERS, changed_since=since, page=page)
            for fetched in map(fit_to_keep, answer.documents):
                # What cannot be understood teaches nothing; a run would hold it with its reason.
                if isinstance(fetched.document, Order) and self._is_within(fetched.document):
                    found[fetched.id] = fetched.document
            if answer.next is None or answer.next == page or len(found) >= MOST_ORDERS:
                break
            page = answer.next
            self._go_on(0)
        return list(found.values())[:MOST_ORDERS]

    def examples(self, orders: Sequence[Order]) -> list[Example]:
        """Each order with what the books hold for it.

        Raises:
            EndError: the books do not answer.
        """
        books: BooksEnd = books_end(self._bridge.books)
        records: dict[tuple[str, str], BooksRecord] = {}
        for start in range(0, len(orders), CHUNK):
            numbers = [order.number for order in orders[start : start + CHUNK]]
            for role in (*SALES, Role.PAYMENT):
                records |= self._under_numbers(books, role, numbers)
            self._go_on(start + len(numbers))
        contacts = self._contacts(records.values())
        paired = pair(orders, records.values(), contacts)
        without = [one.order for one in paired.examples if not one.records]
        if without:
            further = self._by_amount(books, without, known=records)
            if further:
                records |= further
                contacts |= self._contacts(further.values())
                paired = pair(orders, records.values(), contacts)
        return self._with_articles(paired.examples)

    def _is_within(self, order: Order) -> bool:
        return self._first <= order.placed_at.astimezone(self._zone).date() <= self._last

    def _go_on(self, done: int) -> None:
        if not self._heard(done):
            raise Stopped

    def _under_numbers(self, books: BooksEnd, role: Role, numbers: Sequence[str]) -> dict[tuple[str, str], BooksRecord]:
        if role not in books.capabilities.documents:
            return {}
        try:
            briefs = books.find_by_order_number(role, numbers)
        except NotOffered:
            return {}
        return self._read(books, role, briefs)

    def _read(self, books: BooksEnd, role: Role, briefs: Sequence[Brief]) -> dict[tuple[str, str], BooksRecord]:
        """The documents in full: those with a reference of their own in one call, all others one by one."""
        live = {one.id: one for one in briefs if one.standing is not Standing.VOID}
        found: dict[tuple[str, str], BooksRecord] = {}
        references = [one.external_reference for one in live.values() if one.external_reference]
        try:
            records = books.find(role, list(dict.fromkeys(references))) if references else ()
        except Misstated:
            # One of them is beyond understanding, and hides the others: each is asked for by itself.
            records = ()
        found |= {(role.value, one.id): one for one in records if one.id in live}
        for held_id in live:
            if (role.value, held_id) not in found:
                try:
                    found[role.value, held_id] = books.read(role, held_id)
                except (Misstated, Refused):
                    self.unread += 1
        return found

    def _by_amount(
        self, books: BooksEnd, orders: Sequence[Order], known: dict[tuple[str, str], BooksRecord]
    ) -> dict[tuple[str, str], BooksRecord]:
        """What could be one of these orders by its total and its day, or by a number that is written another way."""
        totals = {(order.currency, like) for order in orders for like in totals_like(order.total, order.currency)}
        numbers = {order.number.casefold() for order in orders}
        first, last = self._first - _AROUND, self._last + _AROUND
        found: dict[tuple[str, str], BooksRecord] = {}
        for role in SALES:
            if role not in books.capabilities.documents:
                continue
            likely = [
                brief
                for brief in self._listed(books, role)
                if (role.value, brief.id) not in known
                and brief.date is not None and first <= brief.date <= last
                and ((brief.currency, brief.gross) in totals or brief.external_reference.strip().casefold() in numbers)
            ]  # fmt: skip
            found |= self._read(books, role, likely)
        return found

    def _listed(self, books: BooksEnd, role: Role) -> Iterator[Brief]:
        page: str | None = None
        listed = 0
        while listed < MOST_LISTED:
            try:
                answer = books.list_by_reference_prefix(role, "", page=page)
            except NotOffered:
                return
            yield from answer.documents
            listed += len(answer.documents)
            if answer.next is None or answer.next == page:
                return
            page = answer.next
            self._go_on(0)

    def _contacts(self, records: Iterable[BooksRecord]) -> dict[str, Known]:
        """What was loaded of the contacts that these documents are made out to, by their id."""
        ids = {one.contact_id for one in records if one.contact_id}
        if not ids:
            return {}
        entries = Between.of(self._bridge, LinkKind.CUSTOMERS).kept().filter(source_id__in=ids)
        return {entry.source_id: known_of(entry) for entry in entries}

    def _with_articles(self, examples: Sequence[Example]) -> list[Example]:
        found: list[Example] = []
        for start in range(0, len(examples), 500):
            some = examples[start : start + 500]
            articles = articles_for([(one.order, ItemRules()) for one in some], self._bridge)
            found += [one.model_copy(update={"articles": known}) for one, known in zip(some, articles, strict=True)]
        return found


def shared_codes(examples: Sequence[Example]) -> frozenset[str]:
    """The codes of contacts that several orders stand on: those that stand for many buyers, and no person's own."""
    buyers: dict[str, set[str]] = {}
    counts: Counter[str] = Counter()
    for example in examples:
        if example.contact:
            counts[example.contact] += 1
            buyer = example.order.buyer
            buyers.setdefault(example.contact, set()).add(buyer.email_key if buyer else example.order.id)
    return frozenset(code for code, count in counts.items() if count > 1 and len(buyers[code]) > 1)
