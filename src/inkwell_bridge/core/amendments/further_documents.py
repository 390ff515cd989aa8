"""The further documents of a sale that changed: an invoice of what went up, a credit note of what went down."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from inkwell_bridge.core.amendments.correcting_lines import Correction, corrections, turned
from inkwell_bridge.core.amendments.difference import Sums, differences, sums_of, wanted_of
from inkwell_bridge.core.amendments.each_way import each_way
from inkwell_bridge.core.amendments.posted_sale import PostedSale
from inkwell_bridge.core.books import CreditNote, DocumentLine, Invoice, LedgerDocument, LineKind, Role
from inkwell_bridge.core.commerce import EventKind, Order
from inkwell_bridge.core.planner.free_numbers import further_number
from inkwell_bridge.core.planner.plan import Plan
from inkwell_bridge.core.planner.planning_context import PlanningContext

# A document, and what each of its lines makes good.
Further = tuple[LedgerDocument, list[Correction]]
# What tells the shop of the change that is to be dated.
_CHANGES = frozenset({EventKind.EDITED, EventKind.CANCELLED, EventKind.REOPENED})


def sums_wanted(order: Order, lines: Sequence[DocumentLine], sale: PostedSale) -> Sums:
    """What the sale's documents are to make by now, place by place, where ``lines`` are the order's own."""
    gone = {place: amounts.negative for place, amounts in sums_of(sale.credited).items()}
    if order.cancelled:
        # Off a cancelled order comes all that no refund has taken off already, its goodwill among it.
        return gone
    return wanted_of(lines, sums_of(sale.ledger), _of_the_sale(gone, sale), order.currency)


def further_documents(
    order: Order, lines: Sequence[DocumentLine], should: Sums, wanted: Plan, sale: PostedSale, context: PlanningContext
) -> list[Further]:
    """The documents that bring the ledger to what it ``should`` hold of these ``lines``, the order's own by now; each
    with what every line of it makes good. None where the books are right.
    """
    samples = [*lines, *(line for note in sale.credited for line in note.lines)]
    found = differences(sale.ledger, should, samples)
    changed = corrections(found, order.currency, context.capabilities.price_digits)
    # A tax that stands on a line of its own is that of all lines: two documents would tear it apart.
    apart = any(line.kind is LineKind.TAX for _, line in changed)
    together = context.rulebook.orders.differences == "one document" or apart or order.cancelled
    # Books that take no line below zero have what went up and what went down apart, whatever the rules would like.
    together = together and context.capabilities.mixes_signs
    up, down = (_worth_a_document(part) for part in each_way(changed, together=together))
    day = day_of_change(order, sale, context)
    documents: list[Further] = []
    number = sale.amendments + 1
    if up:
        documents.append((_invoice(order, up, wanted, sale, context, day=day, number=number), up))
    if down:
        note = _credit_note(order, down, sale, context, day=day, number=number, before=len(documents))
        documents.append((note, down))
    return documents


def _of_the_sale(gone: Sums, sale: PostedSale) -> Sums:
    """What refunds took off places that the sale has: its own documents hold the rest, goodwill for one, only as long
    as the order is called off. Of one that is taken up again they hold none of it, else it would be given back no more.
    """
    sold = sums_of(one for one in sale.ledger if not isinstance(one, CreditNote))
    return {place: amounts for place, amounts in gone.items() if place in sold}


def _worth_a_document(corrections: list[Correction]) -> list[Correction]:
    """None, where all of them is neither an amount nor a piece of an item: a free text moves nothing in the books."""
    return corrections if any(line.net or line.tax or line.item for _, line in corrections) else []


def _invoice(
    order: Order, up: Sequence[Correction], wanted: Plan, sale: PostedSale, context: PlanningContext, *, day: date,
    number: int,
) -> LedgerDocument:  # fmt: skip
    # As the sale is: a further cash sale of a cash sale.
    first = sale.ledger[0]
    now = next((one for one in wanted.documents if isinstance(one, type(first))), first)
    update = {
        "external_reference": context.external_reference(order.id, first.role, f"change {number}"),  # type: ignore[attr-defined]
        "date": day,
        "number": _number(order, sale, context, before=0),
        "lines": tuple(line for _, line in up),
    }
    if isinstance(first, Invoice):
        days = context.rulebook.orders.due_after_days
        # The tax falls on the day of the change: that is when more was sold.
        update |= {"tax_point": None, "sales_order": first.sales_order}
        update |= {"due_on": None if days is None else date.fromordinal(day.toordinal() + days)}
    return now.model_copy(update=update)


def _credit_note(
    order: Order, down: Sequence[Correction], sale: PostedSale, context: PlanningContext, *, day: date, number: int,
    before: int,
) -> CreditNote:  # fmt: skip
    # It credits the first invoice, whichever a line was added by: that is the one that a buyer knows the sale by.
    first = sale.ledger[0]
    codes = {name: getattr(first, name) for name in context.rulebook.fields.header_codes}
    return CreditNote(
        external_reference=context.external_reference(order.id, Role.CREDIT_NOTE, f"change {number}"),
        date=day,
        order_number=order.number,
        link=order.link,
        currency=order.currency,
        number=_number(order, sale, context, before=before),
        lines=tuple(turned(line) for _, line in down),
        credits=first.external_reference,
        reason="The order was cancelled." if order.cancelled else "The order was changed.",
        **codes,
    )


def _number(order: Order, sale: PostedSale, context: PlanningContext, *, before: int) -> str:
    """The legal number, where it is the shop's: its order's own stands on the first invoice already."""
    rules = context.rulebook.orders
    if rules.numbered != "shop":
        return ""
    return further_number(rules, order.number, len(sale.ledger) + before + 1)


def day_of_change(order: Order, sale: PostedSale, context: PlanningContext) -> date:
    """The day of the change: as the shop tells it, or else when it was last touched; never before the sale's own."""
    known = {event.id for event in sale.before.history}
    since = [event.at for event in order.history if event.kind in _CHANGES and event.id not in known]
    # Books that number by date, and people who read them, have a sale before what changes it.
    return max(context.day(max(since, default=order.changed_at)), sale.ledger[0].date)
