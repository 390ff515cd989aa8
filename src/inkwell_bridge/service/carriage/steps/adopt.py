"""What the books hold already for a document: adopted, and never posted again."""

from __future__ import annotations

from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import STARTS_ON, expected_role
from inkwell_bridge.service.carriage import adoption
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.effects import Ask, Effects
from inkwell_bridge.service.carriage.holding import hold
from inkwell_bridge.service.carriage.states import CrossingState, DocumentState, Trial


def keep_adopted(carrying: Carrying) -> Conclusion | None:
    """What was adopted stays as the books have it; a person looks where the order says another total by now."""
    crossing, documents = carrying.crossing, carrying.documents
    if not any(document.state == DocumentState.ADOPTED for document in documents):
        return None
    if adoption.still_the_same(crossing, documents):
        return Conclusion(state=CrossingState.ADOPTED)
    numbers = ", ".join(document.books_number or document.books_id for document in documents)
    raise hold(
        "SRC-E011",
        Cause.SOURCE_CHANGED,
        f"The order was changed after {numbers} was adopted for it, and says {crossing.gross} {crossing.currency} now.",
        "Compare both pages. Correct the document in the books, or put the order back as it was.",
    )


def adopt_typed_in(carrying: Carrying) -> Effects[Conclusion | None]:
    """Adopt what somebody typed into the books for an order; leave out one from before the bridge's start.

    Calls: one search by the numbers of a lot's orders, before the first of their documents is made and never after.
    """
    crossing, plan, gathered = carrying.crossing, carrying.plan, carrying.gathered
    assert plan is not None
    assert gathered is not None
    if any(document.begun for document in carrying.documents):
        return None
    role = expected_role(plan, carrying.source, gathered.rulebook.for_orders.orders)
    asked = crossing.number and role in adoption.ROLES and role in carrying.books.capabilities.documents
    bearing = []
    if asked:
        bearing = yield Ask(adoption.under_numbers, (carrying.books, role), crossing.number, calls_end=True)
    ours = {planned.external_reference for planned in plan.documents}
    # Where the database forgot what it had posted (a restore from a backup), the books have not: they are searched.
    carrying.never_made = role in adoption.ROLES and not any(one.external_reference in ours for one in bearing)
    found = adoption.typed_in(crossing, bearing)
    if found is not None:
        brief, findings = found
        carrying.documents = [adoption.adopted_document(crossing, role, brief)]
        carrying.plan = None
        return Conclusion(state=CrossingState.ADOPTED, findings=findings)
    # A trial shows what an order would become, whenever it was placed; nothing of it is posted.
    if adoption.before_start(crossing) and crossing.trial == Trial.NONE:
        return Conclusion(state=CrossingState.LEFT_OUT, left_out_by=STARTS_ON)
    return None
