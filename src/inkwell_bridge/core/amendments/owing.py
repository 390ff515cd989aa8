"""What changes of an order have left owing to its buyer."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, CreditNote, RefundPayment, WriteOff
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.core.planner.open_credits import OpenCredit, Owing
from inkwell_bridge.core.planner.own_currency import order_in_own_currency

ZERO = Decimal(0)


def owed_to_buyer(order: Order, refunded: Sequence[BooksDocument], *, called_off: bool) -> Decimal:
    """What was paid and neither kept nor paid back: below zero while it is the buyer who owes.

    ``refunded`` are the documents of the order's refunds; of an order that was ``called_off`` nothing is kept.
    """
    credited = sum((one.gross for one in refunded if isinstance(one, CreditNote)), ZERO)
    repaid = sum((one.settles for one in refunded if isinstance(one, RefundPayment)), ZERO)
    return order.received - repaid - (ZERO if called_off else order.total - credited)


def owing_of(
    order: Order,
    documents: Sequence[BooksDocument],
    refunded: Sequence[BooksDocument],
    *,
    called_off: bool,
    rate: ExchangeRate | None = None,
) -> Owing:
    """What is owed to the buyer: by the credit notes among an order's own ``documents``, and what was paid too much.

    ``rate`` is the one that the order was converted at, where it was: so is what is owed. A credit
    on what nobody paid is owed to nobody: it only takes off what was to be paid.
    """
    if rate is not None:
        order = order_in_own_currency(order, rate)
    left = {one.external_reference: one.gross for one in documents if isinstance(one, CreditNote)}
    for payment in (one for one in refunded if isinstance(one, RefundPayment)):
        for part in payment.applied:
            if part.external_reference in left:
                left[part.external_reference] -= part.amount
    given_up = sum((one.amount for one in documents if isinstance(one, WriteOff) and one.owed_by == "company"), ZERO)
    owed = max(owed_to_buyer(order, refunded, called_off=called_off) - given_up, ZERO)
    found = []
    for reference, amount in left.items():
        owing = max(min(amount, owed), ZERO)
        owed -= owing
        if owing:
            found.append(OpenCredit(external_reference=reference, amount=owing))
    return Owing(credits=tuple(found), overpaid=owed, called_off=called_off)
