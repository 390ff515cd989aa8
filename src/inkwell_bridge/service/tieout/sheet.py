"""The sheet of a period: sums of the days' totals, and the differences document by document.

Both sides are sums that are kept by day, so a month is as quick with a million orders as with ten. What stands between
them is kept for each document (``core.proof.apart``) with its reason, and few have any. Every table of the sheet is
made of the same two statements.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from django.db.models import Count, Exists, OuterRef, QuerySet

from inkwell_bridge.core.proof import (
    BOTH,
    SETTLED,
    Place,
    Reason,
    Section,
    SheetRow,
    Side,
    Summed,
    Table,
    Totals,
    sheet_rows,
    table_of,
    tables_of,
    with_both,
)
from inkwell_bridge.service.carriage.models import Crossing, DayTotal, Difference, Figure
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.totals import SUMS, totals_of
from inkwell_bridge.service.completeness import lacking
from inkwell_bridge.service.tieout.at_provider import known_to_provider_only
from inkwell_bridge.service.tieout.money_alone import not_carried
from inkwell_bridge.service.tieout.reasons import NAMED, reason_of_difference
from inkwell_bridge.service.tieout.scope import Scope

# The columns of what rows may be parted by, where these are called otherwise.
_COLUMNS = {"bridge": "bridge__slug", "day": "date", "connection": "bridge__books__slug"}


class Figures(NamedTuple):
    """Figures of one place, added up, and the tables that they count in."""

    summed: Summed
    tables: Sequence[Table]


class Tables(NamedTuple):
    """The tables of a sheet: sales, refunds and both together; tax codes; accounts; tenders."""

    headline: list[SheetRow]
    tax_codes: list[SheetRow]
    accounts: list[SheetRow]
    tenders: list[SheetRow]


def whole(scope: Scope) -> Tables:
    """All tables of a period. Two statements.

    By tax code the lines are told as the rules code the source's amounts, and as the books hold them; what came back is
    taken off. A line that stands under another code than planned is under both, whatever the totals say. By account the
    same, and money on rows of its own: what is sold adds to what an account of gift cards owes, and what is paid with
    them takes it off.
    """
    figures = list(_figures(scope, ("section", "currency", "tax_code", "tender", "connection", "account")))
    # The number of lines says nothing; the amounts do.
    codes = (one._replace(totals=one.totals.model_copy(update={"count": 0}))
             for one in _parted(figures, Table.TAX_CODES, "currency", "tax_code"))  # fmt: skip
    # On an account stands what a line has without its tax. Two books may have accounts of the same code.
    accounts = (
        one._replace(totals=Totals(net=one.totals.net, gross=one.totals.net), place=_of_account(one.place))
        for one in _parted(figures, Table.ACCOUNTS, "section", "currency", "connection", "account")
    )
    return Tables(
        headline_of(figures),
        sheet_rows(codes, source=Side.CODED),
        sheet_rows(accounts, source=Side.CODED),
        sheet_rows(_parted(figures, Table.TENDERS, "currency", "tender")),
    )


def _of_account(place: Place) -> Place:
    return place if place.section == Section.MONEY else place._replace(section=BOTH)


def headline(scope: Scope, *by: str) -> list[SheetRow]:
    """Sales, refunds and both together, by currency; and by ``bridge`` or ``day``, where asked for. Two statements."""
    return headline_of(list(figures_by(scope, *by)), *by)


def figures_by(scope: Scope, *by: str) -> Iterator[Figures]:
    """What headlines by ``bridge`` and ``day``, or by fewer of these, are made of."""
    return _figures(scope, ("section", "currency", *by))


def headline_of(figures: Iterable[Figures], *by: str) -> list[SheetRow]:
    """The headline by these of the parts that the figures were read by."""
    return with_both(sheet_rows(_parted(figures, Table.TOTALS, "section", "currency", *by)))


def open_days(figures: Iterable[Figures]) -> dict[str, dict[str, bool]]:
    """Of each bridge the days on which anything stands, and whether a difference is open on them, in whatever table;
    the figures were read by ``bridge`` and ``day``."""
    found: dict[str, dict[str, bool]] = defaultdict(dict)
    for one in figures:
        place, reason = one.summed.place, one.summed.reason
        is_open = reason is not None and reason not in SETTLED
        found[place.bridge][place.day] = is_open or found[place.bridge].get(place.day, False)
    return found


def _parted(figures: Iterable[Figures], table: Table, *by: str) -> Iterator[Summed]:
    """Those of one table, by fewer parts. A document has one row between the sides in each table, so that documents
    may be added up as well."""
    for one in figures:
        if table in one.tables:
            place = one.summed.place
            yield one.summed._replace(place=Place(**{name: getattr(place, name) for name in by}))


def _figures(scope: Scope, by: Sequence[str]) -> Iterator[Figures]:
    columns = [_COLUMNS.get(name, name) for name in by]
    days = scope.of(DayTotal.objects.exclude(section=Section.NONE))
    for row in days.values(*columns, "grain", "side", "role").annotate(**SUMS).order_by():
        # The role tells one reason from another; of a side it tells nothing here.
        reason = NAMED[row["role"]] if row["side"] == Side.RECONCILING else None
        summed = Summed(_place(row, by), row["side"], reason, "", None, totals_of(row))
        yield Figures(summed, tables_of(row["side"], row["grain"], row["section"], row["role"]))
    between = scope.of(Difference.objects.all()).values(*columns, "grain", "reason", "detail")
    # Documents whose differences cancel out are counted, and no less open. Of one day a document has one row for a
    # reason in each place; over several, what is on another day has two, and telling them apart takes a sort.
    one_day = "day" in by or scope.first == scope.last
    documents = Count("id") if one_day else Count("crossing", distinct=True)
    for row in between.annotate(documents=documents, **SUMS).order_by():
        summed = Summed(_place(row, by), "", Reason(row["reason"]), row["detail"], row["documents"], totals_of(row))
        yield Figures(summed, [table_of(row["grain"], row["section"])])


def _place(row: dict[str, object], by: Sequence[str]) -> Place:
    return Place(**{name: str(row[_COLUMNS.get(name, name)]) for name in by})


def differing_documents(scope: Scope) -> QuerySet[Crossing]:
    """The documents with figures in the period that differ in the books; and those that have none on the sheet, such as
    payouts, by their own day."""
    on_sheet = Figure.objects.filter(crossing=OuterRef("pk")).exclude(section=Section.NONE)
    differing = Crossing.objects.filter(workspace=scope.workspace, state=CrossingState.DIFFERS)
    of_their_day = scope.of(differing.filter(~Exists(on_sheet)), "business_date")
    return differing.filter(Exists(scope.of(on_sheet))) | of_their_day


def differing(scope: Scope) -> list[tuple[Reason, int]]:
    """How many documents of the period differ in the books, by the reason, whether an amount differs or not: a contact,
    an account, or what money is set against; how many are lacking here; and how much money that stands in no section
    has not crossed. Four statements."""
    counts = differing_documents(scope).order_by().values_list("cause").annotate(number=Count("pk"))
    sums: dict[Reason, int] = dict(lacking.counts_of(scope))
    if charges := known_to_provider_only(scope).count():
        sums[Reason.AT_PROVIDER] = charges
    for cause, number in counts:
        reason = reason_of_difference(cause)
        sums[reason] = sums.get(reason, 0) + number
    if money := not_carried(scope).count():
        sums[Reason.MONEY_NOT_CARRIED] = money
    return sorted(sums.items(), key=lambda one: list(Reason).index(one[0]))
