"""Planning requests for payment: what a buyer is asked for of an invoice, and what comes of the money that is paid.

A request asks for what is open in the books and what was paid on it already. So it says the same while nothing but its
own money comes in, and less once something else was set against the invoice: a receipt by bank, a credit note.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from typing import Literal
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import Application, Journal, JournalLine, MasterData, Payment, PaymentRequest, Role
from inkwell_bridge.core.commerce import PostedInvoice, RequestPayment
from inkwell_bridge.core.expressions import INVOICE, Condition, NotEvaluated, evaluation_of_invoice
from inkwell_bridge.core.findings import Cause, Finding, Level, source_error
from inkwell_bridge.core.planner.open_days import on_open_day
from inkwell_bridge.core.planner.plan import STARTS_ON, AllocatedAmount, Outcome, Plan, Reason
from inkwell_bridge.core.planner.planning_context import external_reference, is_ours
from inkwell_bridge.core.record import record
from inkwell_bridge.core.rulebook.periods import PeriodRules
from inkwell_bridge.core.rulebook.requests import RequestRules

ZERO = Decimal(0)
# In place of the rule that leaves an invoice out.
NOTHING_OPEN, TAKEN_BACK = "planner:nothing-open", "cancelled by hand"
NOT_PAID = "planner:payment-taken-back"
ONLY = "/requests/only"
# What the line of a surplus says; a journal that is read back is told apart by it.
OVERPAID = "Paid beyond the invoice"
Wish = Literal["", "made", "cancelled"]


@record
class RequestContext:
    """All that the plan of a request depends on besides its invoice.

    Shape: ``books`` is the unchanging name of the books' connection, ``starts_on`` the day from which the bridge
    carries. ``received`` is what receipts for this very request have settled of the invoice, by the invoice's own word,
    and ``came_in`` all that the provider told of, posted or not. ``wish`` is what somebody decided by hand, and
    ``decided`` tells that a request was made: whether there should be one is asked no more. ``asked`` is what it asks
    for by now.
    """

    books: str
    rules: RequestRules
    master_data: MasterData
    starts_on: date | None = None
    received: Decimal = ZERO
    came_in: Decimal = ZERO
    wish: Wish = ""
    decided: bool = False
    asked: Decimal | None = None


def plan_request(invoice: PostedInvoice, context: RequestContext) -> Plan:
    """The request of an invoice, as it is to stand at the provider by now; or why there is none.

    One that was made is never left out: it is withdrawn where nothing is owed any more and nothing was paid on it.
    """
    owed = invoice.open if invoice.state == "posted" else ZERO
    if not context.decided:
        without = _without(invoice, owed, context)
        if without is not None:
            return without
    # A provider lowers no request below what was paid on it; what is too much by then is owed to the buyer.
    least = min(context.came_in, context.asked) if context.asked is not None else ZERO
    amount = max(owed + context.received, least)
    # What is paid stays paid, whoever cancels it after.
    withdrawn = amount <= 0 or (context.wish == "cancelled" and owed > 0)
    if amount <= 0:
        # A request must ask for something, and one that is withdrawn keeps what it asked for.
        amount = context.asked or invoice.total
    try:
        on_file = _holds(context.rules.on_file, invoice, otherwise=False)
    except NotEvaluated as error:
        return Plan(outcome=Outcome.HOLD, findings=(_not_evaluated("/requests/on_file", invoice, error),))
    request = PaymentRequest(
        external_reference=external_reference(context.books, invoice.id, Role.PAYMENT_REQUEST),
        date=invoice.issued_on,
        currency=invoice.currency,
        invoice_id=invoice.id,
        invoice_number=invoice.number,
        text=f"Invoice {invoice.number}",
        amount=amount,
        buyer=invoice.contact_id,
        on_file=on_file,
        ends_on=_ends_on(invoice, context.rules),
        withdrawn=withdrawn,
    )
    return Plan(outcome=Outcome.CARRY, documents=(request,), reasons=tuple(_reasons(invoice, request, context)))


def _without(invoice: PostedInvoice, owed: Decimal, context: RequestContext) -> Plan | None:
    """The plan of an invoice that becomes no request; nothing where it does."""
    if context.wish == "cancelled":
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=TAKEN_BACK)
    if owed <= 0:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=NOTHING_OPEN)
    if not context.wish and context.starts_on is not None and invoice.issued_on < context.starts_on:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=STARTS_ON)
    try:
        if not context.wish and not _holds(context.rules.only, invoice, otherwise=True):
            return Plan(outcome=Outcome.LEFT_OUT, left_out_by=ONLY)
    except NotEvaluated as error:
        return Plan(outcome=Outcome.HOLD, findings=(_not_evaluated(ONLY, invoice, error),))
    if invoice.currency != context.master_data.currency:
        wrong = source_error(
            "REQUEST-E001", "/currency",
            f"Invoice {invoice.number} is in {invoice.currency}, and what is paid at the provider comes in "
            f"{context.master_data.currency}.",
            "Ask for it by hand, or leave such invoices out by requests: only.", cause=Cause.CURRENCY_NOT_KEPT,
        )  # fmt: skip
        return Plan(outcome=Outcome.HOLD, findings=(wrong,))
    return None


def _holds(condition: Condition | None, invoice: PostedInvoice, *, otherwise: bool) -> bool:
    return condition.holds(INVOICE, evaluation_of_invoice(invoice)) if condition else otherwise


def _not_evaluated(at: str, invoice: PostedInvoice, error: NotEvaluated) -> Finding:
    return source_error("RULE-E006", at, f"{at.removeprefix('/')} could not be asked of invoice {invoice.number}: "
                        f"{error}", "Correct the condition in the rulebook.", cause=Cause.RULEBOOK_INVALID)  # fmt: skip


def _ends_on(invoice: PostedInvoice, rules: RequestRules) -> date | None:
    if rules.open_for_days is None:
        return None
    return (invoice.due_on or invoice.issued_on) + timedelta(days=rules.open_for_days)


def _reasons(invoice: PostedInvoice, request: PaymentRequest, context: RequestContext) -> Iterator[Reason]:
    currency = invoice.currency
    paid = f", and {context.received} {currency} was paid on the request" if context.received else ""
    yield Reason(target="/documents/0/amount", sources=("/open",), rule=ONLY,
                 text=f"{invoice.open} {currency} of {invoice.total} is open in the books{paid}.")  # fmt: skip
    if request.withdrawn:
        why = {"cancelled": "Somebody cancelled it."}.get(context.wish, "Nothing is owed on the invoice any more.")
        yield Reason(target="/documents/0/withdrawn", sources=("/state", "/open"), rule=NOTHING_OPEN, text=why)
    if request.on_file:
        yield Reason(target="/documents/0/on_file", sources=("/fields",), rule="/requests/on_file",
                     text="The rules charge the method that the buyer has on file.")  # fmt: skip
    if request.ends_on:
        text = f"It takes nothing more {context.rules.open_for_days} days after the invoice is due."
        yield Reason(target="/documents/0/ends_on", sources=("/due_on",), rule="/requests/open_for_days", text=text)


@record
class RequestPaymentContext:
    """All that the plan of a payment on a request depends on besides itself.

    Shape: ``source`` is the unchanging name of the provider's connection, ``time_zone`` (IANA) the company's.
    ``invoice`` is what the request was made of, absent where nobody here knows it, and ``open`` what is owed of it
    besides what other payments on it have settled; ``apart`` is as much of that as stands beside the invoice on the
    customer's account. ``locked_until`` is the newest lock date of the books, where ``master_data`` is older.
    """

    source: str
    rules: RequestRules
    periods: PeriodRules
    master_data: MasterData
    time_zone: str
    invoice: PostedInvoice | None = None
    open: Decimal = ZERO
    apart: Decimal = ZERO
    locked_until: date | None = None


def plan_request_payment(payment: RequestPayment, context: RequestPaymentContext) -> Plan:
    """The receipt of a payment on a request, which settles its invoice; what came beyond that is owed to the buyer, by
    a journal of its own."""
    if payment.taken_back:
        return Plan(outcome=Outcome.LEFT_OUT, left_out_by=NOT_PAID)
    wrong = tuple(_wrong(payment, context))
    if wrong or context.invoice is None:
        return Plan(outcome=Outcome.HOLD, findings=wrong)
    settled = min(payment.amount, max(context.open, ZERO))
    surplus = payment.amount - settled
    own_day = (payment.paid_at if context.rules.dated == "paid" else payment.recorded_at).astimezone(
        ZoneInfo(context.time_zone)).date()  # fmt: skip
    periods = context if context.periods.locked == "first open day" else None
    made = [(make, amount) for make, amount in ((_settling, settled), (_beyond, surplus)) if amount]
    documents: list[Payment | Journal] = []
    reasons: list[Reason] = []
    findings: list[Finding] = []
    for place, (make, amount) in enumerate(made):
        # Each document may be moved to an open day, and says so for itself.
        day, notes, moved = on_open_day(own_day, periods, place=place, source=f"/{context.rules.dated}_at")
        document, reason, further = make(payment, context.invoice, amount, day, place, context)
        documents.append(document)
        reasons += [*moved, reason]
        findings += [*notes, *further]
    return Plan(outcome=Outcome.CARRY, documents=tuple(documents), reasons=tuple(reasons), findings=tuple(findings))


def _settling(
    payment: RequestPayment, invoice: PostedInvoice, amount: Decimal, day: date, place: int,
    context: RequestPaymentContext,
) -> tuple[Payment, Reason, tuple[Finding, ...]]:  # fmt: skip
    """The receipt of what settles the invoice."""
    reason = Reason(
        target=f"/documents/{place}/amount", sources=("/amount",),
        rule="planner:money-arrived" if payment.arrived_on else "/requests/account",
        text=f"{amount} {payment.currency} of {payment.number} settles invoice {invoice.number}, of which "
        f"{context.open} was open.",
        allocated=(AllocatedAmount(source="/amount", amount=amount),),
    )  # fmt: skip
    return _receipt(payment, invoice, amount, day, context), reason, ()


def _beyond(
    payment: RequestPayment, invoice: PostedInvoice, amount: Decimal, day: date, place: int,
    context: RequestPaymentContext,
) -> tuple[Journal, Reason, tuple[Finding, ...]]:  # fmt: skip
    """The journal of what is more than was open."""
    reason = Reason(
        target=f"/documents/{place}/lines/1/base", sources=("/amount",), rule="/requests/overpaid",
        text=f"{amount} {payment.currency} of {payment.number} is more than was open of invoice {invoice.number}: it "
        "is owed to the buyer.",
        allocated=(AllocatedAmount(source="/amount", amount=amount),),
    )  # fmt: skip
    return _surplus(payment, invoice, amount, day, context), reason, (_overpaid(payment, invoice, amount, place),)


def _wrong(payment: RequestPayment, context: RequestPaymentContext) -> Iterator[Finding]:
    if context.invoice is None:
        yield source_error(
            "REQUEST-E002", "/invoice_id",
            f"{payment.number} was paid on a request of invoice {payment.invoice_number or payment.invoice_id}, which "
            "was not made from here.",
            "Enter its receipt by hand in the books, then leave it out.",
        )  # fmt: skip
    elif payment.currency != context.invoice.currency or payment.currency != context.master_data.currency:
        yield source_error(
            "REQUEST-E001", "/currency",
            f"{payment.number} was paid in {payment.currency}, its invoice is in {context.invoice.currency} and the "
            f"books in {context.master_data.currency}.",
            "Enter its receipt by hand in the books, then leave it out.", cause=Cause.CURRENCY_NOT_KEPT,
        )  # fmt: skip
    elif payment.amount <= 0:
        yield source_error("REQUEST-E004", "/amount", f"{payment.number} is a payment of {payment.amount}.",
                           "Look at it at the provider, then leave it out.")  # fmt: skip
    elif payment.amount > context.open and context.rules.overpaid is None:
        surplus = payment.amount - max(context.open, ZERO)
        yield source_error(
            "REQUEST-E003", "/amount",
            f"{payment.number} is {surplus} {payment.currency} more than was open of invoice {context.invoice.number}, "
            "and no rule says where that stands.",
            "Name an account for requests: overpaid; or pay it back at the provider, and enter both by hand.",
            cause=Cause.RULE_MISSING,
        )  # fmt: skip


def _receipt(
    payment: RequestPayment, invoice: PostedInvoice, amount: Decimal, day: date, context: RequestPaymentContext
) -> Payment:
    reference = invoice.external_reference if is_ours(invoice.external_reference) else ""
    # The books would take no more against the invoice than they have open on it.
    applied = min(amount, max(context.open - context.apart, ZERO))
    named = {"external_reference": reference} if reference else {"invoice_id": invoice.id}
    return Payment(
        external_reference=external_reference(context.source, payment.id, Role.PAYMENT),
        date=day,
        currency=payment.currency,
        account=payment.arrived_on or context.rules.account,
        amount=amount,
        transaction=payment.transaction,
        order_number=invoice.order_number,
        text=f"{payment.number} for {invoice.number}",
        applied=(Application(**named, amount=applied),) if applied else (),
    )


def _surplus(
    payment: RequestPayment, invoice: PostedInvoice, amount: Decimal, day: date, context: RequestPaymentContext
) -> Journal:
    assert context.rules.overpaid is not None
    # The lines bear the provider's number of the charge: by it the payout that has the money finds both parts of it.
    lines = tuple(
        JournalLine(account=account, text=OVERPAID, base=base, amount=base, currency=payment.currency,
                    line_reference=payment.transaction)
        for account, base in ((payment.arrived_on or context.rules.account, amount), (context.rules.overpaid, -amount))
    )  # fmt: skip
    return Journal(
        external_reference=external_reference(context.source, payment.id, Role.JOURNAL),
        date=day,
        currency=payment.currency,
        text=f"{payment.number} for {invoice.number}",
        lines=lines,
    )


def _overpaid(payment: RequestPayment, invoice: PostedInvoice, surplus: Decimal, place: int) -> Finding:
    return Finding(
        id="REQUEST-N001", level=Level.NOTE, at=f"/documents/{place}",
        text=f"{payment.number} is {surplus} {payment.currency} more than was open of invoice {invoice.number}.",
        hint="It is owed to the buyer: pay it back, or set it against another invoice of theirs.",
    )  # fmt: skip
