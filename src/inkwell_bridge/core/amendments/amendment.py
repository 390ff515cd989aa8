"""What an order that changed after it was posted still needs: the difference, as further documents.

What was posted is never touched. What went up becomes a further invoice, what went down a credit note; together with
what stands there they make the order as it is now, under every account, tax code and reporting dimension. States count,
and not the steps between them: three edits that are read as one make one difference.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from inkwell_bridge.core.amendments.before_ledger import plan_before_ledger
from inkwell_bridge.core.amendments.correcting_lines import Correction, corrections, turned
from inkwell_bridge.core.amendments.difference import Amounts, Place, differences, sums_of, wanted_of
from inkwell_bridge.core.amendments.each_way import each_way
from inkwell_bridge.core.amendments.later_money import LaterMoney, plan_later_money
from inkwell_bridge.core.amendments.owing import owed_to_buyer
from inkwell_bridge.core.amendments.posted_sale import Pointers, PostedSale, moved_reasons
from inkwell_bridge.core.books import (
    CreditNote,
    DocumentLine,
    Invoice,
    LedgerDocument,
    LineKind,
    RefundPayment,
    Role,
)
from inkwell_bridge.core.commerce import EventKind, Order
from inkwell_bridge.core.findings import Cause, Finding, Level, blocking
from inkwell_bridge.core.planner.discounts import shares_as_posted
from inkwell_bridge.core.planner.open_days import on_open_days, on_own_days
from inkwell_bridge.core.planner.orders import plan_order
from inkwell_bridge.core.planner.penny import foreseen
from inkwell_bridge.core.planner.plan import Outcome, Plan, PostedShare, Reason
from inkwell_bridge.core.planner.planning_context import PlanningContext

ZERO = Decimal(0)
RULE = "planner:difference"
_BY_THE_RULES_OF_THEN = Finding(
    id="AMEND-N005",
    level=Level.NOTE,
    text="What changed goes by the version of the rules that the order was posted under, and not by a later one.",
    hint="Where that version has no place for it, enter it in the books by hand, and keep what was posted.",
)
# What tells the shop of the change that is to be dated.
_CHANGES = frozenset({EventKind.EDITED, EventKind.CANCELLED, EventKind.REOPENED})


def plan_amendment(order: Order, sale: PostedSale, context: PlanningContext) -> Plan:
    """The plan that brings the books to what ``order`` says now.

    Its documents are those that stand there and, after them, those that are missing. Of a cancelled order nothing is
    wanted. A plan without a further document says that the books are right.
    """
    again = on_own_days(context).model_copy(update={"decided": True, "posted_shares": sale.shares})
    wanted, shares = plan_again(order, again)
    findings = [*_cannot(order, wanted, sale)]
    if not blocking(findings) and not order.cancelled and wanted.outcome is Outcome.HOLD:
        # A rule that was written since would move what was posted as well: the version of then alone counts.
        findings = [*wanted.findings, _BY_THE_RULES_OF_THEN]
    if blocking(findings):
        return Plan(outcome=Outcome.HOLD, contact=wanted.contact, findings=tuple(findings))
    posted = [one.external_reference for one in sale.documents]
    if not sale.ledger:
        before = plan_before_ledger(order, wanted, sale, context).model_copy(update={"posted_shares": shares})
        return on_open_days(before, context, keep=posted)
    lines = [] if order.cancelled else _ledger_lines(wanted)
    made = _made(order, lines, wanted, sale, context)
    documents = [document for document, _ in made]
    money = plan_later_money(order, [*sale.ledger, *documents], sale.money, context, withheld=_withheld(wanted, sale),
                             day=_day(order, sale, context), first=len(sale.documents) + len(documents))  # fmt: skip
    findings += [*wanted.findings, *money.findings, *_said(order, documents, sale, context)]
    for document in documents:
        findings += foreseen(document, context.master_data, context.rulebook.penny, context.capabilities)
        findings += _no_credit_notes(document, order, context)
    plan = _plan(order, wanted, sale, made, money, findings)
    return on_open_days(plan.model_copy(update={"posted_shares": shares}), context, keep=posted)


def plan_again(order: Order, context: PlanningContext) -> tuple[Plan, tuple[PostedShare, ...]]:
    """What an order that was posted would become by itself now, with the shares of its discounts.

    Charges that did not change keep their shares; all are shared anew where the order does not add up by that.
    """
    plan = plan_order(order, context)
    if plan.outcome is not Outcome.HOLD or not context.posted_shares:
        return plan, shares_as_posted(order, context.posted_shares)
    return plan_order(order, context.model_copy(update={"posted_shares": ()})), shares_as_posted(order)


def _cannot(order: Order, wanted: Plan, sale: PostedSale) -> Iterator[Finding]:
    """What no difference can make good: a person looks."""
    if order.currency != sale.before.currency:
        yield _held("AMEND-E001", f"Order {order.number} was in {sale.before.currency} and is in {order.currency} now",
                    "Settle it by hand in the books; what was posted stays in its own currency.")  # fmt: skip
    if any(isinstance(one, Invoice) and one.final for one in (*sale.documents, *wanted.documents)) or any(
        line.kind is LineKind.DEPOSIT for document in sale.ledger for line in document.lines
    ):
        yield _held("AMEND-E002", f"Order {order.number} was paid ahead, and changed after that was invoiced",
                    "Correct it by hand in the books, then keep what was posted.")  # fmt: skip
    amounts = {one.transaction: one.amount for one in order.payments}
    for receipt in sale.money:
        other = amounts.get(receipt.transaction, receipt.amount)
        if not isinstance(receipt, RefundPayment) and not sale.plan.withheld and other != receipt.amount:
            yield _held("AMEND-E003", f"Payment {receipt.transaction} of order {order.number} was {receipt.amount} "
                        f"and is {other} now", "Compare both in the shop and at the provider.")  # fmt: skip


def _held(code: str, text: str, hint: str) -> Finding:
    return Finding(id=code, level=Level.ERROR, text=f"{text}.", hint=hint, cause=Cause.SOURCE_CHANGED)


def _ledger_lines(wanted: Plan) -> Sequence[DocumentLine]:
    """The lines that the order is to have in the ledger: all documents of its sale have the same."""
    sales = [one for one in wanted.documents if isinstance(one, LedgerDocument)]
    return sales[-1].lines if sales else ()


def _made(
    order: Order, lines: Sequence[DocumentLine], wanted: Plan, sale: PostedSale, context: PlanningContext
) -> list[tuple[LedgerDocument, list[Correction]]]:
    """The further documents, each with what every line of it makes good."""
    posted = sums_of(sale.ledger)
    gone = {place: amounts.negative for place, amounts in sums_of(sale.credited).items()}
    # Off a cancelled order comes all that no refund has taken off already, its goodwill among it.
    should = gone if order.cancelled else wanted_of(lines, posted, gone, order.currency)
    samples = [*lines, *(line for note in sale.credited for line in note.lines)]
    found = differences(sale.ledger, should, samples)
    changed = corrections(found, order.currency, context.capabilities.price_digits)
    # A tax that stands on a line of its own is that of all lines: two documents would tear it apart.
    apart = any(line.kind is LineKind.TAX for _, line in changed)
    together = context.rulebook.orders.differences == "one document" or apart or order.cancelled
    up, down = (_worth_a_document(part) for part in each_way(changed, together=together))
    day = _day(order, sale, context)
    documents: list[tuple[LedgerDocument, list[Correction]]] = []
    number = sale.amendments + 1
    if up:
        documents.append((_invoice(order, up, wanted, sale, context, day=day, number=number), up))
    if down:
        note = _credit_note(order, down, sale, context, day=day, number=number, before=len(documents))
        documents.append((note, down))
    return documents


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
    return rules.further_numbers.replace("{number}", order.number).replace("{n}", str(len(sale.ledger) + before + 1))


def _day(order: Order, sale: PostedSale, context: PlanningContext) -> date:
    """The day of the change: as the shop tells it, or else when it was last touched; never before the sale's own."""
    known = {event.id for event in sale.before.history}
    told = [event.at for event in order.history if event.kind in _CHANGES and event.id not in known]
    return max(context.day(max(told, default=order.changed_at)), sale.ledger[0].date)


