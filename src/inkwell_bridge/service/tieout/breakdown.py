"""A period by tax code and by tender: what the rules made of the source, what the books hold, and the difference.

By tax code the source is said as the rules put it: what was planned, which conserves the source's own amounts. By
tender it is the money that the sales side says came in; what never comes as money there (a tax that a marketplace
keeps, a voucher that was taxed when it was sold, payments left for later) is set aside. What came back counts against.
"""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import connection
from django.db.models import Case, IntegerField, Q, QuerySet, Value, When

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import MoneyState, SourceKind
from inkwell_bridge.core.proof import Totals
from inkwell_bridge.service.carriage.models import Crossing, Document
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.totals import standing_for_sales
from inkwell_bridge.service.people.models import Workspace

ZERO = Decimal(0)
_TAXES = """
WITH documents AS ({documents})
SELECT currency, line ->> 'tax_code', 'source', count(*),
       sum(sign * (line ->> 'net')::numeric), sum(sign * (line ->> 'tax')::numeric)
FROM documents CROSS JOIN LATERAL jsonb_array_elements(planned -> 'lines') AS line GROUP BY 1, 2
UNION ALL
SELECT currency, line ->> 'tax_code', 'books', count(*),
       sum(sign * (line ->> 'net')::numeric), sum(sign * (line ->> 'tax')::numeric)
FROM documents CROSS JOIN LATERAL jsonb_array_elements(held -> 'document' -> 'lines') AS line GROUP BY 1, 2
ORDER BY 1, 2
"""
_TENDERS = """
WITH crossings AS ({crossings})
SELECT crossings.currency, coalesce(money ->> 'tender', 'other'), count(*),
       sum(sign * (money ->> 'amount')::numeric),
       sum(sign * coalesce((document.planned ->> 'amount')::numeric, 0)),
       sum(sign * coalesce((document.held -> 'document' ->> 'amount')::numeric, 0))
FROM crossings
CROSS JOIN LATERAL jsonb_array_elements(snapshot__content -> 'payments') AS money
LEFT JOIN carriage_document AS document ON document.crossing_id = crossings.id AND document.role = ANY(%s)
    AND document.planned ->> 'transaction' = money ->> 'transaction'
WHERE coalesce(money ->> 'state', %s) = %s AND (money ->> 'amount')::numeric <> 0
GROUP BY 1, 2 ORDER BY 1, 2
"""


def _carried(workspace: Workspace, first: date, last: date, bridge: str) -> QuerySet[Crossing]:
    found = Crossing.objects.filter(
        workspace=workspace, business_date__range=(first, last), state=CrossingState.CARRIED,
        kind__in=(SourceKind.ORDERS, SourceKind.REFUNDS),
    )  # fmt: skip
    return found.filter(bridge__slug=bridge) if bridge else found


def by_tax_code(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """For each currency and tax code both sides' lines; credit notes count against."""
    crossings = _carried(workspace, first, last, bridge)
    documents = Document.objects.filter(workspace=workspace, crossing__in=crossings.values("pk"))
    sales = standing_for_sales(documents)
    credit = Role.CREDIT_NOTE.value
    counted = documents.filter(Q(pk__in=sales.values("pk")) | Q(role=credit)).annotate(
        sign=Case(When(role=credit, then=Value(-1)), default=Value(1), output_field=IntegerField())
    )
    sql, params = counted.order_by().values("currency", "planned", "held", "sign").query.sql_with_params()
    sides: dict[tuple[str, str], dict[str, Totals]] = defaultdict(dict)
    with connection.cursor() as cursor:
        cursor.execute(_TAXES.format(documents=sql), params)
        for currency, code, side, count, net, tax in cursor.fetchall():
            sides[currency, code][side] = Totals(count=count, net=net, tax=tax, gross=net + tax)
    return [_by_code(*key, found) for key, found in sorted(sides.items())]


def _by_code(currency: str, code: str, found: dict[str, Totals]) -> dict[str, Any]:
    source, books = found.get("source", Totals()), found.get("books", Totals())
    both = {"currency": currency, "tax_code": code, "source": source, "books": books}
    return {**both, "difference": source.less(books)}


def by_tender(workspace: Workspace, first: date, last: date, *, bridge: str = "") -> list[dict[str, Any]]:
    """For each currency and tender the money that came in at the sales side, and in the books."""
    refunds = SourceKind.REFUNDS.value
    crossings = _carried(workspace, first, last, bridge).annotate(
        sign=Case(When(kind=refunds, then=Value(-1)), default=Value(1), output_field=IntegerField())
    )
    columns = crossings.order_by().values("id", "currency", "sign", "snapshot__content")
    sql, params = columns.query.sql_with_params()
    received = MoneyState.RECEIVED.value
    with connection.cursor() as cursor:
        roles = [Role.PAYMENT.value, Role.REFUND_PAYMENT.value]
        cursor.execute(_TENDERS.format(crossings=sql), [*params, roles, received, received])
        return [
            {"currency": currency, "tender": tender, "count": count, "source": source, "aside": source - planned,
             "books": books, "difference": planned - books}
            for currency, tender, count, source, planned, books in cursor.fetchall()
        ]  # fmt: skip
