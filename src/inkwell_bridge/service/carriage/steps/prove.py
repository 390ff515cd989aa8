"""The proof: what was planned against what the end holds, read back."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from django.db.models import Count
from django.utils import timezone

from inkwell_bridge.core.books import BooksRecord, Standing
from inkwell_bridge.core.findings import DIFFERS_THERE, Finding
from inkwell_bridge.core.proof import prove
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Ask, Effects, Save
from inkwell_bridge.service.carriage.models import Document, DocumentSource
from inkwell_bridge.service.carriage.posting import PostedDocument, find_records, keep_settlement
from inkwell_bridge.service.carriage.states import DocumentState, EventKind
from inkwell_bridge.service.carriage.steps.post import stands_already

ONE_DAY = timedelta(days=1)
_PROVED = (
    "intended_at", "settled", "reasons", "difference", "record", "books_id", "books_number", "link", "date", "net",
    "tax", "gross", "state", "proved_at", "read_at", "read_due_at",
)  # fmt: skip


def prove_documents(carrying: Carrying) -> Effects[None]:
    """Read each document back, compare it, and keep what the end holds; what differs is left among the findings.

    Calls: one search for all documents of one role in a lot.
    """
    plan = carrying.plan
    assert plan is not None
    for document in carrying.documents:
        if stands_already(carrying, document):
            continue
        found = yield from find_records(carrying.end, document)
        draft = document.external_reference in plan.drafts
        carrying.findings += _compared(carrying, document, found, draft=draft)
    yield Save(tuple(carrying.documents), _PROVED)
    yield from _keep_shares(carrying)


def _compared(
    carrying: Carrying, document: Document, found: Sequence[BooksRecord], *, draft: bool
) -> Sequence[Finding]:  # fmt: skip
    posted = carrying.posted[document.external_reference]
    findings = prove(
        posted.settlement.document,
        found,
        contact_id=document.contact_id,
        standing=Standing.DRAFT if draft else Standing.POSTED,
        unsupported=carrying.end.unsupported_fields(posted.settlement.document),
    )
    # Where nothing is found under the reference, what the end answered on posting is all there is to show.
    record = next((other for other in found if other.id == posted.record.id), posted.record)
    _keep_record(document, record, posted)
    if any(finding.cause in DIFFERS_THERE for finding in findings):
        document.state = DocumentState.DIFFERS
    else:
        document.state = DocumentState.DRAFTED if draft else DocumentState.PROVED
        # Proved again after a pause, it stays told once.
        if not document.proved_at:
            carrying.happened(EventKind.PROVED, document=document, number=document.books_number)
        document.proved_at = timezone.now()
    return findings


def _keep_record(document: Document, record: BooksRecord, posted: PostedDocument) -> None:
    document.intended_at = None
    keep_settlement(document, posted.settlement)
    document.record = record.as_json()
    document.books_id, document.books_number, document.link = record.id, record.number, record.link
    document.date = getattr(record.document, "date", document.date)
    # Whatever its day: within one somebody has looked at it, or changed it.
    document.read_at = timezone.now()
    document.read_due_at = document.read_at + ONE_DAY if document.posting_at else None
    document.net, document.tax, document.gross = record.net, record.tax, record.gross


def _keep_shares(carrying: Carrying) -> Effects[None]:
    """Of a document that is this crossing's alone, all is its share; one that many have was shared out when it was
    planned."""
    alone = yield Ask(_are_alone, "", [document.pk for document in carrying.documents])
    # The shares of a document add up to it: one that several orders have is not all this one's.
    own = [share for share in carrying.shares if share.document_id in alone]
    by_document = {document.pk: document for document in carrying.documents}
    for share in own:
        document = by_document[share.document_id]
        share.net, share.tax, share.gross = document.net, document.tax, document.gross
    yield Save(tuple(own), ("net", "tax", "gross"))


def _are_alone(_: str, documents: Sequence[Sequence[int]]) -> list[set[int]]:
    """Which of these documents stand for one crossing only; one statement for all of a lot."""
    keys = [pk for of_one in documents for pk in of_one]
    counted = DocumentSource.objects.filter(document__in=keys).values("document").annotate(n=Count("id")).filter(n=1)
    alone = set(counted.values_list("document", flat=True))
    return [alone.intersection(of_one) for of_one in documents]
