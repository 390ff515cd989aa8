"""Payments on requests: what buyers paid at the provider, as the receipts that settle their invoices."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import cast

from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import Payment, PostedInvoice, RequestPayment, SourceDocument, SourceKind
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import Outcome, Plan, RequestPaymentContext, plan_request_payment
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.ends.shapes import SetFields, WriteBack
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import payment_links
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Gathered, Listed
from inkwell_bridge.service.carriage.kinds.requests import BY_BANK, PAYMENTS, StillOpen, receipts_for, still_open
from inkwell_bridge.service.carriage.kinds.requests import NAME as REQUESTS
from inkwell_bridge.service.carriage.models import Crossing, Document, DocumentSource
from inkwell_bridge.service.carriage.releases import retry_held
from inkwell_bridge.service.carriage.snapshots import document_of
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.carriage.steps import (
    conclude_carried,
    hold_where_planned,
    plan_documents,
    post_documents,
    prove_documents,
    write_back,
)
from inkwell_bridge.service.connections.ends import dialect_of
from inkwell_bridge.service.reference.pinned import master_data_of

ZERO = Decimal(0)
# In place of the rule that leaves one out.
OF_ANOTHER_BRIDGE = "planner:paid-on-a-request-of-another-bridge"


def make_out_to_the_invoice(carrying: Carrying) -> None:
    """The receipt is made out to whom its invoice is."""
    assert carrying.gathered is not None
    context = cast(RequestPaymentContext, carrying.gathered.context)
    carrying.contact_id = context.invoice.contact_id if context.invoice else ""


class RequestPaymentsKind(BaseKind):
    """Money on a request. It belongs to the request's invoice, which is read again before."""

    name = PAYMENTS
    source_kind = SourceKind.REQUEST_PAYMENTS
    is_money_alone = True
    parent_kind = REQUESTS
    steps = (
        plan_documents, hold_where_planned, make_out_to_the_invoice, post_documents, prove_documents, write_back,
        conclude_carried,
    )  # fmt: skip

    def listed(self, source: SourceDocument) -> Listed:
        """What came in, on the day that it was paid; its invoice is its parent."""
        paid = cast(RequestPayment, source)
        money = Payment(
            transaction=paid.transaction, method=paid.method, tender=paid.tender, amount=paid.amount,
            paid_at=paid.paid_at,
        )  # fmt: skip
        return Listed(
            moment=paid.paid_at, currency=paid.currency, gross=paid.amount, parent_source_id=paid.invoice_id,
            money=(money,),
        )  # fmt: skip

    def rules_missing(self, rulebook: Rulebook) -> str:
        """The account of what comes in on requests."""
        return "" if rulebook.requests else "its rulebook says nothing of requests for payment"

    def ends_cannot(self, bridge: Bridge) -> str:
        """A sales side that tells of them, and books that take receipts and tell of their invoices."""
        missing = super().ends_cannot(bridge)
        if missing:
            return missing
        capabilities = dialect_of(bridge.books).capabilities
        if Role.PAYMENT not in capabilities.documents:
            return f"{bridge.books.name} takes no receipts"
        return "" if capabilities.tells_of_invoices else f"{bridge.books.name} does not tell of its invoices"

    def lock_names(self, crossing: Crossing) -> Sequence[str]:
        """One after the other of one invoice: each settles what those before it left open."""
        return (f"paid on:{crossing.workspace_id}:{crossing.bridge_id}:{crossing.parent_source_id}",)

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The invoice of each as it was read last, and what else was paid on it; two statements, however many."""
        bridge = carryings[0].crossing.bridge
        ids = [cast(RequestPayment, one.source).invoice_id for one in carryings]
        rows = Crossing.objects.select_related("snapshot__personal").filter(
            workspace=bridge.workspace_id, bridge=bridge, kind=REQUESTS, source_id__in=ids
        )
        known = (row for row in rows if row.snapshot.content)
        invoices = {row.source_id: cast(PostedInvoice, document_of(row.snapshot)) for row in known}
        receipts = receipts_for(bridge, ids, (PAYMENTS, BY_BANK))
        asked = (cast(RequestPayment, one.source).request for one in carryings)
        unknown = [request for request, invoice in zip(asked, ids, strict=True) if request and invoice not in invoices]
        elsewhere = _asked_elsewhere(bridge, unknown) if unknown else frozenset()
        return [
            _with_context(one, found, bridge, invoices.get(invoice), receipts[invoice], elsewhere)
            for one, found, invoice in zip(carryings, gathered_under(carryings), ids, strict=True)
        ]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_request_payment``."""
        return plan_request_payment(cast(RequestPayment, source), cast(RequestPaymentContext, gathered.context))

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """The provider's number of the payment, in the field of the invoice that the rules name."""
        assert carrying.gathered is not None
        context = cast(RequestPaymentContext, carrying.gathered.context)
        name, paid = context.rules.fields.transactions, cast(RequestPayment, carrying.source)
        if not name or context.invoice is None:
            return ()
        there = next((one.value for one in context.invoice.fields if one.name == name), "")
        numbers = dict.fromkeys([*there.split(), paid.transaction])
        return (SetFields(id=paid.invoice_id, fields={name: " ".join(numbers)}),)

    def after(self, concluded: Sequence[Concluded]) -> None:
        """The links of their invoices say how these stand; and a request that the provider would not lower, as more had
        been paid on it than was known here, goes again. One statement, and two where there is such a request."""
        bridge, invoices = concluded[0].crossing.bridge, [one.crossing.parent_source_id for one in concluded]
        payment_links.renew(bridge, invoices)
        refused = Crossing.objects.select_related("bridge__books").filter(
            workspace=bridge.workspace_id, bridge=bridge, kind=REQUESTS, source_id__in=invoices,
            state=CrossingState.HELD, cause=Cause.SALES_REFUSED,
        )  # fmt: skip
        retry_held(refused)


