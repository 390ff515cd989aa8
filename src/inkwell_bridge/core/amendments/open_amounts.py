"""What is open of single documents of a sale."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal

from inkwell_bridge.core.books import CreditNote, Invoice, Payment, WriteOff
from inkwell_bridge.core.values import Value


def open_amounts(
    documents: Iterable[Value], kind: type[Invoice] | type[CreditNote]
) -> dict[str, Decimal]:  # fmt: skip
    """What is open of each invoice, or of each credit note, by its reference, in their order: what none of these
    ``documents`` is set against.

    Money that was taken back opens nothing here: in the books its receipt is set against the invoice still, and beside
    it stands what went back, on the customer's account.
    """
    every = list(documents)
    left = {one.external_reference: one.gross for one in every if isinstance(one, kind)}
    for one in every:
        if isinstance(one, Payment | WriteOff):
            for part in one.applied:
                if part.external_reference in left:
                    left[part.external_reference] -= part.amount
    return {reference: amount for reference, amount in left.items() if amount > 0}
