"""Carrying one crossing: plan, contact, documents, proof; and what becomes of it when that fails."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.books import Contact, Held, Role, Standing
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.findings import Cause, Finding
from inkwell_bridge.core.planner import Outcome, Plan
from inkwell_bridge.core.proof import prove
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import EndError, Refused, Temporary
from inkwell_bridge.service.carriage import adoption
from inkwell_bridge.service.carriage.contacts import contact_in_books, customer_in_books, linked_contact
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.planning import Planned, plan_crossing
from inkwell_bridge.service.carriage.posting import Brought, bring, withdraw
from inkwell_bridge.service.carriage.refunds import WAITS_FOR_ORDER, in_turn, still_waits, wake, wake_refunds
from inkwell_bridge.service.carriage.runs import conclude, in_date_order, let_all_wait
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EntryOutcome
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.connections.models import ConnectionState
from inkwell_bridge.service.connections.vault import Unreadable
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.locks import held_if_free

# So often a refund looks for its order before its run goes on without it.
PATIENT_TRIES = 8


def carry(workspace_id: int, crossing_id: int) -> None:
    """Bring a crossing as far as it will go.

    Raises:
        TryLater: the trouble is of the kind that passes.
    """
    with held_if_free(f"crossing:{workspace_id}:{crossing_id}") as free:
        if not free:
            # A worker that was thought dead still holds it; its lock ends with it.
            raise TryLater("Another worker is carrying this document.", after_pause(0))
        crossing = _load(workspace_id, crossing_id)
        if crossing.state != CrossingState.WAITING:
            # It was brought to its end while a run still read it as waiting; that run must hear of it.
            conclude(crossing, EntryOutcome(crossing.state))
            return
        try:
            _only_its_own_company(crossing)
            with in_turn(crossing):
                _carry(crossing)
        except Hold as held:
            _finish(crossing, CrossingState.HELD, findings=[held.finding])
        except TryLater as later:
            _wait(crossing, str(later), later.at)
            if crossing.kind == SourceKind.REFUNDS and crossing.tries > PATIENT_TRIES:
                # Its order is in trouble; the run need not stay open for both.
                conclude(crossing, EntryOutcome.WAITING)
            raise
        except (EndError, Unreadable) as error:
            _troubled(crossing, error)


def _only_its_own_company(crossing: Crossing) -> None:
    """Wait where an end turned out to be another company's: nothing is planned from it, nothing posted to it."""
    for connection in (crossing.bridge.source, crossing.bridge.books):
        if connection.state == ConnectionState.OTHER_COMPANY:
            conclude(crossing, EntryOutcome.WAITING)
            if in_date_order(crossing.bridge):
                let_all_wait(crossing)
            raise TryLater(connection.state_text, after_pause(crossing.tries))


def _load(workspace_id: int, crossing_id: int) -> Crossing:
    return Crossing.objects.select_related(
        "workspace",
        "snapshot",
        "bridge__company",
        "bridge__source__workspace",
        "bridge__books__workspace",
    ).get(workspace=workspace_id, pk=crossing_id)


def _carry(crossing: Crossing) -> None:
    documents = list(crossing.documents.order_by("part"))
    if any(document.state == DocumentState.ADOPTED for document in documents):
        _stay_adopted(crossing, documents)
        return
    planned = plan_crossing(crossing, documents)
    books = books_end(crossing.bridge.books)
    if any(document.posting_at for document in documents):
        _still_the_same(planned.plan, documents)
    elif not _as_planned(planned.plan, documents):
        documents = _renew(documents, books)
    _keep_plan(crossing, planned)
    if planned.plan.outcome is Outcome.LEFT_OUT:
        _finish(crossing, CrossingState.LEFT_OUT, left_out_by=planned.plan.left_out_by or "")
        return
    if _adopted(crossing, planned, documents, books):
        return
    if planned.plan.outcome is Outcome.HOLD:
        _finish(crossing, CrossingState.HELD, findings=list(planned.plan.findings))
        return
    if crossing.kind == SourceKind.CUSTOMERS:
        connections.settle(crossing.bridge.source)
        connections.settle(crossing.bridge.books)
        customer_in_books(planned.plan.contact or Contact(), crossing, books, planned.rulebook.customers)
        _finish(crossing, CrossingState.CARRIED)
        return
    documents = _open_documents(crossing, planned.plan, documents)
    findings = [finding for document in documents for finding in _bring(document, crossing, planned, books)]
    differs = any(finding.cause is Cause.NOT_PROVED for finding in findings)
    _finish(
        crossing,
        CrossingState.DIFFERS if differs else CrossingState.CARRIED,
        findings=[*planned.plan.findings, *findings],
    )


