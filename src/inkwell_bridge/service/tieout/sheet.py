"""The sheet of a period: sums of the days' totals, and the differences document by document.

Both sides are sums that are kept by day, so a month is as quick with a million orders as with ten. What stands between
them is kept for each document (``core.proof.apart``), and few have any; its reason is asked for here.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from django.db.models import Count, Q

from inkwell_bridge.core.proof import (
    Grain,
    Place,
    Reason,
    Section,
    SheetRow,
    Side,
    Summed,
    sheet_rows,
    with_both,
)
from inkwell_bridge.service.carriage.models import Crossing, DayTotal, Difference, Figure
from inkwell_bridge.service.carriage.states import CrossingState, Reconciles
from inkwell_bridge.service.carriage.totals import SUMS, totals_of
from inkwell_bridge.service.tieout.reasons import DETAIL, NAMED, REASON, reason_of_difference
from inkwell_bridge.service.tieout.scope import Scope

IN_TOTALS = (Section.SALES, Section.REFUNDS)
# The figures of each table of the sheet. What stands between the sides has the same grain as what it is between.
_DOCUMENTS = Q(grain=Grain.DOCUMENT)
HEADLINE = Q(section__in=IN_TOTALS) & ((_DOCUMENTS & Q(side__in=(Side.SOURCE, Side.BOOKS))) | Q(side=Side.RECONCILING))
TAX_CODES = Q(section__in=IN_TOTALS) & (
    Q(grain=Grain.LINE, side__in=(Side.CODED, Side.BOOKS))
    | Q(side=Side.RECONCILING, role__in=(Reconciles.PENNY.value, Reconciles.TAX_COMPUTED.value))
)
TENDERS = Q(section=Section.MONEY) & ((_DOCUMENTS & Q(side__in=(Side.SOURCE, Side.BOOKS))) | Q(side=Side.RECONCILING))
# The columns of what rows may be parted by, where these are called otherwise.
_COLUMNS = {"bridge": "bridge__slug", "day": "date"}


def headline(scope: Scope, *by: str) -> list[SheetRow]:
    """Sales, refunds and both together, by currency; and by ``bridge`` or ``day``, where asked for. Two statements."""
    between = Q(section__in=IN_TOTALS, grain=Grain.DOCUMENT)
    return with_both(sheet_rows(_sums(scope, HEADLINE, between, ("section", "currency", *by))))


def tax_codes(scope: Scope) -> list[SheetRow]:
    """The lines of each tax code: as the rules code the source's amounts, and as the books hold them. Two statements.

    What came back is taken off. A line that stands under another code than planned is under both, whatever the totals
    say.
    """
    between = Q(section__in=IN_TOTALS, grain=Grain.LINE)
    sums = _sums(scope, TAX_CODES, between, ("currency", "tax_code"))
    # The number of lines says nothing here; the amounts do.
    bare = (one._replace(totals=one.totals.model_copy(update={"count": 0})) for one in sums)
    return sheet_rows(bare, source=Side.CODED)


def tenders(scope: Scope) -> list[SheetRow]:
    """The money of each tender; what went back is taken off. Two statements."""
    return sheet_rows(_sums(scope, TENDERS, Q(section=Section.MONEY), ("currency", "tender")))


def _sums(scope: Scope, kept: Q, between: Q, by: Sequence[str]) -> Iterator[Summed]:
    columns = [_COLUMNS.get(name, name) for name in by]
    days = scope.of(DayTotal.objects.filter(kept))
    for row in days.values(*columns, "side", "role").annotate(**SUMS).order_by():
        # The role tells one reason from another; of a side it tells nothing here.
        reason = NAMED[row["role"]] if row["side"] == Side.RECONCILING else None
        yield Summed(_place(row, by), row["side"], reason, "", None, totals_of(row))
    differences = scope.of(Difference.objects.filter(between)).values(*columns, reason=REASON, detail=DETAIL)
    # Documents whose differences cancel out are counted, and no less open.
    for row in differences.annotate(documents=Count("crossing", distinct=True), **SUMS).order_by():
        yield Summed(_place(row, by), "", Reason(row["reason"]), row["detail"], row["documents"], totals_of(row))


def _place(row: dict[str, object], by: Sequence[str]) -> Place:
    return Place(**{name: str(row[_COLUMNS.get(name, name)]) for name in by})


def differing(scope: Scope) -> list[tuple[Reason, int]]:
    """How many documents of the period differ in the books, by the reason, whether an amount differs or not: a contact,
    an account, or what money is set against."""
    rows = Crossing.objects.filter(workspace=scope.workspace, state=CrossingState.DIFFERS)
    of_period = scope.of(Figure.objects.filter(section__in=[*IN_TOTALS, Section.MONEY]))
    found = rows.filter(pk__in=of_period.filter(crossing__state=CrossingState.DIFFERS).values("crossing"))
    counts = found.order_by().values_list("cause").annotate(number=Count("pk"))
    sums: dict[Reason, int] = {}
    for cause, number in counts:
        reason = reason_of_difference(cause)
        sums[reason] = sums.get(reason, 0) + number
    return sorted(sums.items(), key=lambda one: list(Reason).index(one[0]))
