"""Money by its provider's transaction: made by whoever hears of it first, found by all others."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence

from django.db import connection
from django.db.models import Q, QuerySet

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import PayoutEntry, SourceKind
from inkwell_bridge.core.values import LONGEST_CODE
from inkwell_bridge.service.carriage.kinds.protocol import Listed
from inkwell_bridge.service.carriage.models import Crossing, Document, MoneyMovement
from inkwell_bridge.service.connections.models import Connection

CHARGE, REFUND, PAID_OUT = "charge", "refund", "paid out"
_KIND_OF_ROLE = {Role.PAYMENT.value: CHARGE, Role.REFUND_PAYMENT.value: REFUND}


def reported(origin: Connection, told: Mapping[Crossing, Listed]) -> None:
    """Keep the money that these documents tell of; what is known already stays whose it is. One statement, and one more
    for payouts."""
    payouts = [crossing.pk for crossing, listed in told.items() if listed.paid_out is not None]
    if payouts:
        # A payout that was corrected says something else of the same money.
        MoneyMovement.objects.filter(crossing__in=payouts, kind=PAID_OUT).delete()
    MoneyMovement.objects.bulk_create(
        [
            *(one for crossing, listed in told.items() for one in _paid_out(origin, crossing, listed)),
            *(
                MoneyMovement(
                    workspace_id=crossing.workspace_id,
                    connection=origin,
                    account=money.gateway[:120],
                    transaction=money.transaction,
                    kind=CHARGE if listed.sign > 0 else REFUND,
                    tender=money.tender.value,
                    amount=listed.sign * money.amount,
                    currency=listed.currency,
                    moved_at=money.paid_at,
                    crossing=crossing,
                )
                for crossing, listed in told.items()
                for money in listed.received
            ),
        ],
        ignore_conflicts=True,
    )


def _paid_out(origin: Connection, crossing: Crossing, listed: Listed) -> Iterator[MoneyMovement]:
    """The money of others that a payout sent on its way, entries of one transaction together; a number longer than any
    that is kept is of none of them."""
    by_transaction: dict[str, list[PayoutEntry]] = defaultdict(list)
    for entry in listed.paid_out or ():
        if len(entry.transaction) <= LONGEST_CODE:
            by_transaction[entry.transaction].append(entry)
    for number, entries in by_transaction.items():
        yield MoneyMovement(
            workspace_id=crossing.workspace_id, connection=origin, transaction=number, kind=PAID_OUT,
            amount=sum(one.amount for one in entries), currency=listed.currency, moved_at=entries[0].occurred_at,
            crossing=crossing,
        )  # fmt: skip


def payouts_of(crossing: Crossing) -> QuerySet[Crossing]:
    """The payouts that sent the money of an order or a refund on its way."""
    own = MoneyMovement.objects.filter(workspace=crossing.workspace_id, crossing=crossing).exclude(kind=PAID_OUT)
    paid_out = MoneyMovement.objects.filter(
        workspace=crossing.workspace_id, kind=PAID_OUT, transaction__in=own.values("transaction")
    )
    return Crossing.objects.filter(pk__in=paid_out.values("crossing"))


def arrivals_of(payouts: Sequence[Crossing]) -> QuerySet[Crossing]:
    """The lines of the bank by which these payouts arrived; each over the bridge that its payouts came by."""
    named = Q()
    for one in payouts:
        parts = {"snapshot__content__parts__contains": [{"payout": one.source_id}]}
        named |= Q(workspace=one.workspace_id, bridge=one.bridge_id, kind=SourceKind.ARRIVALS.value, **parts)
    return Crossing.objects.filter(named) if named else Crossing.objects.none()


def posted(documents: Mapping[Crossing, Sequence[Document]]) -> None:
    """Name the document that posted each movement of these crossings. One statement."""
    found = [
        (crossing.pk, document.pk, kind, transaction)
        for crossing, of_crossing in documents.items()
        for document in of_crossing
        if (kind := _KIND_OF_ROLE.get(document.role)) and (transaction := (document.planned or {}).get("transaction"))
    ]
    if found:
        with connection.cursor() as cursor:
            cursor.execute(_POSTED, [list(column) for column in zip(*found, strict=True)])


def known_to(books: Connection, transactions: Collection[str]) -> frozenset[str]:
    """Those of these transactions that orders or refunds told of which cross to these books. One statement."""
    rows = MoneyMovement.objects.filter(
        workspace=books.workspace_id, transaction__in=list(transactions), crossing__bridge__books=books
    ).exclude(kind=PAID_OUT)
    return frozenset(rows.values_list("transaction", flat=True))


_POSTED = """
    UPDATE carriage_moneymovement AS movement SET document_id = new.document_id
    FROM unnest(%s::bigint[], %s::bigint[], %s::text[], %s::text[])
        AS new (crossing_id, document_id, kind, transaction)
    WHERE movement.crossing_id = new.crossing_id AND movement.kind = new.kind
      AND movement.transaction = new.transaction AND movement.document_id IS DISTINCT FROM new.document_id
"""
