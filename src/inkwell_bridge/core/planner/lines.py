"""The lines of a document, each amount with where it was taken from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import DocumentLine, LineKind
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import EvaluationContext, NotEvaluated
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.money import allocate, exact
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import PlannedCharge, in_pieces
from inkwell_bridge.core.planner.deposits import is_deposit, lines_of_charges, tax_that_waits
from inkwell_bridge.core.planner.items import on_items
from inkwell_bridge.core.planner.kits import in_components
from inkwell_bridge.core.planner.plan import AllocatedAmount, Deducted, Reason, Withheld
from inkwell_bridge.core.planner.planned_lines import PlannedLine, kept_of
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.pricing import LAST, all_but_one, priced
from inkwell_bridge.core.planner.rates import check_rates
from inkwell_bridge.core.planner.rounding_line import rounding_line, rounding_place
from inkwell_bridge.core.planner.settings import LineSettings
from inkwell_bridge.core.planner.working_out import (
    WHOLE_TAX,
    check_missed,
    missed,
    with_taxes_of_discounts,
    with_worked_out_taxes,
    without_own_taxes,
)
from inkwell_bridge.core.rulebook.levels import Chosen
from inkwell_bridge.core.values import LONGEST_TEXT

ZERO = Decimal(0)
# What charges become, and what stands in the way.
Split = tuple[list[PlannedCharge], list[Finding]]


@dataclass(slots=True)
class Lines:
    """What became of all charges, for the document in ``index`` of the plan; ``deposits`` are those paid ahead.

    ``untaxed`` is the tax that waits for the delivery of deposits; that of a delivery is taken off again.
    """

    lines: list[DocumentLine] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    withheld: list[Withheld] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    deposits: list[PlannedCharge] = field(default_factory=list)
    deducted: list[Deducted] = field(default_factory=list)
    untaxed: Decimal = ZERO
    index: int = 0

    @property
    def aside(self) -> Decimal:
        """What never comes as money: withheld by a marketplace, or paid by vouchers that were taxed before."""
        return sum((one.amount for one in self.withheld), ZERO) + sum((one.gross for one in self.deducted), ZERO)


def plan_lines(standing: Split, order: Order, context: PlanningContext, evaluation: EvaluationContext) -> Lines:
    """The lines for charges of an order that are ``ready``, or what stands in the way of them."""
    planned = Lines()
    coding = AccountCoding(order, context)
    # All charges are looked at before any becomes a line, so that a person hears of everything at once.
    every, found = standing
    planned.findings = [*found, *coding.missing(every)]
    if blocking(planned.findings):
        return planned
    planned.findings += check_rates(every, order, coding)
    # The buyer paid the shop's tax, not the rates': what these miss must stand somewhere, or money is left over.
    left = missed(every, order) if context.rulebook.tax_codes.works_out else ZERO
    planned.findings += check_missed(left, order, coding)
    for part in lines_of_charges(every, order, coding):
        add_line(planned, part, order=order, context=context, evaluation=evaluation)
    planned.deposits = [charge for charge in every if is_deposit(charge)]
    planned.untaxed = tax_that_waits(planned.deposits, coding)
    planned.withheld += [kept for charge in every if charge.kept for kept in kept_of(charge, order)]
    if left and not order.prices_include_tax:
        _add_missed(planned, left, order, context)
    return planned


def ready(charges: Sequence[PlannedCharge], order: Order, context: PlanningContext, coding: AccountCoding) -> Split:
    """The charges as they are to stand, each with its taxes; and what stands in the way of some."""
    taken = without_own_taxes(charges, context.rulebook.tax_codes)
    standing, findings = _standing(taken, order, context, coding)
    return with_taxes_of_discounts(with_worked_out_taxes(standing, order, coding), order, coding), findings


def _add_missed(planned: Lines, left: Decimal, order: Order, context: PlanningContext) -> None:
    """So much of the shop's whole tax came of no rate: a line of its own."""
    index = rounding_place(planned.lines, context.rulebook)
    text = f"The shop charged {left:+} of tax beyond what the rates make: it goes to {index.text}."
    add_rounding(planned, left, index, order, context, source=WHOLE_TAX, line_reference="tax rounding",
                 says=("Rounding difference of tax", text))  # fmt: skip


def add_rounding(
    planned: Lines,
    amount: Decimal,
    index: Chosen,
    order: Order,
    context: PlanningContext,
    *,
    source: str,
    line_reference: str,
    says: tuple[str, str],
) -> None:
    """A line outside tax that takes ``amount`` of ``source``; ``says`` are its text and its reason."""
    title, why = says
    target = f"/documents/0/lines/{len(planned.lines)}/net"
    planned.lines.append(rounding_line(amount, index.code, context.rulebook, line_reference=line_reference, text=title,
                                       order_number=order.number, link=order.link))  # fmt: skip
    allocated = (AllocatedAmount(source=source, amount=amount),)
    planned.reasons.append(Reason(target=target, sources=(source,), rule=index.rule, text=why, allocated=allocated))


def _standing(charges: Sequence[PlannedCharge], order: Order, context: PlanningContext, coding: AccountCoding) -> Split:
    """Each charge as it is to stand: kits in their articles, articles on their items, packs in pieces."""
    rules, items = context.rulebook.orders, context.rulebook.items
    how: dict[str, Any] = {"currency": order.currency, "inclusive": order.prices_include_tax, "rate_of": coding.rate}
    findings: list[Finding] = []
    standing = list(charges)
    # Kits first: their articles are what the books have items for.
    if rules.kits == "components":
        standing = _each(standing, lambda one: in_components(one, **how), findings)
    # Items before packs: a link may say how many pieces are in one already.
    if items is not None:
        standing = _each(standing, lambda one: on_items(one, items, context.articles, **how), findings)
    return [in_pieces(one) for one in standing] if rules.packs == "pieces" else standing, findings


