"""Whether somebody changed a document in the books since it was read there last."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from inkwell_bridge.core.books import (
    BooksDocument,
    BooksRecord,
    DocumentLine,
    Journal,
    Payment,
    Standing,
    TradeDocument,
)

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


def as_changed(planned: BooksDocument, then: BooksRecord, now: BooksRecord) -> BooksDocument:
    """A planned document with what somebody changed of it in the books since it was read back as ``then``.

    Where the books computed a penny of tax otherwise, that was settled: such a line keeps its planned tax.
    """
    ours, before, theirs = planned, then.document, now.document
    if not (isinstance(ours, TradeDocument) and isinstance(before, TradeDocument)
            and isinstance(theirs, TradeDocument)):  # fmt: skip
        return theirs
    if len(before.lines) != len(theirs.lines):
        return ours.model_copy(update={"lines": theirs.lines})
    lines = [
        _changed(line, was, now_said)
        for line, was, now_said in zip(ours.lines, before.lines[: len(ours.lines)], theirs.lines, strict=False)
    ]
    # What settled a penny stands behind what was planned; it says something new only where somebody changed it.
    behind = [
        now_said
        for was, now_said in zip(before.lines[len(ours.lines) :], theirs.lines[len(ours.lines) :], strict=True)
        if now_said != was
    ]
    return ours.model_copy(update={"lines": (*lines, *behind)})


def _changed(ours: DocumentLine, was: DocumentLine, now: DocumentLine) -> DocumentLine:
    update = {name: getattr(now, name) for name in _OF_LINE if getattr(now, name) != getattr(was, name)}
    return ours.model_copy(update=update) if update else ours


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
    if isinstance(ours, Journal) and isinstance(theirs, Journal):
        posted, now_posted = ([f"{line.account} {line.base:f}" for line in one.lines] for one in (ours, theirs))
        yield from _field("postings", "; ".join(posted), "; ".join(now_posted))
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
