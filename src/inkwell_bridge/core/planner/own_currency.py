"""An order and its refunds in the company's own currency, at one rate: everything that adds up goes on adding up.

The whole is converted first and its parts share it, so that no penny arises or is lost. What comes back of an order is
converted as its order was, part by part: given back in pieces, an order comes to nothing in this currency too.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from types import MappingProxyType
from typing import TypeVar

from inkwell_bridge.core.commerce import Charge, MoneyState, Order, OrderLine, Payment, Refund, RefundLine, TaxLine
from inkwell_bridge.core.exchange_rates import ExchangeRate, converted_to
from inkwell_bridge.core.money import minor_unit, rounded
from inkwell_bridge.core.planner.charges import charges_of

ZERO = Decimal(0)
# Prices of pieces are no amounts that anybody pays: they keep more digits, so that pieces by price stay the amount.
_PRICE = Decimal("0.000001")
# Each refund before, and the order before and after, may be a penny off; more than that has another reason.
MOST_PENNIES = 4
Kind = TypeVar("Kind", bound=Charge)


def order_in_own_currency(order: Order, rate: ExchangeRate) -> Order:
    """The order at ``rate``; one that is in the company's own currency already stays as it is."""
    if order.currency == rate.own:
        return order
    own, charges = rate.own, order.charges
    total = rounded(order.total * rate.rate, own)
    taxes = [tax for charge in charges for tax in charge.taxes]
    by_line = sum((tax.amount for tax in taxes), ZERO) == order.tax_total
    on_top = not order.prices_include_tax
    parts = [
        *(charge.amount for charge in charges),
        *(-charge.discount for charge in charges),
        *(-discount.amount for discount in order.discounts),
        order.cash_rounding,
        # Tax that comes on top is part of what the buyer pays; inside a price it is part of that.
        *((tax.amount for tax in taxes) if on_top and by_line else ()),
        *((order.tax_total,) if on_top and not by_line else ()),
    ]
    shared = iter(converted_to(total, parts, rate.rate, own))
    amounts = [next(shared) for _ in charges]
    reductions = [-next(shared) + 0 for _ in charges]
    discounts = [-next(shared) + 0 for _ in order.discounts]
    cash_rounding = next(shared)
    if on_top and by_line:
        of_taxes = [next(shared) for _ in taxes]
        tax_total = sum(of_taxes, ZERO)
    else:
        tax_total = next(shared) if on_top else rounded(order.tax_total * rate.rate, own)
        whole = tax_total if by_line else rounded(sum((tax.amount for tax in taxes), ZERO) * rate.rate, own)
        of_taxes = converted_to(whole, [tax.amount for tax in taxes], rate.rate, own)
    made = _charges(charges, amounts, reductions, of_taxes, rate)
    lines, carriage = len(order.lines), len(order.shipping)
    return order.model_copy(
        update={
            "currency": own,
            "lines": tuple(made[:lines]),
            "shipping": tuple(made[lines : lines + carriage]),
            "extras": tuple(made[lines + carriage :]),
            "discounts": tuple(one.model_copy(update={"amount": amount})
                               for one, amount in zip(order.discounts, discounts, strict=True)),
            "cash_rounding": cash_rounding,
            "payments": _money(order.payments, order.total, total, rate),
            "tax_total": tax_total,
            "total": total,
            "history": tuple(one.model_copy(update={"total_before": None, "total_after": None})
                             for one in order.history),
        }
    )  # fmt: skip


def money_as_posted(order: Order, receipts: Mapping[str, Decimal]) -> Order:
    """The converted order, each of whose payments is what its receipt is in the books; ``receipts`` are their amounts
    by transaction.

    A payment that came last took up the pennies of all before it, and has another before it now: what was posted
    stays. What is more than pennies off has another reason, such as a tax that a marketplace kept of it.
    """
    most = MOST_PENNIES * minor_unit(order.currency)

    def posted(one: Payment) -> Payment:
        amount = receipts.get(one.transaction, one.amount)
        return one.model_copy(update={"amount": amount}) if abs(amount - one.amount) <= most else one

    return order.model_copy(update={"payments": tuple(map(posted, order.payments))})


