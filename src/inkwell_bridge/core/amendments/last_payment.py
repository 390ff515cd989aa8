"""The last payment of a converted order, where money went back before it came.

Each payment and each refund was converted by itself, in its turn. Once nothing is owed at the sales side nothing may be
owed in the books, so the last payment takes up the penny that all of them leave: as the last refund does where money
goes back last.
"""

from __future__ import annotations

from decimal import Decimal

from inkwell_bridge.core.amendments.owing import owed_to_buyer, receipts_of
from inkwell_bridge.core.amendments.posted_sale import PostedSale
from inkwell_bridge.core.books import CreditNote, Role
from inkwell_bridge.core.commerce import MoneyState, Order, Refund
from inkwell_bridge.core.money import minor_unit
from inkwell_bridge.core.planner.own_currency import MOST_PENNIES
from inkwell_bridge.core.planner.planning_context import PlanningContext

ZERO = Decimal(0)


def settled_by_last_payment(order: Order, at_source: Order, sale: PostedSale, context: PlanningContext) -> Order:
    """The converted ``order``, whose last payment that is not posted yet leaves nothing open, where at the sales side
    (``at_source``) nothing is.

    Only pennies are taken up: whatever is more has another reason.
    """
    posted = receipts_of(sale.money)
    new = [place for place, one in enumerate(order.payments)
           if one.state is MoneyState.RECEIVED and one.transaction not in posted]  # fmt: skip
    if not sale.refunds or not new or _owed_at_source(at_source, sale, context) != ZERO:
        return order
    left = owed_to_buyer(order, sale.refunded, called_off=order.cancelled)
    if not left or abs(left) > MOST_PENNIES * minor_unit(order.currency):
        return order
    last = max(new, key=lambda place: (order.payments[place].paid_at or order.changed_at, place))
    payments = list(order.payments)
    payments[last] = payments[last].model_copy(update={"amount": payments[last].amount - left})
    return order.model_copy(update={"payments": tuple(payments)})


def _owed_at_source(order: Order, sale: PostedSale, context: PlanningContext) -> Decimal | None:
    """What is owed to the buyer at the sales side; None where it cannot be told from what the books took."""
    credited = ZERO
    for refund in sale.refunds:
        of_it = _credited(refund, sale, context)
        if of_it is None:
            return None
        credited += of_it
    kept = ZERO if order.cancelled else order.total - credited
    return order.received - sum((one.total for one in sale.refunds), ZERO) - kept


def _credited(refund: Refund, sale: PostedSale, context: PlanningContext) -> Decimal | None:
    """What of a refund came off the sale: all of it, or nothing where it paid what was owed."""
    reference = context.external_reference(refund.id, Role.CREDIT_NOTE)
    note = next((one for one in sale.refunded if one.external_reference == reference), None)
    if not isinstance(note, CreditNote):
        return ZERO
    rate = sale.plan.exchange_rate
    # A note over less than the refund paid something besides; how much of either that was is not told there.
    whole = refund.total * rate.rate if rate else refund.total
    return refund.total if abs(whole - note.gross) <= MOST_PENNIES * minor_unit(note.currency) else None
