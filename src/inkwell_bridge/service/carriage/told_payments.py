"""Money that others than the sales side tell of: an order or a refund is kept, and carried, with it.

It is added whenever the document is kept, so that whoever plans, amends, totals or shows it finds one list of its money
and need not ask who told of what. Which of the tellers is believed is for the rules to say (``core.planner.tellers``).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import cast

from django.db.models import QuerySet
from django.utils import timezone

from inkwell_bridge.core.commerce import MoneyState, Order, Payment, Refund, Teller
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.kinds.protocol import Kind
from inkwell_bridge.service.carriage.models import Crossing, ToldPayment


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """Money that somebody tells of now: of which order or refund it is, and as what it counts."""

    crossing: Crossing
    payment: Payment


def keep(told: Sequence[Told]) -> None:
    """Keep what was told; said again, it counts as it is said now. One statement. Expects a transaction."""
    now = timezone.now()
    ToldPayment.objects.bulk_create(
        [
            ToldPayment(workspace_id=one.crossing.workspace_id, crossing=one.crossing,
                        transaction=one.payment.transaction, payment=one.payment.as_json(), told_at=now)
            for one in told
        ],
        update_conflicts=True, unique_fields=["crossing", "transaction"], update_fields=["payment", "told_at"],
    )  # fmt: skip


def with_told(bridge: Bridge, kind: Kind, documents: Sequence[Fetched]) -> list[Fetched]:
    """The documents with the money that others have told of; one statement, and none for kinds that hear of none."""
    if not kind.hears_of_money or not documents:
        return list(documents)
    rows = ToldPayment.objects.filter(
        workspace=bridge.workspace_id, crossing__bridge=bridge, crossing__kind=kind.name,
        crossing__source_id__in=[one.id for one in documents],
    )  # fmt: skip
    told: dict[str, list[Payment]] = defaultdict(list)
    for source_id, payment in rows.order_by("pk").values_list("crossing__source_id", "payment"):
        told[source_id].append(Payment.read(payment))
    return [_with(one, told) for one in documents]


def _with(fetched: Fetched, told: Mapping[str, Sequence[Payment]]) -> Fetched:
    document = cast(Order | Refund | None, fetched.document)
    if document is None:
        return fetched
    others = told.get(fetched.id, ())
    known = {one.transaction for one in others}
    # What the sales side was told of from here comes back as its own word: it is the same money.
    own = [one for one in document.payments if one.told_by is Teller.SALES_SIDE and one.transaction not in known]
    payments = (*own, *others)
    if payments == document.payments:
        return fetched
    return replace(fetched, document=document.model_copy(update={"payments": payments}))


def told_by(crossing: Crossing) -> QuerySet[Crossing]:
    """The orders and refunds that a document of a provider has told of its money."""
    transaction = (crossing.snapshot.content or {}).get("transaction")
    if not transaction:
        return Crossing.objects.none()
    return Crossing.objects.filter(
        workspace=crossing.workspace_id, bridge__books=crossing.bridge.books_id,
        told_payments__transaction=transaction,
    )  # fmt: skip


def taken_back(payment: Payment) -> Payment:
    """The same money, as money that did not stay."""
    return payment.model_copy(update={"state": MoneyState.CANCELLED})