def _charges(
    charges: Sequence[Charge], amounts: Sequence[Decimal], reductions: Sequence[Decimal], taxes: Sequence[Decimal],
    rate: ExchangeRate,
) -> list[Charge]:  # fmt: skip
    of_taxes = iter(taxes)
    made = []
    for charge, amount, discount in zip(charges, amounts, reductions, strict=True):
        update: dict[str, object] = {"amount": amount, "discount": discount, "taxes": _taxed(charge.taxes, of_taxes)}
        if isinstance(charge, OrderLine):
            update["unit_price"] = (charge.unit_price * rate.rate).quantize(_PRICE)
            update["components"] = tuple(
                part if part.share is None
                else part.model_copy(update={"share": rounded(part.share * rate.rate, rate.own)})
                for part in charge.components
            )  # fmt: skip
        made.append(charge.model_copy(update=update))
    return made


def _taxed(taxes: Sequence[TaxLine], amounts: Iterable[Decimal]) -> tuple[TaxLine, ...]:
    found = iter(amounts)
    return tuple(tax.model_copy(update={"amount": next(found)}) for tax in taxes)


def _money(money: Sequence[Payment], whole: Decimal, own_whole: Decimal, rate: ExchangeRate) -> tuple[Payment, ...]:
    """The payments at the document's rate. What was really received in the company's own currency is told by
    ``settled``, and the difference is one of exchange.

    Each is what all of them come to with it, less what they came to before: paid in full here, it is paid in full
    there. In the order in which they came in, so that a later one changes nothing of those that were posted.
    """
    made = {place: rounded(one.amount * rate.rate, rate.own) for place, one in enumerate(money)}
    received = [place for place, one in enumerate(money) if one.state is MoneyState.RECEIVED]
    before, paid = ZERO, ZERO
    for place in sorted(received, key=lambda place: _when(money[place])):
        paid += money[place].amount
        now = own_whole if paid == whole else rounded(paid * rate.rate, rate.own)
        made[place], before = now - before, now
    return tuple(one.model_copy(update={"amount": made[place]}) for place, one in enumerate(money))


def _when(money: Payment) -> tuple[float, str]:
    # Without a moment it comes last: most shops tell one of all that really came.
    return (money.paid_at.timestamp() if money.paid_at else float("inf"), money.transaction)


@dataclass(slots=True)
class _Mirror:
    """One amount that was converted, and how much of it has come back; ``there`` is what it became."""

    here: Decimal
    there: Decimal
    gone: Decimal = ZERO

    def take(self, amount: Decimal, own: str) -> Decimal:
        """So much of it comes back: what that is in the own currency, after all that came back before."""
        before, self.gone = self._at(self.gone, own), self.gone + amount
        return self._at(self.gone, own) - before

    def _at(self, amount: Decimal, own: str) -> Decimal:
        return self.there if amount == self.here else rounded(amount * self.there / self.here, own)


@dataclass(slots=True)
class _Stays:
    """What of the buyer's money stays with the seller, and what it is for: at the sales side, and ``there`` in the own
    currency."""

    here: Decimal
    there: Decimal
    sold_here: Decimal
    sold_there: Decimal

    def paid_back(self, amount: Decimal, rate: ExchangeRate) -> Decimal:
        """So much goes back without a line of the order: what that is in the own currency.

        The last of it, after which nothing is owed any more, is all that is left: converted by itself, it would
        leave a penny open.
        """
        plain = rounded(amount * rate.rate, rate.own)
        if self.here - amount != self.sold_here:
            return plain
        left = self.there - self.sold_there
        return left if abs(left - plain) <= MOST_PENNIES * minor_unit(rate.own) else plain

    def gone(self, here: Decimal, there: Decimal, *, credited: bool) -> None:
        """So much went back; ``credited`` where it is for something that was sold."""
        self.here -= here
        self.there -= there
        if credited:
            self.sold_here -= here
            self.sold_there -= there
        elif self.here < self.sold_here:
            # A kindness: less is charged for by that.
            self.sold_here, self.sold_there = self.here, self.there


