"""Both sides' totals of what was carried: grouped sums over the figures."""

from __future__ import annotations

import json
from collections import defaultdict
from decimal import Decimal
from typing import Any, NamedTuple

from django.db.models import Q, QuerySet, Sum

from inkwell_bridge.core.proof import Grain, Reconciles, Section, Side, Totals
from inkwell_bridge.service.carriage.models import Crossing, Figure, Run
from inkwell_bridge.service.carriage.states import EntryOutcome

ZERO = Decimal(0)
SUMS = {name: Sum(name) for name in ("count", "net", "tax", "gross")}


class NamedReasons(NamedTuple):
    """What the books do not show of source documents, and why: each is named beside both sides.

    Shape: ``withheld`` is tax that marketplaces keep, so that it never is the seller's; ``vouchers`` were taxed when
    they were sold, and are deducted from what they pay; ``deposits`` is tax of what was paid ahead, which stands in the
    books as a debt outside tax until it is delivered; ``cancelled`` came off the books again; ``converted`` stands
    there in another currency (and, below zero, came from another).
    """

    withheld: Totals = Totals()
    vouchers: Totals = Totals()
    deposits: Totals = Totals()
    cancelled: Totals = Totals()
    converted: Totals = Totals()


def amounts_by_currency(text: str | None) -> dict[str, Decimal]:
    """Amounts by currency, of what ``json_object_agg(currency, amount::text)::text`` made; of none where it is NULL."""
    said: dict[str, str | None] = json.loads(text) if text else {}
    return {currency: Decimal(amount) for currency, amount in said.items() if amount is not None}


def totals_of(row: dict[str, Any]) -> Totals:
    """Totals from a row that ``SUMS`` made."""
    return Totals(count=row["count"] or 0, net=row["net"] or ZERO, tax=row["tax"] or ZERO, gross=row["gross"] or ZERO)


_OF_SALES = Q(section=Section.SALES) & (
    Q(side__in=(Side.SOURCE, Side.BOOKS), grain=Grain.DOCUMENT) | Q(side=Side.RECONCILING)
)


def by_currency(figures: QuerySet[Figure]) -> dict[str, dict[str, Totals]]:
    """For each currency the totals of source and books, and of each named reason; one statement."""
    sums: dict[str, dict[str, Totals]] = defaultdict(dict)
    rows = figures.filter(_OF_SALES).values("currency", "side", "role").annotate(**SUMS).order_by("currency")
    for row in rows:
        name = row["role"] if row["side"] == Side.RECONCILING else row["side"]
        found = sums[row["currency"]]
        found[name] = found.get(name, Totals()).plus(totals_of(row))
    return sums


def reasons_of(sums: dict[str, Totals]) -> NamedReasons:
    """What is named beside both sides."""
    names = (Reconciles.WITHHELD, Reconciles.VOUCHERS, Reconciles.DEPOSITS, Reconciles.CANCELLED, Reconciles.CONVERTED)
    return NamedReasons(*(sums.get(name.value, Totals()) for name in names))


def of_run(run: Run) -> list[dict[str, Any]]:
    """Both sides of what a run carried, by currency."""
    carried = Crossing.objects.filter(
        workspace=run.workspace_id, entries__run=run, entries__outcome=EntryOutcome.CARRIED
    )
    found = by_currency(Figure.objects.filter(workspace=run.workspace_id, crossing__in=carried.values("pk")))
    return [sides(currency, found[currency]) for currency in sorted(found)]


def sides(currency: str, sums: dict[str, Totals]) -> dict[str, Any]:
    """Both sides of one currency, what is named beside them, and the difference that is left."""
    source, books = sums.get(Side.SOURCE.value, Totals()), sums.get(Side.BOOKS.value, Totals())
    difference, reasons = source.less(books), reasons_of(sums)
    for one in reasons:
        difference = difference.less(one)
    # Of the difference: what the penny rules settled, and what the books computed otherwise for the same line and code.
    rounding = sums.get(Reconciles.PENNY.value, Totals()).plus(sums.get(Reconciles.TAX_COMPUTED.value, Totals()))
    return {
        "currency": currency,
        "source": source,
        "books": books,
        **reasons._asdict(),
        "difference": difference,
        "tax_lines": sums.get(Reconciles.TAX_LINES.value, Totals()),
        "rounding": rounding,
    }
