"""What an order holds that no rule of this format says anything about yet: it waits, it is never guessed."""

from __future__ import annotations

from collections.abc import Iterator

from inkwell_bridge.core.commerce import Nature, Order
from inkwell_bridge.core.findings import Cause, Finding, Level

_LIABILITIES = frozenset({Nature.GIFT_CARD, Nature.VOUCHER, Nature.DEPOSIT})


def unruled(order: Order) -> Iterator[Finding]:
    """An error for each amount that would stand on the wrong account without a rule of its own."""
    for place, line in enumerate(order.lines):
        if line.nature in _LIABILITIES:
            yield _missing(f"/lines/{place}", f"a {line.nature} ({line.title[:80]})", order)
    for place, extra in enumerate(order.extras):
        yield _missing(f"/extras/{place}", f"a {extra.kind} of {extra.amount} {order.currency}", order)
    if order.cash_rounding:
        yield _missing("/cash_rounding", f"cash rounding of {order.cash_rounding} {order.currency}", order)
    for place, charge in enumerate(order.charges):
        if any(tax.kept for tax in charge.taxes):
            yield _missing(f"/charges/{place}/taxes", "a tax that the marketplace keeps", order)


def _missing(at: str, what: str, order: Order) -> Finding:
    return Finding(
        id="PLAN-E002",
        level=Level.ERROR,
        at=at,
        cause=Cause.RULE_MISSING,
        text=f"Order {order.number} holds {what}, and the rulebook has no rule for it.",
        hint="Enter this order in the books by hand, or leave such orders out.",
    )
