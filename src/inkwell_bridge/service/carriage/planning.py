"""Planning a crossing, under the rules it stands under."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from inkwell_bridge.core import rulebook as rules
from inkwell_bridge.core.commerce import Customer, OpeningBalances, Order, Refund, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner import (
    Articles,
    Outcome,
    Plan,
    Setting,
    plan_customer,
    plan_opening,
    plan_order,
    plan_refund,
)
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage.articles import articles_for, never_loaded
from inkwell_bridge.service.carriage.deposits import delivers, is_of_the_sale, let_refunds_end, went_before
from inkwell_bridge.service.carriage.models import Crossing, Document, Snapshot
from inkwell_bridge.service.carriage.refunds import order_of, refunded_before
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.connections.models import ReferenceLoad
from inkwell_bridge.service.reference.pinned import load_reference, newest_reference, reference_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """A plan, with the versions it was made under and what was found out of the articles sold.

    ``account_id`` is the buyer's own at the sales side; ``given_back`` are the refunds before its final invoice.
    """

    plan: Plan
    rulebook: Rulebook
    version: RulebookVersion
    reference: ReferenceLoad
    account_id: str = ""
    articles: Articles = field(default_factory=Articles)
    given_back: Sequence[Snapshot] = ()


def plan_crossing(crossing: Crossing, documents: list[Document]) -> Planned:
    """Plan the source document of a crossing.

    What was posted already is planned under the versions it was posted under, so that a changed rule
    never changes it; all else under the rules in force now.
    """
    if crossing.kind == SourceKind.REFUNDS:
        return _planned_refund(crossing, documents)
    version, reference = _versions(crossing, documents)
    book = parsed(version)
    plan = _unreadable(crossing) or _against_books(crossing.bridge, book, reference)
    if plan is not None:
        return Planned(plan=plan, rulebook=book, version=version, reference=reference)
    document = document_of(crossing.snapshot)
    articles = _articles(crossing, documents, document, book)
    before = went_before(crossing, documents) if isinstance(document, Order) else []
    plan = plan_document(document, crossing.bridge, book, reference, articles, before)
    let_refunds_end(plan, crossing, documents)
    return Planned(plan=plan, rulebook=book, version=version, reference=reference, account_id=_account_of(document),
                   articles=articles, given_back=before if delivers(plan) else ())  # fmt: skip


def _articles(crossing: Crossing, documents: list[Document], source: SourceDocument, book: Rulebook) -> Articles:
    """As it was when the first document was posted; else as it is now."""
    if crossing.articles is not None and any(document.posting_at for document in documents):
        return Articles.read(crossing.articles)
    return articles_for(source, crossing.bridge, book.items) if isinstance(source, Order) else Articles()


def _planned_refund(crossing: Crossing, documents: list[Document]) -> Planned:
    """A refund is planned under the versions that its order was posted under."""
    version, reference = _versions(crossing, [])
    unreadable = _unreadable(crossing)
    if unreadable:
        return Planned(plan=unreadable, rulebook=parsed(version), version=version, reference=reference)
    refund = document_of(crossing.snapshot)
    assert isinstance(refund, Refund)
    found = order_of(crossing, refund, begun=any(document.begun for document in documents))
    if isinstance(found, Plan):
        return Planned(plan=found, rulebook=parsed(version), version=version, reference=reference)
    version, reference = found.rulebook or version, found.reference or reference
    order = document_of(found.snapshot)
    assert isinstance(order, Order)
    book = parsed(version)
    of_order = list(found.documents.all())
    articles = _articles(found, of_order, order, book)
    setting = setting_of(crossing.bridge, book, reference, articles)
    plan = plan_refund(
        refund,
        order,
        setting,
        refunded_before=refunded_before(crossing, refund),
        final_invoice=is_of_the_sale(refund.id, found, of_order),
    )
    return Planned(plan=plan, rulebook=book, version=version, reference=reference, account_id=_account_of(order),
                   articles=articles)  # fmt: skip


def _account_of(document: SourceDocument) -> str:
    return (document.buyer.account_id or "") if isinstance(document, Order) and document.buyer else ""


def plan_document(
    document: SourceDocument, bridge: Bridge, book: Rulebook, reference: ReferenceLoad, articles: Articles,
    given_back: Sequence[Snapshot] = (),
) -> Plan:  # fmt: skip
    """What a source document becomes over a bridge, under a rulebook and what the books call things.

    ``given_back`` are the refunds before what was paid ahead for an order is delivered.
    """
    if isinstance(document, Customer):
        return plan_customer(document, book.customers, reference_of(reference))
    if isinstance(document, OpeningBalances):
        return plan_opening(document, setting_of(bridge, book, reference, articles))
    if not isinstance(document, Order):
        raise RuntimeError(f"nothing is planned from a {type(document).__name__}")
    setting = setting_of(bridge, book, reference, articles)
    refunds = tuple(Refund.read(snapshot.content) for snapshot in given_back)
    return plan_order(document, setting.model_copy(update={"given_back": refunds}) if refunds else setting)


def setting_of(bridge: Bridge, book: Rulebook, reference: ReferenceLoad, articles: Articles) -> Setting:
    """All that a plan depends on besides its source document."""
    return Setting(
        source=bridge.source.slug,
        rulebook=book.for_orders,
        reference=reference_of(reference),
        capabilities=books_end(bridge.books).capabilities,
        time_zone=bridge.company.time_zone,
        country=bridge.company.country,
        articles=articles,
    )


def _versions(crossing: Crossing, documents: list[Document]) -> tuple[RulebookVersion, ReferenceLoad]:
    if any(document.posting_at for document in documents) and crossing.rulebook and crossing.reference:
        return crossing.rulebook, crossing.reference
    version = in_force(crossing.bridge)
    if version is None:
        raise RuntimeError(f"bridge {crossing.bridge_id} runs without a published rulebook")
    books = crossing.bridge.books
    return version, newest_reference(books) or load_reference(books)


def _unreadable(crossing: Crossing) -> Plan | None:
    if not crossing.snapshot.problem:
        return None
    finding = Finding(
        id="SRC-E010",
        level=Level.ERROR,
        cause=Cause.SOURCE_INVALID,
        text=f"{crossing.number} could not be understood: {crossing.snapshot.problem}",
        hint="Correct it at the source, then run again.",
    )
    return Plan(outcome=Outcome.HOLD, findings=(finding,))


def _against_books(bridge: Bridge, book: Rulebook, reference: ReferenceLoad) -> Plan | None:
    missing = never_loaded(bridge, book.items)
    findings = (*rules.check(book, reference_of(reference)), *([missing] if missing else []))
    return Plan(outcome=Outcome.HOLD, findings=findings) if findings else None
