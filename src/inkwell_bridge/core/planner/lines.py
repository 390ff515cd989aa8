"""The lines of a document, each amount with where it was taken from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal
from functools import cache
from typing import Any

from inkwell_bridge.core.books import Dimension, DocumentLine, Field, LineKind
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import LINE, NotEvaluated, Seen, seen_of_line
from inkwell_bridge.core.expressions.expression import Names
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.money import exact, rounded
from inkwell_bridge.core.planner.charges import OneCharge, in_pieces
from inkwell_bridge.core.planner.deposits import is_deposit, of_every, tax_that_waits
from inkwell_bridge.core.planner.items import on_items
from inkwell_bridge.core.planner.kits import in_components
from inkwell_bridge.core.planner.parts import Part, kept_of
from inkwell_bridge.core.planner.places import Where
from inkwell_bridge.core.planner.plan import Deducted, Placed, Reason, Withheld
from inkwell_bridge.core.planner.rounding_line import rounding_line, rounding_place
from inkwell_bridge.core.planner.setting import Setting
from inkwell_bridge.core.planner.working_out import (
    WHOLE_TAX,
    check_missed,
    missed,
    with_worked_out_taxes,
    without_own_taxes,
)
from inkwell_bridge.core.rulebook.accounts import Chosen
from inkwell_bridge.core.rulebook.fields import FieldRule
from inkwell_bridge.core.values import LONGEST_CODE, LONGEST_TEXT

ZERO = Decimal(0)
# What charges become, and what stands in the way.
Split = tuple[list[OneCharge], list[Finding]]


@dataclass(slots=True)
class Lines:
    """What became of all charges, for the document in ``place`` of the plan; ``deposits`` are those paid ahead.

    ``untaxed`` is the tax that waits for the delivery of deposits; that of a delivery is taken off again.
    """

    lines: list[DocumentLine] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    withheld: list[Withheld] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    deposits: list[OneCharge] = field(default_factory=list)
    deducted: list[Deducted] = field(default_factory=list)
    untaxed: Decimal = ZERO
    place: int = 0

    @property
    def aside(self) -> Decimal:
        """What never comes as money: withheld by a marketplace, or paid by vouchers that were taxed before."""
        return sum((one.amount for one in self.withheld), ZERO) + sum((one.gross for one in self.deducted), ZERO)


def plan_lines(charges: Sequence[OneCharge], order: Order, setting: Setting, seen: Seen) -> Lines:
    """The lines for these charges of an order, or what stands in the way of them."""
    planned = Lines()
    where = Where(order, setting)
    every, planned.findings = ready(charges, order, setting, where)
    planned.findings += where.missing(every)
    if blocking(planned.findings):
        return planned
    left = missed(every, order) if setting.rulebook.tax_codes.works_out else ZERO
    planned.findings += check_missed(left, order, where)
    for part in of_every(every, order, where):
        add_part(planned, part, order=order, setting=setting, seen=seen)
    planned.deposits = [charge for charge in every if is_deposit(charge)]
    planned.untaxed = tax_that_waits(planned.deposits, where)
    planned.withheld += [kept for charge in every if charge.kept for kept in kept_of(charge, order)]
    if left and not order.prices_include_tax:
        _add_missed(planned, left, order, setting)
    return planned


def ready(charges: Sequence[OneCharge], order: Order, setting: Setting, where: Where) -> Split:
    """The charges as they are to stand, each with its taxes; and what stands in the way of some."""
    taken = without_own_taxes(charges, setting.rulebook.tax_codes)
    standing, findings = _standing(taken, order, setting, where)
    return with_worked_out_taxes(standing, order, where), findings


def _add_missed(planned: Lines, left: Decimal, order: Order, setting: Setting) -> None:
    """So much of the shop's whole tax came of no rate: a line of its own."""
    place = rounding_place(planned.lines, setting.rulebook)
    text = f"The shop charged {left:+} of tax beyond what the rates make: it goes to {place.text}."
    add_rounding(planned, left, place, order, setting, source=WHOLE_TAX, mark="tax rounding",
                 says=("Rounding difference of tax", text))  # fmt: skip


def add_rounding(
    planned: Lines, amount: Decimal, place: Chosen, order: Order, setting: Setting, *, source: str, mark: str,
    says: tuple[str, str],
) -> None:  # fmt: skip
    """A line outside tax that takes ``amount`` of ``source``; ``says`` are its text and its reason."""
    title, why = says
    target = f"/documents/0/lines/{len(planned.lines)}/net"
    planned.lines.append(rounding_line(amount, place.code, setting.rulebook, mark=mark, text=title,
                                       order_number=order.number, link=order.link))  # fmt: skip
    placed = (Placed(source=source, amount=amount),)
    planned.reasons.append(Reason(target=target, sources=(source,), rule=place.rule, text=why, placed=placed))


def _standing(charges: Sequence[OneCharge], order: Order, setting: Setting, where: Where) -> Split:
    """Each charge as it is to stand: kits in their articles, articles on their items, packs in pieces."""
    rules, items = setting.rulebook.orders, setting.rulebook.items
    how: dict[str, Any] = {"currency": order.currency, "inclusive": order.prices_include_tax, "rate_of": where.rate}
    findings: list[Finding] = []
    standing = list(charges)
    if rules.kits == "components":
        standing = _each(standing, lambda one: in_components(one, **how), findings)
    if items is not None:
        standing = _each(standing, lambda one: on_items(one, items, setting.articles, **how), findings)
    return [in_pieces(one) for one in standing] if rules.packs == "pieces" else standing, findings


