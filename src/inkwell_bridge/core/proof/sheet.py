"""The sheet of a period: both sides, the difference between them, and its parts by their reasons."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import NamedTuple

from inkwell_bridge.core.proof.figure import Section, Side
from inkwell_bridge.core.proof.totals import Totals


class Reason(StrEnum):
    """Why the two sides of a period are not the same."""

    LEFT_OUT = "left out"
    BEFORE_START = "before the start"
    HELD = "held"
    WAITING = "waiting"
    KEPT = "kept as posted"
    ACCEPTED = "accepted by a person"
    ADOPTED = "adopted as it was entered"
    CUT_OFF = "on another day in the books"
    MOVED = "moved out of a locked period"
    WITHHELD = "withheld by a marketplace"
    VOUCHERS = "vouchers taxed when sold"
    DEPOSITS = "tax of deposits not due yet"
    CANCELLED = "cancelled after it was posted"
    CONVERTED = "converted"
    CREDITED = "credited with a change of its order"
    NOT_MONEY = "not as money"
    TAX_LINES = "tax on lines of its own"
    PENNY = "rounding by rule"
    TAX_COMPUTED = "tax computed otherwise by the books"
    OTHERWISE = "posted otherwise than planned"
    CHANGED = "changed in the books"
    VOIDED = "voided in the books"
    MISSING = "missing in the books"
    TWICE = "twice in the books"
    OTHER_REFERENCE = "under another reference in the books"
    GONE = "gone at the sales side"
    BY_HAND = "entered by hand"
    NOT_POSTED_HERE = "under our reference, and not posted from here"
    NOT_FETCHED = "listed and not fetched"
    NOT_LISTED = "counted and not listed"
    AT_PROVIDER = "known to the provider only"
    ONLY_NUMBER = "known by its number alone"
    MONEY_NOT_CARRIED = "payouts or payments not carried yet"
    UNEXPLAINED = "unexplained"


# What a rule, the calendar or a person with a note accounts for: the month ties with it. Everything else is open.
SETTLED = frozenset({
    Reason.LEFT_OUT, Reason.BEFORE_START, Reason.KEPT, Reason.ACCEPTED, Reason.ADOPTED, Reason.CUT_OFF,
    Reason.MOVED, Reason.CREDITED,
    Reason.WITHHELD, Reason.VOUCHERS, Reason.DEPOSITS, Reason.CANCELLED, Reason.CONVERTED, Reason.NOT_MONEY,
    Reason.TAX_LINES, Reason.PENNY, Reason.TAX_COMPUTED,
})  # fmt: skip
# Whose detail says more: the cause of a hold, or the rule that left something out.
WITH_DETAIL = frozenset({Reason.HELD, Reason.LEFT_OUT, Reason.MONEY_NOT_CARRIED})
_IN_ORDER = {reason: place for place, reason in enumerate(Reason)}


class Place(NamedTuple):
    """Where on the sheet a row stands; what it is not parted by is empty. ``day`` is written as in ISO 8601, and
    ``connection`` is that of the books whose ``account`` it is."""

    section: str = ""
    currency: str = ""
    bridge: str = ""
    day: str = ""
    tax_code: str = ""
    tender: str = ""
    connection: str = ""
    account: str = ""


@dataclass(frozen=True, slots=True)
class Part:
    """The part of a difference that one reason accounts for; ``detail`` is the cause of a hold or the rule that left
    something out, ``documents`` how many source documents are in it, where that was counted."""

    reason: Reason
    detail: str
    documents: int | None
    totals: Totals

    @property
    def settled(self) -> bool:
        """Whether nobody has to do anything about it."""
        return self.reason in SETTLED


@dataclass(frozen=True, slots=True)
class SheetRow:
    """One row: what should be there, what is, and why these are not the same."""

    place: Place
    source: Totals
    books: Totals
    parts: tuple[Part, ...]

    @property
    def difference(self) -> Totals:
        """The one side less the other."""
        return self.source.less(self.books)

    @property
    def unexplained(self) -> Totals:
        """What no reason accounts for: of documents that should be the same and are not, and whatever the parts do not
        add up to."""
        named = Totals()
        for part in self.parts:
            if part.reason is not Reason.UNEXPLAINED:
                named = named.plus(part.totals)
        return self.difference.less(named)

    @property
    def ties(self) -> bool:
        """Whether no difference is open, not even parts that cancel out."""
        return self.unexplained.nothing and all(part.settled for part in self.parts)


class Summed(NamedTuple):
    """A sum of figures of one place: of a side, or of what one reason accounts for."""

    place: Place
    side: str
    reason: Reason | None
    detail: str
    documents: int | None
    totals: Totals


@dataclass(slots=True)
class _Sums:
    sides: dict[str, Totals] = field(default_factory=lambda: defaultdict(Totals))
    parts: dict[tuple[Reason, str], tuple[int | None, Totals]] = field(default_factory=dict)


def sheet_rows(sums: Iterable[Summed], *, source: Side = Side.SOURCE) -> list[SheetRow]:
    """The rows that these sums make, in the order of their places; ``source`` is the side that the books are held
    against."""
    places: dict[Place, _Sums] = defaultdict(_Sums)
    for one in sums:
        found = places[one.place]
        if one.reason is None:
            found.sides[one.side] = found.sides[one.side].plus(one.totals)
        else:
            documents, totals = found.parts.get((one.reason, one.detail), (None, Totals()))
            together = documents if one.documents is None else (documents or 0) + one.documents
            found.parts[one.reason, one.detail] = (together, totals.plus(one.totals))
    return [_row(place, places[place], source) for place in sorted(places)]


def _row(place: Place, sums: _Sums, source: Side) -> SheetRow:
    parts = [
        Part(reason, detail, documents, totals)
        for (reason, detail), (documents, totals) in sums.parts.items()
        # Documents whose parts cancel out are no less open; what moved from one day to another of the same period is
        # on neither side of it.
        if not totals.nothing or (documents and reason not in (Reason.CUT_OFF, Reason.MOVED))
    ]
    parts.sort(key=lambda part: (_IN_ORDER[part.reason], part.detail))
    return SheetRow(place, sums.sides[source], sums.sides[Side.BOOKS], tuple(parts))


BOTH = "both"


def with_both(rows: Iterable[SheetRow]) -> list[SheetRow]:
    """Sales, refunds, and after them both together, wherever there are refunds; the currency of most documents first,
    and in each the days and bridges in their order."""
    by_place: dict[Place, list[SheetRow]] = defaultdict(list)
    for row in rows:
        by_place[row.place._replace(section="")].append(row)
    documents: dict[str, int] = defaultdict(int)
    for place, of_place in by_place.items():
        documents[place.currency] += sum(abs(row.source.count) + abs(row.books.count) for row in of_place)
    in_order = sorted(by_place, key=lambda place: (-documents[place.currency], place))
    found: list[SheetRow] = []
    for place in in_order:
        sections = sorted(by_place[place], key=lambda row: row.place.section != Section.SALES)
        found += sections
        if any(row.place.section == Section.REFUNDS for row in sections):
            found.append(_together(place._replace(section=BOTH), sections))
    return found


def _together(place: Place, rows: Iterable[SheetRow]) -> SheetRow:
    def sums() -> Iterable[Summed]:
        for row in rows:
            yield Summed(place, Side.SOURCE, None, "", None, row.source)
            yield Summed(place, Side.BOOKS, None, "", None, row.books)
            for part in row.parts:
                yield Summed(place, "", part.reason, part.detail, part.documents, part.totals)

    (row,) = sheet_rows(sums())
    return row
