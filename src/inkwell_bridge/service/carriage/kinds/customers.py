"""Customers: an account at the sales side becomes a contact; it has no document."""

from __future__ import annotations

from typing import cast

from inkwell_bridge.core.books import Contact
from inkwell_bridge.core.commerce import Customer, SourceDocument, SourceKind
from inkwell_bridge.core.planner import Plan, plan_customer
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.contacts import customer_in_books
from inkwell_bridge.service.carriage.effects import Effects
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.steps import hold_where_planned, plan_documents
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.reference.pinned import master_data_of


def keep_contact(carrying: Carrying) -> Effects[Conclusion | None]:
    """Find, make or amend the contact of an account, and end here. Takes the buyer's locks; it may be repeated."""
    plan, gathered, crossing = carrying.plan, carrying.gathered, carrying.crossing
    assert plan is not None
    assert gathered is not None
    connections.settle(crossing.bridge.source)
    connections.settle(crossing.bridge.books)
    yield from customer_in_books(plan.contact or Contact(), crossing, carrying.books, gathered.rulebook.customers)
    return Conclusion(state=CrossingState.CARRIED)


class CustomersKind(BaseKind):
    """A customer's account."""

    name = "customers"
    source_kind = SourceKind.CUSTOMERS
    steps = (plan_documents, hold_where_planned, keep_contact)

    def listed(self, source: SourceDocument) -> Listed:
        """When it was changed; there are no amounts."""
        return Listed(moment=cast(Customer, source).changed_at)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_customer``."""
        return plan_customer(cast(Customer, source), gathered.rulebook.customers, master_data_of(gathered.master_data))


register(CustomersKind())
