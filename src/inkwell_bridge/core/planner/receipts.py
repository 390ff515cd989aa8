"""Planning money that was entered in the books: the orders at the sales side that it pays are told of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import Payment, Role
from inkwell_bridge.core.commerce import Receipt
from inkwell_bridge.core.findings import Cause, Finding, source_error
from inkwell_bridge.core.planner.plan import Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import external_reference
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# In place of the rule that leaves one out: most money in the books is of no order of this bridge.
OF_NO_ORDER = "planner:receipt-of-no-order"


@record
class PaidOrder:
    """An order of the sales side that a receipt may pay, and its currency there."""

    source_id: str
    number: str
    currency: str


def plan_receipt(
    receipt: Receipt, books: str, by_reference: Mapping[str, PaidOrder], by_number: PaidOrder | None
) -> Plan:
    """A payment for each order that the receipt is set against; or for the one that it names, where it is set against
    nothing of ours.

    ``books`` is the unchanging name of the books' connection; ``by_reference`` are the orders behind the documents that
    it settles, ``by_number`` the one whose number it bears.
    """
    sums: dict[str, Decimal] = {}
    orders: dict[str, PaidOrder] = {}
    for part in receipt.settles:
        order = by_reference.get(part.external_reference)
        if order is not None:
            orders[order.source_id] = order
            sums[order.source_id] = sums.get(order.source_id, ZERO) + part.amount
    if not orders and by_number is not None:
        orders[by_number.source_id], sums[by_number.source_id] = by_number, receipt.amount
    if not orders:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=OF_NO_ORDER)
    findings = tuple(_other_currency(receipt, list(orders.values())))
    documents = tuple(_payment(receipt, order, sums[key], books, len(orders)) for key, order in orders.items())
    reasons = tuple(
        Reason(target=f"/documents/{place}/amount", sources=("/amount",), rule="planner:money-as-entered",
               text=f"{receipt.number} in the books pays {one.amount} {one.currency} of order {one.order_number}.")
        for place, one in enumerate(documents)
    )  # fmt: skip
    outcome = Outcome.HOLD if findings else Outcome.CARRY
    return Plan(outcome=outcome, documents=() if findings else documents, reasons=reasons, findings=findings)


def _payment(receipt: Receipt, order: PaidOrder, amount: Decimal, books: str, orders: int) -> Payment:
    # The receipt alone where it pays one order; else each order has a part of its own.
    part = 1 if orders == 1 else order.source_id
    return Payment(
        external_reference=external_reference(books, receipt.id, Role.PAYMENT, part),
        date=receipt.received_at.date(),
        currency=receipt.currency,
        account=receipt.account,
        amount=amount,
        transaction=external_reference(books, receipt.id, Role.PAYMENT, part),
        order_number=order.number,
        text=receipt.number,
    )


def _other_currency(receipt: Receipt, orders: Sequence[PaidOrder]) -> Iterator[Finding]:
    for order in orders:
        if order.currency != receipt.currency:
            yield source_error(
                "RECEIPT-E001", "/currency",
                f"{receipt.number} in the books is in {receipt.currency}, order {order.number} in {order.currency}.",
                "Mark the order as paid at the shop by hand, then leave this one out.",
                cause=Cause.CURRENCY_NOT_KEPT,
            )  # fmt: skip
