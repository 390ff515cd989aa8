"""What is open in a month, document by document, as the database tells it."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain

from inkwell_bridge.core.closing import OpenDocument, OpenItem, open_items
from inkwell_bridge.core.proof import SETTLED, Reason, table_of
from inkwell_bridge.service.carriage.models import Difference
from inkwell_bridge.service.carriage.totals import SUMS, totals_of
from inkwell_bridge.service.completeness.lacking import lacking_of
from inkwell_bridge.service.tieout.at_provider import known_to_provider_only
from inkwell_bridge.service.tieout.money_alone import not_carried
from inkwell_bridge.service.tieout.reasons import reason_of_difference
from inkwell_bridge.service.tieout.scope import Scope
from inkwell_bridge.service.tieout.sheet import differing_documents

CHUNK = 2000
_PLACE = ("crossing", "grain", "section", "currency", "tax_code", "tender", "account")


def items_of(scope: Scope) -> list[OpenItem]:
    """The open items of a period. Five statements, read row by row: a backlog may be long."""
    return open_items(chain(_differing(scope), _open(scope), _not_carried(scope), _lacking(scope)))


def _open(scope: Scope) -> Iterator[OpenDocument]:
    rows = scope.of(Difference.objects.all()).values(*_PLACE, "reason", "detail").annotate(**SUMS)
    settled = [reason.value for reason in SETTLED]
    for row in rows.exclude(reason__in=settled).order_by(*_PLACE).iterator(chunk_size=CHUNK):
        totals = totals_of(row)
        # Of one document what cancels out within the period is on neither side of it.
        if not totals.nothing:
            yield OpenDocument(
                Reason(row["reason"]), row["detail"], row["crossing"], table_of(row["grain"], row["section"]),
                row["section"], row["currency"], row["tax_code"], row["tender"], row["account"], totals,
            )  # fmt: skip


def _differing(scope: Scope) -> Iterator[OpenDocument]:
    """Those that differ in the books, whether an amount differs or not."""
    for pk, cause in differing_documents(scope).order_by("pk").values_list("pk", "cause").iterator(chunk_size=CHUNK):
        yield OpenDocument(reason_of_difference(cause), "", pk)


def _not_carried(scope: Scope) -> Iterator[OpenDocument]:
    """Money that stands in no section, and has not crossed."""
    for pk, cause in not_carried(scope).order_by("pk").values_list("pk", "cause").iterator(chunk_size=CHUNK):
        yield OpenDocument(Reason.MONEY_NOT_CARRIED, cause, pk)


def _lacking(scope: Scope) -> Iterator[OpenDocument]:
    """Charges without an order; and documents that are not here: below zero, so that none is taken for one that is."""
    for pk in known_to_provider_only(scope).order_by("pk").values_list("pk", flat=True).iterator(chunk_size=CHUNK):
        yield OpenDocument(Reason.AT_PROVIDER, "", pk)
    for row in lacking_of(scope).iterator(chunk_size=CHUNK):
        yield OpenDocument(Reason(row.reason), "", -row.pk)
