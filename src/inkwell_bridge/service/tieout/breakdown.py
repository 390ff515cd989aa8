"""A period by tax code and by tender: what the rules made of the source, what the books hold, and the difference.

By tax code the source is said as the rules code it, which conserves the source's own amounts. By tender it is the money
that the sales side says came in; what never comes as money there (a tax that a marketplace keeps, a voucher that was
taxed when it was sold, payments left for later) is set aside. What came back counts against.
"""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from typing import Any

from django.db.models import Q

from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.figures import MONEY
from inkwell_bridge.service.carriage.states import CrossingState, Grain, Reconciles, Side
from inkwell_bridge.service.carriage.totals import SALES, SUMS, totals_of
from inkwell_bridge.service.people.models import Workspace
from inkwell_bridge.service.tieout.period import figures_of

_NAMED = (Reconciles.PENNY.value, Reconciles.TAX_COMPUTED.value)


def by_tax_code(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """For each currency and tax code both sides' lines, the named part of their difference, and what is unexplained.

    A line that stands under another code than planned is under both codes unexplained, whatever the totals say.
    """
    rows = (
        figures_of(workspace, bridge)
        .filter(
            Q(side__in=(Side.CODED, Side.BOOKS), grain=Grain.LINE, role__in=SALES)
            | Q(side=Side.RECONCILING, role__in=_NAMED),
            crossing__state__in=(CrossingState.CARRIED, CrossingState.DIFFERS),
            date__range=(first, last),
        )
        .values("currency", "tax_code", "side")
        .annotate(**SUMS)
        .order_by("currency", "tax_code")
    )
    found: dict[tuple[str, str], dict[str, Totals]] = defaultdict(dict)
    for row in rows:
        found[row["currency"], row["tax_code"]][row["side"]] = totals_of(row)
    return [_by_code(*key, sides) for key, sides in sorted(found.items())]


def _by_code(currency: str, code: str, sides: dict[str, Totals]) -> dict[str, Any]:
    source, books = sides.get(Side.CODED.value, Totals()), sides.get(Side.BOOKS.value, Totals())
    rounding, difference = sides.get(Side.RECONCILING.value, Totals()), source.less(books)
    # A line of rounding is the books' alone, so the number of lines says nothing here; the amounts do.
    unexplained = difference.less(rounding).model_copy(update={"count": 0})
    return {
        "currency": currency, "tax_code": code, "source": source, "books": books, "difference": difference,
        "rounding": rounding, "unexplained": unexplained,
    }  # fmt: skip


def by_tender(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """For each currency and tender the money that came in at the sales side, and in the books; each by its own day."""
    rows = (
        figures_of(workspace, bridge)
        .filter(
            side__in=(Side.SOURCE, Side.CODED, Side.BOOKS), grain=Grain.DOCUMENT, role__in=MONEY,
            crossing__state__in=(CrossingState.CARRIED, CrossingState.DIFFERS), date__range=(first, last),
        )
        .values("currency", "tender", "side")
        .annotate(**SUMS)
        .order_by("currency", "tender")
    )  # fmt: skip
    found: dict[tuple[str, str], dict[str, Totals]] = defaultdict(dict)
    for row in rows:
        found[row["currency"], row["tender"]][row["side"]] = totals_of(row)
    return [_by_tender(*key, sides) for key, sides in sorted(found.items())]


def _by_tender(currency: str, tender: str, sides: dict[str, Totals]) -> dict[str, Any]:
    source, coded, books = (sides.get(side.value, Totals()) for side in (Side.SOURCE, Side.CODED, Side.BOOKS))
    return {
        "currency": currency, "tender": tender, "count": source.count or coded.count, "source": source.gross,
        "aside": source.gross - coded.gross, "books": books.gross, "difference": coded.gross - books.gross,
    }  # fmt: skip
