"""What a buyer is charged for, one by one, whichever part of the source document it stands in.

Discounts of the whole order come in as shares (``discounts.py``). Taxes that a marketplace keeps are set apart from the
seller's own.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.books import LineKind
from inkwell_bridge.core.commerce import Charge, Extra, Nature, Order, OrderLine, TaxLine
from inkwell_bridge.core.planner.discounts import DiscountShare, shared
from inkwell_bridge.core.planner.plan import AllocatedAmount, PostedShare
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.levels import Chosen

ZERO = Decimal(0)
# The role of the account for what is no plain sale.
_NATURES = {Nature.GIFT_CARD: "gift_cards", Nature.VOUCHER: "vouchers", Nature.DEPOSIT: "deposits"}
_EXTRAS = {"tip": "tips", "donation": "donations", "duty": "duties", "surcharge": "surcharges"}


@record
class ChargeTax:
    """One tax of a charge; ``source`` is the pointer of its amount."""

    source: str
    tax: TaxLine


@record
class PlannedCharge:
    """One thing to become a line.

    Shape: ``amount`` is as charged, before ``reductions`` (negative); ``discounts`` are the shares of the order's
    own discounts where these stand on lines of their own. ``takes_from`` is the source amount that it takes.
    ``item`` is the books' own, where one was found; ``counted`` tells that its factor is in the quantity already,
    ``worked_out`` that its taxes come from the rates of codes.
    """

    kind: LineKind
    role: str
    at: str
    line_reference: str
    charge: Charge
    amount: Decimal
    quantity: Decimal = Decimal(1)
    sku: str = ""
    product_type: str = ""
    nature: Nature = Nature.GOODS
    tax_class: str = ""
    title: str = ""
    location: str = ""
    reductions: tuple[AllocatedAmount, ...] = ()
    discounts: tuple[DiscountShare, ...] = ()
    own: tuple[ChargeTax, ...] = ()
    kept: tuple[ChargeTax, ...] = ()
    item: Chosen | None = None
    counted: bool = False
    worked_out: bool = False

    @property
    def takes_from(self) -> str:
        """The pointer of its amount."""
        return f"{self.at}/amount"

    @property
    def reduced(self) -> Decimal:
        """What is left of the amount after every reduction, those on lines of their own too."""
        return self.full + sum((part.amount for part in self.discounts), ZERO)

    @property
    def full(self) -> Decimal:
        """The amount after the reductions that are part of its price; discounts on lines of their own come off it."""
        return self.amount + sum((part.amount for part in self.reductions), ZERO)

    @property
    def tax(self) -> Decimal:
        """The seller's own taxes."""
        return _together(self.own)

    @property
    def kept_tax(self) -> Decimal:
        """The taxes that a marketplace keeps."""
        return _together(self.kept)


def _together(taxes: Sequence[ChargeTax]) -> Decimal:
    # Asked for often, and nearly always of one tax or none.
    if len(taxes) <= 1:
        return taxes[0].tax.amount if taxes else ZERO
    return sum((one.tax.amount for one in taxes), ZERO)


def charges_of(
    order: Order, *, discounts_apart: bool, posted_shares: Sequence[PostedShare] = ()
) -> list[PlannedCharge]:  # fmt: skip
    """Everything that an order charges for: lines, carriage, then extras; ``posted_shares`` as in ``shared``."""
    goods = [_goods(line, index) for index, line in enumerate(order.lines) if not is_empty(line)]
    carriage = [carriage_charge(part, index) for index, part in enumerate(order.shipping)]
    if order.discounts:
        shares = shared(order, posted_shares).shares
        reduced = [_less(charge, shares[charge.at], apart=discounts_apart) for charge in (*goods, *carriage)]
    else:
        reduced = [*goods, *carriage]
    return [*reduced, *extras_of(order.extras)]


def is_empty(line: OrderLine) -> bool:
    """Whether a line has neither quantity nor amount, as shops leave them behind when an order is edited."""
    return not (line.quantity or line.amount or line.tax)


def carriage_charge(part: Charge, index: int) -> PlannedCharge:
    """Carriage, in this place of its document."""
    return _other(LineKind.SHIPPING, "shipping", part, f"/shipping/{index}")


def _less(charge: PlannedCharge, shares: Sequence[DiscountShare], *, apart: bool) -> PlannedCharge:
    # On lines of their own discounts leave the price as it was charged; else they are part of it.
    if apart:
        return replace(charge, discounts=tuple(shares))
    off = [AllocatedAmount(source=share.source, amount=share.amount) for share in shares]
    return replace(charge, reductions=(*charge.reductions, *off))


def extras_of(extras: Sequence[Extra]) -> Iterator[PlannedCharge]:
    """Tips, donations, duties and surcharges."""
    for index, extra in enumerate(extras):
        yield _other(LineKind.EXTRA, _EXTRAS[str(extra.kind)], extra, f"/extras/{index}")


def goodwill_of(charges: Sequence[Charge]) -> Iterator[PlannedCharge]:
    """Money given back with no line to it."""
    for index, charge in enumerate(charges):
        yield _other(LineKind.EXTRA, "goodwill", charge, f"/goodwill/{index}")


def _goods(line: OrderLine, index: int) -> PlannedCharge:
    at = f"/lines/{index}"
    own, kept = taxes_of(line, at)
    # What is paid ahead has a kind of its own, for it comes back off the final invoice.
    return PlannedCharge(
        kind=LineKind.DEPOSIT if line.nature is Nature.DEPOSIT else LineKind.GOODS,
        role=_NATURES.get(line.nature, "sales"),
        at=at,
        line_reference=line.id,
        charge=line,
        amount=line.amount,
        quantity=line.quantity,
        sku=line.sku,
        product_type=line.product_type,
        nature=line.nature,
        tax_class=line.tax_class,
        title=line.title,
        location=line.location,
        reductions=_own_discount(line, at),
        own=own,
        kept=kept,
    )


def _other(kind: LineKind, role: str, charge: Charge, at: str) -> PlannedCharge:
    own, kept = taxes_of(charge, at)
    return PlannedCharge(
        kind=kind,
        role=role,
        at=at,
        line_reference=charge.id,
        charge=charge,
        amount=charge.amount,
        tax_class=charge.tax_class,
        title=charge.title,
        reductions=_own_discount(charge, at),
        own=own,
        kept=kept,
    )


def _own_discount(charge: Charge, at: str) -> tuple[AllocatedAmount, ...]:
    return (AllocatedAmount(source=f"{at}/discount", amount=-charge.discount),) if charge.discount else ()


def taxes_of(charge: Charge, at: str) -> tuple[tuple[ChargeTax, ...], tuple[ChargeTax, ...]]:
    """The seller's own taxes, and those that a marketplace keeps."""
    own: list[ChargeTax] = []
    kept: list[ChargeTax] = []
    for index, tax in enumerate(charge.taxes):
        # What a marketplace keeps and pays to the state itself never was the seller's tax.
        (kept if tax.kept else own).append(ChargeTax(source=f"{at}/taxes/{index}/amount", tax=tax))
    return tuple(own), tuple(kept)


def in_pieces(charge: PlannedCharge) -> PlannedCharge:
    """Packs as the pieces that are in them."""
    line = charge.charge
    # A link that says how many pieces of an item one is has counted them already.
    if charge.counted or not isinstance(line, OrderLine):
        return charge
    return replace(charge, quantity=charge.quantity * line.pack_of)
