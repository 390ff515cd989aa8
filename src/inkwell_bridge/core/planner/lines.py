"""The lines of an invoice: one for each order line and each carriage charge.

An order's discounts are shared over its lines by what each comes to; a line's net is what remains
of its price after discount and tax, so that nothing is rounded twice.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from inkwell_bridge.core.books import DocumentLine, LineKind
from inkwell_bridge.core.commerce import Charge, Order, OrderLine, Shipping, TaxLine
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.money import allocate, rounded
from inkwell_bridge.core.planner.plan import Placed, Reason
from inkwell_bridge.core.rulebook.model import OrderRulebook

ZERO = Decimal(0)
Planned = tuple[tuple[DocumentLine, ...], tuple[Reason, ...], tuple[Finding, ...]]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Charge:
    """One thing the buyer was charged for, whichever part of the order it stood in."""

    kind: LineKind
    at: str
    mark: str
    title: str
    quantity: Decimal
    tax_class: str
    taxes: tuple[TaxLine, ...]
    reductions: tuple[Placed, ...]
    amount: Decimal

    @property
    def tax(self) -> Decimal:
        return sum((tax.amount for tax in self.taxes), ZERO)

    @property
    def reduced(self) -> Decimal:
        return self.amount + sum((part.amount for part in self.reductions), ZERO)


def plan_lines(order: Order, rulebook: OrderRulebook, price_digits: int) -> Planned:
    """The invoice lines of ``order``, a reason for each amount and code, and what cannot be mapped."""
    charges = _charges(order)
    findings = tuple(_unmapped(order, charges, rulebook))
    if findings:
        return (), (), findings
    lines: list[DocumentLine] = []
    reasons: list[Reason] = []
    for place, charge in enumerate(charges):
        lines.append(_line(charge, order, rulebook, price_digits))
        reasons += _reasons(charge, lines[-1], order=order, target=f"/documents/0/lines/{place}")
    return tuple(lines), tuple(reasons), ()


def _charges(order: Order) -> list[_Charge]:
    shares = _shared_discounts(order)
    goods = [_goods(line, place, shares[place]) for place, line in enumerate(order.lines)]
    return [*goods, *(_carriage(part, place) for place, part in enumerate(order.shipping))]


def _shared_discounts(order: Order) -> list[list[Placed]]:
    """For each line, its share of each of the order's discounts, as negative amounts."""
    weights = [line.amount - line.discount for line in order.lines]
    shares: list[list[Placed]] = [[] for _ in order.lines]
    for place, discount in enumerate(order.discounts):
        for line, share in enumerate(allocate(discount.amount, weights, order.currency)):
            shares[line].append(Placed(source=f"/discounts/{place}/amount", amount=-share))
    return shares


def _goods(line: OrderLine, place: int, shares: Sequence[Placed]) -> _Charge:
    own = _own_discount(line, f"/lines/{place}")
    return _Charge(
        kind=LineKind.GOODS,
        at=f"/lines/{place}",
        mark=line.id,
        title=line.title,
        quantity=line.quantity,
        tax_class=line.tax_class,
        taxes=line.taxes,
        amount=line.amount,
        reductions=(*own, *shares),
    )


def _own_discount(charge: Charge, at: str) -> list[Placed]:
    return [Placed(source=f"{at}/discount", amount=-charge.discount)] if charge.discount else []


def _carriage(part: Shipping, place: int) -> _Charge:
    return _Charge(
        kind=LineKind.SHIPPING,
        at=f"/shipping/{place}",
        mark=part.id,
        title=part.title,
        quantity=Decimal(1),
        tax_class=part.tax_class,
        taxes=part.taxes,
        amount=part.amount,
        reductions=tuple(_own_discount(part, f"/shipping/{place}")),
    )


def _unmapped(order: Order, charges: list[_Charge], rulebook: OrderRulebook) -> list[Finding]:
    known = rulebook.tax_codes.by_class
    return [
        Finding(
            id="TAX-E001",
            level=Level.ERROR,
            at=f"{charge.at}/tax_class",
            cause=Cause.TAX_CLASS_UNMAPPED,
            text=f"Tax class '{charge.tax_class}' has no tax code (order {order.number}, {charge.title[:80]}).",
            hint=f"Add '{charge.tax_class}' under tax_codes: by_class in the rulebook, then release the order.",
        )
        for charge in charges
        if charge.tax_class not in known
    ]


