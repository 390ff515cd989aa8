"""What comes back of an order, as parts of what was sold.

A refund says how much of a line comes back, and a shop seldom says more. What was sold stands in the books in parts: a
kit as its articles, a price above the line of its discount, a tax that was rounded once for all lines. Each part of a
refund is therefore cut out of what is left of what was sold: given back in however many pieces, all of it comes to what
was sold, to the penny, under the same accounts, codes and discounts.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from inkwell_bridge.core.commerce import Charge, Order, OrderLine, Refund, RefundLine
from inkwell_bridge.core.money import allocate, rounded
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import (
    ChargeTax,
    PlannedCharge,
    carriage_charge,
    charges_of,
    goodwill_of,
    taxes_of,
)
from inkwell_bridge.core.planner.discounts import DiscountShare
from inkwell_bridge.core.planner.lines import Split, ready
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.refund_as_order import as_order
from inkwell_bridge.core.planner.working_out import WHOLE_TAX, with_worked_out_taxes, without_own_taxes

ZERO = Decimal(0)


@dataclass(slots=True)
class _Sold:
    """One charge as it was sold, and what is left of it: of its price, before and after discounts, of its taxes and
    of its discounts."""

    charge: PlannedCharge
    full: Decimal
    reduced: Decimal
    tax: Decimal
    kept: Decimal
    discounts: list[DiscountShare]

    @classmethod
    def of(cls, charge: PlannedCharge) -> _Sold:
        """All of a charge."""
        return cls(charge, charge.full, charge.reduced, charge.tax, charge.kept_tax, list(charge.discounts))

    def take(self, share: Decimal, source: str, currency: str) -> _Taken:
        """Cut ``share`` of the reduced price out of it, with as much of everything else."""
        full = _part(self.full, share, self.reduced, currency)
        taken = _Taken(
            share=share,
            full=full,
            tax=_part(self.tax, share, self.reduced, currency),
            kept=_part(self.kept, share, self.reduced, currency),
            discounts=tuple(replace(one, source=source) for one in self._discounts(share - full, currency)),
        )
        self.full -= full
        self.reduced -= share
        self.tax -= taken.tax
        self.kept -= taken.kept
        return taken

    def _discounts(self, amount: Decimal, currency: str) -> list[DiscountShare]:
        """What comes back of the discounts that stood on lines of their own: so much less is owed to the buyer."""
        if not amount or not self.discounts:
            return []
        shares = allocate(amount, [max(-one.amount, ZERO) for one in self.discounts], currency)
        taken = [
            replace(one, amount=share, tax=_part(one.tax, share, one.amount, currency))
            for one, share in zip(self.discounts, shares, strict=True)
        ]
        self.discounts = [
            replace(one, amount=one.amount - gone.amount, tax=one.tax - gone.tax)
            for one, gone in zip(self.discounts, taken, strict=True)
        ]
        return [one for one in taken if one.amount]


@dataclass(frozen=True, slots=True)
class _Taken:
    """So much of a charge: ``share`` of its reduced price, ``full`` of that before discounts, and of its taxes."""

    share: Decimal
    full: Decimal
    tax: Decimal
    kept: Decimal
    discounts: tuple[DiscountShare, ...]


def _part(whole: Decimal, share: Decimal, of: Decimal, currency: str) -> Decimal:
    # The last part is what is left, so that nothing is rounded away.
    if share == of:
        return whole
    return rounded(whole * share / of, currency) if of else ZERO


class Returns:
    """What is left of an order while one refund of it after the other is taken off."""

    def __init__(self, order: Order, context: PlanningContext) -> None:
        self._order, self._rules = order, context.rulebook
        self._context = context
        coding = AccountCoding(order, context)
        charges = charges_of(order, discounts_apart=self._rules.orders.discounts == "own lines",
                             posted_shares=context.posted_shares)  # fmt: skip
        standing, self.findings = ready(charges, order, context, coding)
        self._places = {line.id: (f"/lines/{index}", line) for index, line in enumerate(order.lines)}
        self._sold: dict[str, list[_Sold]] = {}
        for charge in standing:
            self._sold.setdefault(charge.at, []).append(_Sold.of(charge))

    def take(self, refund: Refund) -> Split:
        """The charges that come back with a refund, as they are to stand on its credit note."""
        back = as_order(refund, self._order)
        coding = AccountCoding(back, self._context)
        # Goodwill, and carriage that the order does not have, were never sold: they bear what they say.
        others = [*goodwill_of(refund.goodwill)]
        mirrored: list[PlannedCharge] = []
        for index, (line, said) in enumerate(zip(back.lines, self._known(refund), strict=True)):
            parts, article = self._parts_of(said)
            mirrored += self._cut(line, f"/lines/{index}", parts, said.quantity, article=article)
        for index, part in enumerate(back.shipping):
            sold = self._carriage(part)
            if sold:
                mirrored += self._cut(part, f"/shipping/{index}", sold, Decimal(1), article=False)
            else:
                others.insert(0, carriage_charge(part, index))
        taxed = with_worked_out_taxes(without_own_taxes(others, self._rules.tax_codes), back, coding)
        return [*mirrored, *taxed], list(self.findings)

    def _known(self, refund: Refund) -> Iterator[RefundLine]:
        return (line for line in refund.lines if line.line in self._places)

    def _parts_of(self, said: RefundLine) -> tuple[list[_Sold], bool]:
        """All of a line; or the one article of a kit that the refund names, and that it does."""
        at, line = self._places[said.line]
        parts = self._sold.get(at, [])
        named = [one for one in parts if said.sku and said.sku != line.sku and one.charge.sku == said.sku]
        return named or parts, bool(named)

    def _carriage(self, part: Charge) -> list[_Sold]:
        """The carriage that comes back: by its id, or the only one that there was."""
        shipping = self._order.shipping
        same = [index for index, one in enumerate(shipping) if one.id == part.id or len(shipping) == 1]
        return self._sold.get(f"/shipping/{same[0]}", []) if same else []

    def _cut(
        self, said: Charge, at: str, parts: Sequence[_Sold], quantity: Decimal, *, article: bool
    ) -> Iterator[PlannedCharge]:
        """A charge for each part that was sold, which together come to what the refund says.

        ``quantity`` is of the line, or of the one ``article`` of it that the refund names.
        """
        currency = self._order.currency
        shares = _shares(said.amount, parts, currency)
        taken = [one.take(share, f"{at}/amount", currency) for one, share in zip(parts, shares, strict=True)]
        own, kept = taxes_of(said, at)
        of_own = _shared_taxes(own, parts, [one.tax for one in taken], shares, currency)
        of_kept = _shared_taxes(kept, parts, [one.kept for one in taken], shares, currency)
        for sold, one, mine, theirs in zip(parts, taken, of_own, of_kept, strict=True):
            charge = sold.charge
            yield replace(
                charge,
                at=at,
                charge=said,
                amount=one.full,
                quantity=_pieces(charge, quantity, article=article),
                location=said.location if isinstance(said, OrderLine) else charge.location,
                reductions=(),
                discounts=one.discounts,
                # Worked out when it was sold, it is worked back by the same figures.
                own=_worked_back(charge, one.tax) if charge.worked_out else mine,
                kept=theirs,
            )


def _shares(amount: Decimal, parts: Sequence[_Sold], currency: str) -> Sequence[Decimal]:
    """What of the amount falls on each part: by what is left of each, or as sold where more comes back than is left."""
    left = [max(one.reduced, ZERO) for one in parts]
    if sum(left, ZERO) < amount:
        left = [max(one.charge.reduced, ZERO) for one in parts]
    return allocate(amount, left, currency)


def _shared_taxes(
    taxes: Sequence[ChargeTax], parts: Sequence[_Sold], weights: Sequence[Decimal], shares: Sequence[Decimal],
    currency: str,
) -> list[tuple[ChargeTax, ...]]:  # fmt: skip
    """The refund's own taxes over the parts, by the tax that each was sold with."""
    if len(parts) == 1:
        return [tuple(taxes)]
    # Where none was sold with any tax, and some comes back all the same, the prices say where it belongs.
    by = [max(one, ZERO) for one in (weights if any(weights) else shares)]
    split: list[list[ChargeTax]] = [[] for _ in parts]
    for one in taxes:
        for place, amount in enumerate(allocate(one.tax.amount, by, currency)):
            if amount:
                split[place].append(replace(one, tax=one.tax.model_copy(update={"amount": amount})))
    return [tuple(of_part) for of_part in split]


def _worked_back(charge: PlannedCharge, tax: Decimal) -> tuple[ChargeTax, ...]:
    if not charge.own or not tax:
        return ()
    line = charge.own[0].tax.model_copy(update={"amount": tax})
    return (ChargeTax(source=WHOLE_TAX, tax=line),)


def _pieces(charge: PlannedCharge, quantity: Decimal, *, article: bool) -> Decimal:
    """So many come back, in the units that the charge was sold in: pieces of packs, articles of kits."""
    sold = charge.charge
    if not isinstance(sold, OrderLine) or not sold.quantity:
        return quantity
    each = charge.quantity / sold.quantity
    if article:
        # Counted by itself, and not by the kits that it was in.
        each /= next((part.quantity for part in sold.components if part.sku == charge.sku), Decimal(1))
    return quantity * each
