"""Figures for totals: written with what they are about, never changed, so that any total is one grouped sum.

When what a figure says changes, the difference is written as a further row: what the rows of a crossing add up to is
always what it says now, and what they added up to on any day can be worked out.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from django.db.models import Sum
from django.dispatch import Signal

from inkwell_bridge.core.books import (
    BooksDocument,
    BooksRecord,
    Dispatch,
    Payment,
    Role,
    Standing,
    StockLevel,
    StockMove,
    TradeDocument,
)
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.core.proof import (
    Amounts,
    Grain,
    Key,
    Reconciles,
    Section,
    Side,
    added,
    coded_amounts,
    gaps,
    is_of_money,
    not_as_money,
    reconciling_items,
    tax_on_own_lines,
)
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.kinds import kind_of
from inkwell_bridge.service.carriage.kinds.protocol import Kind, Listed
from inkwell_bridge.service.carriage.models import Crossing, DayTotal, Difference, Document, Figure
from inkwell_bridge.service.carriage.states import CrossingState, DecisionKind, DocumentState
from inkwell_bridge.service.rows import insert_rows

ZERO = Decimal(0)
CREDITS = (Role.CREDIT_NOTE.value, Role.REFUND_PAYMENT.value)
MONEY = (Role.PAYMENT.value, Role.REFUND_PAYMENT.value)
# The documents that stand for a sale or a refund, and those that take some of it off again when it changes.
SALES = (Role.INVOICE.value, Role.SALES_ORDER.value, Role.CASH_SALE.value, Role.CREDIT_NOTE.value)

Wanted = Mapping[Key, Amounts]
_KEY = Key._fields
# Sent in the transaction that writes them, with the ``changes``: a crossing, the key of a figure, and what was added to
# it. Rooms that stand above listen.
figures_changed = Signal()


def write(wanted: Mapping[Crossing, Wanted], sides: Sequence[Side]) -> None:
    """Let the figures of these crossings, on these sides, come to what is wanted, and what stands between their sides
    follow from that. Five statements, of however many.

    Expects a transaction around, and the crossings' locks.
    """
    # What stands there is asked for, never remembered: whoever wrote it may have been another worker.
    rows = Figure.objects.filter(crossing__in=[crossing.pk for crossing in wanted]).values_list("crossing_id", *_KEY)
    sums = rows.annotate(*(Sum(name) for name in Amounts._fields)).order_by()
    # What the rows say by now is added up, for each may have been corrected before.
    there: dict[int, dict[Key, Amounts]] = defaultdict(dict)
    for pk, *rest in sums:
        there[pk][Key(*rest[: len(_KEY)])] = Amounts(*rest[len(_KEY) :])
    in_all = {crossing: _in_all(crossing, there[crossing.pk], asked, sides) for crossing, asked in wanted.items()}
    changes = [
        (crossing, key, amounts)
        for crossing, said in in_all.items()
        for key, amounts in _changes(there[crossing.pk], said)
    ]
    insert_rows(
        [
            Figure(workspace_id=crossing.workspace_id, bridge_id=crossing.bridge_id, crossing=crossing,
                   **key._asdict(), **amounts._asdict())
            for crossing, key, amounts in changes
        ]
    )  # fmt: skip
    _add_to_days(changes)
    _keep_differences(in_all)
    if changes:
        figures_changed.send(Figure, changes=changes)


def _in_all(crossing: Crossing, there: Wanted, asked: Wanted, sides: Sequence[Side]) -> Wanted:
    """All figures that a crossing is to have: what is wanted, what stays, and the money that never comes as money."""
    stays = {key: amounts for key, amounts in there.items()
             if key.side not in sides and not is_of_money(key) and any(amounts)}  # fmt: skip
    said = {**stays, **asked}
    return said | not_as_money(said) if _is_settled(crossing) else said


def _is_settled(crossing: Crossing) -> bool:
    """Whether it has crossed as it is now: not where a person let stand what was posted before it changed, nor where
    its origin has it no more."""
    kept = (crossing.decision or {}).get("kind") == DecisionKind.KEEP_POSTED
    return crossing.state in (CrossingState.CARRIED, CrossingState.DIFFERS) and not kept and not crossing.gone_at


def _add_to_days(changes: Iterable[tuple[Crossing, Key, Amounts]]) -> None:
    """The same by day, for totals."""
    sums: dict[tuple[int, int, Key], Amounts] = defaultdict(Amounts)
    for crossing, key, amounts in changes:
        if key.section:
            of_day = crossing.workspace_id, crossing.bridge_id, key
            sums[of_day] = sums[of_day].plus(amounts)
    insert_rows(
        [
            DayTotal(workspace_id=workspace, bridge_id=bridge, **key._asdict(), **amounts._asdict())
            for (workspace, bridge, key), amounts in sums.items()
            if any(amounts)
        ]
    )


def _keep_differences(in_all: Mapping[Crossing, Wanted]) -> None:
    """What stands between the sides of each, in place of what stood there before: of most, nothing."""
    Difference.objects.filter(crossing__in=[crossing.pk for crossing in in_all]).delete()
    insert_rows(
        [
            Difference(workspace_id=crossing.workspace_id, bridge_id=crossing.bridge_id, crossing=crossing,
                       between=gap.between, date=gap.date, **gap.meeting._asdict(), **gap.amounts._asdict())
            for crossing, said in in_all.items()
            for gap in gaps(said)
        ]
    )  # fmt: skip


def _changes(there: Wanted, asked: Wanted) -> Iterator[tuple[Key, Amounts]]:
    for key in dict.fromkeys((*there, *asked)):
        difference = asked.get(key, Amounts()).plus(there.get(key, Amounts()), -1)
        if any(difference):
            yield key, difference


def of_source(kind: Kind, listed: Listed, business_date: date | None, bridge: Bridge) -> dict[Key, Amounts]:
    """What the origin says: its totals on its day, and the money that moved, each on its own day; by the origin's own
    clocks, so that it is what the origin's reports have. ``business_date`` is its day by the company's."""
    if listed.gross is None or business_date is None or not listed.ties:
        return {}
    zone = bridge.source_zone
    day = listed.moment.astimezone(zone).date() if listed.moment else business_date
    return added(_of_source(kind, listed, day, zone))


def _of_source(kind: Kind, listed: Listed, day: date, zone: ZoneInfo) -> Iterator[tuple[Key, Amounts]]:
    sign = listed.sign
    totals = Amounts(1, sign * (listed.net or ZERO), sign * (listed.tax or ZERO), sign * (listed.gross or ZERO))
    yield Key(Side.SOURCE, Grain.DOCUMENT, kind.section, kind.name, day, listed.currency), totals
    role = Role.PAYMENT.value if sign > 0 else Role.REFUND_PAYMENT.value
    section = Section.MONEY if kind.section else Section.NONE
    for money in listed.received:
        paid_on = money.paid_at.astimezone(zone).date() if money.paid_at else day
        key = Key(Side.SOURCE, Grain.DOCUMENT, section, role, paid_on, listed.currency, tender=money.tender.value)
        yield key, Amounts(1, ZERO, ZERO, sign * money.amount)


def write_documents(told: Iterable[tuple[Crossing, Plan | None, Sequence[Document]]]) -> None:
    """Let the figures of these crossings say what their plans and documents do by now; as ``write``."""
    wanted = {
        crossing: of_documents(crossing, plan, documents, tenders_of(crossing.snapshot.content))
        for crossing, plan, documents in told
    }
    write(wanted, (Side.CODED, Side.BOOKS, Side.RECONCILING))


def of_documents(
    crossing: Crossing, plan: Plan | None, documents: Sequence[Document], tenders: Mapping[str, str]
) -> dict[Key, Amounts]:
    """What the rules made of a crossing, what the books hold of it, and the named reasons why these may differ.

    ``tenders`` names the tender of each transaction.
    """
    return added(
        (
            *_withheld(crossing, plan, documents),
            *(
                part
                for document, count in _counted(documents)
                for part in _of_document(crossing, document, tenders, count)
            ),
        )
    )


_SALES = (Role.INVOICE, Role.CASH_SALE, Role.SALES_ORDER)


def _counted(documents: Sequence[Document]) -> list[tuple[Document, int]]:
    """The documents whose amounts count, each with how many it counts for.

    Of a sales order and its invoice the invoice counts: the order takes nothing into the ledger. The final invoice of
    what was paid ahead, and what makes a later change good, are of a sale that was counted already.
    """
    # Counting both would make two sales of one.
    standing = [document for document in documents if document.state != DocumentState.CANCELLED]
    invoiced = any(document.role == Role.INVOICE for document in standing)
    counted = [document for document in standing if not (invoiced and document.role == Role.SALES_ORDER)]
    first = next((document for document in counted if document.role in (*_SALES, Role.CREDIT_NOTE)), None)
    # Of money that was taken back, and may have been entered anew, the first document says which way it went.
    went: dict[str, str] = {}
    for document in counted:
        if document.role in MONEY:
            went.setdefault(_transaction(document), document.role)

    def count(document: Document) -> int:
        if document.role in MONEY and document.role != went[_transaction(document)]:
            # A receipt that was taken back: the money never came.
            return -1
        follows = document.amendment or (document.put_right and document.role not in MONEY)
        return 0 if document.is_final_invoice or (follows and document is not first) else 1

    return [(document, count(document)) for document in counted]


def _transaction(document: Document) -> str:
    return str((document.planned or {}).get("transaction", ""))


def _withheld(crossing: Crossing, plan: Plan | None, documents: Sequence[Document]) -> Iterator[tuple[Key, Amounts]]:
    # An order without a day belongs to no period, and what it withholds to none either.
    if plan is None or crossing.business_date is None:
        return
    kept = sum((part.amount for part in plan.withheld), ZERO)
    net, tax = sum((one.net for one in plan.deducted), ZERO), sum((one.tax for one in plan.deducted), ZERO)
    waits, off, before = plan.untaxed or ZERO, plan.called_off, plan.credited_before
    counted = _counted(documents)
    # An invoice that was credited stands there still, and counts; a sales order that was cancelled does not.
    gone = 0 if any(document.role in _SALES for document, _ in counted) else 1
    reasons = (
        (Reconciles.WITHHELD, Amounts(0, ZERO, kept, kept)),
        (Reconciles.VOUCHERS, Amounts(0, net, tax, net + tax)),
        (Reconciles.DEPOSITS, Amounts(0, -waits, waits, ZERO)),
        (Reconciles.CANCELLED, Amounts(gone, off.net, off.tax, off.net + off.tax) if off else Amounts()),
    )
    if before:
        noted = any(document.role == Role.CREDIT_NOTE for document, _ in counted)
        # It takes off less than the shop says, by what the order's own change took off already.
        taken = Amounts(0 if noted else 1, -before.net, -before.tax, -(before.net + before.tax))
        reasons = (*reasons, (Reconciles.CREDITED, taken))
    # All of these are amounts of its documents, whose currency may be another than its own.
    currency = plan.exchange_rate.own if plan.exchange_rate and plan.converted else crossing.currency
    for reason, amounts in reasons:
        if any(amounts):
            yield _reconciling(crossing, crossing.business_date, reason, currency=currency), amounts
    if plan.converted and crossing.gross is not None:
        own, sign = plan.converted, -1 if plan.converted.net + plan.converted.tax < 0 else 1
        there = Amounts(sign, own.net, own.tax, own.net + own.tax)
        here = Amounts(sign, *(sign * (amount or ZERO) for amount in (crossing.net, crossing.tax, crossing.gross)))
        # Out of the one currency, and into the other: both sides tie in each of them.
        yield _reconciling(crossing, crossing.business_date, Reconciles.CONVERTED), here
        yield (_reconciling(crossing, crossing.business_date, Reconciles.CONVERTED, currency=currency),
               Amounts().plus(there, -1))  # fmt: skip


def _of_document(
    crossing: Crossing, document: Document, tenders: Mapping[str, str], count: int
) -> Iterator[tuple[Key, Amounts]]:  # fmt: skip
    if document.record is None and not (document.planned and document.posting_at):
        return
    sign = -1 if document.role in CREDITS else 1
    if not document.planned:
        yield from _adopted(crossing, document)
        return
    planned = Role(document.role).shape.read(document.planned)
    # Goods that move are no amounts: their worth is another document's.
    if isinstance(planned, Dispatch | StockMove | StockLevel):
        return
    of = _OfDocument(document, _section(crossing, document), sign, _tender(planned, tenders), count)
    yield from _said(Side.CODED, of, planned, _totals(planned))
    for copy in document.copies:
        yield from _read_back(of, BooksRecord.read(copy))
    # What was never read back, or is not there any more, is no figure of the books.
    if document.record is None:
        return
    record = BooksRecord.read(document.record)
    yield from _read_back(of, record)
    apart = tax_on_own_lines(planned)
    if apart:
        key = _reconciling(crossing, _day(document, planned), Reconciles.TAX_LINES, currency=document.currency)
        yield key, Amounts(0, -sign * apart, sign * apart, ZERO)
    # As it was settled when it was posted: what somebody changed since is no computing of the books, and no penny.
    settled = Role(document.role).shape.read(document.settled) if document.settled else planned
    for item in reconciling_items(planned, settled):
        amounts = Amounts(0, sign * item.net, sign * item.tax, sign * (item.net + item.tax))
        day = _day(document, record.document)
        key = _reconciling(crossing, day, Reconciles(item.reason), item.account, item.tax_code,
                           currency=document.currency)  # fmt: skip
        yield key, amounts


def _adopted(crossing: Crossing, document: Document) -> Iterator[tuple[Key, Amounts]]:
    """Somebody typed it in: the books are believed, and have no lines that are known here."""
    if document.gross is not None:
        day = document.date or crossing.business_date
        if day is not None:
            section = _section(crossing, document)
            key = Key(Side.BOOKS, Grain.DOCUMENT, section, document.role, day, document.currency)
            yield key, Amounts(1, document.net or ZERO, document.tax or ZERO, document.gross)


class _OfDocument(NamedTuple):
    """What the figures of one document have in common; ``count`` is how many documents it counts for."""

    document: Document
    section: Section
    sign: int
    tender: str
    count: int


def _section(crossing: Crossing, document: Document) -> Section:
    """The part of the sheet that a document of the books stands in: that of its crossing, or money."""
    section = kind_of(crossing).section
    if document.role in MONEY:
        return Section.MONEY if section else Section.NONE
    return section if document.role in SALES else Section.NONE


def _read_back(of: _OfDocument, record: BooksRecord) -> Iterator[tuple[Key, Amounts]]:
    # What was posted and is a draft again stands in no account; one that is to stay a draft counts as what it is to be.
    if record.standing is Standing.DRAFT and of.document.posting_at:
        return
    # The books' own totals where they have some, for these stand in their reports; else what their lines come to.
    totals = (record.net, record.tax, record.gross) if record.gross is not None else _totals(record.document)
    yield from _said(Side.BOOKS, of, record.document, totals)


def _said(
    side: Side, of: _OfDocument, said: BooksDocument, totals: Sequence[Decimal | None]
) -> Iterator[tuple[Key, Amounts]]:  # fmt: skip
    """What one side says of a document: under each account and code, and in total."""
    document, sign = of.document, of.sign

    def key(grain: Grain, account: str = "", tax_code: str = "") -> Key:
        return Key(side, grain, of.section, document.role, _day(document, said), document.currency, account,
                   tax_code, of.tender)  # fmt: skip

    for coding, (net, tax) in coded_amounts(said).items():
        yield key(Grain.LINE, coding.account, coding.tax_code), Amounts(1, sign * net, sign * tax, sign * (net + tax))
    yield key(Grain.DOCUMENT), Amounts(of.count, *(sign * (amount or ZERO) for amount in totals))


def _totals(said: BooksDocument) -> tuple[Decimal, Decimal, Decimal]:
    if isinstance(said, TradeDocument):
        return said.net, said.tax, said.gross
    amount = said.amount if isinstance(said, Payment) else ZERO
    return ZERO, ZERO, amount


def _day(document: Document, said: BooksDocument) -> date:
    day: date = getattr(said, "date", None) or document.date  # type: ignore[assignment]
    return day


def _tender(planned: BooksDocument, tenders: Mapping[str, str]) -> str:
    return tenders.get(planned.transaction, "other") if isinstance(planned, Payment) else ""


def _reconciling(
    crossing: Crossing, day: date, reason: Reconciles, account: str = "", code: str = "", *, currency: str = ""
) -> Key:
    """A named reason, with the account and code of the line that it is about, where it is about one."""
    section = kind_of(crossing).section
    return Key(Side.RECONCILING, Grain.LINE, section, reason, day, currency or crossing.currency, account, code)


def tenders_of(content: Mapping[str, Any] | None) -> dict[str, str]:
    """The tender of each transaction of a source document, as it was fetched; what is money itself is one of them."""
    said = content or {}
    payments = [*(said.get("payments") or ()), *([said] if "transaction" in said else [])]
    return {one["transaction"]: one.get("tender") or "other" for one in payments}
