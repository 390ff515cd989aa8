"""What came of looking whether everything was read."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from inkwell_bridge.core.completeness.listed import SumIn
from inkwell_bridge.core.completeness.numbering import NumberGap
from inkwell_bridge.core.values import Code, Exact, Text, Value


class Became(StrEnum):
    """What was found of a document, and what became of it.

    ``fetched``: listed, never read before, and read now. ``read anew``: it had changed since it was read, and was read
    again. ``there``: no list shows it, and it is there when asked for by its id. ``not fetched``: listed, and not
    handed out. ``gone``: read before, not listed any more, and not there.
    """

    FETCHED = "fetched"
    READ_ANEW = "read anew"
    THERE = "there"
    NOT_FETCHED = "not fetched"
    GONE = "gone"


class NamedDocument(Value):
    """A document that was not the same on both sides. Units: ``gross`` in ``currency``, as the list
    has it, or as it was read where none has."""

    became: Became
    number: Text
    currency: Text = ""
    gross: Exact | None = None


class NotCompared(Value):
    """Why a kind of document could not be compared."""

    kind: Code
    why: Text


class KindCompleteness(Value):
    """One kind of document of the period.

    Shape: ``listed`` is what the sales side lists, ``told`` what it counts itself (nothing where it does not count),
    ``here`` what was read by now, each by currency. ``documents`` names those that were not the same, the first of
    many; ``counts`` has how many there are of each. ``counted_otherwise`` is what it counts more, or below zero less,
    than it lists. ``gaps`` are numbers without a document: of a sales side that does not count, what may be lacking;
    of one that counts more than it lists, which those may be.
    """

    kind: Code
    listed: tuple[SumIn, ...] = ()
    told: tuple[SumIn, ...] | None = None
    here: tuple[SumIn, ...] = ()
    counts: dict[Became, int] = {}
    documents: tuple[NamedDocument, ...] = ()
    counted_otherwise: tuple[SumIn, ...] = ()
    gaps: tuple[NumberGap, ...] = ()

    @property
    def complete(self) -> bool:
        """Whether everything that there is is here by now, as far as anybody can tell."""
        lacking = sum(self.counts.get(one, 0) for one in (Became.NOT_FETCHED, Became.GONE))
        # Of a side that counts no more than it lists, a number that is missing was never an order.
        return not (lacking or self.counted_otherwise or self.gaps)


class EnteredInBooks(Value):
    """What the books hold on the accounts of sales that was not posted from here.

    Shape: ``accounts`` are those that were read; ``why_not`` says why none was. ``by_hand`` and ``not_posted_here`` are
    how many documents were found, the latter under our own reference; ``numbers`` names the first of them.
    """

    accounts: tuple[Text, ...] = ()
    why_not: Text = ""
    by_hand: int = 0
    not_posted_here: int = 0
    numbers: tuple[Text, ...] = ()


class CompletenessResult(Value):
    """All kinds of one bridge; those that could not be compared with the reason; and what was entered in the books."""

    kinds: tuple[KindCompleteness, ...] = ()
    not_compared: tuple[NotCompared, ...] = ()
    in_books: EnteredInBooks = EnteredInBooks()

    @property
    def complete(self) -> bool:
        """Whether every kind is; of what could not be compared nobody knows."""
        return not self.not_compared and all(one.complete for one in self.kinds)


def counted_otherwise(told: Sequence[SumIn] | None, listed: Sequence[SumIn]) -> tuple[SumIn, ...]:
    """By currency what is counted more than is listed; nothing where both are the same, or nobody counts."""
    if told is None:
        return ()
    there = {one.currency: one for one in listed}
    counted = {one.currency: one for one in told}
    found = []
    for currency in sorted({*there, *counted}):
        nothing = SumIn(currency=currency, count=0, gross="0")
        more, less = counted.get(currency, nothing), there.get(currency, nothing)
        change = SumIn(currency=currency, count=more.count - less.count, gross=more.gross - less.gross)
        if change.count or change.gross:
            found.append(change)
    return tuple(found)
