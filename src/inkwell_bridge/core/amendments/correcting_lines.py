"""The lines that make a difference good: pieces more or fewer, and a price that is another now."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.amendments.difference import COUNTED, Amounts, Difference
from inkwell_bridge.core.books import DocumentLine
from inkwell_bridge.core.money import allocate, exact, minor_unit
from inkwell_bridge.core.planner.pricing import LAST, all_but_one, priced
from inkwell_bridge.core.values import LONGEST_TEXT

ZERO, ONE = Decimal(0), Decimal(1)
Correction = tuple[Difference, DocumentLine]


def corrections(differences: Sequence[Difference], currency: str, price_digits: int) -> list[Correction]:
    """Signed lines that add up to the differences: what comes off is below zero, in its price and not in its pieces."""
    return [(one, line) for one in differences for line in _lines_of(one, currency, price_digits)]


def turned(line: DocumentLine) -> DocumentLine:
    """The line with the other sign, as a credit note has it."""
    update = {"unit_price": -line.unit_price, "net": -line.net, "tax": -line.tax}
    return line.model_copy(update=update)


def _lines_of(difference: Difference, currency: str, price_digits: int) -> Iterator[DocumentLine]:
    pieces, price = _split(difference, currency)
    if not pieces.is_nothing:
        yield from _of_pieces(difference, pieces, currency, price_digits)
    if price.net or price.tax:
        yield _of_price(difference, price, currency, price_digits)


def _split(difference: Difference, currency: str) -> tuple[Amounts, Amounts]:
    """The pieces that come or go, at the price that they have or had; and what the others cost more or less now."""
    change, was, should = difference.change, difference.posted, difference.wanted
    moved = abs(change.quantity)
    if not moved:
        return Amounts(), change
    # Those that go were sold at the old price, those that come are sold at the new one.
    at = was if change.quantity < 0 else should
    if at.quantity <= 0:
        return change, Amounts()
    sign = -1 if change.quantity < 0 else 1
    net, tax = (sign * _share(amount, moved, at.quantity, currency) for amount in (at.net, at.tax))
    pieces = Amounts(quantity=change.quantity, net=net, tax=tax)
    price = change.plus(pieces, -1)
    # What rounding leaves is no change of a price: the pieces take it along.
    if max(abs(price.net), abs(price.tax)) <= minor_unit(currency):
        return change, Amounts()
    return pieces, price


def _share(amount: Decimal, pieces: Decimal, of: Decimal, currency: str) -> Decimal:
    return allocate(amount, [pieces, max(of - pieces, ZERO)], currency)[0]


def _of_pieces(
    difference: Difference, moved: Amounts, currency: str, price_digits: int
) -> Iterator[DocumentLine]:  # fmt: skip
    count = abs(moved.quantity)
    sample, item = difference.sample, difference.place.item
    split = all_but_one(count, moved.net, currency, price_digits) if item else None
    if split is None:
        yield _line(difference, count, moved.net, moved.tax, sample.text, currency, price_digits, item=item)
        return
    first, last = split
    taxes = allocate(moved.tax, [abs(first), abs(last)], currency)
    yield _line(difference, count - 1, first, taxes[0], sample.text, currency, price_digits, item=item)
    line = _line(difference, ONE, last, taxes[1], sample.text, currency, price_digits, item=item)
    yield line.model_copy(update={"line_reference": f"{difference.place.line_reference}{LAST}"})


def _of_price(difference: Difference, price: Amounts, currency: str, price_digits: int) -> DocumentLine:
    place, sample = difference.place, difference.sample
    if place.kind not in COUNTED:
        line = _line(difference, ONE, price.net, price.tax, sample.text, currency, price_digits, item="")
        # It stands where the charge does, though that be booked as an item, of which none comes or goes.
        return line.model_copy(update={"price_of": place.item})
    text = f"Price of {sample.text}"
    # On no item: nothing leaves the warehouse, and nothing comes back to it.
    line = _line(difference, ONE, price.net, price.tax, text, currency, price_digits, item="")
    return line.model_copy(update={"pieces": ZERO, "price_of": place.item, "warehouse": ""})


def _line(
    difference: Difference, quantity: Decimal, net: Decimal, tax: Decimal, text: str, currency: str,
    price_digits: int, *, item: str,
) -> DocumentLine:  # fmt: skip
    place, sample = difference.place, difference.sample
    net, tax = exact(net, currency), exact(tax, currency)
    count, unit_price, said = priced(quantity, net, text[:LONGEST_TEXT], currency, price_digits)
    return sample.model_copy(update={
        "line_reference": place.line_reference, "kind": place.kind, "item": item, "price_of": "", "text": said,
        "quantity": count, "unit_price": unit_price, "net": net, "tax": tax,
        "pieces": None if count == quantity else quantity,
    })  # fmt: skip
