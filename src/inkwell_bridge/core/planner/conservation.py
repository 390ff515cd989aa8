"""Every amount of a source document lands in exactly one place. A plan that does not add up is never posted.

Two equations hold to the minor unit. What the buyer is charged for makes the total: the lines of the sale's document
with their taxes, what a marketplace withholds, and vouchers that were taxed before. What is paid makes the same
total: the money's documents, what is withheld or was taxed before, and the balance that stays open.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.books import BooksDocument, Payment, TradeDocument
from inkwell_bridge.core.commerce import Charge, Order
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.plan import Reason, Withheld
from inkwell_bridge.core.planner.working_out import WHOLE_TAX, is_worked_out
from inkwell_bridge.core.rulebook.taxes import TaxRules

ZERO = Decimal(0)


def source_amounts(order: Order, rules: TaxRules) -> dict[str, Decimal]:
    """Every amount that the order's total is made of, signed, by its JSON Pointer."""
    amounts: dict[str, Decimal] = {}
    for coding, charges in (("/lines", order.lines), ("/shipping", order.shipping), ("/extras", order.extras)):
        amounts |= charged(coding, charges, rules, inclusive=order.prices_include_tax)
    amounts |= whole_tax(order.charges, order.tax_total, rules, inclusive=order.prices_include_tax)
    for index, discount in enumerate(order.discounts):
        amounts[f"/discounts/{index}/amount"] = -discount.amount
    if order.cash_rounding:
        amounts["/cash_rounding"] = order.cash_rounding
    return amounts


def charged(coding: str, charges: Sequence[Charge], rules: TaxRules, *, inclusive: bool) -> dict[str, Decimal]:
    """The amounts of some charges: prices, their own discounts, and taxes where these come on top as charged."""
    amounts: dict[str, Decimal] = {}
    for index, charge in enumerate(charges):
        at = f"{coding}/{index}"
        amounts[f"{at}/amount"] = charge.amount
        if charge.discount:
            amounts[f"{at}/discount"] = -charge.discount
        # Where prices hold the tax it is no amount of its own: it is split off a price that is counted already.
        if not inclusive and not is_worked_out(charge, rules):
            for number, tax in enumerate(charge.taxes):
                amounts[f"{at}/taxes/{number}/amount"] = tax.amount
    return amounts


def whole_tax(charges: Sequence[Charge], total: Decimal, rules: TaxRules, *, inclusive: bool) -> dict[str, Decimal]:
    """What is left of the whole tax for the charges whose own is worked out, where it comes on top."""
    if inclusive or not rules.works_out:
        return {}
    return {WHOLE_TAX: total - sum((one.tax for one in charges if not is_worked_out(one, rules)), ZERO)}


def conserved(
    wanted: dict[str, Decimal], total: Decimal, document: TradeDocument, reasons: Sequence[Reason],
    withheld: Sequence[Withheld] = (), *, index: int = 0,
) -> Iterator[Finding]:  # fmt: skip
    """What breaks conservation: an amount placed not at all, twice, in part, or out of nothing.

    ``index`` is the document's among those of its plan.
    """
    # The first equation, from the source: what is left over of any amount was lost, what is below zero was doubled.
    missing = dict(wanted)
    allocated = _place(reasons, missing)
    for kept_part in withheld:
        missing[kept_part.source] = missing.get(kept_part.source, ZERO) - kept_part.amount
    for source, amount in missing.items():
        if amount:
            met = wanted.get(source, ZERO)
            yield _broken(source, f"{source} is {met}, of which {met - amount} was placed")
    # The same from the document: a line may say nothing that no source gave.
    gross = ZERO
    for number, line in enumerate(document.lines):
        gross += line.net + line.tax
        for name, amount in (("net", line.net), ("tax", line.tax)):
            target = f"/documents/{index}/lines/{number}/{name}"
            if allocated.get(target, ZERO) != amount:
                given = allocated.get(target, ZERO)
                yield _broken(target, f"{target} is {amount}, but its sources give {given}")
    # What a marketplace keeps never becomes a line, and is part of the order's total nonetheless.
    kept = sum((part.amount for part in withheld), ZERO)
    if gross + kept != total:
        made = f"{gross} with {kept} withheld" if kept else f"{gross}"
        yield _broken("/total", f"the total is {total}, the {document.role}'s {made}")  # type: ignore[attr-defined]


def _place(reasons: Sequence[Reason], missing: dict[str, Decimal]) -> dict[str, Decimal]:
    """What each target was given, taken off what is still ``missing`` of each source."""
    given: dict[str, Decimal] = {}
    for reason in reasons:
        if reason.allocated:
            amount = ZERO
            for part in reason.allocated:
                # A source that nobody wanted goes below zero here, and so shows as placed out of nothing.
                missing[part.source] = missing.get(part.source, ZERO) - part.amount
                amount += part.amount
            given[reason.target] = amount
    return given


def paid_up(
    total: Decimal,
    documents: Sequence[BooksDocument],
    aside: Decimal,
    left: Decimal,
    open_balance: Decimal,
) -> Iterator[Finding]:
    """What breaks the second equation: money documents, what is left for later, and what stays open.

    ``aside`` is what never comes as money: withheld, or paid by vouchers that were taxed before.
    """
    # The second equation: every penny of the total has come, is left for later, never comes, or is owed.
    money = sum((one.amount for one in documents if isinstance(one, Payment)), ZERO)
    if money + left + aside + open_balance != total:
        text = f"{money} paid, {left} left for later, {aside} set aside and {open_balance} open do not make {total}"
        yield _broken("/payments", text)


def _broken(at: str, text: str) -> Finding:
    return Finding(
        id="PLAN-E001",
        level=Level.ERROR,
        at=at,
        cause=Cause.SOURCE_INVALID,
        text=f"The plan does not add up: {text}.",
        hint="Nothing was posted. Please report this order to the makers of Inkwell Bridge.",
    )
