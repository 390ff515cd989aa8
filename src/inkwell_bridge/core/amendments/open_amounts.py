"""What is open of single documents of a sale."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, CreditNote, Invoice, Payment, RefundPayment, WriteOff

ZERO = Decimal(0)


def open_amounts(
    own: Sequence[BooksDocument], refunded: Sequence[BooksDocument], kind: type[Invoice] | type[CreditNote]
) -> dict[str, Decimal]:
    """What is open of each invoice, or of each credit note, by its reference, the oldest first.

    Money that was taken back opens again what its receipt had paid.
    """
    every = (*own, *refunded)
    left = {one.external_reference: one.gross for one in every if isinstance(one, kind)}
    receipts = {one.transaction: one for one in every
                if isinstance(one, Payment) and not isinstance(one, RefundPayment)}  # fmt: skip
    for one in every:
        if isinstance(one, Payment | WriteOff):
            for part in one.applied:
                if part.external_reference in left:
                    left[part.external_reference] -= part.amount
        if isinstance(one, RefundPayment) and one.transaction in receipts:
            for part in receipts[one.transaction].applied:
                if part.external_reference in left:
                    left[part.external_reference] += part.amount
    return {reference: amount for reference, amount in left.items() if amount > 0}
