"""Adopting what the books hold already: what somebody typed in for an order, and what we posted and forgot.

Orders of before a bridge's start date, and those that somebody typed into the books by hand, are known by their
number. After a restore from an old backup, what the books hold under our references is adopted before anything runs.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import suppress
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.books import Brief, Role, Standing
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.planner import external_reference, is_ours, prefix_of
from inkwell_bridge.core.proof import Side
from inkwell_bridge.ends.contract import BooksEnd, SalesEnd
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.service.carriage import figures, staging
from inkwell_bridge.service.carriage.holding import hold
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent, Document, DocumentSource, Run
from inkwell_bridge.service.carriage.runs import BY_NUMBER, conclude, end_if_done
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, EntryOutcome, EventKind, RunState
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# What an order can have become in the books, typed in or by us.
ROLES = (Role.INVOICE, Role.SALES_ORDER, Role.CASH_SALE)
MOST_NAMED = 20
CHUNK = 50


class NotAdoptable(Refusal):
    """There is nothing to adopt, or it was posted already."""

    code = "not-adoptable"
    hint = "Look for the order's number in the books, and adopt what bears it."


def before_start(crossing: Crossing) -> bool:
    """Whether an order was placed before the day from which its bridge carries."""
    starts_on = crossing.bridge.starts_on
    return bool(starts_on and crossing.business_date and crossing.business_date < starts_on)


def typed_in(crossing: Crossing, bearing: Sequence[Brief]) -> tuple[Brief, list[Finding]] | None:
    """What somebody typed into the books for an order, and what there is to say of it.

    ``bearing`` is what the books hold under the order's number, ours among it.

    Raises:
        Hold: several bear the order's number, or one that says another total; of an order from before the start
            date the books are believed, whatever total they say.
    """
    # What bears one of our references is this order's own, or that of another shop with the same numbers.
    found = [one for one in bearing if not is_ours(one.external_reference)]
    if not found:
        return None
    if len(found) > 1:
        numbers = ", ".join(one.number or f"draft {one.id}" for one in found)
        raise hold(
            "ADOPT-E001",
            Cause.TYPED_IN,
            f"{numbers} in the books all bear the number {crossing.number}.",
            "Adopt the one that is this order, or take the number from the others; then release the order.",
        )
    # One and no more: it may be this order, if it says the same money.
    (brief,) = found
    if _agrees(crossing, brief):
        return brief, [_note(crossing, brief)]
    # Before the bridge began the books were kept by hand, and what stands there is what happened.
    if before_start(crossing):
        return brief, [_differs(crossing, brief)]
    raise hold(
        "ADOPT-E002",
        Cause.TYPED_IN,
        f"{_named(brief)} in the books bears the number {crossing.number}, and says {_books_say(brief)} "
        f"where the order says {_order_says(crossing)}.",
        "If it is this order, adopt it or correct it; if it is not, take the number from it. Then release the order.",
    )


def under_numbers(to: tuple[BooksEnd, Role], numbers: Sequence[str]) -> list[list[Brief]]:
    """For each of these orders what the books hold in a role under its number, whoever made it, but for what is void.

    One call for all of them.
    """
    books, role = to
    found = books.find_by_order_number(role, list(dict.fromkeys(numbers)))
    live = [one for one in found if one.standing is not Standing.VOID]
    return [[one for one in live if _bears(one, number)] for number in numbers]


def _bears(brief: Brief, number: str) -> bool:
    # Typed by hand: a blank too many or another case is the same number.
    wanted = number.strip().casefold()
    return wanted in {brief.order_number.strip().casefold(), brief.external_reference.strip().casefold()}


def _agrees(crossing: Crossing, brief: Brief) -> bool:
    return brief.gross is not None and (brief.gross, brief.currency) == (crossing.gross, crossing.currency)


def _named(brief: Brief) -> str:
    return brief.number or f"Draft {brief.id}"


def _books_say(brief: Brief) -> str:
    return _said(brief.gross, brief.currency) if brief.gross is not None else "no total"


def _order_says(crossing: Crossing) -> str:
    return _said(crossing.gross, crossing.currency) if crossing.gross is not None else "no total"


def _said(amount: Decimal, currency: str) -> str:
    return f"{exact(amount, currency):f} {currency}" if currency else f"{amount:f}"


def _note(crossing: Crossing, brief: Brief) -> Finding:
    text = (
        f"{_named(brief)}, which somebody typed into the books, bears the number {crossing.number}: nothing was posted."
    )
    return Finding(id="ADOPT-N001", level=Level.NOTE, text=text)


def _differs(crossing: Crossing, brief: Brief) -> Finding:
    text = (
        f"{_named(brief)}, which somebody typed into the books for {crossing.number}, says {_books_say(brief)}; "
        f"the order says {_order_says(crossing)}."
    )
    hint = "It is from before the start date, so nothing is posted. Have the accountant look at the difference."
    return Finding(id="ADOPT-W001", level=Level.WARNING, text=text, hint=hint)


@transaction.atomic
def adopt(crossing: Crossing, role: Role, brief: Brief, findings: Sequence[Finding], person: Person | None) -> None:
    """Let a crossing be what the books hold; nothing is ever posted for it. Makes no call; takes no lock."""
    document = adopted_document(crossing, role, brief)
    Crossing.objects.filter(pk=crossing.pk).update(
        state=CrossingState.ADOPTED, cause="", left_out_by="", trouble="", next_try_at=None, tries=0,
        findings=[finding.as_json() for finding in findings], updated_at=timezone.now(),
    )  # fmt: skip
    CrossingEvent.objects.create(
        workspace_id=crossing.workspace_id, crossing=crossing, at=timezone.now(), kind=EventKind.ADOPTED, person=person,
        document=document.external_reference, detail={"number": document.books_number},
    )  # fmt: skip
    wanted = figures.of_documents(crossing, None, [document], {})
    figures.write({crossing: wanted}, (Side.CODED, Side.BOOKS, Side.RECONCILING))
    conclude({crossing.pk: EntryOutcome.ADOPTED})


@transaction.atomic
def adopted_document(crossing: Crossing, role: Role, brief: Brief) -> Document:
    """The row of a document that is taken over as the books hold it, in place of those that were never begun."""
    # What was begun may stand in the books already, and has a reference of ours there to be found by.
    never_begun = crossing.documents.filter(posting_at__isnull=True, books_id="").values_list("pk", flat=True)
    Document.objects.filter(pk__in=list(never_begun)).delete()
    # One that somebody typed in keeps its own reference at its end; here it goes under the one that ours would have.
    reference = brief.external_reference
    if not reference.startswith(prefix_of(crossing.bridge.source.slug)):
        reference = external_reference(crossing.bridge.source.slug, crossing.source_id, role)
    fields = {
        "workspace_id": crossing.workspace_id,
        "role": role.value,
        "state": DocumentState.ADOPTED,
        "planned": {},
        "record": brief.as_json(),
        "books_id": brief.id,
        "books_number": brief.number,
        "link": brief.link,
        "date": brief.date,
        "currency": brief.currency or crossing.currency,
        "net": brief.net,
        "tax": brief.tax,
        "gross": brief.gross,
        "posting_at": timezone.now(),
    }
    document, _ = Document.objects.update_or_create(
        connection=crossing.bridge.books, external_reference=reference, defaults=fields
    )
    shares = {"workspace_id": crossing.workspace_id, "net": brief.net, "tax": brief.tax, "gross": brief.gross}
    DocumentSource.objects.update_or_create(crossing=crossing, document=document, defaults=shares)
    return document


def adopt_by_hand(crossing: Crossing, books_id: str, person: Person) -> None:
    """Adopt the document that a person names, whatever total it says. Calls the books once for each role.

    Raises:
        NotAdoptable: the order was posted, or nothing under that id bears its number.
    """
    if crossing.documents.exclude(books_id="").exists():
        raise NotAdoptable(f"{crossing.number} is in the books already.")
    books = books_end(crossing.bridge.books)
    for role in (role for role in ROLES if role in books.capabilities.documents):
        for brief in under_numbers((books, role), [crossing.number])[0]:
            # One under our reference was posted by us, for this order or for another: it is found, never adopted.
            if brief.id == books_id and not is_ours(brief.external_reference):
                findings = [_note(crossing, brief) if _agrees(crossing, brief) else _differs(crossing, brief)]
                adopt(crossing, role, brief, findings, person)
                record(crossing.workspace, person, "crossing.adopted", crossing.number, books_id=books_id)
                return
    raise NotAdoptable(f"Nothing in the books with the id {books_id} bears the number {crossing.number}.")


def read_ours(run: Run, source: SalesEnd, books: BooksEnd) -> None:
    """Go over everything that the books hold under the references of a bridge's source, and adopt what is not known.

    What is known already is counted as unchanged; what belongs to no order that the source has is named.

    Raises:
        EndError: an end failed on the way; gone over again, it comes to the same.
    """
    known, astray = 0, list[str]()
    for role in ROLES:
        if role in books.capabilities.documents:
            for chunk in _posted(books, role, prefix_of(run.bridge.source.slug)):
                unknown = _unknown(run, chunk)
                known += len(chunk) - len(unknown)
                astray += _adopt_unknown(run, source, role, unknown)
    Run.objects.filter(pk=run.pk, state=RunState.READING).update(
        state=RunState.CARRYING, unchanged=known, trouble=_astray(astray), next_try_at=None
    )
    end_if_done([run.pk])


def _posted(books: BooksEnd, role: Role, prefix: str) -> Iterator[list[Brief]]:
    """What is posted, a few at a time; a draft is taken up by its reference when its order is carried."""
    page: str | None = None
    while True:
        found = books.list_by_reference_prefix(role, prefix, page=page)
        posted = [one for one in found.documents if one.standing is Standing.POSTED]
        yield from (posted[start : start + CHUNK] for start in range(0, len(posted), CHUNK))
        if found.next is None or found.next == page:
            return
        page = found.next


def _astray(numbers: Sequence[str]) -> str:
    """What the books hold under our references for orders that the source does not have, in words."""
    if not numbers:
        return ""
    more = f" and {len(numbers) - MOST_NAMED} more" if len(numbers) > MOST_NAMED else ""
    named = ", ".join(numbers[:MOST_NAMED])
    return f"The books hold these under our references, and the shop has no such order: {named}{more}."


def _unknown(run: Run, briefs: Sequence[Brief]) -> list[Brief]:
    """Those of these documents that nothing here knows; one statement."""
    known = set(
        Document.objects.filter(
            connection=run.bridge.books, external_reference__in=[one.external_reference for one in briefs]
        )
        .exclude(books_id="")
        .values_list("external_reference", flat=True)
    )
    return [one for one in briefs if one.external_reference not in known]


def _adopt_unknown(run: Run, source: SalesEnd, role: Role, briefs: Sequence[Brief]) -> list[str]:
    """Adopt documents that nothing here knows; answers the numbers of those whose order the source does not have.

    A reference says nothing by itself: the order is asked for by the number that its document bears, and is the right
    one where the reference that it would have is the document's.
    """
    wanted = {one.external_reference: one for one in briefs}
    kind = kind_named(BY_NUMBER)
    found: dict[str, Brief] = {}
    fetched = []
    for number in dict.fromkeys(one.order_number for one in wanted.values() if one.order_number):
        with suppress(Refused):
            document = source.document(kind.source_kind, number)
            # What ends a deposit stands beside the invoice that is adopted.
            reference = external_reference(run.bridge.source.slug, document.id, role)
            if reference in wanted:
                found[document.id] = wanted[reference]
                fetched.append(document)
    numbers = {document.number for document in fetched}
    astray = [one.number or one.id for one in briefs if one.order_number not in numbers]
    if not found:
        return astray
    staging.keep_page(run.bridge, kind, fetched, run=run, carry=False)
    crossings = Crossing.objects.select_related("bridge__books", "bridge__source").filter(
        workspace=run.workspace_id, bridge=run.bridge_id, kind=kind.name, source_id__in=found
    )
    for crossing in crossings:
        brief = found[crossing.source_id]
        text = f"{_named(brief)} stands in the books under our reference, and was not known here: nothing was posted."
        adopt(crossing, role, brief, [Finding(id="ADOPT-N002", level=Level.NOTE, text=text)], run.started_by)
    return astray


def still_the_same(crossing: Crossing, documents: Sequence[Document]) -> bool:
    """Whether an adopted order still says what the books said; a change of its total is for a person to look at."""
    return all(
        document.gross is None or (document.gross, document.currency) == (crossing.gross, crossing.currency)
        for document in documents
    )
