"""Whether somebody changed a document in the books since it was read there last."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import BooksRecord, DocumentLine, Payment, Standing, TradeDocument

_OF_LINE = ("account", "item", "quantity", "tax_code", "net", "tax", "dimensions")
_OF_MONEY = ("account", "amount")


def edited_in_books(then: BooksRecord, now: BooksRecord | None) -> tuple[str, ...]:
    """What is another in the document, in words; nothing where the books hold what they held.

    ``now`` is absent where they do not have it any more. That somebody posted a draft is no change: it is what drafts
    are for.
    """
    if now is None or (now.standing is Standing.VOID and then.standing is not Standing.VOID):
        return ("it is not there any more",)
    return tuple(_differing(then, now))


def _differing(then: BooksRecord, now: BooksRecord) -> Iterator[str]:
    for name in ("contact_id", "net", "tax", "gross"):
        yield from _field(name.removesuffix("_id"), getattr(then, name), getattr(now, name))
    ours, theirs = then.document, now.document
    yield from _field("date", getattr(ours, "date", None), getattr(theirs, "date", None))
    if isinstance(ours, TradeDocument) and isinstance(theirs, TradeDocument):
        if len(ours.lines) != len(theirs.lines):
            yield f"{len(theirs.lines)} lines in place of {len(ours.lines)}"
        else:
            for number, (line, other) in enumerate(zip(ours.lines, theirs.lines, strict=True), start=1):
                yield from _line(number, line, other)
    if isinstance(ours, Payment) and isinstance(theirs, Payment):
        for name in _OF_MONEY:
            yield from _field(name, getattr(ours, name), getattr(theirs, name))


def _line(number: int, line: DocumentLine, other: DocumentLine) -> Iterator[str]:
    for name in _OF_LINE:
        yield from _field(f"line {number}, {name.replace('_', ' ')}", getattr(line, name), getattr(other, name))


def _field(what: str, before: object, after: object) -> Iterator[str]:
    if before != after:
        yield f"{what} {_said(after)} in place of {_said(before)}"


def _said(value: object) -> str:
    if isinstance(value, Decimal):
        return f"{value:f}"
    return str(value) if value not in (None, "", ()) else "nothing"
