"""Past documents, exported as JSON Lines, planned by rules in files: rehearsal and coverage with no service."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from inkwell_bridge.cli.files import NotRight, json_line, lines_of
from inkwell_bridge.cli.offline import linked_items, value_of, with_articles
from inkwell_bridge.core.commerce import Order, Refund, SourceKind
from inkwell_bridge.core.coverage import Coverage, MetValue, Suggestion, suggestion
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.planner import (
    LinkedItem,
    Plan,
    PlanningContext,
    as_a_run_would,
    plan_order,
    plan_refund,
)
from inkwell_bridge.core.rehearsal import Compared, Reach, Rehearsal, reach_of
from inkwell_bridge.core.rulebook import check

Links = Mapping[str, Sequence[LinkedItem]]
_READ = {SourceKind.ORDERS.value, SourceKind.REFUNDS.value}


class Documents:
    """Orders and their refunds out of exported files, an order at a time; only refunds are kept in memory."""

    def __init__(self, files: Sequence[Path]) -> None:
        self._files = files
        self._refunds: dict[str, list[Refund]] = defaultdict(list)
        for place, kind, document in self._lines():
            if kind == SourceKind.REFUNDS:
                refund = value_of(Refund, document, place)
                self._refunds[refund.order_id].append(refund)

    def __iter__(self) -> Iterator[tuple[Order, Sequence[Refund]]]:
        for place, kind, document in self._lines():
            if kind == SourceKind.ORDERS:
                order = value_of(Order, document, place)
                yield order, self._refunds.pop(order.id, ())

    @property
    def without_order(self) -> tuple[str, ...]:
        """The numbers of refunds whose order stands in none of the files, once all was gone over."""
        return tuple(refund.number for refunds in self._refunds.values() for refund in refunds)

    def _lines(self) -> Iterator[tuple[str, str, Any]]:
        for file in self._files:
            for place, line in lines_of(file):
                yield place, *_line(line, place)


def _line(line: str, place: str) -> tuple[str, Any]:
    said = json_line(line, place, made_by="inkwell documents export")
    if not isinstance(said, dict) or said.get("kind") not in _READ or "document" not in said:
        kinds = " or ".join(sorted(_READ))
        raise NotRight(f"{place}: expected an object with kind ({kinds}) and document.")
    return said["kind"], said["document"]


class _Rules:
    """One rulebook, and what it makes of an order and its refunds."""

    def __init__(self, context: PlanningContext, links: Links) -> None:
        self.context, self._links = context, links
        self._wrong: tuple[Finding, ...] = tuple(check(context.rulebook, context.master_data))

    def of(self, order: Order) -> PlanningContext:
        """The context of one order, with its articles."""
        return with_articles(order, self.context, self._links)

    def plans(self, order: Order, refunds: Sequence[Refund]) -> list[Plan]:
        """The plan of an order and of each of its refunds, one after the other."""
        context = self.of(order)
        found = [plan_order(order, context)] + [
            plan_refund(refund, order, context, refunded_before=list(refunds[:number]))
            for number, refund in enumerate(refunds)
        ]
        return [as_a_run_would(one, self._wrong, self.context.master_data) for one in found]


def rehearsed(
    before: PlanningContext, after: PlanningContext, documents: Documents, links: Path | None, *, most: int
) -> tuple[Rehearsal, list[tuple[str, str, Compared]]]:
    """What the second rules make of documents, beside the first; of those that change the first ``most``, each with its
    kind and number.

    Memory grows with refunds, accounts and codes, never with the orders.
    """
    linked = linked_items(links) if links else {}
    was, now = _Rules(before, linked), _Rules(after, linked)
    reach: Reach = reach_of(before.rulebook, after.rulebook)
    sums = Rehearsal()
    changed: list[tuple[str, str, Compared]] = []
    for order, refunds in documents:
        plans = was.plans(order, refunds)
        others = now.plans(order, refunds) if not reach.is_nothing and reach.touches(order) else [None] * len(plans)
        named = [("orders", order.number), *(("refunds", one.number) for one in refunds)]
        for (kind, number), plan, other in zip(named, plans, others, strict=True):
            compared = sums.add(plan, other)
            if compared.differs and len(changed) < most:
                changed.append((kind, number, compared))
    return sums, changed


def covered(
    context: PlanningContext, files: Sequence[Path], links: Path | None
) -> tuple[int, list[tuple[MetValue, Suggestion | None]]]:
    """How many orders there are, and every value that they hold, with what would map it where no rule does."""
    rules, found = _Rules(context, linked_items(links) if links else {}), Coverage()
    for order, _ in Documents(files):
        found.add(order, rules.of(order))
    return found.orders, [(met, suggestion(met, context.master_data)) for met in found.values()]
