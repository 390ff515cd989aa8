"""The final invoice of what was paid ahead: what is left of it becomes a sale, and is deducted; nothing is owed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from functools import partial, reduce
from itertools import groupby

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import EvaluationContext
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.account_coding import AccountCoding
from inkwell_bridge.core.planner.charges import PlannedCharge
from inkwell_bridge.core.planner.deposits import delivered, deposit_line, is_deposit, less, tax_that_waits
from inkwell_bridge.core.planner.lines import Lines, add_line
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.returns import Returns


def delivery_lines(
    deposits: Sequence[PlannedCharge],
    order: Order,
    context: PlanningContext,
    evaluation: EvaluationContext,
    *,
    index: int,
) -> Lines:
    """The lines of the final invoice in this place of the plan; none where all of it was given back."""
    made, coding = Lines(index=index), AccountCoding(order, context)
    made.deposits = [one for one in _left(deposits, order, context) if any(deposit_line(one, order, coding).amounts)]
    made.findings += _too_much(made.deposits, order)
    if not made.findings:
        # With the delivery the tax falls due: what waited for it is taken off again.
        made.untaxed = -tax_that_waits(made.deposits, coding)
        for part in delivered(made.deposits, order, coding):
            add_line(made, part, order=order, context=context, evaluation=evaluation)
    return made


def _left(deposits: Sequence[PlannedCharge], order: Order, context: PlanningContext) -> list[PlannedCharge]:
    """The deposits less what was given back of each before."""
    gone: dict[str, list[PlannedCharge]] = defaultdict(list)
    returns = Returns(order, context)
    for refund in context.refunds_before_invoice:
        # These rules carried the refund, so that none of it can be without a place.
        charges, _ = returns.take(refund)
        for charge in filter(is_deposit, charges):
            gone[charge.line_reference].append(charge)
    # One after the other, for each was worked out from what those before it had left.
    take = partial(less, currency=order.currency)
    return [reduce(take, gone[deposit.line_reference], deposit) for deposit in deposits]


def _too_much(left: Sequence[PlannedCharge], order: Order) -> Iterator[Finding]:
    """An error for each line of which more was given back; the articles of a kit may make up for each other."""
    for at, charges in groupby(left, lambda one: one.at):
        charge, *others = charges
        # By line, for the shares of a kit's articles were rounded apart on both ways.
        if sum((one.reduced for one in others), charge.reduced) >= 0:
            continue
        text = f"More was given back of '{charge.title[:80]}' than was paid ahead for it (order {order.number})."
        hint = "Compare the order and its refunds in the shop; enter the final invoice by hand."
        yield Finding(id="REFUND-E006", level=Level.ERROR, at=at, cause=Cause.SOURCE_INVALID, text=text, hint=hint)
