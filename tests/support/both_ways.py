"""Kinds of document that the program does not have: two that go from the books to the shop, and one that tells the
shop what became of its orders.

They are named in ``INKWELL_KINDS``, and nothing else knows of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from inkwell_bridge.core import books
from inkwell_bridge.core.books import GoodsLine, Journal, JournalLine, Role
from inkwell_bridge.core.commerce import Dispatch, Order, SourceDocument, SourceKind, StockLevel
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext
from inkwell_bridge.ends.shapes import AddNote, WriteBack
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_with_rules
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Gathered, Listed

BANK, AGAINST = "1250", "3000"
PLACES = {"MILL": "Mill"}


class _Plain(BaseKind):
    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The versions alone."""
        return gathered_with_rules(carryings)


class Parcels(_Plain):
    """What left the warehouse of the books, told to the buyer's order at the shop."""

    name = "parcels"
    source_kind = SourceKind.DISPATCHES
    direction = Direction.BOOKS_TO_SALES

    def listed(self, source: SourceDocument) -> Listed:
        """When it left."""
        return Listed(moment=cast(Dispatch, source).dispatched_at)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """The same goods, under the shop's name of the place."""
        parcel, context = cast(Dispatch, source), cast(PlanningContext, gathered.context)
        lines = tuple(
            GoodsLine(line_reference=line.line, item=line.sku, quantity=line.quantity,
                      lot=line.lots[0].code if line.lots else "")
            for line in parcel.lines
        )  # fmt: skip
        told = books.Dispatch(
            external_reference=context.external_reference(parcel.id, Role.DISPATCH),
            date=context.day(parcel.dispatched_at), order_number=parcel.order_number,
            warehouse=PLACES[parcel.location], carrier=parcel.carrier, tracking_number=parcel.tracking_number,
            lines=lines,
        )  # fmt: skip
        return Plan(outcome=Outcome.CARRY, documents=(told,))


class Levels(_Plain):
    """How much of an article the books have, set at the shop; only the newest level matters."""

    name = "levels"
    source_kind = SourceKind.STOCK
    direction = Direction.BOOKS_TO_SALES
    latest_only = True

    def listed(self, source: SourceDocument) -> Listed:
        """When it was counted."""
        return Listed(moment=cast(StockLevel, source).changed_at)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """The level as it is, a document of its own for each change."""
        level, context = cast(StockLevel, source), cast(PlanningContext, gathered.context)
        wanted = books.StockLevel(
            external_reference=context.external_reference(
                level.id, Role.STOCK_LEVEL, int(level.changed_at.timestamp() * 1000)
            ),
            date=context.day(level.changed_at), item=level.sku, warehouse=PLACES[level.location],
            on_hand=level.on_hand, available=level.available,
        )  # fmt: skip
        return Plan(outcome=Outcome.CARRY, documents=(wanted,))


class Told(_Plain):
    """An order as a journal, whose number is written back to it."""

    name = "told"
    source_kind = SourceKind.ORDERS

    def listed(self, source: SourceDocument) -> Listed:
        """What it comes to."""
        order = cast(Order, source)
        return Listed(moment=order.placed_at, currency=order.currency, gross=order.total)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """Its total, from one account to another."""
        order, context = cast(Order, source), cast(PlanningContext, gathered.context)
        amounts: Any = ((BANK, order.total), (AGAINST, -order.total))
        journal = Journal(
            external_reference=context.external_reference(order.id, Role.JOURNAL, "told"),
            date=context.day(order.placed_at), currency=order.currency, text=order.number,
            lines=tuple(
                JournalLine(account=account, base=base, amount=base, currency=order.currency, line_reference=account)
                for account, base in amounts
            ),
        )  # fmt: skip
        return Plan(outcome=Outcome.CARRY, documents=(journal,))

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """The journal's number, as a note on the order."""
        (journal,) = carrying.documents
        return (AddNote(id=carrying.crossing.source_id, text=f"In the books as {journal.books_number}"),)


for kind in (Parcels(), Levels(), Told()):
    register(kind)
