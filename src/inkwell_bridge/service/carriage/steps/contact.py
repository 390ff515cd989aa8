"""The contact that the documents are made out to."""

from __future__ import annotations

from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.contacts import contact_in_books, linked_contacts
from inkwell_bridge.service.carriage.effects import Ask, Effects
from inkwell_bridge.service.connections import actions as connections


def find_contact(carrying: Carrying) -> Effects[Conclusion | None]:
    """Find or make the contact of the plan, once for all its documents; what is posted keeps the one it has.

    Calls: those of ``contact_in_books``, none where the buyer is known here. Takes the buyer's locks.
    """
    plan, gathered = carrying.plan, carrying.gathered
    assert plan is not None
    assert gathered is not None
    # Whose books these are stands on every link, so it is settled before the first of them is made.
    connections.settle(carrying.crossing.bridge.source)
    connections.settle(carrying.crossing.bridge.books)
    contact_id = next((document.contact_id for document in carrying.documents if document.contact_id), "")
    if plan.contact is None:
        # What is added to documents that stand there is made out to whom they are.
        carrying.contact_id = contact_id
        return None
    if not contact_id and gathered.buyer is not None:
        contact_id = yield Ask(linked_contacts, carrying.crossing.bridge, gathered.buyer)
    if not contact_id:
        contact_id = yield from contact_in_books(
            plan.contact, carrying.target, carrying.books, gathered.rulebook.customers
        )
    carrying.contact_id = contact_id
    return None
