"""The final invoice of what was paid ahead: what is left of it becomes a sale, and is deducted; nothing is owed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from functools import partial, reduce
from itertools import groupby

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import Seen
from inkwell_bridge.core.findings import Cause, Finding, Level
from inkwell_bridge.core.planner.charges import OneCharge, charges_of
from inkwell_bridge.core.planner.deposits import delivered, held, is_deposit, less, tax_that_waits
from inkwell_bridge.core.planner.given_back import as_order
from inkwell_bridge.core.planner.lines import Lines, add_part, ready
from inkwell_bridge.core.planner.places import Where
from inkwell_bridge.core.planner.setting import Setting


def delivery_lines(deposits: Sequence[OneCharge], order: Order, setting: Setting, seen: Seen, *, place: int) -> Lines:
    """The lines of the final invoice in this place of the plan; none where all of it was given back."""
    made, where = Lines(place=place), Where(order, setting)
    made.deposits = [one for one in _left(deposits, order, setting) if any(held(one, order, where).amounts)]
    made.findings += _too_much(made.deposits, order)
    if not made.findings:
        made.untaxed = -tax_that_waits(made.deposits, where)
        for part in delivered(made.deposits, order, where):
            add_part(made, part, order=order, setting=setting, seen=seen)
    return made


def _left(deposits: Sequence[OneCharge], order: Order, setting: Setting) -> list[OneCharge]:
    """The deposits less what was given back of each before."""
    gone: dict[str, list[OneCharge]] = defaultdict(list)
    for refund in setting.given_back:
        back = as_order(refund, order)
        # These rules carried the refund, so that none of it can be without a place.
        charges, _ = ready(charges_of(back, discounts_apart=False), back, setting, Where(back, setting))
        for charge in filter(is_deposit, charges):
            gone[charge.mark].append(charge)
    take = partial(less, currency=order.currency)
    return [reduce(take, gone[deposit.mark], deposit) for deposit in deposits]


def _too_much(left: Sequence[OneCharge], order: Order) -> Iterator[Finding]:
    """An error for each line of which more was given back; the articles of a kit may make up for each other."""
    for at, charges in groupby(left, lambda one: one.at):
        charge, *others = charges
        if sum((one.reduced for one in others), charge.reduced) >= 0:
            continue
        text = f"More was given back of '{charge.title[:80]}' than was paid ahead for it (order {order.number})."
        hint = "Compare the order and its refunds in the shop; enter the final invoice by hand."
        yield Finding(id="REFUND-E006", level=Level.ERROR, at=at, cause=Cause.SOURCE_INVALID, text=text, hint=hint)
