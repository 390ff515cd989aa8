"""What changes in a month after it was closed: kept beside its frozen figures, document by document."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from django.db.models import Q, QuerySet, Sum
from django.utils import timezone

from inkwell_bridge.core.closing import Month
from inkwell_bridge.core.proof import Amounts, Grain, Key, Side, Totals
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent
from inkwell_bridge.service.carriage.states import EventKind
from inkwell_bridge.service.carriage.totals import SUMS, totals_of
from inkwell_bridge.service.closing.models import LaterChange, MonthClosing
from inkwell_bridge.service.locks import share_until_commit
from inkwell_bridge.service.rows import insert_rows

PAGE = 100
# Kiribati's: nobody's day begins before theirs.
EARLIEST_CLOCKS = timedelta(hours=14)
# A named reason is neither side: what it says is seen in the sides that it stands between.
_SIDES = (Side.SOURCE, Side.CODED, Side.BOOKS)


def lock_name(company: int) -> str:
    """The lock that a closing holds for itself, and whoever writes figures of a company's past months shares."""
    return f"figures of past months:{company}"


def keep_later_changes(changes: Sequence[tuple[Crossing, Key, Amounts]], **_: Any) -> None:
    """Keep what was changed of closed months. Nothing is asked where all of it lies in a month that goes on; four
    statements where not, whatever their number.

    Expects the transaction that writes the figures: it is seen by a closing that comes after it, or sees the closing.
    """
    # By the earliest clocks the next month may have begun already, and this one be closed.
    open_from = Month.of((clock.now() + EARLIEST_CLOCKS).date()).first
    before = [one for one in changes if one[1].section and one[1].side in _SIDES and one[1].date < open_from]
    if not before:
        return
    bridges = {crossing.bridge_id for crossing, _, _ in before}
    companies = dict(Bridge.objects.filter(pk__in=bridges).values_list("pk", "company"))
    share_until_commit(map(lock_name, set(companies.values())))
    closed = MonthClosing.objects.filter(
        company__in=set(companies.values()),
        month__in={Month.of(key.date).first for _, key, _ in before},
        reopening=None,
    )
    closing_of = {(one.company_id, one.month): one for one in closed.select_related("company").defer("content")}
    now = clock.now()
    of_closed = [
        (crossing, key, amounts, closing)
        for crossing, key, amounts in before
        if (closing := closing_of.get((companies[crossing.bridge_id], Month.of(key.date).first)))
    ]
    insert_rows(
        [
            LaterChange(
                workspace_id=crossing.workspace_id, closing=closing, crossing=crossing, side=key.side, grain=key.grain,
                section=key.section, date=key.date, currency=key.currency, tax_code=key.tax_code, tender=key.tender,
                at=now, **amounts._asdict(),
            )
            for crossing, key, amounts, closing in of_closed
        ]
    )  # fmt: skip
    _tell({(crossing.pk, closing.pk): (crossing, closing) for crossing, _, _, closing in of_closed}.values())


def _tell(changed: Iterable[tuple[Crossing, MonthClosing]]) -> None:
    """Each document's own history says which closed month it changed."""
    now = timezone.now()
    insert_rows(
        [
            CrossingEvent(
                workspace_id=crossing.workspace_id, crossing=crossing, at=now, kind=EventKind.AFTER_CLOSING,
                detail={"text": f"{closing.month:%B %Y} of {closing.company.name}: beside its frozen figures"},
            )
            for crossing, closing in changed
        ]
    )  # fmt: skip


@dataclass(slots=True)
class ChangedSums:
    """What both sides of a place changed by. Units: in ``currency``."""

    section: str
    currency: str
    source: Totals = field(default_factory=Totals)
    books: Totals = field(default_factory=Totals)


def changed_sums(closing: MonthClosing) -> list[ChangedSums]:
    """By section and currency what each side changed by since; nothing of what came to nothing. One statement."""
    rows = LaterChange.objects.filter(closing=closing, grain=Grain.DOCUMENT, side__in=(Side.SOURCE, Side.BOOKS))
    sums: dict[tuple[str, str], ChangedSums] = {}
    for row in rows.values("section", "currency", "side").annotate(**SUMS).order_by("section", "currency"):
        key = row["section"], row["currency"]
        _to_side(sums.setdefault(key, ChangedSums(*key)), row)
    return [one for one in sums.values() if not (one.source.nothing and one.books.nothing)]


@dataclass(slots=True)
class ChangedDocument:
    """What a source document changed a closed month by, in one currency, and since when; of both sides nothing, where
    only the tax codes of its lines are others."""

    crossing: Crossing
    currency: str
    since: datetime
    source: Totals = field(default_factory=Totals)
    books: Totals = field(default_factory=Totals)


def changed_documents(closing: MonthClosing, after: int = 0) -> tuple[list[ChangedDocument], bool]:
    """A page of the documents that are otherwise in the month than when it was closed, by number, and whether there are
    more. Three statements."""
    keys = list(_changed(closing).filter(crossing__gt=after).order_by("crossing")[: PAGE + 1])
    shown = keys[:PAGE]
    crossings = Crossing.objects.filter(pk__in=shown).select_related("bridge").defer("planned", "findings")
    by_pk = {one.pk: one for one in crossings}
    found: dict[tuple[int, str], ChangedDocument] = {}
    rows = LaterChange.objects.filter(closing=closing, crossing__in=shown)
    rows = rows.values("crossing", "currency", "side", "grain", "at")
    for row in rows.annotate(**SUMS).order_by("crossing", "currency", "at"):
        key = row["crossing"], row["currency"]
        one = found.setdefault(key, ChangedDocument(by_pk[key[0]], key[1], row["at"]))
        if row["grain"] == Grain.DOCUMENT and row["side"] != Side.CODED:
            _to_side(one, row)
    return list(found.values()), len(keys) > PAGE


def number_changed(closings: Sequence[MonthClosing]) -> dict[int, int]:
    """How many documents of each are otherwise than when it was closed; one statement."""
    counts: dict[int, set[int]] = defaultdict(set)
    rows = LaterChange.objects.filter(closing__in=closings)
    for closing, crossing in _not_undone(rows, "closing", "crossing").values_list("closing", "crossing").distinct():
        counts[closing].add(crossing)
    return {closing: len(crossings) for closing, crossings in counts.items()}


def _changed(closing: MonthClosing) -> QuerySet[LaterChange, int]:
    left = _not_undone(LaterChange.objects.filter(closing=closing), "crossing")
    return left.values_list("crossing", flat=True).distinct()


def _not_undone(rows: QuerySet[LaterChange], *by: str) -> QuerySet[LaterChange]:
    """Those of which something is left: what changed and was changed back is as it was."""
    place = ("side", "grain", "section", "date", "currency", "tax_code", "tender")
    sums = rows.values(*by, *place).annotate(**{f"sum_{name}": Sum(name) for name in SUMS})
    left = ~Q(sum_count=0) | ~Q(sum_net=0) | ~Q(sum_tax=0) | ~Q(sum_gross=0)
    return sums.filter(left).order_by()


def _to_side(one: ChangedSums | ChangedDocument, row: dict[str, Any]) -> None:
    if row["side"] == Side.SOURCE:
        one.source = one.source.plus(totals_of(row))
    elif row["side"] == Side.BOOKS:
        one.books = one.books.plus(totals_of(row))
