"""Lines to be: what each takes of the source's amounts, the account and tax code that the rules gave it, and why.

A part's net is what remains of its price after reductions and tax, so that nothing is rounded twice.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import LineKind
from inkwell_bridge.core.commerce import Order, OrderLine
from inkwell_bridge.core.commerce.line import PIECE
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import ChargeTax, PlannedCharge
from inkwell_bridge.core.planner.discounts import DiscountShare
from inkwell_bridge.core.planner.plan import AllocatedAmount, Withheld
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.levels import Chosen
from inkwell_bridge.core.values import LONGEST_CODE

ZERO = Decimal(0)


@record
class PlannedLine:
    """One line to be, with the parts of source amounts that make its net and its tax, and why.

    ``prefix`` goes before its text, whatever the rules make of that.
    """

    kind: LineKind
    line_reference: str
    at: str
    title: str
    account: Chosen
    code: Chosen
    net: tuple[AllocatedAmount, ...]
    tax: tuple[AllocatedAmount, ...]
    net_reason: tuple[str, str]
    tax_reason: tuple[str, str]
    quantity: Decimal = Decimal(1)
    unit: str = PIECE
    charge: PlannedCharge | None = None
    tax_sources: tuple[str, ...] = ()
    prefix: str = ""

    @property
    def amounts(self) -> tuple[Decimal, Decimal]:
        """Net and tax."""
        return _total(self.net), _total(self.tax)


def _total(allocated: Sequence[AllocatedAmount]) -> Decimal:
    total = ZERO
    for one in allocated:
        total += one.amount
    return total


def charge_line(charge: PlannedCharge, order: Order, coding: AccountCoding) -> PlannedLine:
    """The line of a charge."""
    on_lines = not coding.taxes_apart(charge)
    own, price = charge.tax, charge.takes_from
    tax = own if on_lines else ZERO
    # A discount on a line of its own takes its tax with it, so the line above bears that of the full price.
    back = -sum((share.tax for share in charge.discounts), ZERO) if on_lines else ZERO
    if back:
        tax += back
    if order.prices_include_tax:
        # The price holds the tax, so net is what is left of it: both come from one source amount.
        inside = own + back + (charge.kept_tax if charge.kept else ZERO)
        net = (AllocatedAmount(source=price, amount=charge.amount - inside), *charge.reductions)
        allocated_tax: tuple[AllocatedAmount, ...] = (AllocatedAmount(source=price, amount=tax),)
    else:
        net = (AllocatedAmount(source=price, amount=charge.amount), *charge.reductions)
        allocated_tax = _on_top(charge, back) if on_lines else ()
    return PlannedLine(
        kind=charge.kind,
        line_reference=charge.line_reference,
        at=charge.at,
        title=charge.title,
        account=coding.account(charge),
        code=coding.code(charge),
        net=net,
        tax=allocated_tax,
        net_reason=_net_reason(charge, order, tax),
        tax_reason=_tax_reason(charge, order, on_lines=on_lines, tax=tax),
        quantity=charge.quantity,
        unit=charge.charge.unit if isinstance(charge.charge, OrderLine) else PIECE,
        charge=charge,
        tax_sources=tuple([one.source for one in charge.own]),
    )


def _on_top(charge: PlannedCharge, back: Decimal) -> tuple[AllocatedAmount, ...]:
    """Taxes that come on top, and what a discount takes with it."""
    allocated = [AllocatedAmount(source=one.source, amount=one.tax.amount) for one in charge.own]
    if back:
        allocated.append(AllocatedAmount(source=_tax_source(charge), amount=back))
    return tuple(allocated)


def _tax_source(charge: PlannedCharge) -> str:
    """Where the tax comes from that a discount gives back below: the first that was told, or else the price, of which
    as much is taken as is given back."""
    return charge.own[0].source if charge.own else charge.takes_from


def discount_lines(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> Iterator[PlannedLine]:
    """Discounts on lines of their own: one for each discount, account and tax code."""
    # By code, for a line bears one rate; by account, for what reduces goods is not what reduces carriage.
    groups: dict[tuple[int, Chosen, Chosen], list[tuple[PlannedCharge, DiscountShare]]] = {}
    for charge in charges:
        for share in charge.discounts:
            groups.setdefault((share.number, coding.discount_account(charge), coding.code(charge)), []).append(
                (charge, share)
            )
    for number, ((_, account, code), shares) in enumerate(groups.items(), start=1):
        net: list[AllocatedAmount] = []
        tax: list[AllocatedAmount] = []
        for charge, share in shares:
            source, back = share.source, -share.tax
            if order.prices_include_tax:
                # Of a discount on prices with tax a part is tax: it comes off the tax above, the rest off the net.
                net.append(AllocatedAmount(source=source, amount=share.amount + back))
                tax.append(AllocatedAmount(source=source, amount=-back))
            else:
                net.append(AllocatedAmount(source=source, amount=share.amount))
                if back:
                    tax.append(AllocatedAmount(source=_tax_source(charge), amount=-back))
        first = shares[0][1]
        title = first.title
        text = f"The discount '{title}' on what stands above under {code.code}."
        yield PlannedLine(
            kind=LineKind.DISCOUNT,
            line_reference=f"discount {number}",
            at=first.source.removesuffix("/amount"),
            title=title,
            account=account,
            code=code,
            net=tuple(net),
            tax=tuple(tax),
            net_reason=("/orders/discounts", text),
            tax_reason=(
                "/orders/discounts",
                "The tax that the discount takes with it, at the rate of what it reduces.",
            ),
        )


def tax_lines(charges: Sequence[PlannedCharge], order: Order, coding: AccountCoding) -> Iterator[PlannedLine]:
    """Taxes on lines of their own: one for each tax, or one for all of them."""
    groups: dict[str, list[tuple[PlannedCharge, ChargeTax]]] = {}
    one_line = coding.rules.tax_codes.carry == "one line"
    for charge in charges:
        for one in charge.own if coding.taxes_apart(charge) else ():
            name = "Tax" if one_line else _named(one)
            groups.setdefault(name, []).append((charge, one))
    rule = "/tax_codes/carry" if one_line else "/tax_codes/as_lines"
    for number, (name, parts) in enumerate(groups.items(), start=1):
        # A tax inside the price is taken from the price: the shop told it, but the buyer paid no amount besides.
        allocated = tuple(
            AllocatedAmount(source=charge.takes_from if order.prices_include_tax else one.source, amount=one.tax.amount)
            for charge, one in parts
        )
        # A line of nothing would be refused by some books, and says nothing in the others.
        if not sum((part.amount for part in allocated), ZERO):
            continue
        yield PlannedLine(
            kind=LineKind.TAX,
            line_reference=f"tax {name if len(name) <= LONGEST_CODE else number}",
            at=parts[0][0].at,
            title=name,
            account=coding.tax_account(name),
            code=coding.outside(rule),
            net=allocated,
            tax=(),
            net_reason=(rule, f"{name}, as the shop charged it, on a line of its own."),
            tax_reason=(rule, "A line of tax is not taxed in turn."),
            tax_sources=tuple(one.source for _, one in parts),
        )


def _named(one: ChargeTax) -> str:
    tax = one.tax
    return " ".join(filter(None, (tax.jurisdiction, tax.name))) or f"Tax of {tax.rate_percent.normalize():f} %"


def kept_of(charge: PlannedCharge, order: Order) -> Iterator[Withheld]:
    """What of a charge a marketplace keeps."""
    for one in charge.kept:
        if one.tax.amount:
            source = charge.takes_from if order.prices_include_tax else one.source
            text = f"{_named(one)} on '{charge.title[:80]}', which the marketplace keeps: it never is the seller's."
            yield Withheld(source=source, amount=one.tax.amount, text=text)


def _net_reason(charge: PlannedCharge, order: Order, tax: Decimal) -> tuple[str, str]:
    # With !s an amount writes itself, in a fifth of the time that its format takes.
    text, net = f"The price of {charge.amount!s}", charge.amount
    if charge.reductions:
        shares = ", ".join(f"{-part.amount}" for part in charge.reductions)
        text += f", less a discount of {shares}"
        net += _total(charge.reductions)
    if order.prices_include_tax:
        inside = tax + charge.kept_tax if charge.kept else tax
        return "planner:tax-inclusive-remainder", f"{text}, less the tax of {inside!s} inside it, is {net - inside!s}."
    why = f"{text}, is {net!s} without tax." if charge.reductions else f"{text}, which holds no tax."
    return "planner:price-without-tax", why


def _tax_reason(charge: PlannedCharge, order: Order, *, on_lines: bool, tax: Decimal) -> tuple[str, str]:
    if charge.kept:
        return "/tax_codes/kept", f"The marketplace keeps the tax of {charge.kept_tax}, so none is the seller's."
    if not on_lines:
        return "/tax_codes/carry", f"The tax of {charge.tax} stands on a line of its own."
    if charge.worked_out:
        rate = charge.own[0].tax.rate_percent.normalize() if charge.own else ZERO
        return "/tax_codes/amounts", f"The tax of {tax}, worked out at {rate:f} %, the rate of its code."
    how = "inside the price" if order.prices_include_tax else "on top"
    if charge.discounts:
        return (
            "planner:tax-as-charged",
            f"The tax of {tax}, that of the full price; a line below takes the discount's off.",
        )
    return "planner:tax-as-charged", f"The tax of {tax!s} that the shop charged {how}."
