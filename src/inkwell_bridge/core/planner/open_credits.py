"""What an edit or a cancellation left owing to the buyer, and the part of a refund that pays it.

A shop that takes something off an order gives the money back by a refund of its own, mostly without lines. What that
pays stands in the books as a credit note already, so it is credited no more: money alone moves. Only what goes beyond
is a kindness.
"""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from pydantic import Field

from inkwell_bridge.core.commerce import Charge, Goodwill, Order, Refund, RefundLine
from inkwell_bridge.core.money import allocate
from inkwell_bridge.core.values import Code, Exact, Value

ZERO = Decimal(0)
REST = Goodwill(id="beyond", title="Beyond what was owed", amount=ZERO)


class OpenCredit(Value):
    """A credit note that a change of the order made, and what of it was not paid back yet."""

    external_reference: Code
    amount: Exact


class Owing(Value):
    """What changes of an order have left owing to its buyer: ``credits``, the oldest first, and what was ``overpaid``
    besides, which no document credits. ``marketplace_tax`` goes back to the buyer with it, and not from the seller.
    ``called_off`` tells that all of the order came off the books again. Where the order was converted, ``receipts`` are
    what its payments came to in the books, and ``repaid`` what its refunds paid back there, by transaction."""

    credits: tuple[OpenCredit, ...] = ()
    overpaid: Exact = ZERO
    marketplace_tax: Exact = ZERO
    called_off: bool = False
    receipts: dict[Code, Exact] = Field(default_factory=dict)
    repaid: dict[Code, Exact] = Field(default_factory=dict)

    @property
    def all(self) -> Decimal:
        """All that the seller owes."""
        return sum((one.amount for one in self.credits), self.overpaid)


NOTHING_OWING = Owing()


@dataclass(frozen=True, slots=True, kw_only=True)
class Settling:
    """A refund without the part of it that pays open credits; ``pays`` is that part, with the ``tax`` that the shop
    tells of it, and of which a marketplace gives back ``marketplace_tax`` itself. ``rest`` has nothing left where all
    of it pays."""

    rest: Refund
    pays: Decimal
    tax: Decimal = ZERO
    marketplace_tax: Decimal = ZERO

    @property
    def by_seller(self) -> Decimal:
        """What of it is paid from the seller's money."""
        return self.pays - self.marketplace_tax

    @property
    def is_all(self) -> bool:
        """Whether nothing is left to be credited."""
        return self.pays > 0 and not (self.rest.lines or self.rest.shipping or self.rest.goodwill)


def settling(refund: Refund, order: Order, owing: Owing) -> Settling:
    """The part of a refund that pays what changes of its order left owing, the rest of it as a refund of its own.

    Its parts without a line of the order pay first: kindnesses, and lines that the order does not have any more. Of an
    order that was called off all its parts do, for all lines came off with it.
    """
    known = set() if owing.called_off else {line.id for line in order.lines}
    gone = [one for one in refund.lines if one.line not in known]
    carriage = refund.shipping if owing.called_off else ()
    is_bare = not (refund.lines or refund.shipping or refund.goodwill)
    loose = sum((_of_line(one, refund) for one in gone), ZERO)
    loose += sum((_whole(one, refund) for one in (*carriage, *refund.goodwill)), ZERO)
    if is_bare:
        loose = refund.total
    pays = min(loose, owing.all + owing.marketplace_tax)
    if pays <= 0:
        return Settling(rest=refund, pays=ZERO)
    goodwill = _beyond(refund, loose - pays, only_goodwill=not gone and not carriage and not is_bare)
    lines = tuple(one for one in refund.lines if one.line in known)
    shipping = () if owing.called_off else refund.shipping
    taxed = [*(one.taxes for one in lines), *(one.taxes for one in (*shipping, *goodwill))]
    tax = sum((tax.amount for of_one in taxed for tax in of_one), ZERO)
    update = {"lines": lines, "shipping": shipping, "goodwill": goodwill, "total": refund.total - pays,
              "tax_total": tax}  # fmt: skip
    loose_taxes = [*(one.taxes for one in gone), *(one.taxes for one in (*carriage, *refund.goodwill))]
    named = sum((tax.amount for of_one in loose_taxes for tax in of_one if tax.kept), ZERO)
    kept = _of_the_marketplace(pays, owing, named, refund.currency)
    rest = refund.model_copy(update=update)
    return Settling(rest=rest, pays=pays, tax=refund.tax_total - tax, marketplace_tax=kept)


def _of_the_marketplace(pays: Decimal, owing: Owing, named: Decimal, currency: str) -> Decimal:
    """What of a payment is the marketplace's tax: as its parts name it, else its share of all that is owing."""
    if not owing.marketplace_tax:
        return ZERO
    shares = [owing.marketplace_tax, owing.all]
    kept = min(named or allocate(pays, shares, currency)[0], owing.marketplace_tax, pays)
    # Whatever the parts say, the seller pays back no more than is owed: the rest can only be the marketplace's.
    return max(kept, pays - owing.all)


def _of_line(line: RefundLine, refund: Refund) -> Decimal:
    return line.amount + (ZERO if refund.prices_include_tax else sum((tax.amount for tax in line.taxes), ZERO))


def _whole(charge: Charge, refund: Refund) -> Decimal:
    return charge.reduced + (ZERO if refund.prices_include_tax else charge.tax)


def _beyond(refund: Refund, rest: Decimal, *, only_goodwill: bool) -> tuple[Goodwill, ...]:
    """What goes beyond what was owed: of kindnesses their last parts, with their own tax; else a kindness without."""
    if not rest:
        return ()
    if not only_goodwill:
        return (REST.model_copy(update={"amount": rest}),)
    left: list[Goodwill] = []
    for one in reversed(refund.goodwill):
        whole = _whole(one, refund)
        part = min(whole, rest)
        if part > 0:
            left.insert(0, one if part == whole else _cut(one, part, whole, refund))
            rest -= part
    return tuple(left)


def _cut(one: Goodwill, part: Decimal, whole: Decimal, refund: Refund) -> Goodwill:
    """So much of a kindness, with its share of the tax."""
    weights = [part, whole - part]
    taxes = tuple(
        tax.model_copy(update={"amount": allocate(tax.amount, weights, refund.currency)[0]}) for tax in one.taxes
    )
    inside = sum((tax.amount for tax in taxes), ZERO)
    amount = part if refund.prices_include_tax else part - inside
    return one.model_copy(update={"amount": amount, "discount": ZERO, "taxes": taxes})
