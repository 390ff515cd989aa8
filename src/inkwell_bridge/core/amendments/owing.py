"""What changes of an order have left owing to its buyer."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, CreditNote, Payment, RefundPayment, WriteOff
from inkwell_bridge.core.commerce import MoneyState, Order
from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.core.money import minor_unit
from inkwell_bridge.core.planner.open_credits import OpenCredit, Owing
from inkwell_bridge.core.planner.own_currency import money_as_posted, order_in_own_currency

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class MarketplaceTax:
    """The tax of one order that a marketplace keeps and remits, which never is the seller's.

    Shape: ``taken`` is what is missing from the receipts for it, ``now`` what it is by the order as the books have it,
    ``credited`` what came back with goods, and ``returned`` what was given back for changes of the order.
    Units: the currency of the order's documents.
    """

    taken: Decimal = ZERO
    now: Decimal = ZERO
    credited: Decimal = ZERO
    returned: Decimal = ZERO

    def owed(self, *, called_off: bool) -> Decimal:
        """What of it changes have left for the marketplace to give back."""
        # What came back with goods is still in the total of an order that stands, and in ``now`` with it.
        gone = self.returned + (self.credited if called_off else ZERO)
        return max(self.taken - self.now - gone, ZERO)

    @property
    def due(self) -> Decimal:
        """What of it is still to be taken from money that comes later."""
        # What was given back is not there any more, should the order grow or be taken up again.
        return max(self.now - (self.taken - self.returned), ZERO)

    def comes_back(self, owed: Decimal) -> Decimal:
        """What of it the marketplace pays to the seller for a change of an order that stands, of which ``owed`` is owed
        to the buyer, or below zero missing from what the seller keeps.

        What goes back to the buyer goes back with the refund of it. But where less was paid than the order came to
        before, nothing goes back, and the seller is the one who has got too little.
        """
        return max(min(self.owed(called_off=False), -owed), ZERO)


NO_MARKETPLACE_TAX = MarketplaceTax()


def receipts_of(documents: Sequence[BooksDocument]) -> dict[str, Decimal]:
    """What settles by each payment, by its transaction; one that was taken back is none."""
    receipts = [one for one in documents if isinstance(one, Payment)]
    back = {one.transaction for one in receipts if isinstance(one, RefundPayment)}
    posted: dict[str, Decimal] = defaultdict(Decimal)
    for one in receipts:
        if one.transaction not in back:
            posted[one.transaction] += one.settles
    return dict(posted)


def taken_from(order: Order, documents: Sequence[BooksDocument], *, converted: bool) -> Decimal:
    """What a marketplace took of an order's money before it reached the seller: the money at the sales side less the
    receipts for it among ``documents``. Money that bounced, or was never posted, is none."""
    posted = receipts_of(documents)
    came = [one for one in order.payments if one.state is MoneyState.RECEIVED and one.transaction in posted]
    taken = sum((one.amount for one in came), ZERO) - sum(
        (posted[name] for name in {one.transaction for one in came}), ZERO
    )
    # Converted anew with the rest of the order, each may be a penny off: that is nobody's tax.
    pennies = len(came) * minor_unit(order.currency) if converted else ZERO
    return taken if taken > pennies else ZERO


def owed_to_buyer(
    order: Order, refunded: Sequence[BooksDocument], *, called_off: bool, tax: MarketplaceTax = NO_MARKETPLACE_TAX,
    beyond: Decimal = ZERO,
) -> Decimal:  # fmt: skip
    """What the seller was paid and neither kept nor paid back: below zero while it is the buyer who owes.

    ``refunded`` are the documents of the order's refunds; of an order that was ``called_off`` nothing is kept. ``tax``
    of a marketplace neither reached the seller nor is it owed by him. ``beyond`` is what the sale makes beyond its
    order (see ``beyond_order``): else what came back and was taken off the order afterwards would be owed once more.
    """
    credited = sum((one.gross for one in refunded if isinstance(one, CreditNote)), ZERO)
    repaid = sum((one.settles for one in refunded if isinstance(one, RefundPayment)), ZERO)
    kept = ZERO if called_off else order.total + beyond - tax.now - credited
    return order.received - tax.taken - repaid - kept


def owing_of(
    order: Order,
    documents: Sequence[BooksDocument],
    refunded: Sequence[BooksDocument],
    *,
    called_off: bool,
    rate: ExchangeRate | None = None,
    tax: MarketplaceTax = NO_MARKETPLACE_TAX,
    beyond: Decimal = ZERO,
) -> Owing:
    """What is owed to the buyer: by the credit notes among an order's own ``documents``, and what was paid too much.

    ``rate`` is the one that the order was converted at, where it was: so is what is owed. A credit
    on what nobody paid is owed to nobody: it only takes off what was to be paid. Of the marketplace's ``tax`` what was
    taken is found out here; ``beyond`` see ``owed_to_buyer``.
    """
    receipts = receipts_of(documents) if rate is not None else {}
    if rate is not None:
        order = money_as_posted(order_in_own_currency(order, rate), receipts)
    tax = replace(tax, taken=taken_from(order, documents, converted=rate is not None))
    left = {one.external_reference: one.gross for one in documents if isinstance(one, CreditNote)}
    for payment in (one for one in refunded if isinstance(one, RefundPayment)):
        for part in payment.applied:
            if part.external_reference in left:
                left[part.external_reference] -= part.amount
    given_up = sum((one.amount for one in documents if isinstance(one, WriteOff) and one.owed_by == "company"), ZERO)
    owed = owed_to_buyer(order, refunded, called_off=called_off, tax=tax, beyond=beyond)
    owed = max(owed - given_up, ZERO)
    found = []
    for reference, amount in left.items():
        owing = max(min(amount, owed), ZERO)
        owed -= owing
        if owing:
            found.append(OpenCredit(external_reference=reference, amount=owing))
    kept = tax.owed(called_off=called_off)
    if beyond and not (found or owed):
        # What came back is in the order's tax no more as it went back: what seems to be left of it went with the piece.
        kept = ZERO
    repaid = {one.transaction: one.settles for one in refunded if isinstance(one, RefundPayment) and rate is not None}
    return Owing(
        credits=tuple(found), overpaid=owed, marketplace_tax=kept, called_off=called_off, receipts=receipts,
        repaid=repaid,
    )  # fmt: skip
