"""Reading again what was posted: whether it still stands in the books as it did, and what a person is asked where not.

Nothing is ever made, changed or voided here: the books are the client's, and who changed them may have been right. What
differs from its plan is told on its crossing, which differs from then on; one that was mended in the books is carried
again. The figures of the books are what was read last, so that totals never speak of what we once planned.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date, timedelta
from typing import cast

import structlog
from django.db import transaction
from django.db.models import Prefetch, Q, QuerySet
from django.utils import timezone

from inkwell_bridge.core.books import BooksRecord, Role, Standing
from inkwell_bridge.core.findings import DIFFERS_THERE, Cause, Finding
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.core.proof import Reread, Verdict, next_reading, prove, reread
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import Misstated, Refused
from inkwell_bridge.service import clock, queue
from inkwell_bridge.service.carriage import figures
from inkwell_bridge.service.carriage.decided import as_accepted
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document, DocumentSource
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EventKind
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.rows import insert_rows, write_rows

log = structlog.get_logger("inkwell.reading")

# So many are asked for at once, and so many by one job: a backlog leaves room for what else is to be read.
BATCH, MOST_BY_JOB = 100, 2_000
AFTER_FAILURE = timedelta(hours=1)
STANDING = (CrossingState.CARRIED, CrossingState.DIFFERS)
_MOST_NAMED = 5


def ask_due() -> None:
    """A job for each end of the books where something is to be read again, unless one is asked for already."""
    due = Document.objects.filter(_READABLE, read_due_at__lte=timezone.now())
    keys = list(due.order_by().values_list("connection", flat=True).distinct())
    asked = queue.pending(queue.READ_AGAIN, "connection_id", keys) if keys else set()
    queue.defer(
        queue.READ_AGAIN,
        [
            queue.Call(arguments={"connection_id": key}, lock=f"read again {key}", priority=-1)
            for key in keys
            if key not in asked
        ],
    )


def ask_for(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> int:
    """Have what was posted with a date of these days read again, as soon as its turn comes; answers how many."""
    rows = Document.objects.filter(_READABLE, workspace=workspace, date__range=(first, last))
    if bridge:
        rows = rows.filter(crossings__bridge__slug=bridge)
    due = Document.objects.filter(pk__in=rows.values("pk")).update(read_due_at=timezone.now())
    ask_due()
    return due


def ask_for_numbers(connection: Connection, numbers: Sequence[str]) -> set[str]:
    """Have what was posted at one end of the books read again that bears one of these numbers, or references, there;
    answers which of them are known."""
    named = Q(external_reference__in=numbers)
    for number in numbers:
        # In capitals, as the index has them.
        named |= Q(books_number__iexact=number)
    rows = Document.objects.filter(_READABLE, named, workspace=connection.workspace_id, connection=connection)
    found = list(rows.values_list("pk", "books_number", "external_reference"))
    Document.objects.filter(pk__in=[pk for pk, _, _ in found]).update(read_due_at=timezone.now())
    ask_due()
    said = {name.upper() for _, *names in found for name in names}
    return {number for number in numbers if number.upper() in said}


def left(workspace: Workspace) -> int:
    """How much of what is due has not been read yet."""
    return Document.objects.filter(_READABLE, workspace=workspace, read_due_at__lte=timezone.now()).count()


# What somebody typed in, and was adopted, has no plan to be held against.
_NOT_OURS_TO_READ = (DocumentState.CANCELLED, DocumentState.ADOPTED)
_POSTED = Q(posting_at__isnull=False, connection__side="books") & ~Q(state__in=_NOT_OURS_TO_READ)
# Of an end that is paused or removed nothing is read, and nobody is to wait for it.
_READABLE = _POSTED & Q(connection__paused_at__isnull=True, connection__removed_at__isnull=True)


def read(connection: Connection) -> int:
    """Read again what is due at one end; answers how many. Expects no transaction.

    Calls: one for a hundred documents of one role, and a few for those of a crossing of which something changed.

    Raises:
        EndError: the books failed on the way; what was read before stays read.
    """
    end, done = books_end(connection), 0
    while done < MOST_BY_JOB:
        due = Document.objects.filter(_POSTED, connection=connection, read_due_at__lte=timezone.now())
        batch = list(due.order_by("read_due_at", "pk")[:BATCH])
        if not batch:
            _forget_the_rest(connection)
            break
        _read_batch(end, batch)
        done += len(batch)
    return done


def read_now(crossing: Crossing) -> None:
    """Read the documents of one that differs at once, so that somebody decides about what stands there by now. Expects
    no transaction.

    Raises:
        EndError: the books failed; nothing is kept.
    """
    posted = _posted_of(crossing)
    if crossing.state == CrossingState.DIFFERS and posted:
        _look_at_crossings(books_end(crossing.bridge.books), posted, {})


def put_off(connection: Connection) -> None:
    """Read what is due at one end later: it could not be read now, whatever was tried."""
    due = Document.objects.filter(connection=connection, read_due_at__lte=timezone.now())
    due.update(read_due_at=timezone.now() + AFTER_FAILURE)


def _forget_the_rest(connection: Connection) -> None:
    """What is due and is nothing that can be read (it was cancelled since) is due no more."""
    rest = Document.objects.filter(connection=connection, read_due_at__lte=timezone.now()).exclude(_POSTED)
    rest.update(read_due_at=None)


def _read_batch(end: BooksEnd, batch: Sequence[Document]) -> None:
    found = _found(end, batch)
    # One whose copies are gone, or that can be read again, is as it was itself, and yet something else than it was.
    changed = [
        one
        for one in batch
        if found[one.pk].verdict is not Verdict.SAME or one.copies or one.state == DocumentState.DIFFERS
    ]
    if changed:
        _look_at_crossings(end, changed, found)
    now, today = timezone.now(), clock.now().date()
    for one in batch:
        one.read_at = now
        pause = next_reading(one.date or today, today)
        one.read_due_at = now + pause if pause else None
    write_rows(list(batch), ("read_at", "read_due_at"))


def _found(end: BooksEnd, documents: Iterable[Document]) -> dict[int, Reread]:
    """What became of each, by its key."""
    by_role: dict[str, list[Document]] = defaultdict(list)
    for one in documents:
        by_role[one.role].append(one)
    answers: dict[int, Reread] = {}
    for role, of_role in by_role.items():
        for one, there in _found_of(end, Role(role), of_role):
            if isinstance(there, Misstated):
                answers[one.pk] = Reread(verdict=Verdict.UNREADABLE, said=(str(there),))
                continue
            gone = not any(record.standing is not Standing.VOID for record in there)
            by_id = _by_id(end, one) if gone else None
            answers[one.pk] = reread(_then(one), there, by_id)
    return answers


def _found_of(
    end: BooksEnd, role: Role, documents: Sequence[Document]
) -> Iterator[tuple[Document, Sequence[BooksRecord] | Misstated]]:
    """What the books hold under the reference of each, or why it cannot be read: one that is no such document there
    stops no other."""
    for start in range(0, len(documents), BATCH):
        batch = documents[start : start + BATCH]
        try:
            records = end.find(role, [one.external_reference for one in batch])
        except Misstated as error:
            if len(batch) == 1:
                yield batch[0], error
                continue
            half = len(batch) // 2
            yield from _found_of(end, role, batch[:half])
            yield from _found_of(end, role, batch[half:])
            continue
        by_reference: dict[str, list[BooksRecord]] = defaultdict(list)
        for record in records:
            by_reference[record.document.external_reference].append(record)
        for one in batch:
            yield one, by_reference[one.external_reference]


def _then(document: Document) -> BooksRecord | None:
    return BooksRecord.read(document.record) if document.record else None


def _by_id(end: BooksEnd, document: Document) -> BooksRecord | None:
    """By the books' own id: somebody may have overwritten the reference."""
    if not document.books_id:
        return None
    try:
        return end.read(Role(document.role), document.books_id)
    except Refused as error:
        if error.why == "not found":
            return None
        raise


