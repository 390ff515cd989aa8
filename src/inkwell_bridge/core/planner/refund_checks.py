"""Does a refund go with its order, and with what was given back before? One that does not is never planned.

Two things come back, and each has its limit: what was charged can be credited once, what was received can be paid back
once. Neither is judged by the other: a small credit beside a large payment is a payment too much.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from decimal import Decimal

from inkwell_bridge.core.commerce import MoneyState, Order, OrderLine, Refund, RefundLine
from inkwell_bridge.core.findings import Cause, Finding, Level, source_error
from inkwell_bridge.core.planner.open_credits import Settling
from inkwell_bridge.core.planner.planning_context import PlanningContext

ZERO = Decimal(0)


def check_refund(
    refund: Refund, order: Order, context: PlanningContext, before: Sequence[Refund], settled: Settling
) -> Iterator[Finding]:
    """What is wrong with the refund itself, each as an error that holds it; ``before`` went back already, and what is
    ``settled`` was credited before."""
    if not settled.is_all:
        yield from _lines(settled.rest, order, before)
    if refund.currency not in context.currencies or refund.currency != order.currency:
        text = (f"Refund {refund.number} is in {refund.currency}, the order in {order.currency}, the books in "
                f"{context.master_data.currency}.")  # fmt: skip
        hint = "Enter it in the books by hand."
        yield source_error("SRC-E003", "/currency", text, hint, cause=Cause.CURRENCY_NOT_KEPT)
        return
    yield from _adds_up(settled.rest, by_line=not context.rulebook.tax_codes.works_out)


def check_amounts(
    refund: Refund, order: Order, context: PlanningContext, before: Sequence[Refund], settled: Settling,
    held: Sequence[Refund],
) -> Iterator[Finding]:  # fmt: skip
    """Does it go beyond its order, or pay another amount than it credits? All as the sales side told them: converted,
    each would be rounded, and a penny would look like money too much.

    What is ``held`` is not in the books yet, and its money is gone all the same.
    """
    gone = [*before, *held]
    credited = sum((one.total for one in gone), ZERO)
    paid_back = sum((moved(one) for one in gone), ZERO)
    is_kindness = not (settled.rest.lines or settled.rest.shipping)
    if is_kindness and context.rulebook.refunds and context.rulebook.refunds.beyond_paid == "goodwill":
        yield from (_as_kindness(one) for one in _beyond(refund, order, credited, paid_back))
    else:
        yield from _beyond(refund, order, credited, paid_back)
    # What the order still owes, less what earlier credits took off that: so much of this credit needs no money.
    in_books = sum((one.total - moved(one) for one in before), ZERO)
    unpaid = max(order.total - order.received - in_books, ZERO)
    yield from _money_differs(refund, context, unpaid)


def moved(refund: Refund) -> Decimal:
    """The money that went back."""
    return sum((one.amount for one in refund.payments if one.state is MoneyState.RECEIVED), ZERO)


def _lines(refund: Refund, order: Order, before: Sequence[Refund]) -> Iterator[Finding]:
    known = {line.id: line for line in order.lines}
    unknown = [one.line for one in refund.lines if one.line not in known]
    if unknown:
        text = f"Refund {refund.number} names line {unknown[0]}, which order {order.number} does not have."
        yield source_error("REFUND-E001", "/lines", text, "Look at both in the shop.")
    if not (refund.lines or refund.shipping or refund.goodwill):
        text = f"Refund {refund.number} gives nothing back that has a line."
        yield source_error("REFUND-E003", "", text, "Look at it in the shop.")
    # By article as well, for two articles of one kit may come back on a row each.
    twice = [name for (name, _), count in Counter((one.line, one.sku) for one in refund.lines).items() if count > 1]
    if twice:
        text = f"Refund {refund.number} names line {twice[0]} twice, so that nobody knows which of both is meant."
        yield source_error("REFUND-E008", "/lines", text, "Correct the refund in the shop, or enter it by hand.")
    back: dict[tuple[str, str], Decimal] = defaultdict(Decimal)
    for one in (line for earlier in before for line in earlier.lines):
        back[one.line, one.sku] += one.quantity
    for index, one in enumerate(refund.lines):
        sold = _pieces_sold(known[one.line], one) if one.line in known else None
        already = back[one.line, one.sku]
        if sold is not None and already + one.quantity > sold:
            text = (f"Refund {refund.number} takes back {_plain(one.quantity)} of line {one.line}, after "
                    f"{_plain(already)} before; {_plain(sold)} were sold.")  # fmt: skip
            yield source_error("REFUND-E007", f"/lines/{index}/quantity", text, "Compare the order and its refunds.")


def _pieces_sold(line: OrderLine, back: RefundLine) -> Decimal:
    """Of the line, or of the one article of a kit that is named."""
    named = [part.quantity for part in line.components if back.sku not in {"", line.sku} and part.sku == back.sku]
    return line.quantity * sum(named, ZERO) if named else line.quantity


def _adds_up(refund: Refund, *, by_line: bool) -> Iterator[Finding]:
    charges = (*refund.shipping, *refund.goodwill)
    parts = sum((one.amount for one in refund.lines), refund.cash_rounding)
    parts += sum((one.reduced for one in charges), ZERO)
    taxed = [*(one.taxes for one in refund.lines), *(one.taxes for one in charges)]
    taxes = sum((tax.amount for of_one in taxed for tax in of_one), ZERO)
    if by_line and taxes != refund.tax_total:
        text = f"The taxes of refund {refund.number} come to {taxes}, but it says {refund.tax_total} {refund.currency}."
        yield source_error(
            "SRC-E006", "/tax_total", text, "An amount of tax has no line; look at the refund in the shop."
        )
    if not refund.prices_include_tax:
        parts += taxes if by_line else refund.tax_total
    if parts != refund.total:
        text = (
            f"The parts of refund {refund.number} come to {parts}, but its total is {refund.total} {refund.currency}."
        )
        yield source_error(
            "SRC-E007", "/total", text, "Something that was given back has no line; look at it in the shop."
        )


def _beyond(refund: Refund, order: Order, credited: Decimal, paid_back: Decimal) -> Iterator[Finding]:
    """More credited than was charged, or more paid back than was received."""
    hint = "Compare the order in the shop; enter it by hand if the money really went."
    # Who paid too much may have all of it back, though less was charged.
    charged = max(order.total, order.received)
    if credited + refund.total > charged:
        text = (f"Refund {refund.number} of {refund.total}, after {credited} before, goes beyond what was charged: "
                f"{charged} {order.currency} for order {order.number}.")  # fmt: skip
        yield source_error("REFUND-E002", "/total", text, hint)
    money = moved(refund)
    # Held against what came in, and not against the credit: money that was never received cannot go back.
    if money and paid_back + money > order.received:
        text = (f"Refund {refund.number} pays {money} back, after {paid_back} before, which goes beyond what was paid: "
                f"{order.received} {order.currency} for order {order.number}.")  # fmt: skip
        yield source_error("REFUND-E002", "/payments", text, hint)


def _as_kindness(beyond: Finding) -> Finding:
    """What goes beyond, as a note: by rule it is given."""
    update = {"id": "REFUND-N004", "level": Level.NOTE, "cause": None,
              "hint": "The rulebook's rule /refunds/beyond_paid says that it is a kindness."}  # fmt: skip
    return beyond.model_copy(update=update)


def _money_differs(refund: Refund, context: PlanningContext, unpaid: Decimal) -> Iterator[Finding]:
    """Money that is neither the credit nor what of it was ever paid has a reason by rule, or waits for a person.

    A credit that no money follows is one on the customer's account. What an order still owes comes off a credit first.
    """
    money, rules = moved(refund), context.rulebook.refunds
    if not money or rules is None or max(refund.total - unpaid, ZERO) <= money <= refund.total:
        return
    text = f"Refund {refund.number} credits {refund.total} {refund.currency} and pays {money} back"
    if rules.money_differs == "leave open":
        yield Finding(id="REFUND-N001", level=Level.NOTE, at="/payments",
                      text=f"{text}: {refund.total - money:+} stays open on the customer's account.",
                      hint="The rulebook's rule /refunds/money_differs says so.")  # fmt: skip
        return
    hint = ("Look at both in the shop. Where such differences are meant to stay open on the customer's account, set "
            "refunds: money_differs to 'leave open', publish and release.")  # fmt: skip
    yield source_error(
        "REFUND-E009", "/payments", f"{text}, and no rule gives a reason.", hint, cause=Cause.RULE_MISSING
    )


def _plain(quantity: Decimal) -> str:
    return f"{quantity.normalize():f}"
