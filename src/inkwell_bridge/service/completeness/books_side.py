"""What the books hold on the accounts of a bridge's sales that was not posted from here."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time
from decimal import Decimal
from typing import Any

from django.db import transaction

from inkwell_bridge.core.books import AccountEntry, CreditNote, Role, Standing, TradeDocument
from inkwell_bridge.core.commerce import EnteredByHand, EnteredLine
from inkwell_bridge.core.money import rounded
from inkwell_bridge.core.planner import is_ours
from inkwell_bridge.core.proof import Side
from inkwell_bridge.core.text import fit_line, fit_name
from inkwell_bridge.ends.at_once import at_once
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import Misstated, Refused
from inkwell_bridge.ends.every_page import every_page
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import all_in_force
from inkwell_bridge.service.carriage import figures, gone, staging
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.kinds.entered_by_hand import (
    ENTERED_BY_HAND,
    KINDS,
    NOT_POSTED_HERE,
    books_figures,
)
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.completeness.asking import lists_periods
from inkwell_bridge.service.completeness.listing import Stopped
from inkwell_bridge.service.completeness.models import CompletenessCheck
from inkwell_bridge.service.connections.ends import books_end, dialect_of
from inkwell_bridge.service.rows import write_rows

ZERO = Decimal(0)
# What is a document of a sale; of anything else only the amounts on these accounts count.
_OF_SALES = (Role.INVOICE, Role.CASH_SALE, Role.CREDIT_NOTE)
# So many are read one by one; where somebody keeps other sales on the same accounts there are thousands.
MOST_READ = 500
BATCH = 200


def accounts_of_sales(bridge: Bridge) -> list[str]:
    """The accounts that sales of this bridge stand on and of no bridge before it to the same books: what is entered
    there by hand counts once. Bridges whose sales side lists nothing by day are never checked, and have none. Two
    statements."""
    of_books = Bridge.current.filter(workspace=bridge.workspace_id, books=bridge.books_id).select_related("source")
    checked = [one for one in of_books.order_by("pk") if lists_periods(one.source)]
    taken: set[str] = set()
    for one, rules in all_in_force(checked):
        named = rules.accounts.of_sales if rules.accounts is not None else frozenset()
        if one.pk == bridge.pk:
            return sorted(named - taken)
        taken |= named
    return []


def cannot_be_read(bridge: Bridge) -> str:
    """Why the books cannot be asked, in words; nothing where they can."""
    capabilities = dialect_of(bridge.books).capabilities
    if not getattr(capabilities, "tells_accounts_of_sales", False):
        return f"{bridge.books.name} does not tell what stands on accounts of sales"
    if not bridge.books.may_be_asked:
        return f"{bridge.books.name} is paused, or another company's, so it is not asked"
    return ""


@dataclass(slots=True)
class _Found:
    """A document that nobody here made, while its entries come in; ``amounts`` by account, credits positive."""

    entry: AccountEntry
    amounts: dict[str, Decimal] = field(default_factory=lambda: defaultdict(Decimal))


def read_entered(check: CompletenessCheck, accounts: Sequence[str]) -> list[EnteredByHand]:
    """What stands on these accounts on the days of the check and was not posted from here.

    Calls: one a page of each account, and one a document that is of a sale, up to ``MOST_READ``.

    Raises:
        EndError: the books do not answer.
        Stopped: it is not wanted any more.
    """
    end, found = books_end(check.bridge.books), dict[tuple[str, str], _Found]()
    for account in accounts:
        for entries in _pages(check, end, account):
            for entry in _unknown(check.bridge, entries):
                one = found.setdefault((entry.family, entry.id), _Found(entry))
                one.amounts[account] -= entry.amount
    read = [one for one in found.values() if one.entry.role in _OF_SALES][:MOST_READ]
    documents = at_once(lambda one: _as_document(end, one, accounts), read)
    whole = {(one.entry.family, one.entry.id): document for one, document in zip(read, documents, strict=True)}
    currency = check.bridge.company.currency
    return [whole.get(key) or _as_amounts(one, currency) for key, one in sorted(found.items())]


def _pages(check: CompletenessCheck, end: BooksEnd, account: str) -> Iterator[Sequence[AccountEntry]]:
    for told in every_page(
        lambda page: end.account_entries(account, check.first, check.last, page=page), of="the books' list of entries"
    ):
        if not check.while_active.exists():
            raise Stopped
        yield told.entries


def _unknown(bridge: Bridge, entries: Sequence[AccountEntry]) -> list[AccountEntry]:
    """Those of documents that were neither posted nor adopted from here; one statement, and a second for what bears no
    reference of ours."""
    documents = Document.objects.filter(workspace=bridge.workspace_id, connection=bridge.books_id)
    references = {one.external_reference for one in entries if one.external_reference}
    named = documents.filter(external_reference__in=references).values_list("external_reference", flat=True)
    known = set(named)
    left = [one for one in entries if one.external_reference not in known]
    if not left:
        return []
    # Somebody may have overwritten our reference, or typed in what was adopted: it is known by the books' own id, too.
    by_id = set(documents.filter(books_id__in=[one.id for one in left]).values_list("role", "books_id"))
    return [one for one in left if (one.role, one.id) not in by_id]


def _as_document(end: BooksEnd, one: _Found, accounts: Sequence[str]) -> EnteredByHand | None:
    """A document of a sale with its lines on these accounts; nothing where it is there no more, or cannot be read."""
    role = one.entry.role
    assert role is not None
    try:
        record = end.read(role, one.entry.id)
    except Misstated:
        # One that cannot be read is no reason to know nothing of the others: its amounts are known.
        return None
    except Refused as error:
        if error.why == "not found":
            return None
        raise
    document = record.document
    if record.standing is not Standing.POSTED or not isinstance(document, TradeDocument):
        return None
    sign = -1 if isinstance(document, CreditNote) else 1
    lines = tuple(EnteredLine(account=line.account, tax_code=line.tax_code, net=sign * line.net, tax=sign * line.tax)
                  for line in document.lines if line.account in accounts)  # fmt: skip
    said = _said(one.entry)
    return EnteredByHand(**said, role=role.value, currency=document.currency, documents=sign, lines=lines)


def _as_amounts(one: _Found, currency: str) -> EnteredByHand:
    """Anything else: what its entries come to, in the company's own currency."""
    lines = tuple(
        EnteredLine(account=account, net=rounded(amount, currency)) for account, amount in one.amounts.items()
    )
    return EnteredByHand(**_said(one.entry), currency=currency, lines=lines)