def _look_at_crossings(end: BooksEnd, changed: Sequence[Document], read: Mapping[int, Reread]) -> None:
    """Hold all documents of the crossings that these are of against their plans, and keep what comes of it; those that
    were ``read`` just now are not read once more."""
    shares = Prefetch("shares", DocumentSource.objects.select_related("document"))
    keys = DocumentSource.objects.filter(document__in=changed).values_list("crossing", flat=True)
    crossings = list(_standing(Crossing.objects.filter(pk__in=set(keys))).prefetch_related(shares))
    documents = {one.pk: one for crossing in crossings for one in _posted_of(crossing)}
    found = {**read, **_found(end, (one for key, one in documents.items() if key not in read))}
    with transaction.atomic():
        # Who was read anew or let go meanwhile is being carried, and proved there.
        rows = _standing(Crossing.objects.filter(pk__in=[one.pk for one in crossings])).select_for_update(of=("self",))
        still = set(rows.values_list("pk", flat=True))
        _keep([one for one in crossings if one.pk in still], end, found)


def _standing(rows: QuerySet[Crossing]) -> QuerySet[Crossing]:
    return rows.filter(state__in=STANDING).select_related("bridge__company", "bridge__books", "snapshot")


def _posted_of(crossing: Crossing) -> list[Document]:
    return [one for one in crossing.documents_in_order
            if one.posting_at and one.state not in _NOT_OURS_TO_READ]  # fmt: skip


