"""Whether somebody changed a document in the books since it was read there last."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from decimal import Decimal
from typing import Any

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
    lines = []
    for planned_line, was, now_said in _paired(ours.lines, before.lines, theirs.lines):
        if planned_line is not None and was is not None:
            lines.append(_changed(planned_line, was, now_said))
        # What settled a penny stands behind what was planned; it says something new only where somebody changed it.
        elif now_said != was:
            lines.append(now_said)
    return ours.model_copy(update={"lines": tuple(lines)})


_Pair = tuple[DocumentLine | None, DocumentLine | None, DocumentLine]


def _paired(
    ours: Sequence[DocumentLine], before: Sequence[DocumentLine], theirs: Sequence[DocumentLine]
) -> Iterator[_Pair]:  # fmt: skip
    """Each line of the books with the one that was read back before, and the one that was planned: by its reference
    where each has one of its own, else by its place."""
    by_reference = [{line.line_reference: line for line in lines} for lines in (ours, before, theirs)]
    if all(len(known) == len(lines) for known, lines in zip(by_reference, (ours, before, theirs), strict=True)):
        planned, settled, _ = by_reference
        for line in theirs:
            yield planned.get(line.line_reference), settled.get(line.line_reference), line
        return
    for place, line in enumerate(theirs):
        alike = len(before) == len(theirs)
        yield (ours[place] if alike and place < len(ours) else None), (before[place] if alike else None), line


def without(document: BooksDocument, pointers: Iterable[str]) -> BooksDocument:
    """A document less what an end has no place for, by JSON Pointers: as it would be read back there."""
    said = document.model_dump()
    for pointer in pointers:
        *path, name = pointer.removeprefix("/").split("/")
        part: Any = said
        for step in path:
            part = part[int(step)] if isinstance(part, list | tuple) else part[step]
        part.pop(name, None)
    return type(document).model_validate(said)


def _changed(ours: DocumentLine, was: DocumentLine, now: DocumentLine) -> DocumentLine:
    update = {name: getattr(now, name) for name in _OF_LINE if getattr(now, name) != getattr(was, name)}
    # By as much as somebody changed them: what the books had computed otherwise before that was settled.
    update |= {name: getattr(ours, name) + getattr(now, name) - getattr(was, name)
               for name in ("net", "tax") if name in update}  # fmt: skip
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