def _adopted(crossing: Crossing, planned: Planned, documents: list[Document], books: BooksEnd) -> bool:
    """Whether an order ends here: somebody typed it into the books, or it is from before the bridge's start."""
    untouched = not any(document.begun for document in documents)
    if crossing.kind != SourceKind.ORDERS or not untouched:
        return False
    role = Role(planned.plan.documents[0].role if planned.plan.documents else planned.rulebook.for_orders.orders.become)
    found = adoption.typed_in(crossing, role, books)
    if found is not None:
        adoption.adopt(crossing, role, *found)
        return True
    if adoption.before_start(crossing):
        _finish(crossing, CrossingState.LEFT_OUT, left_out_by=adoption.STARTS_ON)
        return True
    return False


def _stay_adopted(crossing: Crossing, documents: list[Document]) -> None:
    """What was adopted stays as the books have it; a person looks where the order says another total by now."""
    if adoption.still_the_same(crossing, documents):
        _finish(crossing, CrossingState.ADOPTED)
        return
    numbers = ", ".join(document.books_number or document.books_id for document in documents)
    raise hold(
        "SRC-E011",
        Cause.SOURCE_CHANGED,
        f"The order was changed after {numbers} was adopted for it, and says {crossing.gross} {crossing.currency} now.",
        "Compare both pages. Correct the document in the books, or put the order back as it was.",
    )


def _still_the_same(plan: Plan, documents: list[Document]) -> None:
    """Hold a crossing whose source now asks for other documents than those that were posted."""
    if _as_planned(plan, documents):
        return
    numbers = ", ".join(document.books_number or document.books_id for document in documents)
    raise hold(
        "SRC-E011",
        Cause.SOURCE_CHANGED,
        f"The order was changed after it became {numbers}; what it would become now is something else.",
        "Compare both pages. Correct the document in the books, or put the order back as it was.",
    )


def _as_planned(plan: Plan, documents: list[Document]) -> bool:
    """Whether the plan still asks for each of these documents; money that came in since makes further ones.

    Read first, for an older one lacks what is new in the shapes.
    """
    wanted = {planned.mark: planned for planned in plan.documents}
    return all(Role(document.role).shape.read(document.planned) == wanted.get(document.mark) for document in documents)


def _renew(documents: list[Document], books: BooksEnd) -> list[Document]:
    """Documents that were not posted are made anew when the plan changes; their drafts are voided first."""
    for document in documents:
        if document.begun:
            withdraw(document, books)
        document.delete()
    return []


@transaction.atomic
def _open_documents(crossing: Crossing, plan: Plan, documents: list[Document]) -> list[Document]:
    """A row for each document of the plan, its part its place there; those that are there stay."""
    connections.settle(crossing.bridge.source)
    connections.settle(crossing.bridge.books)
    known = {document.mark: document for document in documents}
    opened = [
        known.get(planned.mark)
        or Document.objects.create(
            workspace_id=crossing.workspace_id,
            crossing=crossing,
            connection=crossing.bridge.books,
            role=planned.role,
            part=part,
            mark=planned.mark,
            planned=planned.as_json(),
            currency=planned.currency,
        )
        for part, planned in enumerate(plan.documents, start=1)
    ]
    for part, document in enumerate(opened, start=1):
        document.part = part
    Document.objects.bulk_update(opened, ["part"])
    return opened


def _bring(document: Document, crossing: Crossing, planned: Planned, books: BooksEnd) -> list[Finding]:
    if planned.plan.contact is not None:
        linked = linked_contact(crossing.bridge, planned.account_id)
        document.contact_id = linked or contact_in_books(
            planned.plan.contact, crossing.bridge.books, books, planned.rulebook.customers
        )
        document.save(update_fields=["contact_id"])
    post = document.mark not in planned.plan.drafts
    brought = bring(document, books=books, rulebook=planned.rulebook.for_orders, post=post)
    return _prove(document, brought, books, post=post)


def _prove(document: Document, brought: Brought, books: BooksEnd, *, post: bool) -> list[Finding]:
    """Read the document back, compare it, and keep what the books hold."""
    found = books.find(Role(document.role), document.mark)
    findings = prove(
        brought.settlement.document,
        found,
        contact_id=document.contact_id,
        standing=Standing.POSTED if post else Standing.DRAFT,
    )
    held = next((other for other in found if other.id == brought.held.id), brought.held)
    _keep_held(document, held, brought)
    if findings:
        document.state = DocumentState.DIFFERS
    else:
        document.state = DocumentState.PROVED if post else DocumentState.DRAFTED
        document.proved_at = timezone.now()
    document.save()
    return list(findings)


