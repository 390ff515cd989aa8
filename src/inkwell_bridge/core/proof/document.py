"""The proof of one document: what was planned against what the books hold, read back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inkwell_bridge.core.books import BooksDocument, Held, Journal, LedgerDocument, Payment, Standing, TradeDocument
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.values import Value


def prove(planned: BooksDocument, found: Sequence[Held], *, contact_id: str, standing: Standing) -> tuple[Finding, ...]:
    """What differs; nothing where the books hold exactly what was planned.

    ``planned`` is the settled document: an invoice with the books' own taxes, and the rounding line where one was
    needed; ``found`` is everything the books hold under its mark; ``standing`` is what the rulebook wants.
    """
    live = [held for held in found if held.standing is not Standing.VOID]
    if len(live) != 1:
        expected = f"expected one document under {planned.mark}, found {len(live)}"
        return (_differs("PROOF-E001", "", expected),)
    return tuple(_compare(planned, live[0], contact_id, standing))


def _compare(planned: BooksDocument, held: Held, contact_id: str, standing: Standing) -> Iterator[Finding]:
    yield from _field("/standing", standing, held.standing)
    yield from _field("/contact", contact_id, held.contact_id)
    for name in ("date", "currency", "order_number"):
        yield from _field(f"/{name}", getattr(planned, name, None), getattr(held.document, name, None))
    if isinstance(planned, LedgerDocument) and planned.number:
        yield from _field("/number", planned.number, held.number)
    if isinstance(planned, TradeDocument):
        yield from _lines(planned, held)
        yield from _totals(planned, held)
    if isinstance(planned, Journal):
        yield from _postings(planned, held)
    if isinstance(planned, Payment):
        for name in ("account", "amount", "transaction", "applied"):
            yield from _field(f"/{name}", getattr(planned, name), getattr(held.document, name, None))


def _lines(planned: TradeDocument, held: Held) -> Iterator[Finding]:
    theirs = held.document.lines if isinstance(held.document, TradeDocument) else ()
    yield from _one_by_one(planned.lines, theirs, "lines", ("mark", "account", "item", "tax_code", "net"))


def _postings(planned: Journal, held: Held) -> Iterator[Finding]:
    theirs = held.document.lines if isinstance(held.document, Journal) else ()
    yield from _one_by_one(planned.lines, theirs, "postings", ("mark", "account", "base"))


def _one_by_one(ours: Sequence[Value], theirs: Sequence[Value], what: str, names: Sequence[str]) -> Iterator[Finding]:
    """Lines in their order, by these fields of each; of another number of them only that is told."""
    if len(theirs) != len(ours):
        yield from _field("/lines", f"{len(ours)} {what}", f"{len(theirs)} {what}")
        return
    for place, (line, other) in enumerate(zip(ours, theirs, strict=True)):
        for name in names:
            yield from _field(f"/lines/{place}/{name}", getattr(line, name), getattr(other, name))


def _totals(planned: TradeDocument, held: Held) -> Iterator[Finding]:
    for name in ("net", "tax", "gross"):
        yield from _field(f"/{name}", getattr(planned, name), getattr(held, name))


def _field(at: str, planned: object, held: object) -> Iterator[Finding]:
    if planned != held:
        yield _differs("PROOF-E002", at, f"planned {planned}, the books hold {held}")


def _differs(code: str, at: str, text: str) -> Finding:
    where = f"{at.removeprefix('/')}: " if at else ""
    return Finding(
        id=code,
        level=Level.ERROR,
        at=at,
        text=f"{where}{text}",
        cause=Cause.NOT_PROVED,
        hint="Open the document in the books and see who changed it.",
    )
