"""The life of an order, as the core alone sees it: posted, changed, given back, changed again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.amendments import MarketplaceTax, PostedSale, owing_of, plan_again, plan_amendment
from inkwell_bridge.core.books import BooksDocument, CreditNote, LedgerDocument, Role
from inkwell_bridge.core.commerce import Order, Refund
from inkwell_bridge.core.planner import Outcome, Owing, Plan, PlanningContext, plan_order, plan_refund

ZERO = Decimal(0)
Sums = dict[tuple[str, str], tuple[Decimal, Decimal]]


class Life:
    """One order in books that take whatever is planned; ``wanted`` is what it would become by itself now."""

    def __init__(self, order: Order, context: PlanningContext) -> None:
        able = context.capabilities.model_copy(update={"documents": tuple(Role)})
        self.context = context = context.model_copy(update={"capabilities": able})
        self.order = order
        self.plan = plan_order(order, context)
        self.wanted = self.plan
        assert self.plan.outcome is Outcome.CARRY, self.plan.findings
        self.documents: list[BooksDocument] = list(self.plan.documents)
        self.refunds: list[Refund] = []
        self.refund_plans: list[Plan] = []
        self.refunded: list[BooksDocument] = []

    def change(self, order: Order) -> Plan:
        """The order as it is now; answers the plan, whose further documents stand in the books after it."""
        posted_at = self.context.model_copy(update={"exchange_rate": self.plan.exchange_rate})
        again = posted_at.model_copy(update={"decided": True, "posted_shares": self.sale.shares})
        self.wanted, _ = plan_again(order, again)
        plan = plan_amendment(order, self.sale, posted_at)
        if plan.outcome is Outcome.CARRY:
            self.order, self.plan, self.documents = order, plan, list(plan.documents)
        return plan

    def refund(self, refund: Refund) -> Plan:
        """Something of it goes back."""
        context = self.context.model_copy(
            update={"posted_shares": self.plan.posted_shares, "exchange_rate": self.plan.exchange_rate}
        )
        called_off = self.plan.called_off is not None
        changed = any(isinstance(one, CreditNote) for one in self.documents)
        changed = changed or self.order.received > self.order.total
        kept = [sum((one.amount for one in plan.withheld), ZERO) for plan in (self.plan, *self.refund_plans)]
        returned = [one.marketplace_tax_returned or ZERO for one in self.refund_plans]
        owing = (
            owing_of(
                self.order,
                self.documents,
                self.refunded,
                called_off=called_off,
                rate=self.plan.exchange_rate if self.plan.converted else None,
                tax=MarketplaceTax(now=kept[0], credited=sum(kept[1:], ZERO), returned=sum(returned, ZERO)),
                beyond=self.plan.beyond_order or ZERO,
            )
            if changed or self.plan.converted
            else Owing()
        )
        plan = plan_refund(refund, self.order, context, refunded_before=self.refunds, owing=owing)
        if plan.outcome is Outcome.CARRY:
            self.refunds.append(refund)
            self.refund_plans.append(plan)
            self.refunded += plan.documents
        return plan

    @property
    def sale(self) -> PostedSale:
        """What stands in the books."""
        return PostedSale(
            documents=self.documents,
            plan=self.plan,
            before=self.order,
            refunded=self.refunded,
            refunds=self.refunds if self.plan.converted else (),
            marketplace_tax_returned=sum((one.marketplace_tax_returned or ZERO for one in self.refund_plans), ZERO),
            amendments=self.plan.amendment,
        )

    @property
    def books(self) -> Sums:
        """Net and tax by account and code, of all that stands in the books."""
        return sums([*self.documents, *self.refunded])


def sums(documents: Sequence[BooksDocument]) -> Sums:
    """Net and tax by account and code; where there is neither there is no entry."""
    found: dict[tuple[str, str], list[Decimal]] = defaultdict(lambda: [ZERO, ZERO])
    for document in documents:
        if isinstance(document, LedgerDocument):
            sign = -1 if isinstance(document, CreditNote) else 1
            for line in document.lines:
                amounts = found[line.account, line.tax_code]
                amounts[0] += sign * line.net
                amounts[1] += sign * line.tax
    return {key: (net, tax) for key, (net, tax) in found.items() if net or tax}