def _asked_elsewhere(bridge: Bridge, requests: Sequence[str]) -> frozenset[str]:
    """Those of these requests, by their references, that another bridge made at the same provider; one statement."""
    rows = Document.objects.filter(
        workspace=bridge.workspace_id, connection=bridge.source_id, role=Role.PAYMENT_REQUEST,
        external_reference__in=requests,
    ).exclude(crossings__bridge=bridge)  # fmt: skip
    return frozenset(rows.values_list("external_reference", flat=True))


def _with_context(
    one: Carrying, gathered: Gathered, bridge: Bridge, invoice: PostedInvoice | None,
    receipts: Mapping[str, DocumentSource], elsewhere: Collection[str],
) -> Gathered:  # fmt: skip
    if gathered.ready is not None:
        return gathered
    if cast(RequestPayment, one.source).request in elsewhere:
        # The other bridge reads it as well, and posts it into its own books.
        return replace(gathered, ready=Plan(outcome=Outcome.LEFT_OUT, left_out_by=OF_ANOTHER_BRIDGE))
    rules = gathered.rulebook.requests
    # A lane does not run without them; but what was held may be let go under rules that have dropped them since.
    if rules is None:
        return replace(gathered, ready=Plan(outcome=Outcome.LEFT_OUT, left_out_by="/requests"))
    found = still_open(invoice, receipts, but=one.crossing) if invoice else StillOpen(amount=ZERO)
    context = RequestPaymentContext(
        source=bridge.source.slug,
        rules=rules,
        periods=gathered.rulebook.periods,
        master_data=master_data_of(gathered.master_data),
        time_zone=bridge.company.time_zone,
        invoice=invoice,
        open=found.amount,
        apart=found.apart,
        locked_until=gathered.locked_until,
    )
    return replace(gathered, context=context)


register(RequestPaymentsKind())
