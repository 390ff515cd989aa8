"""What the books hold of a sale against what they should hold by now, line by line.

Two documents say the same where all that they post is the same: under each line of the order, account, item, tax code
and reporting dimension, so many pieces, so much without tax and so much tax. Texts and links may differ.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import CreditNote, Dimension, DocumentLine, LineKind, TradeDocument
from inkwell_bridge.core.money import allocate, minor_unit
from inkwell_bridge.core.planner.pricing import LAST
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# Of these so many pieces are sold; of carriage, discounts, taxes and the rest there is only an amount.
COUNTED = frozenset({LineKind.GOODS, LineKind.DEPOSIT})


@record
class Place:
    """Where an amount stands: all that tells one posting of a sale from another."""

    line_reference: str
    kind: LineKind
    account: str
    item: str
    tax_code: str
    dimensions: tuple[Dimension, ...]

    def __hash__(self) -> int:
        return hash((self.line_reference, self.kind, self.account, self.item, self.tax_code, self.dimensions))

    @classmethod
    def of(cls, line: DocumentLine) -> Place:
        """The place of a line, whether it sells pieces or corrects the price of some that were sold before."""
        # Discounts are counted anew on every document; their account and code tell them apart.
        reference = "discount" if line.kind is LineKind.DISCOUNT else line.line_reference.removesuffix(LAST)
        return cls(line_reference=reference, kind=line.kind, account=line.account, item=line.item or line.price_of,
                   tax_code=line.tax_code, dimensions=line.dimensions)  # fmt: skip


@record
class Amounts:
    """What stands in a place. Units: ``net`` and ``tax`` in the document's currency, ``quantity`` in the line's own."""

    quantity: Decimal = ZERO
    net: Decimal = ZERO
    tax: Decimal = ZERO

    @property
    def gross(self) -> Decimal:
        """With its tax."""
        return self.net + self.tax

    @property
    def is_nothing(self) -> bool:
        """Whether there is neither a piece nor an amount."""
        return not (self.quantity or self.net or self.tax)

    @property
    def negative(self) -> Amounts:
        """The same with the other sign."""
        return Amounts(quantity=-self.quantity, net=-self.net, tax=-self.tax)

    def plus(self, other: Amounts, sign: int = 1) -> Amounts:
        """These and the others; less the others with ``sign`` -1."""
        return Amounts(
            quantity=self.quantity + sign * other.quantity,
            net=self.net + sign * other.net,
            tax=self.tax + sign * other.tax,
        )


NOTHING = Amounts()
Sums = dict[Place, Amounts]


@record
class Difference:
    """A place in which the books do not hold what they should; ``sample`` is a line that stands there, for its text."""

    place: Place
    posted: Amounts
    wanted: Amounts
    sample: DocumentLine

    @property
    def change(self) -> Amounts:
        """What is to be added; below zero what is to come off."""
        return self.wanted.plus(self.posted, -1)


def amounts_of(line: DocumentLine) -> Amounts:
    """What one line posts."""
    pieces = line.quantity if line.pieces is None else line.pieces
    return Amounts(quantity=pieces if line.kind in COUNTED else ZERO, net=line.net, tax=line.tax)


def sums_of(documents: Iterable[TradeDocument]) -> Sums:
    """What documents of a sale come to, place by place: a credit note takes off what the others put there."""
    sums: Sums = {}
    for document in documents:
        sign = -1 if isinstance(document, CreditNote) else 1
        for line in document.lines:
            place = Place.of(line)
            sums[place] = sums.get(place, NOTHING).plus(amounts_of(line), sign)
    return sums


def differences(
    posted: Sequence[TradeDocument], wanted: Mapping[Place, Amounts], lines: Sequence[DocumentLine]
) -> list[Difference]:
    """Every place in which these documents do not make what is ``wanted``: those of ``lines`` first, in their order."""
    there = sums_of(posted)
    samples = {Place.of(line): line for line in (*(one for document in posted for one in document.lines), *lines)}
    found = []
    for place in dict.fromkeys((*(Place.of(line) for line in lines), *there, *wanted)):
        was, should = there.get(place, NOTHING), wanted.get(place, NOTHING)
        if should != was and place in samples:
            found.append(Difference(place=place, posted=was, wanted=should, sample=samples[place]))
    return found


def wanted_of(
    lines: Sequence[DocumentLine], posted: Mapping[Place, Amounts], credited: Mapping[Place, Amounts], currency: str
) -> Sums:
    """What the documents of a sale are to make, whose order has these lines by now.

    ``credited`` is what refunds have taken off the sale besides (positive), place by place. A piece that went back is
    sold no more, so a later price does not concern it: it stays in the sum at the price that it went back at. Nor can
    be taken off what has gone back already.
    """
    asked: Sums = {}
    for line in lines:
        place = Place.of(line)
        asked[place] = asked.get(place, NOTHING).plus(amounts_of(line))
    return {
        place: _with_what_came_back(
            place, posted.get(place, NOTHING), asked.get(place, NOTHING), credited, currency
        )
        for place in dict.fromkeys((*asked, *posted))
    }  # fmt: skip


def beyond_order(lines: Sequence[DocumentLine], wanted: Mapping[Place, Amounts]) -> Decimal:
    """What the documents of a sale make beyond its order, which has these lines by now: see ``wanted_of``.

    An order may lower the price of what went back, or drop it, while the sale keeps it as it went back; who counts what
    the seller keeps by the order's own total would take it off twice.
    Units: with tax, in the currency of the documents; below zero where the order says more.
    """
    asked = sum((amounts_of(line).gross for line in lines), ZERO)
    return sum((amounts.gross for amounts in wanted.values()), ZERO) - asked


def _with_what_came_back(
    place: Place, was: Amounts, asked: Amounts, credited: Mapping[Place, Amounts], currency: str
) -> Amounts:
    """What the documents of the sale are to make in a place, some of which went back by refunds."""
    here = credited.get(place, NOTHING)
    # A place that is new may be an old line under another code; what of it went back then is sold no more either.
    before = _elsewhere(place, credited) if was.is_nothing else ()
    pieces = here.quantity or sum((one.quantity for one in before), ZERO)
    if not pieces:
        # Of carriage and the like there are no pieces: what came back of it cannot come off once more.
        is_left = here.gross <= 0 or here.gross <= asked.gross or not was.gross
        return asked if is_left else here
    if here.quantity and asked.quantity >= pieces and _same_price(was, asked, currency):
        return asked
    stay = max(asked.quantity - pieces, ZERO)
    net, tax = (_part(amount, stay, asked.quantity, currency) for amount in (asked.net, asked.tax))
    # What went back under another place is in the sum of that one.
    return Amounts(quantity=stay, net=net, tax=tax).plus(here)


def _elsewhere(place: Place, credited: Mapping[Place, Amounts]) -> Iterator[Amounts]:
    """What came back of the same line of the order under another account, item or code, where it stood then."""
    for other, amounts in credited.items():
        if other != place and (other.line_reference, other.kind) == (place.line_reference, place.kind):
            yield amounts


def _same_price(was: Amounts, asked: Amounts, currency: str) -> bool:
    """Whether a piece costs what it did, but for what rounding makes of it."""
    if not was.quantity or not asked.quantity:
        return True
    off = abs(was.net * asked.quantity - asked.net * was.quantity)
    return off <= minor_unit(currency) * max(was.quantity, asked.quantity)


def _part(amount: Decimal, pieces: Decimal, of: Decimal, currency: str) -> Decimal:
    """What falls on so many of the pieces."""
    return allocate(amount, [pieces, of - pieces], currency)[0] if of else ZERO
