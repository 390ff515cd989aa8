"""Why a line of a further document stands where it does, and for how much."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal

from inkwell_bridge.core.amendments.correcting_lines import Correction
from inkwell_bridge.core.amendments.difference import Amounts, Place
from inkwell_bridge.core.amendments.posted_sale import PostedSale
from inkwell_bridge.core.books import LedgerDocument
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner.plan import Plan, Reason

RULE = "planner:difference"


def reasons_of(
    place: int, made: Sequence[Correction], wanted: Plan, order: Order, sale: PostedSale
) -> Iterator[Reason]:
    """Why each line of a further document is as it is; and its day."""
    why = "cancelled" if order.cancelled else "changed"
    yield Reason(target=f"/documents/{place}/date", sources=("/changed_at",), rule="planner:date-changed",
                 text=f"The day the order was {why}.")  # fmt: skip
    known = _coding_reasons(sale.plan) | _coding_reasons(wanted)
    for number, (difference, _) in enumerate(made):
        was, now = _amounts(difference.posted), _amounts(difference.wanted)
        text = f"{now} by now; {was} stood in the books."
        if difference.posted.is_nothing:
            text = f"{now} by now, of which nothing stood in the books."
        elif difference.wanted.is_nothing:
            text = f"Nothing of it is left by now; {was} stood in the books."
        coded = known.get(difference.place, {})
        # Of what is gone from the order there is nothing left to point at.
        gone = difference.wanted.is_nothing
        sources = coded["net"].sources if "net" in coded and not gone else ()
        for name in ("net", "tax"):
            yield Reason(target=f"/documents/{place}/lines/{number}/{name}", sources=sources, rule=RULE, text=text)
        for name in ("account", "tax_code"):
            if name in coded:
                target = f"/documents/{place}/lines/{number}/{name}"
                yield replace(coded[name], target=target, sources=() if gone else coded[name].sources)


def _coding_reasons(plan: Plan) -> dict[Place, dict[str, Reason]]:
    """Why each place of the ledger documents of a plan has its amounts, account and code."""
    found: dict[Place, dict[str, Reason]] = {}
    by_target = {reason.target: reason for reason in plan.reasons}
    for index, document in enumerate(plan.documents):
        if isinstance(document, LedgerDocument):
            for number, line in enumerate(document.lines):
                at = f"/documents/{index}/lines/{number}"
                reasons = {name: by_target[f"{at}/{name}"] for name in ("net", "account", "tax_code")
                        if f"{at}/{name}" in by_target}  # fmt: skip
                found.setdefault(Place.of(line), reasons)
    return found


def _amounts(amounts: Amounts) -> str:
    pieces = f"{_plain(amounts.quantity)} for " if amounts.quantity else ""
    return f"{pieces}{amounts.net}{f' and {amounts.tax} of tax' if amounts.tax else ''}"


def _plain(quantity: Decimal) -> str:
    return f"{quantity.normalize():f}"
