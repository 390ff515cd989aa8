"""Bringing one document to its end, so that it stands there once.

The intent to make a draft is committed before the call goes out. Where the end has idempotency keys, a call whose
outcome is unknown is made again under its key. Where it has none, nothing is made meanwhile: the end is searched by
the document's reference, and only after the slowest answer could have arrived; surplus drafts are voided, and one is
posted.

A document that was never attempted is made without a search of its own where the books were asked for everything under
the order's number already (``steps/adopt.py``), and hold nothing of ours: nobody else can make it meanwhile, for it is
carried under a lock. The answer of *create* is used as it is, so that an index at the end which lags behind makes
nothing twice.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from inkwell_bridge.core.books import (
    BooksDocument,
    BooksRecord,
    PaymentRequest,
    Role,
    Standing,
    StockLevel,
    TradeDocument,
)
from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.core.planner import Settlement, settle
from inkwell_bridge.ends.errors import EndError, OutcomeUnknown, Refused, Temporary
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.decided import accepts_difference
from inkwell_bridge.service.carriage.effects import Ask, Call, Effects, Save
from inkwell_bridge.service.carriage.holding import Hold
from inkwell_bridge.service.carriage.kinds.protocol import Gathered
from inkwell_bridge.service.carriage.log import timed
from inkwell_bridge.service.carriage.models import Document, Exchange
from inkwell_bridge.service.carriage.states import DocumentState
from inkwell_bridge.service.carriage.target import Target
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.reference.pinned import master_data_of

# What a document says once it stands at its end as a draft.
_DRAFTED = ("books_id", "link", "intended_at", "state", "posting_at")
# What is kept of one that stops there for a person, who looks at what the end made of it.
_STOPPED = (*_DRAFTED, "difference", "settled", "reasons", "record")


@dataclass(frozen=True, slots=True, kw_only=True)
class PostedDocument:
    """A document as it stands at its end, and how its penny was settled."""

    record: BooksRecord
    settlement: Settlement


def post_document(carrying: Carrying, document: Document, *, under: Gathered, post: bool) -> Effects[PostedDocument]:
    """Make the document, settle it, and post it where the rules want that.

    Expects the crossing's lock. Calls: one to make it, one to amend the draft where the end computes tax otherwise, one
    to post; searches only where an earlier attempt may have left something. Repeated, it takes up what is there.

    Raises:
        Hold: the end's total differs by more than the rules settle.
        TryLater: the outcome of a call is not known yet.
        Refused, Temporary: as the end answered.
    """
    planned = Role(document.role).shape.read(document.planned)
    end = carrying.end
    record = yield from _record_at_end(carrying, document, planned)
    if record.standing is Standing.DRAFT and document.books_id and document.state == DocumentState.WAITING:
        # It stood there as a draft of what its source said before; nobody changed it since it was read.
        old = record
        record = yield from _change(carrying, document, "amend", lambda: end.amend(old, planned), sent=document.planned)
    # Worked out anew at every attempt, from what the end holds now: nothing of an earlier one is trusted.
    own = carrying.crossing.bridge.company.currency
    settlement = _settled(planned, record, under, own, accepted=accepts_difference(carrying.crossing))
    if record.standing is Standing.POSTED:
        return PostedDocument(record=record, settlement=settlement)
    settled = settlement.document
    # The books' own tax needs no change; only a rounding line, or one left by an earlier attempt, does.
    amends = settlement.finding is None and _needs_amending(record, settled)
    posting = post and settlement.finding is None and not amends
    _keep_draft(document, record, settlement, posting=posting)
    yield Save((document,), _STOPPED if settlement.finding else _DRAFTED)
    if settlement.finding:
        raise Hold(settlement.finding)
    if amends:
        draft = record
        record = yield from _change(
            carrying, document, "amend", lambda: end.amend(draft, settled), sent=settled.as_json()
        )  # fmt: skip
    # By rule a draft may be as far as it goes: then a person posts it in the books.
    if post:
        record = yield from _posted(carrying, document, record)
    return PostedDocument(record=record, settlement=settlement)


def _posted(carrying: Carrying, document: Document, draft: BooksRecord) -> Effects[BooksRecord]:
    # From here on it is decided that the order crosses, whether the answer comes or not.
    if not document.posting_at:
        document.posting_at = timezone.now()
        yield Save((document,), ("posting_at",))
    try:
        work = lambda: carrying.end.post(draft)  # noqa: E731
        return (yield from _change(carrying, document, "post", work, sent={"id": draft.id}))
    except Refused:
        # A definite no: nothing was posted, so a corrected order or rule may still change what it becomes.
        document.posting_at = None
        yield Save((document,), ("posting_at",))
        raise


def _settled(
    planned: BooksDocument, record: BooksRecord, under: Gathered, own: str, *, accepted: bool
) -> Settlement:  # fmt: skip
    """What the end should hold: of money that is what was planned, for nothing on it is computed there."""
    if isinstance(planned, TradeDocument) and under.rulebook.orders is not None:
        codes = master_data_of(under.master_data)
        return settle(planned, record, under.rulebook.for_orders, codes, own=own, accepted=accepted)
    return Settlement(difference=Decimal(0), document=planned)


def _needs_amending(record: BooksRecord, settled: BooksDocument) -> bool:
    theirs = record.document
    if isinstance(settled, StockLevel):
        return theirs != settled
    if isinstance(settled, PaymentRequest):
        return not (isinstance(theirs, PaymentRequest) and theirs.asks_as(settled))
    if not isinstance(theirs, TradeDocument) or not isinstance(settled, TradeDocument):
        return False
    # Settling adds or removes the rounding line and changes no other, so that their number tells.
    return len(settled.lines) != len(theirs.lines)


def cancel_document(carrying: Carrying, document: Document) -> Effects[None]:
    """Cancel a document that is posted, at an end that can; repeated, it changes nothing."""
    for record in (yield from find_live(carrying.end, document)):
        yield from _void(carrying, document, record)
    document.state = DocumentState.CANCELLED
    yield Save((document,), ("state",))


def withdraw(carrying: Carrying, document: Document) -> Effects[None]:
    """Void the drafts of a document that is to be made anew."""
    # A call that is still under way could make another draft after these were voided.
    _wait_until_sure(document, carrying.end)
    # By its reference and not by the id kept here: an unanswered call may have left one that nobody knows.
    for draft in (yield from find_live(carrying.end, document)):
        # What a person posted meanwhile stays; planning again will see that it stands there.
        if draft.standing is Standing.DRAFT:
            yield from _void(carrying, document, draft)
    document.books_id, document.intended_at = "", None


def _void(carrying: Carrying, document: Document, draft: BooksRecord) -> Effects[None]:
    yield from _change(carrying, document, "void", lambda: carrying.end.void(draft), sent={"id": draft.id})


def _record_at_end(carrying: Carrying, document: Document, planned: BooksDocument) -> Effects[BooksRecord]:
    if carrying.never_made and not document.begun:
        return (yield from _make(carrying, document, planned))
    # An earlier attempt may have left something, known here or not: that is found out before anything is made.
    if not carrying.end.capabilities.idempotency_keys:
        _wait_until_sure(document, carrying.end)
    live = yield from find_live(carrying.end, document)
    if not live:
        return (yield from _make(carrying, document, planned))
    # Of several the posted one is kept, for it cannot be taken back; drafts of ours are voided.
    kept, *surplus = sorted(live, key=lambda record: record.standing is not Standing.POSTED)
    for extra in surplus:
        if extra.standing is Standing.DRAFT:
            yield from _void(carrying, document, extra)
    return kept


def _wait_until_sure(document: Document, end: Target) -> None:
    """Go on only once no call of ours can still take effect."""
    if document.intended_at:
        sure_at = _sure_at(document.intended_at, end)
        if timezone.now() < sure_at:
            raise TryLater("Whether it was made there is not known yet.", sure_at)


def find_records(end: Target, document: Document) -> Effects[Sequence[BooksRecord]]:
    """Everything that the end holds under a document's reference. One call for those of one role in a lot."""
    to = (end, Role(document.role))
    return (yield Ask(_records_of, to, document.external_reference, calls_end=True))


