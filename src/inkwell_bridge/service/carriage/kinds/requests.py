"""Requests for payment: invoices of the books that their buyers are asked to pay at a provider."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, time
from decimal import Decimal
from typing import cast

from django.db.models import Q, Sum

from inkwell_bridge.core.books import Payment as BooksPayment
from inkwell_bridge.core.books import Role
from inkwell_bridge.core.commerce import PostedInvoice, SourceDocument, SourceKind
from inkwell_bridge.core.planner import Outcome, Plan, RequestContext, plan_request
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.core.rulebook.requests import RequestRules
from inkwell_bridge.ends.shapes import SetFields, WriteBack
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage import awaited_money, payment_links
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.effects import Ask, Effects
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Concluded, Direction, Gathered, Listed
from inkwell_bridge.service.carriage.models import Crossing, Document, DocumentSource, PaymentLink
from inkwell_bridge.service.carriage.states import DocumentState
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
NAME, PAYMENTS = "requests", "request_payments"
# What the bank tells of, and no request asked for there (see bank_payments).
BY_BANK = "bank_payments"


@dataclass(frozen=True, slots=True, kw_only=True)
class RequestSetting:
    """What a request is planned with, and the link that its buyer is given, once there is one."""

    rules: RequestRules
    plan: RequestContext
    link: PaymentLink | None = None


def keep_link(carrying: Carrying) -> Effects[None]:
    """See to it that the request has its link. Two statements for all of a lot that have none yet."""
    gathered = carrying.gathered
    assert gathered is not None
    setting = cast(RequestSetting, gathered.context)
    if setting.link is None:
        link = yield Ask(_links_for, carrying.crossing.bridge, carrying.crossing)
        carrying.gathered = replace(gathered, context=replace(setting, link=link))


def _links_for(_: Bridge, crossings: Sequence[Crossing]) -> list[PaymentLink]:
    made = payment_links.made_for(crossings)
    return [made[one.pk] for one in crossings]


class RequestsKind(BaseKind):
    """An invoice that was posted in the books, by whomever. Its request says at the provider what is open by now."""

    name = NAME
    source_kind = SourceKind.INVOICES
    direction = Direction.BOOKS_TO_SALES
    # A request has one life at the provider: it is told what it asks for now, and is never made anew.
    latest_only = True
    steps = (
        plan_documents, hold_where_planned, post_documents, prove_documents, keep_link, write_back, conclude_carried,
    )  # fmt: skip

    def listed(self, source: SourceDocument) -> Listed:
        """Its total, on the day of the invoice. It is the money of a sale that the books count themselves."""
        invoice = cast(PostedInvoice, source)
        # At noon it is the same day on nearly all clocks.
        moment = datetime.combine(invoice.issued_on, time(12), UTC)
        return Listed(moment=moment, currency=invoice.currency, gross=invoice.total, ties=False)

    def passes_over(self, source: SourceDocument) -> bool:
        """One that is paid: most invoices of the books are, and change for reasons of their own."""
        invoice = cast(PostedInvoice, source)
        return invoice.state != "posted" or invoice.open <= 0

    def rules_missing(self, rulebook: Rulebook) -> str:
        """The account of what comes in on requests."""
        return "" if rulebook.requests else "its rulebook says nothing of requests for payment"

    def ends_cannot(self, bridge: Bridge) -> str:
        """Books that tell of their invoices, and a sales side that asks for money."""
        books, sales = dialect_of(bridge.books), dialect_of(bridge.source)
        if not books.capabilities.tells_of_invoices:
            return f"{bridge.books.name} does not tell of its invoices"
        if not sales.capabilities.takes_requests:
            return f"{bridge.source.name} takes no requests for payment"
        return ""

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """What was paid on each already, and what somebody decided of it; three statements, however many."""
        bridge = carryings[0].crossing.bridge
        links = payment_links.links_of([one.crossing for one in carryings])
        ids = [one.crossing.source_id for one in carryings]
        receipts, came_in = receipts_for(bridge, ids), payments_of(bridge, ids)
        return [
            _with_setting(one, found, bridge, links.get(one.crossing.pk), receipts[invoice], came_in.get(invoice, ZERO))
            for one, found, invoice in zip(carryings, gathered_under(carryings), ids, strict=True)
        ]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_request``."""
        return plan_request(cast(PostedInvoice, source), cast(RequestSetting, gathered.context).plan)

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """The link and the provider's number of the request, in the fields of the invoice that the rules name."""
        assert carrying.gathered is not None
        setting = cast(RequestSetting, carrying.gathered.context)
        names, (request, *_) = setting.rules.fields, carrying.documents
        if setting.link is None:
            return ()
        said = {
            names.link: payment_links.address_of(setting.link, setting.rules),
            names.number: request.books_number,
        }
        said.pop("", None)
        return (SetFields(id=carrying.crossing.source_id, fields=said),) if said else ()

    def after(self, concluded: Sequence[Concluded]) -> None:
        """Their links say how they stand; one statement. And the bank may have their money."""
        awaited_money.tell(concluded)
        payment_links.renew(concluded[0].crossing.bridge, [one.crossing.source_id for one in concluded])