def _keep(crossings: Sequence[Crossing], end: BooksEnd, found: Mapping[int, Reread]) -> None:
    """Write what was found: documents, states, events and figures; as many statements for many as for one."""
    now = timezone.now()
    events: list[CrossingEvent] = []
    documents: dict[int, Document] = {}
    for crossing in crossings:
        differing: list[Finding] = []
        said: list[str] = []
        for one in _posted_of(crossing):
            what = found[one.pk]
            # What was let stand otherwise than planned, and is as it was, is asked about no more.
            is_news = what.verdict is not Verdict.SAME or one.state == DocumentState.DIFFERS
            before = crossing.cause if crossing.cause in DIFFERS_THERE else Cause.NOT_PROVED
            cause = _CAUSES.get(what.verdict, Cause(before))
            findings = _findings(one, what, end, cause) if is_news else ()
            if what.verdict is not Verdict.SAME:
                said.append(_in_words(one, what))
            one.state = DocumentState.DIFFERS if findings else DocumentState.PROVED
            _as_read(one, what)
            documents[one.pk] = one
            differing += findings
        kept = [finding for finding in map(Finding.read, crossing.findings)
                if finding.cause not in DIFFERS_THERE and finding.id != _ACCEPTED]  # fmt: skip
        findings = as_accepted(crossing, differing)
        stands = any(finding.cause in DIFFERS_THERE for finding in findings)
        crossing.state = CrossingState.DIFFERS if stands else CrossingState.CARRIED
        crossing.cause = next((one.cause.value for one in findings if one.cause in DIFFERS_THERE), "") if stands else ""
        told, crossing.findings = crossing.findings, [finding.as_json() for finding in (*kept, *findings)]
        if crossing.findings == told:
            # What was told already is not told each day.
            continue
        events.append(
            CrossingEvent(workspace_id=crossing.workspace_id, crossing=crossing, at=now, kind=EventKind.READ,
                          detail={"text": "; ".join(said[:_MOST_NAMED])})
        )  # fmt: skip
        log.info("books.changed", workspace=crossing.workspace_id, crossing=crossing.pk, differs=stands)
    write_rows(list(documents.values()), _READ)
    write_rows(list(crossings), ("state", "cause", "findings", "updated_at"))
    insert_rows(events)
    figures.write_documents(
        (one, Plan.read(one.planned) if one.planned else None, one.documents_in_order) for one in crossings
    )


# What is written of a document that was read again.
_READ = ("record", "copies", "state", "date", "net", "tax", "gross", "books_number", "link")
_ACCEPTED = "PROOF-N004"
# What a document differs for, by what reading it again found; one that is as it was differs for what it did before.
_CAUSES = {
    Verdict.CHANGED: Cause.CHANGED_THERE,
    Verdict.UNREADABLE: Cause.CHANGED_THERE,
    Verdict.VOIDED: Cause.VOIDED_THERE,
    Verdict.MISSING: Cause.MISSING_THERE,
    Verdict.TWICE: Cause.TWICE_THERE,
    Verdict.OTHER_REFERENCE: Cause.REFERENCE_CHANGED,
}


def _findings(document: Document, what: Reread, end: BooksEnd, cause: Cause) -> Sequence[Finding]:
    """What differs from the plan, each with the document's number; several may be of one crossing."""
    planned = Role(document.role).shape.read(document.settled or document.planned)
    there = [what.now] if what.now is not None else []
    if what.verdict in (Verdict.TWICE, Verdict.OTHER_REFERENCE):
        there = []
    findings = prove(
        planned, there, contact_id=document.contact_id, standing=Standing.POSTED,
        unsupported=end.unsupported_fields(planned),
    )  # fmt: skip
    if not there:
        # None or two: what there is to say is the verdict.
        said = _in_words(document, what)
        return [one.model_copy(update={"text": f"{said}.", "cause": cause})
                for one in findings if one.cause in DIFFERS_THERE]  # fmt: skip
    # In the same words as when it was posted: a person accepts a difference by what it says.
    # Who it was is no part of the words: the same difference by somebody else is no other.
    ask = f"ask {what.by}, who changed it" if what.by else "see who changed it"
    hint = f"Open {document.books_number or document.external_reference} there and {ask}."
    return [one.model_copy(update={"hint": hint, "cause": cause})
            for one in findings if one.cause in DIFFERS_THERE]  # fmt: skip


def _in_words(document: Document, what: Reread) -> str:
    name = document.books_number or document.external_reference
    by = f" by {what.by}" if what.by else ""
    more = f": {'; '.join(what.said[:_MOST_NAMED])}" if what.said else ""
    return f"{name} is {what.verdict}{by}{more}"


def _as_read(document: Document, what: Reread) -> None:
    """The document as the books hold it now; of one that does not stand there the books have no figures. One that
    cannot be read keeps those that it had."""
    if what.verdict is Verdict.UNREADABLE:
        return
    now = what.now
    document.record = now.as_json() if now is not None else None
    document.copies = [one.as_json() for one in what.copies]
    if now is None:
        return
    document.date = cast(date | None, getattr(now.document, "date", document.date))
    document.net, document.tax, document.gross = now.net, now.tax, now.gross
    document.books_number, document.link = now.number or document.books_number, now.link or document.link