def _each(charges: Sequence[OneCharge], how: Callable[[OneCharge], Split], findings: list[Finding]) -> list[OneCharge]:
    made: list[OneCharge] = []
    for charge in charges:
        parts, found = how(charge)
        made += parts
        findings += found
    return made


def add_part(planned: Lines, part: Part, *, order: Order, setting: Setting, seen: Seen) -> None:
    """Make a part a line, with its reasons; a field of it that comes to nothing is a finding."""
    try:
        line = _line(part, order, setting, seen)
    except NotEvaluated as error:
        text = f"A field of order {order.number} could not be worked out: {error}."
        planned.findings.append(
            Finding(id="RULE-E006", level=Level.ERROR, at=part.at, cause=Cause.RULE_MISSING, text=text,
                    hint="Let the rule name what every order has, or give it a default.")
        )  # fmt: skip
        return
    planned.reasons += _reasons(part, f"/documents/{planned.place}/lines/{len(planned.lines)}")
    planned.lines.append(line)


def _line(part: Part, order: Order, setting: Setting, seen: Seen) -> DocumentLine:
    net, tax = part.amounts
    net, tax = exact(net, order.currency), exact(tax, order.currency)
    rules = setting.rulebook
    charge = part.charge
    asks = bool(rules.fields.line_text or rules.fields.line_further or rules.dimensions)
    of_line = seen_of_line(charge.charge, order.currency, seen) if charge and asks else None
    title = part.title
    if rules.fields.line_text and of_line is not None:
        title = rules.fields.line_text.of(LINE, of_line) or title
    title = f"{part.prefix}{title}"[:LONGEST_TEXT]
    quantity, unit_price, text = _priced(part.quantity, net, title, order.currency, setting.capabilities.price_digits)
    stocked = part.kind is LineKind.GOODS and rules.warehouses.any
    return DocumentLine(
        kind=part.kind,
        mark=part.mark,
        text=text,
        account=part.account.code,
        item=charge.item.code if charge and charge.item else "",
        quantity=quantity,
        unit=part.unit,
        unit_price=unit_price,
        net=net,
        tax=tax,
        tax_code=part.code.code,
        warehouse=rules.warehouses.of((charge.location if charge else "") or order.location) if stocked else "",
        dimensions=_dimensions(setting, of_line) if of_line is not None else (),
        order_number=order.number,
        link=order.link,
        fields=further(rules.fields.line_further, LINE, of_line) if of_line is not None else (),
    )


def further(rules: Mapping[str, FieldRule], names: Names, seen: Seen) -> tuple[Field, ...]:
    """The fields that the books keep beside their own; one that comes to nothing is none."""
    values = ((name, rule.of(names, seen)) for name, rule in rules.items())
    return tuple(Field(name=name, value=value) for name, value in values if value)


def _dimensions(setting: Setting, of_line: Seen) -> tuple[Dimension, ...]:
    values = (
        (name, rule.of(LINE, of_line, longest=LONGEST_CODE)) for name, rule in setting.rulebook.dimensions.items()
    )
    return tuple(Dimension(name=name, value=value) for name, value in values if value)


def _priced(
    quantity: Decimal, net: Decimal, title: str, currency: str, price_digits: int
) -> tuple[Decimal, Decimal, str]:
    """Quantity and unit price that multiply back to ``net`` exactly, and the text that goes with them."""
    step = _step(price_digits)
    if not quantity:
        # Money came back for a line of which nothing did.
        return Decimal(1), net.quantize(step), title
    one = quantity == 1
    unit_price = (net if one else net / quantity).quantize(step, rounding=ROUND_HALF_UP)
    if (unit_price if one else rounded(unit_price * quantity, currency)) == net:
        return quantity, unit_price, title
    # A price of so few digits cannot stand for so many pieces: one line for the lot keeps the amount.
    return Decimal(1), net.quantize(step), f"{quantity.normalize():f} x {title}"[:LONGEST_TEXT]


@cache
def _step(price_digits: int) -> Decimal:
    return Decimal(1).scaleb(-price_digits)


def _reasons(part: Part, target: str) -> list[Reason]:
    net_rule, net_text = part.net_reason
    tax_rule, tax_text = part.tax_reason
    account, code, at = part.account, part.code, part.at
    net, tax = _sources(part.net, part.tax_sources), _sources(part.tax, part.tax_sources)
    reasons = [
        Reason(target=f"{target}/net", sources=net, placed=part.net, rule=net_rule, text=net_text),
        Reason(target=f"{target}/tax", sources=tax or net[:1], placed=part.tax, rule=tax_rule, text=tax_text),
        Reason(target=f"{target}/account", sources=(at,), rule=account.rule, text=account.text),
        Reason(target=f"{target}/tax_code", sources=(f"{at}/tax_class",), rule=code.rule, text=code.text),
    ]
    if part.charge and part.charge.item:
        item = part.charge.item
        reasons.append(Reason(target=f"{target}/item", sources=(f"{at}/sku",), rule=item.rule, text=item.text))
    return reasons


def _sources(placed: Sequence[Placed], others: Sequence[str]) -> tuple[str, ...]:
    """Each source once, in their order."""
    return tuple(dict.fromkeys((*[one.source for one in placed], *others)))
