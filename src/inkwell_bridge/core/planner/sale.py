"""The documents of a sale: what an order becomes, the invoice that follows a sales order, the one that ends deposits.

Each has the lines that were planned once; what stands on the second of them has the reasons of the first.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from decimal import Decimal

from inkwell_bridge.core.books import (
    BooksDocument,
    CashSale,
    DocumentLine,
    Invoice,
    Role,
    SalesOrder,
)
from inkwell_bridge.core.commerce import Order, SourceDocument
from inkwell_bridge.core.expressions import ORDER, EvaluationContext
from inkwell_bridge.core.findings import Finding
from inkwell_bridge.core.planner.delivery import delivery_lines
from inkwell_bridge.core.planner.lines import Lines
from inkwell_bridge.core.planner.moments import SOURCES, day_of
from inkwell_bridge.core.planner.plan import Plan, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext
from inkwell_bridge.core.planner.settings import HeaderSettings, why_otherwise
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.levels import facts_of_order
from inkwell_bridge.core.rulebook.orders import Follows, OrderRules

Sale = Invoice | SalesOrder | CashSale
ZERO = Decimal(0)
# The final invoice that deducts deposits, among the invoices of its order.
FINAL_INVOICE = "delivered"


@record
class Wanted:
    """What the rules want of one order, and why where it is not what they want of all."""

    role: Role
    arrive: str
    header: HeaderSettings
    why: tuple[Reason, ...]
    invoiced: Follows | None
    delivered: Follows | None

    @property
    def moments(self) -> Iterator[str]:
        """The moments that what follows is dated by."""
        return (one.dated for one in (self.invoiced, self.delivered) if one is not None)


def is_final_invoice(document: BooksDocument) -> bool:
    """Whether a document is the final invoice that deducts what was paid ahead."""
    return isinstance(document, Invoice) and document.final


@dataclass(slots=True)
class Documents:
    """The documents of a sale; ``ledger`` is the place of the one that takes it into the ledger."""

    made: list[Sale] = field(default_factory=list)
    reasons: list[Reason] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    drafts: list[str] = field(default_factory=list)
    ledger: int = 0


def wanted_of(order: Order, context: PlanningContext, evaluation: EvaluationContext) -> Wanted:
    """What an order becomes, and what follows by now.

    Raises:
        NotEvaluated: a condition came to nothing for this order.
    """
    rules, header = context.rulebook.orders, HeaderSettings.of(order, context.rulebook, evaluation)
    facts = header.facts
    # The first that is true counts, in the order in which people wrote them; a condition goes before every level.
    index, instead = next(
        ((index, one) for index, one in enumerate(rules.instead) if one.when.holds(ORDER, evaluation)), (0, None)
    )
    role = Role(instead.become if instead else rules.become.of(facts))
    arrive = instead.arrive if instead else rules.arrive.of(facts)
    if instead:
        why = [Reason(target="/documents/0/role", sources=("",), rule=f"/orders/instead/{index}",
                      text=f"A {role}, as the order is one of '{instead.name}'.")]  # fmt: skip
    else:
        what = "document"
        why = [*why_otherwise(rules.become, "/orders/become", facts, "/documents/0/role", "", what=what, value=role)]
        if arrive == "draft":
            what = "state it arrives in"
            why += why_otherwise(rules.arrive, "/orders/arrive", facts, "/drafts/0", "", what=what, value=arrive)
    return Wanted(
        role=role,
        arrive=arrive,
        header=header,
        why=tuple(why),
        # What became an invoice at once has nothing left to be invoiced.
        invoiced=_due(rules.invoiced, evaluation) if role is Role.SALES_ORDER else None,
        delivered=_due(rules.delivered, evaluation),
    )


def _due(rule: Follows | None, evaluation: EvaluationContext) -> Follows | None:
    return rule if rule is not None and rule.when.holds(ORDER, evaluation) else None


def expected_role(plan: Plan, source: SourceDocument | None, rules: OrderRules) -> Role:
    """The role of the first document of a plan; of one that is held, what its order would usually become."""
    if plan.documents:
        return Role(plan.documents[0].role)
    return Role(rules.become.of(facts_of_order(source)) if isinstance(source, Order) else rules.become.default)


def ledger_role(order_role: Role, context: PlanningContext) -> Role:
    """The role of the document that refunds are taken back from."""
    return Role(context.rulebook.orders.became(order_role))


def documents_of(
    order: Order, made: Lines, wanted: Wanted, context: PlanningContext, evaluation: EvaluationContext
) -> Documents:
    """The documents of the sale, each with its reasons."""
    documents = Documents()
    header, dated = wanted.header, context.rulebook.orders.dated
    first = _document(order, made.lines, wanted.role, context, header, dated=dated)
    _add(documents, first, made.reasons, wanted.arrive)
    documents.reasons += _header(order, first, dated, "/orders/dated", context, header, 0)
    documents.reasons += wanted.why
    if wanted.invoiced is not None:
        _follow(documents, order, made, wanted.invoiced, context, header)
    # Without anything paid ahead there is nothing to deliver: the first invoice was the sale.
    if wanted.delivered is not None and made.deposits:
        _deliver(documents, order, made, wanted.delivered, context, header)
    return documents


def _add(documents: Documents, document: Sale, reasons: Sequence[Reason], arrive: str) -> None:
    documents.made.append(document)
    documents.reasons += reasons
    if arrive == "draft":
        documents.drafts.append(document.external_reference)


def _follow(
    documents: Documents,
    order: Order,
    made: Lines,
    rule: Follows,
    context: PlanningContext,
    header: HeaderSettings,
) -> None:
    """The invoice of a sales order: the same lines, taken into the ledger."""
    index = len(documents.made)
    invoice = _document(order, made.lines, Role.INVOICE, context, header, dated=rule.dated)
    # The invoice names the order that it bills, so that the books know the order as billed.
    invoice = invoice.model_copy(update={"sales_order": documents.made[0].external_reference})
    _add(documents, invoice, [_moved(reason, index) for reason in made.reasons], rule.arrive)
    documents.reasons += _header(order, invoice, rule.dated, "/orders/invoiced/dated", context, header, index)
    # Money is set against the invoice from now on: a sales order takes nothing into the ledger.
    documents.ledger = index


def _moved(reason: Reason, index: int) -> Reason:
    return replace(reason, target=reason.target.replace("/documents/0/", f"/documents/{index}/", 1))


def _deliver(
    documents: Documents,
    order: Order,
    made: Lines,
    rule: Follows,
    context: PlanningContext,
    header: HeaderSettings,
) -> None:
    """The final invoice of what was paid ahead, unless all of it was given back."""
    index = len(documents.made)
    lines = delivery_lines(made.deposits, order, context, header.evaluation, index=index)
    documents.findings += lines.findings
    made.untaxed += lines.untaxed
    # All of it went back before it was delivered: an invoice over nothing would be refused.
    if not lines.lines:
        return
    final = _document(order, lines.lines, Role.INVOICE, context, header, dated=rule.dated, final=True)
    _add(documents, final, lines.reasons, rule.arrive)
    documents.reasons += _header(order, final, rule.dated, "/orders/delivered/dated", context, header, index)


def _document(
    order: Order,
    lines: Sequence[DocumentLine],
    role: Role,
    context: PlanningContext,
    header: HeaderSettings,
    *,
    dated: str,
    final: bool = False,
) -> Sale:
    rules = context.rulebook
    day = day_of(order, dated, context)
    base = {
        "external_reference": context.external_reference(order.id, role, FINAL_INVOICE if final else 1),
        "date": day,
        "order_number": order.number,
        "link": order.link,
        "text": header.field(rules.fields.text),
        "currency": order.currency,
        "lines": tuple(lines),
        "fields": header.fields(),
        **header.header_codes(),
    }
    if role is Role.SALES_ORDER:
        return SalesOrder(**base, warehouse=header.warehouse())
    # Two invoices of one order cannot bear one legal number: the final one has the order's with a 2 behind it.
    if rules.orders.numbered == "shop":
        base["number"] = f"{order.number}-2" if final else order.number
    if role is Role.CASH_SALE:
        return CashSale(**base)
    return Invoice(
        **base,
        final=final,
        tax_point=_tax_point(order, day, context),
        due_on=_due_on(day, context),
        terms=header.field(rules.fields.terms),
    )


def _tax_point(order: Order, day: date, context: PlanningContext) -> date | None:
    """The day the tax falls on, where it is not the document's own."""
    which = context.rulebook.orders.tax_point
    point = None if which == "document" else day_of(order, which, context)
    # Said only where it is another day: books take the document's own for the tax else.
    return point if point != day else None


def _due_on(day: date, context: PlanningContext) -> date | None:
    days = context.rulebook.orders.due_after_days
    return None if days is None else day + timedelta(days=days)


def _header(
    order: Order, document: Sale, dated: str, rule: str, context: PlanningContext, header: HeaderSettings, index: int
) -> Iterator[Reason]:
    day = document.date.isoformat()
    yield Reason(
        target=f"/documents/{index}/date",
        sources=(SOURCES[dated],),
        rule="planner:date-placed" if dated == "placed" else rule,
        text=f"The day the order was {dated} in {context.time_zone}: {day}.",
    )
    yield Reason(
        target=f"/documents/{index}/order_number",
        sources=("/number",),
        rule="planner:order-number",
        text="The shop's own number, so that anyone can find the way back.",
    )
    yield from header.reasons(document, index)
