"""What a document says under each account and tax code, and why the books may say something else than was planned."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from decimal import Decimal
from typing import Literal, NamedTuple

from inkwell_bridge.core.books import BooksDocument, DocumentLine, Journal, LineKind, Payment, TradeDocument, WriteOff
from inkwell_bridge.core.record import record

ZERO = Decimal(0)


class Coding(NamedTuple):
    """The account and tax code of an amount; a payment and a journal's line have no code."""

    account: str
    tax_code: str


@record
class ReconcilingItem:
    """A named reason why the books say another amount than was planned under a tax code.

    Shape: ``penny`` is a line that the rules for rounding differences put there; ``tax computed`` a tax that the books
    computed otherwise for the same line, net and code. ``account`` is that of the line. Units: planned less books, in
    the document's currency.
    """

    reason: Literal["penny", "tax computed"]
    account: str
    tax_code: str
    net: Decimal
    tax: Decimal


def coded_amounts(document: BooksDocument) -> dict[Coding, tuple[Decimal, Decimal]]:
    """Net and tax of a document under each account and tax code, in the order in which they stand there."""
    sums: dict[Coding, tuple[Decimal, Decimal]] = defaultdict(lambda: (ZERO, ZERO))
    for coding, net, tax in _amounts(document):
        before = sums[coding]
        sums[coding] = (before[0] + net, before[1] + tax)
    return dict(sums)


def _amounts(document: BooksDocument) -> Iterator[tuple[Coding, Decimal, Decimal]]:
    if isinstance(document, TradeDocument):
        for line in document.lines:
            yield Coding(line.account, line.tax_code), line.net, line.tax
    elif isinstance(document, Payment | WriteOff):
        yield Coding(document.account, ""), document.amount, ZERO
    elif isinstance(document, Journal):
        for part in document.lines:
            yield Coding(part.account, ""), part.base, ZERO


def reconciling_items(planned: BooksDocument, found: BooksDocument) -> list[ReconcilingItem]:
    """Why ``found``, as read back, says other amounts than ``planned``; what has no reason here stays unexplained.

    A line under another code, with another net, missing or added by somebody is no reason: nothing gets a name by being
    left over.
    """
    if not isinstance(planned, TradeDocument) or not isinstance(found, TradeDocument):
        return []
    ours: dict[str, list[DocumentLine]] = defaultdict(list)
    for line in planned.lines:
        ours[line.line_reference].append(line)
    items: list[ReconcilingItem] = []
    # By our reference of a line, never by its place: somebody may have moved one.
    for theirs in found.lines:
        candidates = ours[theirs.line_reference]
        if candidates:
            line = candidates.pop(0)
            # Another net or code is no computing: it stays unexplained, and a person looks.
            same = (line.tax_code, line.net) == (theirs.tax_code, theirs.net)
            if same and line.tax != theirs.tax:
                items.append(ReconcilingItem(reason="tax computed", account=line.account, tax_code=line.tax_code,
                                             net=ZERO, tax=line.tax - theirs.tax))  # fmt: skip
        # A line that was not planned is the penny only where the rules put it there under that kind.
        elif theirs.kind is LineKind.ROUNDING:
            items.append(ReconcilingItem(reason="penny", account=theirs.account, tax_code=theirs.tax_code,
                                         net=-theirs.net, tax=-theirs.tax))  # fmt: skip
    return items


def tax_on_own_lines(planned: BooksDocument) -> Decimal:
    """The taxes that stand on lines of their own: to the buyer they are tax, to the books an amount outside tax."""
    lines = planned.lines if isinstance(planned, TradeDocument) else ()
    return sum((line.net for line in lines if line.kind is LineKind.TAX), ZERO)
