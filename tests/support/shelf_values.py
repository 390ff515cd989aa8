"""A kind of document that the program does not have: what the products of a shop are worth, as a journal.

It is named in ``INKWELL_KINDS``, and nothing else knows of it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from inkwell_bridge.core.books import Journal, JournalLine, Role
from inkwell_bridge.core.commerce import Product, SourceDocument, SourceKind
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext, Reason
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_with_rules
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed

STOCK, AGAINST = "1250", "3000"


class ShelfValues(BaseKind):
    """One journal a product: its price, from one account to another."""

    name = "shelf values"
    source_kind = SourceKind.PRODUCTS

    def listed(self, source: SourceDocument) -> Listed:
        """Its price."""
        product = cast(Product, source)
        return Listed(
            moment=product.changed_at, currency=product.currency, net=product.price, tax=product.price * 0,
            gross=product.price,
        )  # fmt: skip

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """What a journal needs."""
        return gathered_with_rules(carryings)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """A journal; what has no price is left out by a rule of its own."""
        product, context = cast(Product, source), cast(PlanningContext, gathered.context)
        if not product.price:
            return Plan(outcome=Outcome.LEFT_OUT, left_out_by="shelf values: no price")
        lines = tuple(
            JournalLine(account=account, base=base, amount=base, currency=product.currency, line_reference=account)
            for account, base in ((STOCK, product.price), (AGAINST, -product.price))
        )
        journal = Journal(
            external_reference=context.external_reference(product.id, Role.JOURNAL, "shelf"),
            date=context.day(product.changed_at), currency=product.currency, text=product.title, lines=lines,
        )  # fmt: skip
        why = Reason(target="/documents/0/lines/0/base", sources=("/price",), rule="shelf values", text="Its price.")
        return Plan(outcome=Outcome.CARRY, documents=(journal,), reasons=(why,))


register(ShelfValues())
