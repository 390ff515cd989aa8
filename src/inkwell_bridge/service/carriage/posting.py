"""Bringing one document into the books, so that it stands there once.

Before anything is made, the books are searched by the document's mark. The intent to make a draft is
written before the call goes out. Where the books have idempotency keys, a call whose outcome is unknown
is simply made again under its key. Where they have none, nothing is made meanwhile: the books are
searched only after the slowest answer could have arrived. A draft is made first, the books are searched
again, surplus drafts are voided, and one is posted.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from inkwell_bridge.core.books import BooksDocument, Held, Role, Standing, TradeDocument
from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.core.planner import Settlement, settle
from inkwell_bridge.core.rulebook import OrderRulebook
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import OutcomeUnknown, Refused, Temporary
from inkwell_bridge.service.carriage.exchanges import exchange
from inkwell_bridge.service.carriage.holding import Hold
from inkwell_bridge.service.carriage.models import Document
from inkwell_bridge.service.carriage.states import DocumentState
from inkwell_bridge.service.later import TryLater, after_pause


@dataclass(frozen=True, slots=True, kw_only=True)
class Brought:
    """A document as it stands in the books, and how its penny was settled."""

    held: Held
    settlement: Settlement


def bring(document: Document, *, books: BooksEnd, rulebook: OrderRulebook, post: bool) -> Brought:
    """Make the document, settle it, and post it where the rules want that.

    Raises:
        Hold: the books' total differs by more than the rules settle.
        TryLater: the outcome of a call is not known yet.
        Refused, Temporary: as the books answered.
    """
    planned = Role(document.role).shape.read(document.planned)
    held = _standing_in_books(document, planned, books)
    settlement = _settled(planned, held, rulebook)
    if held.standing is Standing.POSTED:
        return Brought(held=held, settlement=settlement)
    _keep_draft(document, held, settlement)
    if settlement.finding:
        raise Hold(settlement.finding)
    settled = settlement.document
    if _needs_amending(held, settled):
        draft = held
        held = _changing(document, "amend", books, lambda: books.amend(draft, settled), sent=settled.as_json())
    if post:
        document.posting_at = document.posting_at or timezone.now()
        document.save(update_fields=["posting_at"])
        draft = held
        held = _changing(document, "post", books, lambda: books.post(draft), sent={"id": draft.id})
    return Brought(held=held, settlement=settlement)


def _settled(planned: BooksDocument, held: Held, rulebook: OrderRulebook) -> Settlement:
    """What the books should hold: of money that is what was planned, for nothing on it is computed there."""
    if isinstance(planned, TradeDocument):
        return settle(planned, held, rulebook)
    return Settlement(difference=Decimal(0), document=planned)


def _needs_amending(held: Held, settled: BooksDocument) -> bool:
    theirs = held.document
    if not isinstance(theirs, TradeDocument) or not isinstance(settled, TradeDocument):
        return False
    return len(settled.lines) != len(theirs.lines)


def withdraw(document: Document, books: BooksEnd) -> None:
    """Void the drafts of a document that is to be made anew."""
    _wait_until_sure(document, books)
    for draft in _live(document, books):
        if draft.standing is Standing.DRAFT:
            _changing(document, "void", books, lambda draft=draft: books.void(draft), sent={"id": draft.id})
    document.books_id, document.intended_at = "", None


def _standing_in_books(document: Document, planned: BooksDocument, books: BooksEnd) -> Held:
    if not books.capabilities.idempotency_keys:
        _wait_until_sure(document, books)
    live = _live(document, books)
    if not live:
        _make(document, planned, books)
        live = _live(document, books)
    kept, *surplus = sorted(live, key=lambda held: held.standing is not Standing.POSTED)
    for extra in surplus:
        if extra.standing is Standing.DRAFT:
            _changing(document, "void", books, lambda extra=extra: books.void(extra), sent={"id": extra.id})
    return kept


def _wait_until_sure(document: Document, books: BooksEnd) -> None:
    """Go on only once no call of ours can still take effect."""
    if document.intended_at:
        sure_at = _sure_at(document.intended_at, books)
        if timezone.now() < sure_at:
            raise TryLater("Whether the books made the draft is not known yet.", sure_at)


def _live(document: Document, books: BooksEnd) -> Sequence[Held]:
    found = books.find(Role(document.role), document.mark)
    return [held for held in found if held.standing is not Standing.VOID]


def _make(document: Document, planned: BooksDocument, books: BooksEnd) -> None:
    key = f"{document.mark}:{checksum([document.contact_id, document.planned])[:16]}"
    document.intended_at = timezone.now()
    document.save(update_fields=["intended_at"])
    try:
        exchange(
            document,
            "create",
            lambda: books.create(planned, contact_id=document.contact_id, key=key),
            sent=planned.as_json(),
        )
    except OutcomeUnknown as error:
        raise TryLater(str(error), _next_look(document, books)) from error
    except (Refused, Temporary):
        _forget_intent(document)
        raise
    _forget_intent(document)


def _forget_intent(document: Document) -> None:
    document.intended_at = None
    document.save(update_fields=["intended_at"])


def _changing(
    document: Document, call: str, books: BooksEnd, work: Callable[[], Held], *, sent: dict[str, Any]
) -> Held:
    """A call that gives the same result when it is made again; after an unknown outcome all starts over."""
    try:
        return exchange(document, call, work, sent=sent)
    except OutcomeUnknown as error:
        raise TryLater(str(error), _next_look(document, books)) from error
    except Refused as error:
        if error.why == "changed":
            raise TryLater(str(error), after_pause(0)) from error
        raise


def _next_look(document: Document, books: BooksEnd) -> datetime:
    """After an unknown outcome: at once where the same key makes the call safe, else when it can do no more."""
    if books.capabilities.idempotency_keys:
        return after_pause(document.crossing.tries)
    return _sure_at(timezone.now(), books)


def _sure_at(moment: datetime, books: BooksEnd) -> datetime:
    return moment + timedelta(seconds=books.capabilities.slowest_answer_seconds)


def _keep_draft(document: Document, held: Held, settlement: Settlement) -> None:
    document.books_id, document.link, document.intended_at = held.id, held.link, None
    document.state = DocumentState.DRAFTED
    document.difference = settlement.difference
    document.settled = settlement.document.as_json()
    document.reasons = [reason.as_json() for reason in settlement.reasons]
    document.held = held.as_json()
    document.save()