def _withheld(wanted: Plan, sale: PostedSale) -> Decimal:
    """What a marketplace keeps by now beyond what it kept when the money was posted."""
    now, then = (sum((one.amount for one in plan.withheld), ZERO) for plan in (wanted, sale.plan))
    return max(now - then, ZERO)


def _no_credit_notes(document: LedgerDocument, order: Order, context: PlanningContext) -> Iterator[Finding]:
    role = Role(document.role)  # type: ignore[attr-defined]
    if role not in context.capabilities.documents:
        needed = f"Order {order.number} needs a {role} of {document.gross} {order.currency}"
        hint = "Enter it there by hand, then keep what was posted."
        yield _held("AMEND-E004", f"{needed}, and these books take none", hint)


def _said(
    order: Order, documents: Sequence[LedgerDocument], sale: PostedSale, context: PlanningContext
) -> Iterator[Finding]:
    how = "cancelled" if order.cancelled else "changed"
    if documents:
        parts = " and ".join(f"{one.role} of {one.gross} {order.currency}" for one in documents)  # type: ignore[attr-defined]
        rule = "/orders/cancelled" if order.cancelled else "/orders/edited"
        yield Finding(id="AMEND-N001", level=Level.NOTE, text=f"The order was {how} after it was posted. The "
                      f"difference: {parts}.", hint=f"The rulebook's rule {rule} says so.")  # fmt: skip
    owed = owed_to_buyer(order, sale.refunded, called_off=order.cancelled)
    if owed > 0 and context.rulebook.payments is not None:
        yield Finding(id="AMEND-N002", level=Level.NOTE, at="/payments",
                      text=f"By this {owed} {order.currency} of what was paid is owed to the buyer.",
                      hint="It is paid back with the refund that the shop makes of it.")  # fmt: skip


