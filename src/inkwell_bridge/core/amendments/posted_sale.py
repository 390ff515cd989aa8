"""What stands in the books of an order, and why."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from inkwell_bridge.core.books import (
    BooksDocument,
    CashSale,
    CreditNote,
    Invoice,
    LedgerDocument,
    Payment,
    RefundPayment,
)
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.planner.discounts import shares_as_posted
from inkwell_bridge.core.planner.plan import CalledOff, Plan, PostedShare, Reason

ZERO = Decimal(0)


@dataclass(frozen=True, slots=True, kw_only=True)
class PostedSale:
    """What stands in the books of an order.

    Shape: ``documents`` are those of the order that are posted, as they were planned, in their order; ``plan`` the one
    that they were made by, ``before`` the order as it was then. ``refunded`` are the documents of its refunds,
    which gave back ``marketplace_tax_returned`` for its changes; ``refunds`` those themselves, as the sales side told
    them, where the order is posted in another currency than its own.
    ``amendments`` counts the differences that were posted already.
    """

    documents: Sequence[BooksDocument]
    plan: Plan
    before: Order
    refunded: Sequence[BooksDocument] = ()
    refunds: Sequence[Refund] = ()
    marketplace_tax_returned: Decimal = ZERO
    amendments: int = 0

    @property
    def shares(self) -> tuple[PostedShare, ...]:
        """What its charges bear of its discounts, as posted."""
        return self.plan.posted_shares or shares_as_posted(self.before)

    @property
    def ledger(self) -> list[LedgerDocument]:
        """Those that took the sale into the ledger, and what came off it again."""
        return [one for one in self.documents if isinstance(one, Invoice | CashSale | CreditNote)]

    @property
    def credited(self) -> list[CreditNote]:
        """What its refunds took off."""
        return [one for one in self.refunded if isinstance(one, CreditNote)]

    @property
    def repaid(self) -> Decimal:
        """What its refunds paid back."""
        return sum((one.settles for one in self.refunded if isinstance(one, RefundPayment)), ZERO)

    def called_off(self, order: Order) -> CalledOff | None:
        """What comes off the books of an order that is cancelled; what its refunds credited came off before."""
        if not order.cancelled:
            return None
        gone = sum((one.net for one in self.credited), ZERO), sum((one.tax for one in self.credited), ZERO)
        return CalledOff(net=order.total - order.tax_total - gone[0], tax=order.tax_total - gone[1])

    @property
    def money(self) -> list[Payment]:
        """Its receipts, and those that were taken back."""
        return [one for one in self.documents if isinstance(one, Payment)]


class Pointers:
    """Where the parts of an order as it was are in the order as it is now.

    What was posted has its reasons in an earlier reading. A line that moved up is pointed at where it is now, and one
    that is gone no more: the line in its place has nothing to do with it.
    """

    def __init__(self, before: Order, now: Order) -> None:
        self._places: dict[str, str] = {}
        for name, by in (("lines", "id"), ("shipping", "id"), ("extras", "id"), ("payments", "transaction"),
                         ("discounts", "name")):  # fmt: skip
            known = {getattr(part, by): place for place, part in enumerate(getattr(now, name))}
            for place, part in enumerate(getattr(before, name)):
                there = known.get(getattr(part, by))
                self._places[f"/{name}/{place}"] = f"/{name}/{there}" if there is not None else ""

    def moved(self, reason: Reason) -> Reason:
        """The same reason, pointing at what is there now."""
        sources = tuple(there for source in reason.sources if (there := self._there(source)) is not None)
        allocated = tuple(replace(one, source=there) for one in reason.allocated
                          if (there := self._there(one.source)) is not None)  # fmt: skip
        return replace(reason, sources=sources, allocated=allocated)

    def _there(self, source: str) -> str | None:
        head = "/".join(source.split("/")[:3])
        if head not in self._places:
            return source
        there = self._places[head]
        return source.replace(head, there, 1) if there else None


def moved_reasons(
    plan: Plan, documents: Sequence[BooksDocument], *, only: Collection[str], names: Mapping[str, str] | None = None,
    pointers: Pointers | None = None,
) -> Iterator[Reason]:  # fmt: skip
    """The reasons of a plan for ``only`` those documents of it, as reasons for the places that these have now.

    ``names`` are references that are others now; ``pointers`` lead from the reading that they were made from to the
    newest.
    """
    now = {one.external_reference: place for place, one in enumerate(documents)}
    known = names or {}
    moved: dict[str, str] = {}
    for place, one in enumerate(plan.documents):
        reference = known.get(one.external_reference, one.external_reference)
        if reference in only and reference in now:
            moved[f"/documents/{place}"] = f"/documents/{now[reference]}"
    for reason in plan.reasons:
        head = "/".join(reason.target.split("/")[:3])
        if head in moved:
            found = replace(reason, target=reason.target.replace(head, moved[head], 1))
            yield pointers.moved(found) if pointers else found
