"""The proof of one document: what was planned against what the end that it went to holds, read back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inkwell_bridge.core.books import (
    HEADER_CODES,
    BooksDocument,
    BooksRecord,
    Dimension,
    Dispatch,
    Journal,
    LedgerDocument,
    Payment,
    PaymentRequest,
    Standing,
    StockLevel,
    StockMove,
    TradeDocument,
    WriteOff,
)
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.values import Value


def prove(
    planned: BooksDocument,
    found: Sequence[BooksRecord],
    *,
    contact_id: str,
    standing: Standing,
    unsupported: Sequence[str] = (),
) -> tuple[Finding, ...]:
    """What differs; nothing but notes where the books hold exactly what was planned.

    ``planned`` is the settled document: an invoice with the books' own taxes, and the rounding line where one was
    needed; ``found`` is everything the books hold under its external reference; ``standing`` is what the rulebook
    wants; ``unsupported`` are JSON Pointers of what the end has no place for: that is listed, not compared.
    """
    # A draft that was thrown away stands there for ever and says nothing.
    live = [record for record in found if record.standing is not Standing.VOID]
    # Two are worse than another amount, and none is worse still: nothing of either is compared.
    if len(live) != 1:
        expected = f"expected one document under {planned.external_reference}, found {len(live)}"
        cause = Cause.TWICE_THERE if live else Cause.MISSING_THERE
        return (_differs("PROOF-E001", "", expected).model_copy(update={"cause": cause}),)
    without = frozenset(unsupported)
    differing = tuple(one for one in _compare(planned, live[0], contact_id, standing) if not _within(one.at, without))
    return (*differing, *_not_compared(without))


# What is compared besides lines and totals, by role; each only where the plan says something.
_FURTHER = ("number", "tax_point", "due_on", "terms", "sales_order", "credits", "warehouse", "deliver_on",
            "from_warehouse", "to_warehouse", "carrier", "tracking_number", "rate", "exchange_difference",
            *HEADER_CODES)  # fmt: skip
_OF_GOODS = ("line_reference", "item", "quantity", "unit", "lot", "serials")
_OF_LINE = ("line_reference", "account", "item", "quantity", "tax_code", "net", "tax", "warehouse", "dimensions")


def _compare(planned: BooksDocument, record: BooksRecord, contact_id: str, standing: Standing) -> Iterator[Finding]:
    yield from _field("/standing", standing, record.standing)
    yield from _field("/contact", contact_id, record.contact_id)
    for name in ("date", "currency", "order_number"):
        yield from _field(f"/{name}", getattr(planned, name, None), getattr(record.document, name, None))
    for name in _FURTHER:
        # What the plan does not say the books may fill in by their own habits, such as terms of a contact.
        if ours := getattr(planned, name, None):
            theirs = record.number if name == "number" else getattr(record.document, name, None)
            yield from _field(f"/{name}", ours, theirs)
    if isinstance(planned, TradeDocument):
        theirs = record.document.lines if isinstance(record.document, TradeDocument) else ()
        yield from _one_by_one(planned.lines, theirs, "lines", _OF_LINE)
        # The books' own totals besides, for these stand in their reports, and need not be the sum of their lines.
        yield from _totals(planned, record)
        if isinstance(planned, LedgerDocument) and planned.base is not None:
            # What the books made of it in the company's own currency is what their reports are made of.
            for name in ("net", "tax", "gross"):
                theirs = getattr(record.base, name, None)
                yield from _field(f"/base/{name}", getattr(planned.base, name), theirs)
    if isinstance(planned, Journal):
        postings = record.document.lines if isinstance(record.document, Journal) else ()
        yield from _one_by_one(planned.lines, postings, "postings", ("line_reference", "account", "base"))
    if isinstance(planned, Dispatch | StockMove):
        goods = record.document.lines if isinstance(record.document, Dispatch | StockMove) else ()
        yield from _one_by_one(planned.lines, goods, "lines", _OF_GOODS)
    if isinstance(planned, StockLevel):
        for name in ("item", "on_hand", "available"):
            yield from _field(f"/{name}", getattr(planned, name), getattr(record.document, name, None))
    if isinstance(planned, PaymentRequest):
        for name in ("amount", "ends_on", "withdrawn"):
            yield from _field(f"/{name}", getattr(planned, name), getattr(record.document, name, None))
    if isinstance(planned, WriteOff):
        for name in ("account", "amount", "owed_by", "applied"):
            yield from _field(f"/{name}", getattr(planned, name), getattr(record.document, name, None))
    if isinstance(planned, Payment):
        for name in ("account", "amount", "transaction", "applied"):
            yield from _field(f"/{name}", getattr(planned, name), getattr(record.document, name, None))


def _within(at: str, without: frozenset[str]) -> bool:
    return any(at == pointer or at.startswith(f"{pointer}/") for pointer in without)


def _not_compared(without: frozenset[str]) -> Iterator[Finding]:
    """One note for everything that has no place there, by the names of the fields."""
    names = sorted({pointer.rpartition("/")[2] for pointer in without})
    if names:
        text = f"No place there for {', '.join(names)}: not sent, and not compared."
        hint = "Keep it in a field that they have, by the rulebook's fields; or leave the rule out."
        yield Finding(id="PROOF-N003", level=Level.NOTE, text=text, hint=hint)


def _one_by_one(ours: Sequence[Value], theirs: Sequence[Value], what: str, names: Sequence[str]) -> Iterator[Finding]:
    """Lines in their order, by these fields of each; of another number of them only that is told."""
    # Line by line each later one would differ as well, and hide which is missing.
    if len(theirs) != len(ours):
        yield from _field("/lines", _counted(ours, what), _counted(theirs, what))
        return
    for index, (line, other) in enumerate(zip(ours, theirs, strict=True)):
        for name in names:
            yield from _field(f"/lines/{index}/{name}", getattr(line, name), getattr(other, name))


def _counted(some: Sequence[Value], what: str) -> str:
    return f"{len(some)} {what.removesuffix('s') if len(some) == 1 else what}"


def _totals(planned: TradeDocument, record: BooksRecord) -> Iterator[Finding]:
    for name in ("net", "tax", "gross"):
        yield from _field(f"/{name}", getattr(planned, name), getattr(record, name))


def _field(at: str, planned: object, found: object) -> Iterator[Finding]:
    if planned != found:
        yield _differs("PROOF-E002", at, f"planned {_said(planned)}, found {_said(found)}")


def _said(value: object) -> str:
    if isinstance(value, tuple):
        return (
            ", ".join(f"{one.name} {one.value}" if isinstance(one, Dimension) else str(one) for one in value) or "none"
        )
    return str(value)


def _differs(code: str, at: str, text: str) -> Finding:
    where = f"{at.removeprefix('/')}: " if at else ""
    return Finding(
        id=code,
        level=Level.ERROR,
        at=at,
        text=f"{where}{text}",
        cause=Cause.NOT_PROVED,
        hint="Open the document there and see who changed it.",
    )
