"""Charges: what a provider took from buyers and gave back, told to the orders and refunds that it is money of."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

from django.db.models import Exists, OuterRef
from django.db.models.fields.json import KeyTextTransform

from inkwell_bridge.core.commerce import Payment, ProviderCharge, SourceDocument, SourceKind, Teller
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import ChargeContext, ChargedDocument, Outcome, Plan, as_payment, plan_provider_charge
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import all_in_force, parsed
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Ask, Effects
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, MoneyMovement
from inkwell_bridge.service.carriage.movements import PAID_OUT
from inkwell_bridge.service.carriage.releases import retry_held
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.steps import conclude_carried, hold_where_planned, plan_documents
from inkwell_bridge.service.carriage.telling import tell
from inkwell_bridge.service.carriage.told_payments import Told

ORDERS, REFUNDS = "orders", "refunds"
MOST_AT_ONCE = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class ChargeSetting:
    """What a charge is planned with, and the crossings behind what was found."""

    plan: ChargeContext
    crossings: tuple[Crossing, ...] = ()


def tell_order(carrying: Carrying) -> Effects[None]:
    """Tell the order or refund of the charge; the same again changes nothing. A few statements for all of a lot."""
    yield Ask(_tell_all, carrying.crossing.bridge, carrying)


def _tell_all(_: Bridge, carryings: Sequence[Carrying]) -> list[None]:
    told = []
    for one in carryings:
        assert one.gathered is not None
        setting = cast(ChargeSetting, one.gathered.context)
        (crossing,), (of,) = setting.crossings, setting.plan.found
        payment = as_payment(cast(ProviderCharge, one.source), of, setting.plan.account)
        told.append(Told(crossing=crossing, payment=payment))
    tell(told, "the provider has money of it")
    return [None] * len(carryings)


class ChargesKind(BaseKind):
    """A charge becomes nothing in the books by itself: its order is carried with it, over its own bridge."""

    name = "charges"
    source_kind = SourceKind.CHARGES
    passing_causes = frozenset({Cause.ORDER_FIRST})
    names_missing = True
    steps = (plan_documents, hold_where_planned, tell_order, conclude_carried)

    def listed(self, source: SourceDocument) -> Listed:
        """What was taken, on its day. It is the money of a sale that is counted with its order."""
        charge = cast(ProviderCharge, source)
        return Listed(moment=charge.occurred_at, currency=charge.currency, gross=charge.amount, ties=False,
                      sign=-1 if charge.gives_back else 1)  # fmt: skip

    def rules_missing(self, rulebook: Rulebook) -> str:
        """The account that charges stand on until they are paid out."""
        return "" if rulebook.payouts else "its rulebook says nothing of payouts, and on which account charges stand"

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The order or refund that each is money of, and the rules that it stands under; five statements at most."""
        bridge = carryings[0].crossing.bridge
        found = _documents_of(bridge, [cast(ProviderCharge, one.source) for one in carryings])
        bridges = {document.bridge for documents in found for document in documents}
        rules = dict(all_in_force(bridges)) if bridges else {}
        return [
            _with_setting(gathered, cast(ProviderCharge, one.source), documents, rules)
            for one, gathered, documents in zip(carryings, gathered_under(carryings), found, strict=True)
        ]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_provider_charge``."""
        return plan_provider_charge(cast(ProviderCharge, source), cast(ChargeSetting, gathered.context).plan)

    def look_again(self) -> None:
        """Let go what waits for an order or refund that came since; one statement, and one that lets them go."""
        waiting = Crossing.objects.filter(
            kind=self.name, state=CrossingState.HELD, cause=Cause.ORDER_FIRST.value
        ).annotate(
            transaction=KeyTextTransform("transaction", "snapshot__content"),
            order_number=KeyTextTransform("order_number", "snapshot__content"),
        )  # fmt: skip
        # Only what was read or carried since: one that may be of several would be tried for ever.
        told = MoneyMovement.objects.filter(
            workspace=OuterRef("workspace"), transaction=OuterRef("transaction"), crossing__kind__in=(ORDERS, REFUNDS),
            crossing__bridge__books=OuterRef("bridge__books"), crossing__updated_at__gt=OuterRef("updated_at"),
        ).exclude(kind=PAID_OUT)  # fmt: skip
        orders = Crossing.objects.filter(
            workspace=OuterRef("workspace"), kind=ORDERS, number=OuterRef("order_number"),
            bridge__books=OuterRef("bridge__books"), updated_at__gt=OuterRef("updated_at"),
        )  # fmt: skip
        come = waiting.filter(Exists(told) | Exists(orders)).select_related("bridge__books")
        retry_held(come.order_by("pk")[:MOST_AT_ONCE])


def _documents_of(bridge: Bridge, charges: Sequence[ProviderCharge]) -> list[list[Crossing]]:
    """What each charge is money of: the order or refund that told of its transaction; else the order of its number, or
    of that order the refund that names it."""
    rows = Crossing.objects.select_related("bridge", "rulebook", "snapshot").defer("planned").filter(
        workspace=bridge.workspace_id, bridge__books=bridge.books_id, bridge__removed_at__isnull=True
    )  # fmt: skip
    moved = MoneyMovement.objects.filter(
        workspace=bridge.workspace_id, transaction__in=[one.transaction for one in charges],
        crossing__kind__in=(ORDERS, REFUNDS),
    ).exclude(kind=PAID_OUT)  # fmt: skip
    named: dict[int, set[str]] = defaultdict(set)
    for crossing, transaction in moved.values_list("crossing", "transaction"):
        named[crossing].add(transaction)
    by_transaction: dict[tuple[str, str], list[Crossing]] = defaultdict(list)
    for row in rows.filter(pk__in=named):
        for transaction in named[row.pk]:
            by_transaction[row.kind, transaction].append(row)
    unknown = [one for one in charges if (_kind_of(one), one.transaction) not in by_transaction and one.order_number]
    by_number = _by_number(rows, unknown) if unknown else {}
    return [by_transaction.get((_kind_of(one), one.transaction)) or by_number.get(one.id, []) for one in charges]


def _kind_of(charge: ProviderCharge) -> str:
    return REFUNDS if charge.gives_back else ORDERS


def _by_number(rows: Any, charges: Sequence[ProviderCharge]) -> Mapping[str, list[Crossing]]:
    orders: dict[str, list[Crossing]] = defaultdict(list)
    for order in rows.filter(kind=ORDERS, number__in={one.order_number for one in charges}):
        orders[order.number].append(order)
    ids = {order.source_id for of_number in orders.values() for order in of_number}
    given_back = any(one.gives_back for one in charges)
    refunds = list(rows.filter(kind=REFUNDS, parent_source_id__in=ids)) if given_back and ids else []
    found: dict[str, list[Crossing]] = {}
    for one in charges:
        of_number = orders.get(one.order_number, [])
        of_ids = {(order.bridge_id, order.source_id) for order in of_number}
        found[one.id] = of_number if not one.gives_back else [
            row for row in refunds
            if (row.bridge_id, row.parent_source_id) in of_ids and _payment_in(row, one.transaction)
        ]  # fmt: skip
    return found


def _payment_in(crossing: Crossing, transaction: str) -> Payment | None:
    payments = (crossing.snapshot.content or {}).get("payments", ())
    return next((Payment.read(said) for said in payments if said["transaction"] == transaction), None)


def _with_setting(
    gathered: Gathered, charge: ProviderCharge, documents: Sequence[Crossing], rules: Mapping[Bridge, Rulebook]
) -> Gathered:
    if gathered.ready is not None:
        return gathered
    # A lane does not run without them; but what was held may be let go under rules that have dropped them since.
    if gathered.rulebook.payouts is None:
        return replace(gathered, ready=Plan(outcome=Outcome.LEFT_OUT, left_out_by="/payouts"))
    found = tuple(_charged(one, charge, rules) for one in documents)
    context = ChargeContext(account=gathered.rulebook.payouts.clearing, found=found)
    return replace(gathered, context=ChargeSetting(plan=context, crossings=tuple(documents)))


def _charged(crossing: Crossing, charge: ProviderCharge, rules: Mapping[Bridge, Rulebook]) -> ChargedDocument:
    # What stands in the books by one version is not told by another: its money was posted by somebody's word already.
    decided = crossing.posted_snapshot_id is not None and crossing.rulebook is not None
    book = parsed(crossing.rulebook) if decided and crossing.rulebook else rules.get(crossing.bridge)
    payment = _payment_in(crossing, charge.transaction)
    return ChargedDocument(
        number=crossing.number, currency=crossing.currency, rules=book.payments if book else None, payment=payment,
        told=payment is not None and payment.told_by is Teller.PROVIDER,
    )  # fmt: skip


register(ChargesKind())