def _each(
    charges: Sequence[PlannedCharge], how: Callable[[PlannedCharge], Split], findings: list[Finding]
) -> list[PlannedCharge]:
    made: list[PlannedCharge] = []
    for charge in charges:
        parts, found = how(charge)
        made += parts
        findings += found
    return made


def add_line(
    planned: Lines, part: PlannedLine, *, order: Order, context: PlanningContext, evaluation: EvaluationContext
) -> None:
    """Make a part a line, with its reasons; a field of it that comes to nothing is a finding."""
    for one in _priceable(part, order.currency, context.capabilities.price_digits):
        _add(planned, one, order, context, evaluation)


def _priceable(part: PlannedLine, currency: str, price_digits: int) -> tuple[PlannedLine, ...]:
    """A part whose price per piece can be said in the digits that the books have, or two that together are it."""
    on_item = part.charge is not None and part.charge.item is not None
    net, tax = part.amounts
    split = all_but_one(part.quantity, net, currency, price_digits) if on_item else None
    if split is None:
        return (part,)
    first, last = split
    taxes = allocate(tax, [abs(first), abs(last)], currency)
    return (
        replace(part, quantity=part.quantity - 1, net=_cut(part.net, last), tax=_cut(part.tax, taxes[1])),
        replace(
            part, line_reference=f"{part.line_reference}{LAST}", quantity=Decimal(1),
            net=_only(part.net, last), tax=_only(part.tax, taxes[1]),
        ),
    )  # fmt: skip


def _cut(allocated: Sequence[AllocatedAmount], amount: Decimal) -> tuple[AllocatedAmount, ...]:
    """These amounts, of which so much of the first stands elsewhere."""
    if not allocated:
        return ()
    first, *others = allocated
    return (replace(first, amount=first.amount - amount), *others)


def _only(allocated: Sequence[AllocatedAmount], amount: Decimal) -> tuple[AllocatedAmount, ...]:
    return (replace(allocated[0], amount=amount),) if allocated else ()


def _add(
    planned: Lines, part: PlannedLine, order: Order, context: PlanningContext, evaluation: EvaluationContext
) -> None:  # fmt: skip
    settings = LineSettings.of(part, order, context.rulebook, evaluation)
    try:
        line = _line(part, order, context, settings)
    except NotEvaluated as error:
        text = f"A field of order {order.number} could not be worked out: {error}."
        planned.findings.append(
            Finding(id="RULE-E006", level=Level.ERROR, at=part.at, cause=Cause.RULE_MISSING, text=text,
                    hint="Let the rule name what every order has, or give it a default.")
        )  # fmt: skip
        return
    target = f"/documents/{planned.index}/lines/{len(planned.lines)}"
    planned.reasons += _reasons(part, target)
    planned.reasons += settings.reasons(line, target, part.at)
    planned.lines.append(line)


def _line(part: PlannedLine, order: Order, context: PlanningContext, settings: LineSettings) -> DocumentLine:
    net, tax = part.amounts
    # As many digits as the currency has: books take no thousandth of a penny.
    net, tax = exact(net, order.currency), exact(tax, order.currency)
    charge = part.charge
    title = f"{part.prefix}{settings.text() or part.title}"[:LONGEST_TEXT]
    quantity, unit_price, text = priced(part.quantity, net, title, order.currency, context.capabilities.price_digits)
    return DocumentLine(
        kind=part.kind,
        line_reference=part.line_reference,
        text=text,
        account=part.account.code,
        item=charge.item.code if charge and charge.item else "",
        quantity=quantity,
        unit=part.unit,
        unit_price=unit_price,
        net=net,
        tax=tax,
        tax_code=part.code.code,
        # Carriage and tips lie in no warehouse.
        warehouse=settings.warehouse() if part.kind is LineKind.GOODS else "",
        dimensions=settings.dimensions(),
        order_number=order.number,
        link=order.link,
        fields=settings.fields(),
        # One price for the lot, or money back for a line of which no piece came back.
        pieces=None if quantity == part.quantity else part.quantity,
    )


def _reasons(part: PlannedLine, target: str) -> list[Reason]:
    net_rule, net_text = part.net_reason
    tax_rule, tax_text = part.tax_reason
    account, code, at = part.account, part.code, part.at
    net, tax = _sources(part.net, part.tax_sources), _sources(part.tax, part.tax_sources)
    reasons = [
        Reason(target=f"{target}/net", sources=net, allocated=part.net, rule=net_rule, text=net_text),
        Reason(target=f"{target}/tax", sources=tax or net[:1], allocated=part.tax, rule=tax_rule, text=tax_text),
        Reason(target=f"{target}/account", sources=(at,), rule=account.rule, text=account.text),
        Reason(target=f"{target}/tax_code", sources=(f"{at}/tax_class",), rule=code.rule, text=code.text),
    ]
    if part.charge and part.charge.item:
        item = part.charge.item
        reasons.append(Reason(target=f"{target}/item", sources=(f"{at}/sku",), rule=item.rule, text=item.text))
    return reasons


def _sources(allocated: Sequence[AllocatedAmount], others: Sequence[str]) -> tuple[str, ...]:
    """Each source once, in their order."""
    return tuple(dict.fromkeys((*[one.source for one in allocated], *others)))
