"""Documents that were posted, read back again later: what became of each in the books, and when to look next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from enum import StrEnum

from inkwell_bridge.core.books import BooksRecord, Standing
from inkwell_bridge.core.proof.edited import edited_in_books
from inkwell_bridge.core.record import record

# What is so young is read again each day: most mistakes are made, and mended, within days.
DAILY_FOR = timedelta(days=7)
WEEK, ONE_DAY = timedelta(days=7), timedelta(days=1)


class Verdict(StrEnum):
    """What reading a document again found."""

    SAME = "as it was"
    CHANGED = "changed in the books"
    VOIDED = "voided in the books"
    MISSING = "not in the books any more"
    TWICE = "twice in the books"
    OTHER_REFERENCE = "under another reference in the books"
    UNREADABLE = "unreadable in the books"


@record
class Reread:
    """The verdict on one document; ``said`` is what is another, in words, ``by`` who did that, where the books tell,
    ``now`` how it stands there, where it does, and ``copies`` whatever else stands there under its reference."""

    verdict: Verdict
    said: tuple[str, ...] = ()
    by: str = ""
    now: BooksRecord | None = None
    copies: tuple[BooksRecord, ...] = ()


def reread(then: BooksRecord | None, found: Sequence[BooksRecord], by_id: BooksRecord | None = None) -> Reread:
    """What became of a document that was read back as ``then`` last, or was not there.

    Shape: ``found`` is everything that the books hold under its reference now, ``by_id`` what they hold under their own
    id of it, asked where nothing that stands was found.
    """
    live = [one for one in found if one.standing is not Standing.VOID]
    if len(live) > 1:
        kept = next((one for one in live if then is not None and one.id == then.id), live[0])
        copies = tuple(one for one in live if one is not kept)
        return Reread(verdict=Verdict.TWICE, said=(f"{len(live)} of them",), now=kept, copies=copies)
    if not live and by_id is not None and by_id.standing is not Standing.VOID:
        return Reread(
            verdict=Verdict.OTHER_REFERENCE, now=by_id, by=by_id.changed_by,
            said=(f"it bears {by_id.document.external_reference or 'none'} there",),
        )  # fmt: skip
    if not live:
        voided = next(iter(found), by_id)
        if voided is None:
            return Reread(verdict=Verdict.MISSING)
        return Reread(verdict=Verdict.VOIDED, by=voided.changed_by)
    if then is None:
        return Reread(verdict=Verdict.CHANGED, said=("it is there again",), now=live[0])
    changed = edited_in_books(then, live[0]) or tuple(_otherwise(then, live[0]))
    if then.standing is Standing.POSTED and live[0].standing is Standing.DRAFT:
        changed = ("it is a draft again, and in no account", *changed)
    verdict = Verdict.CHANGED if changed else Verdict.SAME
    return Reread(verdict=verdict, said=changed, by=live[0].changed_by if changed else "", now=live[0])


def _otherwise(then: BooksRecord, now: BooksRecord) -> Iterator[str]:
    """What else is another: an order's number, what money is set against, and whatever the proof may compare."""
    before, after = then.document.model_dump(), now.document.model_dump()
    for name in after:
        if before.get(name) != after[name]:
            yield f"{name.replace('_', ' ')} is another"
    if then.number != now.number:
        yield f"number {now.number} in place of {then.number}"


def next_reading(day: date, today: date) -> timedelta | None:
    """How long until a document of a day is read again: each day while it is new, each week until the month after its
    own is over, and then no more by itself.

    Source: trade practice; a month is closed in the course of the next.
    """
    if today - day < DAILY_FOR:
        return ONE_DAY
    first_of_next = (day.replace(day=28) + timedelta(days=4)).replace(day=1)
    end = (first_of_next.replace(day=28) + timedelta(days=4)).replace(day=1)
    return WEEK if today < end else None
