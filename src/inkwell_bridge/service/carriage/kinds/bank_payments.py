"""Bank payments: lines of the bank's that pay invoices which somebody entered in the books, as their receipts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import cast

from inkwell_bridge.core.amendments import with_money_taken_back
from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import RequestPayment, SourceKind
from inkwell_bridge.core.planner import Plan, RequestPaymentContext, plan_request_payment
from inkwell_bridge.ends.shapes import WriteBack
from inkwell_bridge.service.carriage.amending import changed_since_posted, standing
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.protocol import Gathered
from inkwell_bridge.service.carriage.kinds.request_payments import RequestPaymentsKind
from inkwell_bridge.service.carriage.kinds.requests import BY_BANK
from inkwell_bridge.service.carriage.open_balances import today


class BankPaymentsKind(RequestPaymentsKind):
    """A line, or a part of one, that pays an invoice. It goes over the bridge whose lane of requests knows the invoice;
    no end hands it out, so it has no lane."""

    name = BY_BANK
    source_kind = SourceKind.BANK_PAYMENTS
    has_lane = False
    # Its invoice is not read again before: it is matched under the lock of its bank account, where no call goes out.
    parent_kind = ""

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """As with what is paid on requests; and what was posted of one that was taken back."""
        return [
            replace(gathered, earlier=changed_since_posted(one) or None) if isinstance(gathered, Gathered) else gathered
            for one, gathered in zip(carryings, super().gather(carryings), strict=True)
        ]

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """The receipt, and what takes it back, on the day on which somebody said that the line is something else."""
        payment, context = cast(RequestPayment, carrying.source), cast(RequestPaymentContext, gathered.context)
        posted = [theirs.get(one.external_reference, one) for one in standing(carrying.documents)]
        return with_money_taken_back(
            plan_request_payment(payment, context), posted, source=context.source, source_id=payment.id,
            day=today(carrying.crossing.bridge), amendment=1,
            periods=context if context.periods.locked == "first open day" else None,
        )  # fmt: skip

    def written_back(self, carrying: Carrying) -> Sequence[WriteBack]:
        """Nothing: it has no number at the provider."""
        return ()


register(BankPaymentsKind())
