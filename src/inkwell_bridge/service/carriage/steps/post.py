"""Posting the documents of a plan, in its order: what others are set against goes first."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import IntegrityError, transaction
from django.utils import timezone

from inkwell_bridge.core.books import BooksDocument, Journal, Payment, Role, TradeDocument, WriteOff
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.contacts import forget_missing
from inkwell_bridge.service.carriage.effects import Ask, Effects, Save
from inkwell_bridge.service.carriage.models import Document, DocumentSource
from inkwell_bridge.service.carriage.posting import cancel_document, post_document
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EventKind
from inkwell_bridge.service.carriage.steps.taken_numbers import keep_taken
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import TryLater
from inkwell_bridge.service.reference.pinned import load_master_data, master_data_of
from inkwell_bridge.service.rows import insert_rows


def post_documents(carrying: Carrying) -> Effects[Conclusion | None]:
    """Make a row for each document of the plan, then bring each to its end; what is there already is taken up.

    Calls: those of ``post_document`` for each.
    """
    plan, gathered = carrying.plan, carrying.gathered
    assert plan is not None
    assert gathered is not None
    # A contact that was merged in the books was found again under another id; what is posted keeps the old one.
    found_anew = [one for one in carrying.documents if not one.contact_id and not one.posting_at]
    if carrying.contact_id and found_anew:
        for document in found_anew:
            document.contact_id = carrying.contact_id
        yield Save(tuple(found_anew), ("contact_id",))
    taken = yield Ask(_open_documents, carrying.target, carrying)
    if taken:
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=taken)
    yield from _cancel(carrying, plan)
    for document in carrying.documents:
        if stands_already(carrying, document):
            continue
        post = document.external_reference not in plan.drafts
        # A repeated attempt passes by what stands already; its history tells of it once.
        was_posted = bool(document.posting_at and document.proved_at)
        try:
            posted = yield from post_document(carrying, document, under=gathered, post=post)
        except Refused as error:
            if error.why == "locked" and (yield Ask(_locked_since, carrying.crossing.bridge.books, carrying)):
                raise TryLater("The books have locked its period; it is dated anew.", timezone.now()) from error
            if error.why == "number" and document.amendment:
                yield from keep_taken(carrying, document)
                raise TryLater("Its number is taken in the books; it takes the next one.", timezone.now()) from error
            if error.why in ("document", "not found") and (yield from _contact_is_gone(carrying, document)):
                raise TryLater("The contact is gone from the books; it is looked for again.", timezone.now()) from error
            raise
        carrying.posted[document.external_reference] = posted
        if not was_posted:
            carrying.happened(EventKind.POSTED, document=document, role=document.role, draft=not post)
    return None


def _locked_since(books: Connection, carryings: Sequence[Carrying]) -> list[bool]:
    """For each whether its rules give another day to what is dated in a locked period, and the books have locked one
    since it was planned: their lists are loaded anew, once for all."""
    known = {one: one.gathered.locked_until for one in carryings
             if one.gathered and one.gathered.rulebook.periods.locked != "hold"}  # fmt: skip
    now = master_data_of(load_master_data(books)).locked_until if known else None
    return [one in known and known[one] != now for one in carryings]


def stands_already(carrying: Carrying, document: Document) -> bool:
    """Whether a document is passed by where others are added to it: cancelled, or proved by an earlier plan."""
    if document.state == DocumentState.CANCELLED:
        return True
    assert carrying.plan is not None
    # Where nothing but a balance is given up, the sale itself is nobody's concern any more.
    gives_up = document.role != Role.WRITE_OFF and any(
        one.role == Role.WRITE_OFF and not one.proved_at for one in carrying.documents
    )
    earlier = gives_up or document.amendment < carrying.plan.amendment
    return earlier and document.state == DocumentState.PROVED and bool(document.proved_at)


def _cancel(carrying: Carrying, plan: Plan) -> Effects[None]:
    """Cancel what the plan wants cancelled, before anything is made in its place."""
    for document in carrying.documents:
        if document.external_reference in plan.cancels and document.state != DocumentState.CANCELLED:
            yield from cancel_document(carrying, document)
            carrying.happened(EventKind.AMENDED, document=document, text=f"{document.books_number} was cancelled.")


def _contact_is_gone(carrying: Carrying, document: Document) -> Effects[bool]:
    """Whether the books refused a document because its contact was merged or deleted there since it was linked."""
    plan, gathered = carrying.plan, carrying.gathered
    if plan is None or plan.contact is None or gathered is None or document.posting_at:
        return False
    rules = gathered.rulebook.customers
    gone = yield from forget_missing(plan.contact, document.contact_id, carrying.target, carrying.books, rules)
    if not gone:
        return False
    pks = [one.pk for one in carrying.documents if not one.posting_at]
    Document.objects.filter(pk__in=pks).update(contact_id="")
    return True


def _open_documents(target: Connection, carryings: Sequence[Carrying]) -> list[str]:
    """A row for each document of each plan, with its crossing's share in it; those that are there stay.

    Answers what leaves each crossing out: another bridge from the same shop has carried it into the same books. One
    transaction of two statements, however many there are.
    """
    fresh = {carrying: _fresh(carrying) for carrying in carryings}
    opened = {carrying: _in_plan_order(carrying, fresh[carrying]) for carrying in carryings if fresh[carrying]}
    shares = {carrying: _shares(carrying, documents) for carrying, documents in opened.items()}
    try:
        with transaction.atomic():
            insert_rows([document for documents in fresh.values() for document in documents])
            DocumentSource.objects.bulk_create(
                [share for of_one in shares.values() for share in of_one],
                update_conflicts=True, unique_fields=["crossing", "document"], update_fields=["part"],
            )  # fmt: skip
    except IntegrityError:
        if len(carryings) > 1:
            # Each is tried by itself: only one of them need be another bridge's.
            raise
        (carrying,) = carryings
        other = _other_bridge(carrying, [document.external_reference for document in fresh[carrying]])
        if other is None:
            raise
        return [f"carried over {other}"[:120]]
    # Only now: a document of which no row stands must never be taken for one that has one.
    for carrying, documents in opened.items():
        carrying.documents, carrying.shares = documents, shares[carrying]
    return [""] * len(carryings)


def _fresh(carrying: Carrying) -> list[Document]:
    crossing, plan = carrying.crossing, carrying.plan
    assert plan is not None
    known = {document.external_reference for document in carrying.documents}
    return [
        Document(
            workspace_id=crossing.workspace_id,
            connection=carrying.target,
            role=planned.role,
            external_reference=planned.external_reference,
            amendment=plan.amendment if isinstance(planned, TradeDocument | Journal) else 0,
            planned=planned.as_json(),
            snapshot_id=crossing.snapshot_id,
            contact_id=carrying.contact_id if _has_contact(planned) else "",
            currency=getattr(planned, "currency", ""),
            date=getattr(planned, "date", None),
        )
        for planned in plan.documents
        if planned.external_reference not in known
    ]


def _in_plan_order(carrying: Carrying, fresh: Sequence[Document]) -> list[Document]:
    """As the plan has them, whatever was there before: money goes after the document that it is set against."""
    assert carrying.plan is not None
    known = {document.external_reference: document for document in (*carrying.documents, *fresh)}
    ordered = [known.pop(planned.external_reference) for planned in carrying.plan.documents]
    # What was made to put others right is in the books for good, whatever is planned since.
    return [*ordered, *(one for one in known.values() if one.put_right)]


def _shares(carrying: Carrying, documents: Sequence[Document]) -> list[DocumentSource]:
    crossing = carrying.crossing
    return [
        DocumentSource(workspace_id=crossing.workspace_id, crossing=crossing, document=document, part=part)
        for part, document in enumerate(documents, start=1)
    ]


def _other_bridge(carrying: Carrying, references: list[str]) -> str | None:
    """The bridge whose crossing stands under one of these references."""
    rows = Document.objects.filter(connection=carrying.target, external_reference__in=references)
    return rows.values_list("crossings__bridge__slug", flat=True).first()


def _has_contact(planned: BooksDocument) -> bool:
    return isinstance(planned, TradeDocument | Payment | WriteOff)
