"""The proof: what was planned against what the end holds, read back."""

from __future__ import annotations

from django.db.models import Count
from django.utils import timezone

from inkwell_bridge.core.books import BooksRecord, Role, Standing
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.proof import prove
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.models import Document, DocumentSource
from inkwell_bridge.service.carriage.posting import PostedDocument
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EventKind


def prove_documents(carrying: Carrying) -> Conclusion | None:
    """Read each document back, compare it, keep what the end holds, and end the crossing.

    Calls: one search for each document.
    """
    plan = carrying.plan
    assert plan is not None
    for document in carrying.documents:
        carrying.findings += _proved(carrying, document, draft=document.external_reference in plan.drafts)
    _keep_shares(carrying)
    differs = any(finding.cause is Cause.NOT_PROVED for finding in carrying.findings)
    state = CrossingState.DIFFERS if differs else CrossingState.CARRIED
    return Conclusion(state=state, findings=[*plan.findings, *carrying.findings])


def _proved(carrying: Carrying, document: Document, *, draft: bool) -> list[Finding]:
    posted = carrying.posted[document.external_reference]
    found = carrying.books.find(Role(document.role), document.external_reference)
    findings = prove(
        posted.settlement.document,
        found,
        contact_id=document.contact_id,
        standing=Standing.DRAFT if draft else Standing.POSTED,
        unsupported=carrying.books.unsupported_fields(posted.settlement.document),
    )
    record = next((other for other in found if other.id == posted.record.id), posted.record)
    _keep_record(document, record, posted)
    if any(finding.cause is Cause.NOT_PROVED for finding in findings):
        document.state = DocumentState.DIFFERS
    else:
        document.state = DocumentState.DRAFTED if draft else DocumentState.PROVED
        document.proved_at = timezone.now()
        carrying.happened(EventKind.PROVED, document=document, number=document.books_number)
    document.save()
    return list(findings)


def _keep_record(document: Document, record: BooksRecord, posted: PostedDocument) -> None:
    document.settled = posted.settlement.document.as_json()
    document.reasons = [reason.as_json() for reason in posted.settlement.reasons]
    document.difference = posted.settlement.difference
    document.record = record.as_json()
    document.books_id, document.books_number, document.link = record.id, record.number, record.link
    document.date = getattr(record.document, "date", document.date)
    document.net, document.tax, document.gross = record.net, record.tax, record.gross


def _keep_shares(carrying: Carrying) -> None:
    """Of a document that is this crossing's alone, all is its share; one that many have was shared out when it was
    planned."""
    alone = DocumentSource.objects.filter(document__in=carrying.documents).values("document").annotate(n=Count("id"))
    own = {row["document"] for row in alone.filter(n=1)}
    by_document = {document.pk: document for document in carrying.documents if document.pk in own}
    rows = list(DocumentSource.objects.filter(crossing=carrying.crossing, document__in=own))
    for share in rows:
        document = by_document[share.document_id]
        share.net, share.tax, share.gross = document.net, document.tax, document.gross
    DocumentSource.objects.bulk_update(rows, ["net", "tax", "gross"])
