"""Money by its provider's transaction: made by whoever hears of it first, found by all others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from inkwell_bridge.core.books import Role
from inkwell_bridge.service.carriage.kinds.protocol import Listed
from inkwell_bridge.service.carriage.models import Crossing, Document, MoneyMovement
from inkwell_bridge.service.connections.models import Connection

CHARGE, REFUND = "charge", "refund"
_KIND_OF_ROLE = {Role.PAYMENT.value: CHARGE, Role.REFUND_PAYMENT.value: REFUND}


def reported(origin: Connection, told: Mapping[Crossing, Listed]) -> None:
    """Keep the money that these documents tell of; what is known already stays whose it is. One statement."""
    MoneyMovement.objects.bulk_create(
        [
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
        ],
        ignore_conflicts=True,
    )


def posted(crossing: Crossing, documents: Sequence[Document]) -> None:
    """Name the document that posted each movement of a crossing; a statement for each that has money."""
    for document in documents:
        kind = _KIND_OF_ROLE.get(document.role)
        transaction = (document.planned or {}).get("transaction", "")
        if kind and transaction:
            MoneyMovement.objects.filter(
                workspace=crossing.workspace_id, crossing=crossing, kind=kind, transaction=transaction
            ).exclude(document=document).update(document=document)