class RefundsInOwnCurrency:
    """The refunds of one order, taken in the order in which they went back; ``repaid`` is what those that were posted
    paid back in the books, by transaction."""

    def __init__(
        self,
        order: Order,
        converted: Order,
        rate: ExchangeRate,
        *,
        repaid: Mapping[str, Decimal] = MappingProxyType({}),
    ) -> None:
        self._rate, self._repaid = rate, repaid
        self._amounts: dict[tuple[str, str], _Mirror] = {}
        self._taxes: dict[tuple[str, str, int], _Mirror] = {}
        own_charges = {one.at: one for one in charges_of(converted, discounts_apart=False)}
        for here in charges_of(order, discounts_apart=False):
            there = own_charges.get(here.at)
            if there is None:
                continue
            key = (here.at.split("/")[1], here.charge.id)
            if here.reduced:
                self._amounts[key] = _Mirror(here.reduced, there.reduced)
            for place, (tax, own_tax) in enumerate(zip(here.charge.taxes, there.charge.taxes, strict=True)):
                if tax.amount:
                    self._taxes[(*key, place)] = _Mirror(tax.amount, own_tax.amount)
        sold = (ZERO, ZERO) if order.cancelled else (order.total, converted.total)
        self._stays = _Stays(order.received, converted.received, *sold)
        self._is_called_off = order.cancelled
        # Where taxes are told for the whole alone.
        self._tax_total = _Mirror(order.tax_total, converted.tax_total) if order.tax_total else None

    def take(self, refund: Refund) -> Refund:
        """The refund in the company's own currency."""
        if refund.currency == self._rate.own:
            return refund
        own = self._rate.own
        lines = tuple(self._line(one) for one in refund.lines)
        shipping = tuple(self._charge("shipping", one) for one in refund.shipping)
        goodwill = tuple(self._charge("", one) for one in refund.goodwill)
        rounding = rounded(refund.cash_rounding * self._rate.rate, own)
        taxed = [*(one.taxes for one in refund.lines), *(one.taxes for one in (*refund.shipping, *refund.goodwill))]
        by_line = sum((tax.amount for of_one in taxed for tax in of_one), ZERO) == refund.tax_total
        made = [*(one.taxes for one in lines), *(one.taxes for one in (*shipping, *goodwill))]
        tax_total = sum((tax.amount for of_one in made for tax in of_one), ZERO)
        if not by_line:
            mirror = self._tax_total
            tax_total = (
                mirror.take(refund.tax_total, own) if mirror else rounded(refund.tax_total * self._rate.rate, own)
            )
        total = sum((one.amount for one in lines), rounding)
        total += sum((one.reduced for one in (*shipping, *goodwill)), ZERO)
        # A kindness that says it is outside tax names a tax of nothing.
        is_bare = not (lines or shipping or tax_total)
        if is_bare:
            posted = [self._repaid.get(one.transaction) for one in refund.payments]
            # What was posted stays, though the order has changed since: by that it would be converted otherwise now.
            known = [one for one in posted if one is not None]
            total = (
                sum(known, ZERO)
                if known and len(known) == len(posted)
                else self._stays.paid_back(refund.total, self._rate)
            )
            goodwill = _come_to(goodwill, total - rounding)
        elif not refund.prices_include_tax:
            total += tax_total
        self._stays.gone(refund.total, total, credited=not is_bare and not self._is_called_off)
        return refund.model_copy(
            update={
                "currency": own, "lines": lines, "shipping": shipping, "goodwill": goodwill, "cash_rounding": rounding,
                "payments": _money(refund.payments, refund.total, total, self._rate), "tax_total": tax_total,
                "total": total,
            }
        )  # fmt: skip

    def _line(self, line: RefundLine) -> RefundLine:
        key = ("lines", line.line)
        update = {"amount": self._amount(key, line.amount), "taxes": self._of_taxes(key, line.taxes)}
        return line.model_copy(update=update)

    def _charge(self, kind: str, charge: Kind) -> Kind:
        key = (kind, charge.id)
        reduced = self._amount(key, charge.reduced)
        # What is told as an amount less a discount comes back as the one figure that went out.
        update = {"amount": reduced, "discount": ZERO, "taxes": self._of_taxes(key, charge.taxes)}
        return charge.model_copy(update=update)

    def _amount(self, key: tuple[str, str], amount: Decimal) -> Decimal:
        mirror = self._amounts.get(key)
        return mirror.take(amount, self._rate.own) if mirror else rounded(amount * self._rate.rate, self._rate.own)

    def _of_taxes(self, key: tuple[str, str], taxes: Sequence[TaxLine]) -> tuple[TaxLine, ...]:
        made = []
        for place, tax in enumerate(taxes):
            mirror = self._taxes.get((*key, place))
            amount = (mirror.take(tax.amount, self._rate.own) if mirror
                      else rounded(tax.amount * self._rate.rate, self._rate.own))  # fmt: skip
            made.append(tax.model_copy(update={"amount": amount}))
        return tuple(made)


def _come_to(goodwill: Sequence[Kind], total: Decimal) -> tuple[Kind, ...]:
    """Kindnesses that come to so much: the last takes what the conversion of the whole left."""
    if not goodwill:
        return ()
    *others, last = goodwill
    rest = total - sum((one.reduced for one in others), ZERO)
    return (*others, last.model_copy(update={"amount": rest, "discount": ZERO}))