def _keep_held(document: Document, held: Held, brought: Brought) -> None:
    document.settled = brought.settlement.document.as_json()
    document.reasons = [reason.as_json() for reason in brought.settlement.reasons]
    document.difference = brought.settlement.difference
    document.held = held.as_json()
    document.books_id, document.books_number, document.link = held.id, held.number, held.link
    document.net, document.tax, document.gross = held.net, held.tax, held.gross


def _keep_plan(crossing: Crossing, planned: Planned) -> None:
    """Keep the plan and its versions; the contact is left out, for it is personal."""
    crossing.rulebook, crossing.reference = planned.version, planned.reference
    crossing.planned = planned.plan.model_copy(update={"contact": None}).as_json()
    kept = sum((part.amount for part in planned.plan.withheld), Decimal(0))
    crossing.withheld = kept or None
    vouchers = planned.plan.deducted
    crossing.voucher_net = sum((one.net for one in vouchers), Decimal(0)) if vouchers else None
    crossing.voucher_tax = sum((one.tax for one in vouchers), Decimal(0)) if vouchers else None
    crossing.untaxed = planned.plan.untaxed
    crossing.articles = planned.articles.as_json() if planned.rulebook.items else None
    crossing.given_back = [snapshot.pk for snapshot in planned.given_back]
    crossing.save(update_fields=[
        "rulebook", "reference", "planned", "withheld", "voucher_net", "voucher_tax", "untaxed", "articles",
        "given_back",
    ])  # fmt: skip


def _finish(
    crossing: Crossing, state: CrossingState, *, findings: list[Finding] | None = None, left_out_by: str = ""
) -> None:
    findings = findings or []
    cause = next((finding.cause for finding in findings if finding.cause), None)
    stopped = state in (CrossingState.HELD, CrossingState.DIFFERS)
    with transaction.atomic():
        # A run that read a newer version meanwhile has queued it anew: what became of the old one is not the end.
        current = Crossing.objects.filter(pk=crossing.pk, snapshot=crossing.snapshot_id).update(
            state=state,
            cause=cause.value if cause and stopped else "",
            left_out_by=left_out_by,
            findings=[finding.as_json() for finding in findings],
            trouble="",
            next_try_at=None,
            tries=0,
            updated_at=timezone.now(),
        )
        if not current:
            return
        if state == CrossingState.HELD:
            crossing.documents.filter(posting_at__isnull=True).update(state=DocumentState.HELD)
        conclude(crossing, EntryOutcome(state.value))
    if crossing.kind == SourceKind.ORDERS and state == CrossingState.CARRIED:
        wake_refunds(crossing)
    elif cause in WAITS_FOR_ORDER and stopped and not still_waits(crossing, cause):
        wake(crossing)


def _wait(crossing: Crossing, why: str, at: Any) -> None:
    crossing.trouble, crossing.next_try_at, crossing.tries = why, at, crossing.tries + 1
    crossing.save(update_fields=["trouble", "next_try_at", "tries"])


def _troubled(crossing: Crossing, error: InkwellError) -> None:
    """Trouble at an end: of one document it is a hold, of the whole connection a pause."""
    if isinstance(error, Refused) and error.why in {"document", "not found", "locked"}:
        _finish(crossing, CrossingState.HELD, findings=[_refusal(crossing, error).finding])
        return
    connections.note(crossing.bridge.books, error)
    asked = error.retry_after_seconds if isinstance(error, Temporary) else None
    at = after_pause(crossing.tries, asked)
    _wait(crossing, str(error), at)
    conclude(crossing, EntryOutcome.WAITING)
    if in_date_order(crossing.bridge):
        let_all_wait(crossing)
    raise TryLater(str(error), at) from error


def _refusal(crossing: Crossing, error: Refused) -> Hold:
    """Both are held; a locked period has a cause of its own, as its cure is the accountant's to give."""
    text = f"The books refused {crossing.number}: {error}"
    if error.why == "locked":
        hint = "Ask whoever locked the period to open it, then release the order; or enter it by hand."
        return hold("BOOKS-E002", Cause.PERIOD_LOCKED, text, hint)
    return hold("BOOKS-E001", Cause.BOOKS_REFUSED, text, "Mend what the books name, then release the order.")


def hold_unforeseen(workspace_id: int, crossing_id: int) -> None:
    """Hold a crossing on which the program itself failed."""
    crossing = _load(workspace_id, crossing_id)
    finding = hold(
        "INT-E001",
        Cause.UNFORESEEN,
        f"Inkwell Bridge itself failed on {crossing.number}.",
        "The log names the failure under this order's number. Release the order to try once more.",
    )
    _finish(crossing, CrossingState.HELD, findings=[finding.finding])
