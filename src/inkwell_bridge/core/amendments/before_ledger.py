"""An order that changed while nothing of its sale was in the ledger: a sales order, or drafts that nobody posted.

A draft is made to say what the order says now. A sales order takes nothing into the ledger, so it is cancelled and made
anew, by books that can cancel one.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from inkwell_bridge.core.amendments.posted_sale import Pointers, PostedSale, moved_reasons
from inkwell_bridge.core.books import BooksDocument, Invoice, Role, SalesOrder
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.plan import Outcome, Plan
from inkwell_bridge.core.planner.planning_context import PlanningContext


def plan_before_ledger(order: Order, wanted: Plan, sale: PostedSale, context: PlanningContext) -> Plan:
    """The plan of an order of which only a sales order, money, or nothing at all is posted; ``cancels`` names the sales
    order that is not right any more."""
    old = next((one for one in sale.documents if isinstance(one, SalesOrder)), None)
    now = [] if order.cancelled else list(wanted.documents)
    new = next((one for one in now if isinstance(one, SalesOrder)), None)
    cancels: tuple[str, ...] = ()
    if old is not None and (new is None or not _says_the_same(old, new)):
        cancels = (old.external_reference,)
    if old is not None and not cancels:
        # Only money, or the invoice that follows, came since.
        reference = old.external_reference
    else:
        # Nothing else ever stood under the first reference while no sales order was cancelled.
        first = old is None and not sale.amendments
        part = 1 if first else f"change {sale.amendments + 1}"
        reference = context.external_reference(order.id, Role.SALES_ORDER, part)
    names = {new.external_reference: reference} if new is not None else {}
    further = [_named(one, names) for one in now]
    # Money that was posted stays as it was posted.
    posted = {one.external_reference for one in sale.documents}
    further = [one for one in further if one.external_reference not in posted]
    findings = [*(() if order.cancelled else wanted.findings), *_said(order, old, cancels, context)]
    documents = (*sale.documents, *further)
    return wanted.model_copy(update={
        "outcome": Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        "documents": documents,
        "drafts": tuple(one.external_reference for one in further) if wanted.drafts else (),
        "reasons": (
            *moved_reasons(sale.plan, documents, only=posted, pointers=Pointers(sale.before, order)),
            *moved_reasons(wanted, documents, only={one.external_reference for one in further}, names=names),
        ),
        "findings": tuple(findings),
        "withheld": () if order.cancelled else wanted.withheld,
        "deducted": () if order.cancelled else wanted.deducted,
        "open_balance": -(order.received - sale.repaid) if order.cancelled else wanted.open_balance,
        "cancels": cancels,
        "called_off": sale.called_off(order) if sale.documents else None,
        "amendment": sale.amendments + (1 if cancels else 0),
    })  # fmt: skip


def _says_the_same(old: SalesOrder, new: SalesOrder) -> bool:
    return new.model_copy(update={"external_reference": old.external_reference}) == old


def _named(document: BooksDocument, names: Mapping[str, str]) -> BooksDocument:
    """The document under the reference that it has now; an invoice names the sales order that it bills by its own."""
    update: dict[str, str] = {}
    if document.external_reference in names:
        update["external_reference"] = names[document.external_reference]
    if isinstance(document, Invoice) and document.sales_order in names:
        update["sales_order"] = names[document.sales_order]
    return document.model_copy(update=update) if update else document


def _said(order: Order, old: SalesOrder | None, cancels: Sequence[str], context: PlanningContext) -> Iterator[Finding]:
    if old is None or not cancels:
        return
    how = "cancelled" if order.cancelled else "changed"
    if Role.SALES_ORDER not in context.capabilities.cancels:
        yield Finding(id="AMEND-E005", level=Level.ERROR, cause=Cause.SOURCE_CHANGED,
                      text=f"Order {order.number} was {how} after its sales order of {old.gross} {order.currency} was "
                      "posted, and these books let nobody but a person cancel one.",
                      hint="Cancel or correct it there, then keep what was posted.")  # fmt: skip
        return
    then = "" if order.cancelled else ", and made anew"
    yield Finding(id="AMEND-N004", level=Level.NOTE,
                  text=f"The order was {how} after it was posted: its sales order of {old.gross} {order.currency} is "
                  f"cancelled{then}.", hint="A sales order takes nothing into the ledger.")  # fmt: skip
