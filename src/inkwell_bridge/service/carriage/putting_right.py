"""What differs in the books, put right by further documents because a person chose that: the documents are made here,
and carried to the books as any others are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import count

from inkwell_bridge.core.amendments import (
    CannotPutRight,
    Differing,
    Further,
    Names,
    credit_and_reissue,
    put_back,
    restated,
)
from inkwell_bridge.core.amendments.posted_sale import moved_reasons
from inkwell_bridge.core.books import BooksRecord, Journal, LedgerDocument, LineKind, Role, Standing, TradeDocument
from inkwell_bridge.core.findings import DIFFERS_THERE, Finding, Level
from inkwell_bridge.core.planner import Plan, Reason, external_reference
from inkwell_bridge.core.planner.free_numbers import further_number
from inkwell_bridge.core.proof import prove, without
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.carriage.models import Crossing, Document, DocumentSource
from inkwell_bridge.service.carriage.states import DecisionKind, DocumentState
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.rows import insert_rows, write_rows

_RULE = "planner:put-right"
_RESTATED = ("planned", "settled", "reasons", "difference", "state", "contact_id", "counts_as", "put_right")
_MOST_NAMED = 4


def put_right(row: Crossing, kind: DecisionKind) -> None:
    """Plan what puts the documents of a crossing right that differ in the books, and keep it to be carried.

    What differs counts from now on as the books have it; what does not stand there any more counts no more. Expects the
    crossing's row locked, and its documents as they were read last.

    Raises:
        CannotPutRight: no further document does.
    """
    documents = row.documents_in_order
    differing = [(one, _as_differing(one)) for one in documents if one.state == DocumentState.DIFFERS]
    if not differing or row.rulebook is None:
        raise CannotPutRight(f"{row.number} differs in no document that was made here.")
    amendment = max(one.amendment for one in documents) + 1
    further = _further(row, kind, differing, _names(row, documents, amendment))
    _check_roles(row, further)
    for document, one in differing:
        _restate(document, one, kind)
    write_rows([document for document, _ in differing], _RESTATED)
    row.planned = _plan(row, documents, further, amendment).as_json()
    row.save(update_fields=["planned", "updated_at"])
    _insert(row, further, amendment, after=len(documents))


def _as_differing(document: Document) -> Differing:
    name = document.books_number or document.external_reference
    if document.copies:
        raise CannotPutRight(f"{name} stands in the books twice.", "Void the one that is not ours there.")
    if len(document.sources_in_order) > 1:
        raise CannotPutRight(f"{name} is a document of several source documents.")
    there = BooksRecord.read(document.record) if document.record else None
    if there is not None and there.document.external_reference != document.external_reference:
        hint = f"Enter the reference {document.external_reference} there again."
        raise CannotPutRight(f"{name} bears another reference in the books.", hint)
    shape = Role(document.role).shape
    planned = shape.read(document.planned)
    settled = shape.read(document.settled) if document.settled else planned
    unsupported = books_end(document.connection).unsupported_fields(settled)
    found = () if there is None else prove(
        settled, [there], contact_id=document.contact_id, standing=Standing.POSTED,
        unsupported=unsupported,
    )  # fmt: skip
    # What has no place there is noted as well, and is no difference.
    at = tuple(one.at for one in found if one.cause in DIFFERS_THERE)
    if there is not None and not at:
        # It keeps what was read of it last, which was as planned.
        raise CannotPutRight(f"{name} cannot be read in the books as it stands.", "Mend it there.")
    if there is not None and there.standing is Standing.DRAFT:
        raise CannotPutRight(f"{name} is a draft in the books, and in no account.", "Post it there.")
    return Differing(
        planned=planned,
        settled=without(settled, unsupported),
        there=there,
        at=at,
        number=name,
        contact_id=document.contact_id,
    )


def _further(
    row: Crossing, kind: DecisionKind, differing: Sequence[tuple[Document, Differing]], names: Names
) -> list[Further]:
    assert row.rulebook is not None
    made: list[Further] = []
    capabilities = books_end(row.bridge.books).capabilities
    if kind == DecisionKind.REISSUE:
        renamed: dict[str, str] = {}
        # In the plan's order: what is paid is made anew before the money is set against it.
        for _, one in differing:
            new = credit_and_reissue(one, names, renamed=renamed, price_digits=capabilities.price_digits)
            renamed |= {each.again: each.document.external_reference for each in new if each.again}
            made += new
        return made
    orders = parsed(row.rulebook).orders
    for _, one in differing:
        # A tax that stands on a line of its own is that of all lines: two documents would tear it apart.
        of_tax = isinstance(one.settled, TradeDocument) and any(
            line.kind is LineKind.TAX for line in one.settled.lines
        )  # fmt: skip
        together = capabilities.mixes_signs and (
            of_tax or (orders is not None and orders.differences == "one document")
        )
        made += put_back(one, names, together=together, price_digits=capabilities.price_digits)
    return made


def _names(row: Crossing, documents: Sequence[Document], amendment: int) -> Names:
    """References that are made here alone, and numbers where the rules give them."""
    assert row.rulebook is not None
    orders = parsed(row.rulebook).orders
    parts, numbers = count(1), count(1 + sum(issubclass(Role(one.role).shape, LedgerDocument) for one in documents))
    by_shop = orders is not None and orders.numbered == "shop"

    def reference(role: Role) -> str:
        part = f"put right {row.pk}.{amendment}.{next(parts)}"
        return external_reference(row.bridge.source.slug, row.source_id, role, part)

    def number() -> str:
        return further_number(orders, row.number, next(numbers)) if by_shop and orders is not None else ""

    return Names(reference=reference, number=number)


def _check_roles(row: Crossing, further: Sequence[Further]) -> None:
    takes = books_end(row.bridge.books).capabilities.documents
    for one in further:
        if Role(one.document.role) not in takes:
            raise CannotPutRight(f"It needs a {one.document.role}, and {row.bridge.books.name} takes none.")


def _restate(document: Document, one: Differing, kind: DecisionKind) -> None:
    """Let a document count as the books have it, or as gone."""
    if one.there is None:
        document.state = DocumentState.CANCELLED
        return
    document.counts_as, document.put_right = document.counts_as or document.planned, kind == DecisionKind.REISSUE
    planned, there = restated(one, credited=kind == DecisionKind.REISSUE).as_json(), one.there.document.as_json()
    document.planned, document.settled = planned, None if there == planned else there
    document.state, document.contact_id = DocumentState.PROVED, one.there.contact_id or document.contact_id
    if kind == DecisionKind.REISSUE:
        document.reasons, document.difference = [], None


def _plan(row: Crossing, documents: Sequence[Document], further: Sequence[Further], amendment: int) -> Plan:
    """The plan that goes on with the further documents, behind those that stand there as they do."""
    plan = Plan.read(row.planned)
    planned = {one.external_reference: Role(one.role).shape.read(one.planned) for one in documents}
    there = [planned.get(one.external_reference, one) for one in plan.documents]
    made = [one.document for one in further]
    again = {one.again: one.document.external_reference for one in further if one.again}
    # Made anew it has the reasons that it was planned with first.
    known = moved_reasons(plan, [*there, *made], only=frozenset(again.values()), names=again)
    drafts = {new for old, new in again.items() if old in plan.drafts}
    return plan.model_copy(update={
        "documents": (*there, *made),
        "drafts": (*plan.drafts, *drafts),
        "reasons": (*plan.reasons, *known, *_reasons(further, after=len(there))),
        "findings": (*plan.findings, _said(further)),
        "amendment": amendment,
    })  # fmt: skip


def _reasons(further: Sequence[Further], *, after: int) -> Iterator[Reason]:
    for place, one in enumerate(further, start=after):
        at = f"/documents/{place}"
        if one.again:
            continue
        yield Reason(target=f"{at}/date", sources=(), rule=_RULE, text=one.why)
        lines = one.document.lines if isinstance(one.document, TradeDocument | Journal) else ()
        names = ("base",) if isinstance(one.document, Journal) else ("net", "tax")
        for number in range(len(lines)):
            for name in names:
                yield Reason(target=f"{at}/lines/{number}/{name}", sources=(), rule=_RULE, text=one.why)
        if not lines:
            yield Reason(target=f"{at}/amount", sources=(), rule=_RULE, text=one.why)


def _said(further: Sequence[Further]) -> Finding:
    said = [f"{one.document.role} ({one.why.removesuffix('.')})" for one in further[:_MOST_NAMED]]
    if len(further) > _MOST_NAMED:
        said.append(f"{len(further) - _MOST_NAMED} more")
    paid = any(one.again and isinstance(one.document, LedgerDocument) for one in further)
    hint = "Where money was set against the first document, set it against the new one in the books."
    text = f"Put right in the books by further documents: {', '.join(said)}."
    return Finding(id="AMEND-N008", level=Level.NOTE, text=text,
                   hint=hint if paid else "The decision, with its reason, stands in the history.")  # fmt: skip


def _insert(row: Crossing, further: Sequence[Further], amendment: int, *, after: int) -> None:
    fresh = [
        Document(
            workspace_id=row.workspace_id,
            connection=row.bridge.books,
            role=one.document.role,
            external_reference=one.document.external_reference,
            amendment=amendment if isinstance(one.document, TradeDocument | Journal) else 0,
            planned=one.document.as_json(),
            # What was made anew counts in the place of the first; the others only make that, or the first, right.
            put_right=not one.again,
            snapshot_id=row.posted_snapshot_id or row.snapshot_id,
            contact_id="" if isinstance(one.document, Journal) else one.contact_id,
            currency=getattr(one.document, "currency", ""),
            date=getattr(one.document, "date", None),
        )
        for one in further
    ]
    insert_rows(fresh)
    insert_rows([
        DocumentSource(workspace_id=row.workspace_id, crossing=row, document=document, part=after + part)
        for part, document in enumerate(fresh, start=1)
    ])  # fmt: skip