def _said(entry: AccountEntry) -> dict[str, Any]:
    return {
        "id": fit_name(f"{entry.family} {entry.id}"),
        "number": fit_name(entry.number or entry.id),
        "entered_on": entry.date,
        "changed_at": datetime.combine(entry.date, time(12), UTC),
        "external_reference": fit_line(entry.external_reference, 250),
    }


def keep(bridge: Bridge, first: date, last: date, found: Sequence[EnteredByHand]) -> None:
    """Let what was entered by hand on these days be this, and nothing else.

    They are documents of their own, that count on the books' side. A few statements for a hundred.

    Expects no transaction.
    """
    by_kind: dict[str, list[EnteredByHand]] = {name: [] for name in KINDS}
    for one in found:
        by_kind[NOT_POSTED_HERE if is_ours(one.external_reference) else ENTERED_BY_HAND].append(one)
    for name, of_kind in by_kind.items():
        for start in range(0, len(of_kind), BATCH):
            _keep_some(bridge, name, of_kind[start : start + BATCH])
        _forget_others(bridge, name, first, last, {one.id for one in of_kind})


def _keep_some(bridge: Bridge, name: str, some: Sequence[EnteredByHand]) -> None:
    fetched = [Fetched(id=one.id, number=one.number, changed_at=None, document=one) for one in some]
    with transaction.atomic():
        # Nothing is carried: it stands there already.
        staging.keep_page(bridge, kind_named(name), fetched, carry=False)
        rows = Crossing.objects.filter(bridge=bridge, kind=name, source_id__in=[one.id for one in some])
        crossings = {one.source_id: one for one in rows.select_related("bridge__company", "snapshot")}
        for crossing in crossings.values():
            crossing.state = CrossingState.ADOPTED
        write_rows(list(crossings.values()), ("state",))
        figures.write({crossings[one.id]: books_figures(one) for one in some}, (Side.BOOKS,))


def _forget_others(bridge: Bridge, name: str, first: date, last: date, ids: set[str]) -> None:
    """What was found on these days before, and stands there no more (it was voided, or moved), counts no more."""
    rows = Crossing.objects.filter(bridge=bridge, kind=name, business_date__range=(first, last), gone_at=None)
    keys = list(rows.exclude(source_id__in=ids).values_list("pk", flat=True))
    gone.mark_gone(bridge, keys, side=Side.BOOKS)
