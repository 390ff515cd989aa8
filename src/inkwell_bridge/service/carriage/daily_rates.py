"""The exchange rates that orders and refunds are planned with: those of the company's table, and the one posted at."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, datetime, timedelta

from inkwell_bridge.core.commerce import Order, Payment, Refund
from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.rulebook import Rulebook
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.releases import retry_held
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.exchange_rates.table import rates_between
from inkwell_bridge.service.people.models import Company

ONE_DAY = timedelta(days=1)


def rates_for(documents: Sequence[tuple[Order | Refund, Rulebook]], bridge: Bridge) -> list[tuple[ExchangeRate, ...]]:
    """The rates of the company's table that each of these may ask for; one statement, and none where all are in the
    company's own currency or take their rates from somewhere else."""
    company = bridge.company
    asked = [_days(document, rules, company) for document, rules in documents]
    spans = [one for one in asked if one is not None]
    if not spans:
        return [()] * len(asked)
    currencies = {document.currency for (document, _), span in zip(documents, asked, strict=True) if span is not None}
    found = rates_between(company, currencies, min(first for first, _ in spans), max(last for _, last in spans))
    return [
        tuple(
            rate for rate in found.get(document.currency, ()) if rate.day is not None and span[0] <= rate.day <= span[1]
        )
        if span is not None
        else ()
        for (document, _), span in zip(documents, asked, strict=True)
    ]


def _days(document: Order | Refund, rules: Rulebook, company: Company) -> tuple[date, date] | None:
    """From the oldest to the newest day that a document's rates can be of; none where it needs none of the table."""
    wanted = rules.exchange_rates
    if wanted is None or "table" not in wanted.taken_from or document.currency == company.currency:
        return None
    moments = [*_moments(document)]
    # A day more each way: the company's clocks are others than UTC's.
    oldest = min(moments).date() - timedelta(days=wanted.oldest_days) - ONE_DAY
    return oldest, max(moments).date() + ONE_DAY


def _moments(document: Order | Refund) -> Iterator[datetime]:
    if isinstance(document, Refund):
        yield document.refunded_at
    else:
        yield from (document.placed_at, document.changed_at)
        yield from filter(None, (document.dispatched_at,))
        yield from (event.at for event in document.history)
    payments: Sequence[Payment] = document.payments
    yield from (one.paid_at for one in payments if one.paid_at)


def posted_rate(order: Crossing) -> ExchangeRate | None:
    """The rate that an order's documents were posted at."""
    kept = (order.planned or {}).get("exchange_rate")
    return ExchangeRate.model_validate(kept) if kept else None


def retry_without_rate(company: Company) -> None:
    """Let go what waited for a rate of a company's table; what still has none is held again."""
    waiting = Crossing.objects.filter(
        workspace=company.workspace_id, bridge__company=company, bridge__removed_at__isnull=True,
        state=CrossingState.HELD, cause=Cause.RATE_MISSING.value,
    )  # fmt: skip
    retry_held(waiting.select_related("bridge__books"))