def find_live(end: Target, document: Document) -> Effects[Sequence[BooksRecord]]:
    """The same, but for what is void."""
    found = yield from find_records(end, document)
    return [record for record in found if record.standing is not Standing.VOID]


def _records_of(to: tuple[Target, Role], references: Sequence[str]) -> list[list[BooksRecord]]:
    end, role = to
    # Asked for once, though two documents of a lot may share a reference; handed out to each by its own.
    found = end.find(role, list(dict.fromkeys(references)))
    return [[record for record in found if record.document.external_reference == one] for one in references]


def _make(carrying: Carrying, document: Document, planned: BooksDocument) -> Effects[BooksRecord]:
    end = carrying.end
    # The same document for the same contact is the same call; once either changed, it must be another.
    key = f"{document.external_reference}:{checksum([document.contact_id, document.planned])[:16]}"
    # From here on the document may stand there, whatever becomes of us.
    document.intended_at = timezone.now()
    yield Save((document,), ("intended_at",))
    try:
        return (yield from _call(
            carrying, document, "create",
            lambda: end.create(planned, contact_id=document.contact_id, key=key), sent=planned.as_json(),
        ))  # fmt: skip
    # It may stand there by now: the intent stays, and is settled by key or by search.
    except OutcomeUnknown as error:
        raise TryLater(str(error), _next_look(carrying, document)) from error
    # A definite no, or never sent: nothing stands there, so the intent goes.
    except (Refused, Temporary):
        document.intended_at = None
        yield Save((document,), ("intended_at",))
        raise