def receipts_for(
    bridge: Bridge, invoices: Sequence[str], kinds: Sequence[str] = (PAYMENTS,)
) -> dict[str, dict[str, DocumentSource]]:
    """The receipts of what was paid on these invoices, on their requests alone or as documents of other ``kinds``, by
    the invoice's id and then by their reference; one statement."""
    rows = DocumentSource.objects.select_related("document", "crossing__snapshot").filter(
        ~Q(document__state=DocumentState.CANCELLED), document__put_right=False,
        crossing__workspace=bridge.workspace_id, crossing__bridge=bridge, crossing__kind__in=kinds,
        crossing__parent_source_id__in=invoices, document__role=Role.PAYMENT,
    )  # fmt: skip
    found: dict[str, dict[str, DocumentSource]] = defaultdict(dict)
    for row in rows:
        found[row.crossing.parent_source_id][row.document.external_reference] = row
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class StillOpen:
    """What may be settled of an invoice by now. Units: ``amount`` in its currency; ``apart`` is as much of it as stands
    in the books beside the invoice, which money that was taken back is set against still."""

    amount: Decimal
    apart: Decimal = ZERO


def still_open(
    invoice: PostedInvoice, receipts: Mapping[str, DocumentSource], *, but: Crossing | None = None
) -> StillOpen:  # fmt: skip
    """What is open by the invoice's own word, less what receipts have sent that it does not tell of yet, and with what
    did not stay; without the receipt of one payment (``but``), where that is asked about."""
    if invoice.state != "posted":
        return StillOpen(amount=ZERO)
    told = {part.external_reference: part.amount for part in invoice.settled}
    amount, apart = invoice.open, ZERO
    for reference, row in receipts.items():
        if but is not None and row.crossing_id == but.pk:
            amount += told.get(reference, ZERO)
        elif not row.document.begun:
            continue
        elif (row.crossing.snapshot.content or {}).get("taken_back"):
            # Set against the invoice in the books still, whether that was read since or not.
            applied = sum((part.amount for part in BooksPayment.read(row.document.planned).applied), ZERO)
            amount += told.get(reference, ZERO)
            apart += told.get(reference, applied)
        elif reference not in told:
            amount -= BooksPayment.read(row.document.planned).amount
    return StillOpen(amount=amount, apart=apart)


def payments_of(bridge: Bridge, invoices: Sequence[str]) -> dict[str, Decimal]:
    """All that the provider told of what was paid on the requests of these invoices, posted or not, by the invoice's
    id; one statement."""
    rows = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, kind=PAYMENTS, parent_source_id__in=invoices
    )
    return dict(rows.values_list("parent_source_id").annotate(paid=Sum("gross", default=ZERO)).order_by())


def _asked(request: Document) -> Decimal:
    """What a request asks for at the provider, as it was read back last; what was planned since may have been refused
    there."""
    return Decimal((request.record or {}).get("document", request.planned)["amount"])


def _with_setting(
    one: Carrying, gathered: Gathered, bridge: Bridge, link: PaymentLink | None, receipts: dict[str, DocumentSource],
    came_in: Decimal,
) -> Gathered:  # fmt: skip
    if gathered.ready is not None:
        return gathered
    rules = gathered.rulebook.requests
    # A lane does not run without them; but what was held may be let go under rules that have dropped them since.
    if rules is None:
        return replace(gathered, ready=Plan(outcome=Outcome.LEFT_OUT, left_out_by="/requests"))
    invoice = cast(PostedInvoice, one.source)
    request = next((document for document in one.documents if document.begun), None)
    # By the word of the invoice itself, as its open amount is: one that was read a moment ago must not count otherwise.
    received = sum((part.amount for part in invoice.settled if part.external_reference in receipts), ZERO)
    plan = RequestContext(
        books=bridge.books.slug,
        rules=rules,
        master_data=master_data_of(gathered.master_data),
        starts_on=bridge.starts_on,
        received=received,
        came_in=came_in,
        wish=link.wish if link else "",  # type: ignore[arg-type]
        # Rehearsed, it is as if there were none.
        decided=request is not None and one.under is None,
        asked=_asked(request) if request else None,
    )
    return replace(gathered, context=RequestSetting(rules=rules, plan=plan, link=link))


register(RequestsKind())
