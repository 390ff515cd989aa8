"""A document whose source changed after it was posted: what is missing is planned beside what stands there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from django.utils import timezone

from inkwell_bridge.core.books import BooksDocument, BooksRecord, Role, Standing, TradeDocument
from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.proof import as_changed, edited_in_books, without
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.decided import ACCEPTED, EDITED
from inkwell_bridge.service.carriage.effects import Effects, Save
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.kinds.protocol import Gathered
from inkwell_bridge.service.carriage.models import Document
from inkwell_bridge.service.carriage.posting import find_records, withdraw
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind, DocumentState, EventKind

# In place of the rule that leaves a document out.
CANCELLED = "cancelled at the sales side"
_MOST_NAMED = 5


def amend(carrying: Carrying, gathered: Gathered) -> Effects[Plan | Conclusion]:
    """Plan what the change asks for, beside what stands in the books. Drafts that nobody posted are made anew.

    Calls: one search for the documents of each role, for what a person changed in the books is never overwritten.

    Raises:
        Hold: somebody changed one of them there, and nobody has decided yet what becomes of that.
    """
    edited = yield from _changed_in_books(carrying)
    puts_back = (carrying.crossing.decision or {}).get("kind") == DecisionKind.PUT_BACK.value
    theirs = {one.document.external_reference: one.theirs for one in edited if puts_back}
    plan = carrying.kind.amended(carrying, gathered, theirs)
    if plan.outcome is Outcome.HOLD:
        return Conclusion(state=CrossingState.HELD, findings=plan.findings)
    yield from _as_decided(edited, puts_back=puts_back)
    yield from renew_drafts(carrying, plan)
    if not plan.documents:
        # Only drafts stood there, and they are gone: nothing of it ever crossed.
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=CANCELLED, findings=plan.findings)
    if any(document.external_reference not in _references(carrying) for document in plan.documents) or plan.cancels:
        carrying.happened(EventKind.AMENDED, change=plan.amendment, text=_said(plan))
    return plan


def _references(carrying: Carrying) -> set[str]:
    return {document.external_reference for document in carrying.documents}


def _said(plan: Plan) -> str:
    return next((finding.text for finding in plan.findings if finding.id.startswith("AMEND-N")), "")


class _Edited(NamedTuple):
    """A document that somebody changed in the books: what they have ``now``, and what was planned with that."""

    document: Document
    now: BooksRecord
    theirs: BooksDocument


def _as_decided(edited: Sequence[_Edited], *, puts_back: bool) -> Effects[None]:
    """Let documents that somebody decided about count as planned as they stand there: read again, they are as they
    were. One whose change is kept counts in later plans as it was planned at first."""
    for document, now, theirs in edited:
        if not puts_back:
            document.counts_as = document.counts_as or document.planned
        document.planned, document.settled = theirs.as_json(), now.document.as_json()
        document.record, document.contact_id = now.as_json(), now.contact_id or document.contact_id
        document.net, document.tax, document.gross = now.net, now.tax, now.gross
        document.date, document.state = getattr(now.document, "date", document.date), DocumentState.PROVED
    yield Save(tuple(one.document for one in edited), _DECIDED)


_DECIDED = ("counts_as", "planned", "settled", "record", "contact_id", "net", "tax", "gross", "date", "state")


def _changed_in_books(carrying: Carrying) -> Effects[list[_Edited]]:
    """What somebody changed in the books, where a person decided about it; drafts that somebody posted there count as
    posted from now on."""
    theirs: list[_Edited] = []
    changes: list[str] = []
    posted_there: list[Document] = []
    for document in carrying.documents:
        then = _then(carrying, document)
        if then is None:
            continue
        found = yield from find_records(carrying.end, document)
        now = next((one for one in found if one.id == then.id), None)
        if now is not None and now.standing is Standing.POSTED and not document.posting_at:
            document.posting_at, document.books_number = timezone.now(), now.number
            posted_there.append(document)
        changed = edited_in_books(then, now)
        if changed:
            name = document.books_number or document.external_reference
            changes.append(f"{name}: {', '.join(changed[:_MOST_NAMED])}")
            if now is not None and now.standing is not Standing.VOID:
                planned = Role(document.role).shape.read(document.planned)
                theirs.append(_Edited(document, now, as_changed(planned, then, now)))
    yield Save(tuple(posted_there), ("posting_at", "books_number"))
    if not changes:
        return []
    edited, decision = _edited(carrying, changes), carrying.crossing.decision or {}
    # A decision is about what they had changed by then; whatever else they change is asked about again.
    if decision.get(EDITED) != checksum(edited.finding.text):
        raise edited
    return theirs


def _then(carrying: Carrying, document: Document) -> BooksRecord | None:
    """A document as it was when nobody asked anything about it; none where it never stood there, or is cancelled.

    Held against what was read back, and not against the plan: what the books computed otherwise was settled. Where
    reading it again found another by now, and nobody has accepted that, as it was settled.
    """
    if document.state == DocumentState.CANCELLED or not (document.record or document.posting_at):
        return None
    accepted = ACCEPTED in (carrying.crossing.decision or {})
    if document.record and (document.state != DocumentState.DIFFERS or accepted):
        return BooksRecord.read(document.record)
    settled = Role(document.role).shape.read(document.settled or document.planned)
    settled = without(settled, carrying.end.unsupported_fields(settled))
    said = {name: getattr(settled, name) for name in ("net", "tax", "gross") if isinstance(settled, TradeDocument)}
    return BooksRecord(id=document.books_id or document.external_reference, number=document.books_number,
                       standing=Standing.POSTED, contact_id=document.contact_id, document=settled, **said)  # fmt: skip


def _edited(carrying: Carrying, changes: Sequence[str]) -> Hold:
    return hold(
        "AMEND-E006",
        Cause.BOOKS_EDITED,
        f"{carrying.crossing.number} changed after it was posted, and somebody changed what was posted: "
        f"{'; '.join(changes)}.",
        "Decide: keep theirs posts what the order changed by, beside what they changed; put ours back posts all that "
        "the books lack of the order as it is now; or keep what is posted.",
    )


def renew_drafts(carrying: Carrying, plan: Plan) -> Effects[None]:
    """Let drafts say what the plan says now, under the same references; those that it does not ask for are voided."""
    wanted = {planned.external_reference: planned for planned in plan.documents}
    shares = {share.document_id: share for share in carrying.shares}
    kept: list[Document] = []
    renewed: list[Document] = []
    for document in carrying.documents:
        planned = wanted.get(document.external_reference)
        if document.posting_at or (planned is not None and planned.as_json() == document.planned):
            kept.append(document)
        elif planned is not None:
            # Waiting with the id of a draft: posting amends that before anything else.
            document.planned, document.state = planned.as_json(), DocumentState.WAITING
            document.snapshot_id, document.proved_at = carrying.crossing.snapshot_id, None
            document.date = getattr(planned, "date", document.date)
            renewed.append(document)
            kept.append(document)
        else:
            if document.begun:
                yield from withdraw(carrying, document)
            document.delete()
    yield Save(tuple(renewed), ("planned", "state", "snapshot", "proved_at", "date"))
    carrying.documents = kept
    carrying.shares = [shares[document.pk] for document in kept]