def _change(
    carrying: Carrying, document: Document, call: str, work: Callable[[], BooksRecord], *, sent: dict[str, Any]
) -> Effects[BooksRecord]:
    """A call that gives the same result when it is made again; after an unknown outcome all starts over."""
    try:
        return (yield from _call(carrying, document, call, work, sent=sent))
    except OutcomeUnknown as error:
        raise TryLater(str(error), _next_look(carrying, document)) from error
    except Refused as error:
        # Somebody was at the draft between our reading and our change: it is read and settled anew.
        if error.why == "changed":
            raise TryLater(str(error), after_pause(0)) from error
        raise


def _call(
    carrying: Carrying, document: Document, call: str, work: Callable[[], BooksRecord], *, sent: dict[str, Any]
) -> Effects[BooksRecord]:
    """Do ``work`` and note what was sent and what came back, or why nothing did.

    The intent stands on the document before the call goes out; this is the record of it afterwards.
    """
    kept = Exchange(
        workspace_id=document.workspace_id, connection=carrying.target, call=call, sent=sent,
        external_reference=document.external_reference,
    )  # fmt: skip
    carrying.exchanges.append(kept)
    try:
        answer: BooksRecord = yield Call(timed(kept, work))
    except EndError as error:
        kept.failure = str(error)
        raise
    kept.answered = answer.as_json()
    return answer


def _next_look(carrying: Carrying, document: Document) -> datetime:
    """After an unknown outcome: at once where the same key makes the call safe, else when it can do no more."""
    if carrying.end.capabilities.idempotency_keys:
        return after_pause(carrying.crossing.tries)
    return _sure_at(timezone.now(), carrying.end)


def _sure_at(moment: datetime, end: Target) -> datetime:
    return moment + timedelta(seconds=end.capabilities.slowest_answer_seconds)


def _keep_draft(document: Document, record: BooksRecord, settlement: Settlement, *, posting: bool) -> None:
    """What the end holds of it; with ``posting``, that it is about to be posted besides."""
    document.books_id, document.link, document.intended_at = record.id, record.link, None
    document.state = DocumentState.DRAFTED
    keep_settlement(document, settlement)
    document.record = record.as_json()
    if posting:
        document.posting_at = document.posting_at or timezone.now()


def keep_settlement(document: Document, settlement: Settlement) -> None:
    """How the document was settled; one that stayed as it was planned is not kept twice."""
    settled = settlement.document.as_json()
    document.settled = None if settled == document.planned else settled
    document.difference = settlement.difference
    document.reasons = [reason.as_json() for reason in settlement.reasons]