def _plan(
    order: Order, wanted: Plan, sale: PostedSale, made: Sequence[tuple[LedgerDocument, list[Correction]]],
    money: LaterMoney, findings: Sequence[Finding],
) -> Plan:  # fmt: skip
    further = [document for document, _ in made]
    documents = (*sale.documents, *further, *money.documents)
    reasons = [reason for place, (_, lines) in enumerate(made, start=len(sale.documents))
               for reason in _reasons(place, lines, wanted, order, sale)]  # fmt: skip
    references_posted = {one.external_reference for one in sale.documents}
    kept = moved_reasons(sale.plan, sale.documents, only=references_posted, pointers=Pointers(sale.before, order))
    references = [*(one.external_reference for one in further), *(one.external_reference for one in money.documents)]
    return Plan(
        outcome=Outcome.HOLD if blocking(findings) else Outcome.CARRY,
        contact=wanted.contact or sale.plan.contact,
        documents=documents,
        # As the sale itself arrives: a person posts them all.
        drafts=tuple(references) if wanted.drafts else (),
        withheld=() if order.cancelled else wanted.withheld,
        deducted=() if order.cancelled else wanted.deducted,
        open_balance=-(order.received - sale.repaid) if order.cancelled else wanted.open_balance,
        reasons=(*kept, *reasons, *money.reasons),
        findings=tuple(findings),
        called_off=sale.called_off(order),
        amendment=sale.amendments + 1 if further else sale.amendments,
    )


def _reasons(place: int, made: Sequence[Correction], wanted: Plan, order: Order, sale: PostedSale) -> Iterator[Reason]:
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
        told = coded["net"].sources if "net" in coded and not gone else ()
        for name in ("net", "tax"):
            yield Reason(target=f"/documents/{place}/lines/{number}/{name}", sources=told, rule=RULE, text=text)
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
                told = {name: by_target[f"{at}/{name}"] for name in ("net", "account", "tax_code")
                        if f"{at}/{name}" in by_target}  # fmt: skip
                found.setdefault(Place.of(line), told)
    return found


def _amounts(amounts: Amounts) -> str:
    pieces = f"{_plain(amounts.quantity)} for " if amounts.quantity else ""
    return f"{pieces}{amounts.net}{f' and {amounts.tax} of tax' if amounts.tax else ''}"


def _plain(quantity: Decimal) -> str:
    return f"{quantity.normalize():f}"
