"""Both sides' totals of what was carried, summed by the database."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, NamedTuple

from django.db.models import Count, Exists, OuterRef, Q, QuerySet, Sum

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.planner.sale import DELIVERED
from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.models import Crossing, Document, Run
from inkwell_bridge.service.carriage.states import EntryOutcome

ZERO = Decimal(0)
# The documents that stand for the sale itself; money is another total.
SALES = (Role.INVOICE.value, Role.SALES_ORDER.value, Role.CASH_SALE.value)
_AMOUNTS = {"sum_net": Sum("net"), "sum_tax": Sum("tax"), "sum_gross": Sum("gross")}
SUMS = {"count": Count("id"), **_AMOUNTS}
# What ends deposits moves the tax of a sale that was counted already.
_SALES_SUMS = {"count": Count("id", filter=~Q(mark__endswith=f":{DELIVERED}")), **_AMOUNTS}


def standing_for_sales(documents: QuerySet[Document]) -> QuerySet[Document]:
    """The documents that stand for the sale itself: of a sales order and its invoice the invoice."""
    invoiced = Document.objects.filter(crossing=OuterRef("crossing"), role=Role.INVOICE)
    ordered_alone = Q(role=Role.SALES_ORDER.value) & Exists(invoiced)
    return documents.filter(role__in=SALES, gross__isnull=False).exclude(ordered_alone)


def totals_of(row: dict[str, Any]) -> Totals:
    """Totals from a row that ``SUMS`` made."""
    return Totals(
        count=row["count"], net=row["sum_net"] or ZERO, tax=row["sum_tax"] or ZERO, gross=row["sum_gross"] or ZERO
    )


def by_currency(rows: QuerySet[Crossing]) -> dict[str, Totals]:
    """Totals of source documents, by their currency."""
    return _by_currency(rows, SUMS)


def sales_by_currency(rows: QuerySet[Document]) -> dict[str, Totals]:
    """Totals of the documents that stand for sales, by their currency."""
    return _by_currency(rows, _SALES_SUMS)


def _by_currency(rows: QuerySet[Any], sums: dict[str, Any]) -> dict[str, Totals]:
    return {row["currency"]: totals_of(row) for row in rows.values("currency").annotate(**sums).order_by("currency")}


class Aside(NamedTuple):
    """What the books do not show of source documents, and why: each is named beside both sides.

    Shape: ``withheld`` is tax that marketplaces keep, so that it never is the seller's; ``vouchers`` were taxed when
    they were sold, and are deducted from what they pay; ``deposits`` is tax of what was paid ahead, which stands in the
    books as a debt outside tax until it is delivered.
    """

    withheld: Totals = Totals()
    vouchers: Totals = Totals()
    deposits: Totals = Totals()


def aside_by_currency(rows: QuerySet[Crossing]) -> dict[str, Aside]:
    """What is set aside of these source documents, by their currency."""
    sums = rows.exclude(withheld=None, voucher_net=None, untaxed=None).values("currency").annotate(
        kept=Sum("withheld"), sum_net=Sum("voucher_net"), sum_tax=Sum("voucher_tax"), waits=Sum("untaxed")
    )  # fmt: skip
    return {
        row["currency"]: Aside(
            withheld=Totals(tax=row["kept"] or ZERO, gross=row["kept"] or ZERO),
            vouchers=totals_of({**row, "count": 0, "sum_gross": (row["sum_net"] or ZERO) + (row["sum_tax"] or ZERO)}),
            deposits=Totals(net=-(row["waits"] or ZERO), tax=row["waits"] or ZERO),
        )
        for row in sums.order_by("currency")
    }


def of_run(run: Run) -> list[dict[str, Any]]:
    """Both sides of what a run carried, by currency."""
    carried = Crossing.objects.filter(
        workspace=run.workspace_id, kind=SourceKind.ORDERS, entries__run=run, entries__outcome=EntryOutcome.CARRIED
    )
    source = by_currency(carried)
    books = sales_by_currency(
        standing_for_sales(Document.objects.filter(workspace=run.workspace_id, crossing__in=carried.values("pk")))
    )
    aside = aside_by_currency(carried)
    return [
        sides(
            currency,
            source.get(currency, Totals()),
            books.get(currency, Totals()),
            aside.get(currency, Aside()),
        )
        for currency in sorted(source.keys() | books.keys())
    ]


def sides(currency: str, source: Totals, books: Totals, aside: Aside) -> dict[str, Any]:
    """Both sides of one currency, what is set aside, and the difference that is left."""
    difference = source.less(books)
    for one in aside:
        difference = difference.less(one)
    both = {"currency": currency, "source": source, "books": books}
    return {**both, **aside._asdict(), "difference": difference}