def _line(charge: _Charge, order: Order, rulebook: OrderRulebook, price_digits: int) -> DocumentLine:
    net = charge.reduced - charge.tax if order.prices_include_tax else charge.reduced
    quantity, unit_price, text = _priced(charge, net, order.currency, price_digits)
    account = rulebook.accounts.shipping if charge.kind is LineKind.SHIPPING else rulebook.accounts.sales
    return DocumentLine(
        kind=charge.kind,
        mark=charge.mark,
        text=text,
        account=account,
        quantity=quantity,
        unit_price=unit_price,
        net=net,
        tax=charge.tax,
        tax_code=rulebook.tax_codes.by_class[charge.tax_class],
    )


def _priced(charge: _Charge, net: Decimal, currency: str, price_digits: int) -> tuple[Decimal, Decimal, str]:
    """Quantity and unit price that multiply back to ``net`` exactly, and the text that goes with them."""
    step = Decimal(1).scaleb(-price_digits)
    unit_price = (net / charge.quantity).quantize(step, rounding=ROUND_HALF_UP)
    if rounded(unit_price * charge.quantity, currency) == net:
        return charge.quantity, unit_price, charge.title
    # A price of so few digits cannot stand for so many pieces: one line for the lot keeps the amount.
    return Decimal(1), net.quantize(step), f"{charge.quantity.normalize():f} x {charge.title}"[:2000]


def _reasons(charge: _Charge, line: DocumentLine, *, order: Order, target: str) -> list[Reason]:
    tax_sources = tuple(f"{charge.at}/taxes/{place}/amount" for place in range(len(charge.taxes)))
    role = "shipping" if line.kind is LineKind.SHIPPING else "sales"
    if order.prices_include_tax:
        net, tax = _amounts_inclusive(charge, tax_sources, line)
    else:
        net, tax = _amounts_exclusive(charge, tax_sources, line)
    return [
        net.model_copy(update={"target": f"{target}/net"}),
        tax.model_copy(update={"target": f"{target}/tax"}),
        Reason(
            target=f"{target}/account",
            sources=(charge.at,),
            rule=f"/accounts/{role}",
            text=f"The account for {role} is {line.account}.",
        ),
        Reason(
            target=f"{target}/tax_code",
            sources=(f"{charge.at}/tax_class",),
            rule=f"/tax_codes/by_class/{charge.tax_class}",
            text=f"Tax class '{charge.tax_class}' has the code {line.tax_code}.",
        ),
    ]


def _amounts_inclusive(charge: _Charge, tax_sources: tuple[str, ...], line: DocumentLine) -> tuple[Reason, Reason]:
    price = f"{charge.at}/amount"
    placed_net = (Placed(source=price, amount=charge.amount - charge.tax), *charge.reductions)
    net = Reason(
        target="",
        sources=(*(part.source for part in placed_net), *tax_sources),
        placed=placed_net,
        rule="planner:tax-inclusive-remainder",
        text=_net_text(charge, line, inclusive=True),
    )
    tax = Reason(
        target="",
        sources=(price, *tax_sources),
        rule="planner:tax-as-charged",
        placed=(Placed(source=price, amount=charge.tax),),
        text=f"The tax of {charge.tax} that the shop charged inside the price.",
    )
    return net, tax


def _amounts_exclusive(charge: _Charge, tax_sources: tuple[str, ...], line: DocumentLine) -> tuple[Reason, Reason]:
    placed_net = (Placed(source=f"{charge.at}/amount", amount=charge.amount), *charge.reductions)
    placed_tax = tuple(
        Placed(source=source, amount=tax.amount) for source, tax in zip(tax_sources, charge.taxes, strict=True)
    )
    net = Reason(
        target="",
        sources=tuple(part.source for part in placed_net),
        placed=placed_net,
        rule="planner:price-without-tax",
        text=_net_text(charge, line, inclusive=False),
    )
    tax = Reason(
        target="",
        sources=tax_sources or (f"{charge.at}/amount",),
        placed=placed_tax,
        rule="planner:tax-as-charged",
        text=f"The tax of {charge.tax} that the shop charged on top.",
    )
    return net, tax


def _net_text(charge: _Charge, line: DocumentLine, *, inclusive: bool) -> str:
    off = charge.amount - charge.reduced
    steps = f"The price of {charge.amount}"
    steps += f", less a discount of {off}" if off else ""
    steps += f", less the tax of {charge.tax} inside it" if inclusive else ""
    return f"{steps}, is {line.net}."
