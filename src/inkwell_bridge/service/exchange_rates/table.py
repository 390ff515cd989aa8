"""Keeping daily rates, and finding those that an order may go by."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Sequence
from datetime import date
from decimal import Decimal

from django.db import transaction
from django.dispatch import Signal
from django.utils import timezone

from inkwell_bridge.core.exchange_rates import ExchangeRate
from inkwell_bridge.service.exchange_rates.models import DailyRate
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.people.trail import record

# Sent with the company whose table has new rates: what waited for one goes on.
rates_came = Signal()
AT_ONCE = 1000


@transaction.atomic
def keep(company: Company, rates: Sequence[ExchangeRate], person: Person | None) -> tuple[int, int]:
    """Put rates into a company's table; one of a day that has one takes its place. Answers how many are new, and how
    many took another's place."""
    by_day = {(one.currency, one.day): one for one in rates}
    there = _standing(company, by_day)
    changed = {key: one for key, one in by_day.items()
               if key not in there or (there[key].rate, there[key].source) != (one.rate, one.source)}  # fmt: skip
    rows = [
        DailyRate(workspace_id=company.workspace_id, company=company, currency=one.currency, day=one.day, rate=one.rate,
                  source=one.source, entered_by=person, entered_at=timezone.now())
        for one in changed.values()
    ]  # fmt: skip
    DailyRate.objects.bulk_create(
        rows, batch_size=AT_ONCE, update_conflicts=True,
        unique_fields=["workspace", "company", "currency", "day"],
        update_fields=["rate", "source", "entered_by", "entered_at"],
    )  # fmt: skip
    corrected = [key for key in changed if key in there]
    if changed:
        record(company.workspace, person, "exchange rates.kept", company.slug, **_told(changed, there, corrected))
        transaction.on_commit(lambda: rates_came.send(Company, company=company))
    return len(changed) - len(corrected), len(corrected)


def _standing(
    company: Company, wanted: Collection[tuple[str, date | None]]
) -> dict[tuple[str, date | None], DailyRate]:
    days = [day for _, day in wanted if day is not None]
    if not days:
        return {}
    rows = DailyRate.objects.filter(
        workspace=company.workspace_id, company=company, day__gte=min(days), day__lte=max(days),
        currency__in={currency for currency, _ in wanted},
    )  # fmt: skip
    return {(row.currency, row.day): row for row in rows.select_for_update()}


def _told(
    changed: dict[tuple[str, date | None], ExchangeRate], there: dict[tuple[str, date | None], DailyRate],
    corrected: Sequence[tuple[str, date | None]],
) -> dict[str, object]:  # fmt: skip
    """For the trail: how many, and of what was corrected the figures before and after."""
    shown = corrected[:20]
    return {
        "count": len(changed),
        "currencies": sorted({currency for currency, _ in changed}),
        "rates": {f"{currency} {day}": f"{changed[currency, day].rate.normalize():f}" for currency, day in shown},
        "was": {"rates": {f"{currency} {day}": f"{there[currency, day].rate.normalize():f}"
                          for currency, day in shown}},
    }  # fmt: skip


@transaction.atomic
def remove(rate: DailyRate, person: Person) -> None:
    """Take a rate out of the table; what was posted at it stays."""
    record(rate.company.workspace, person, "exchange rate.removed", rate.company.slug,
           rate=f"{rate.currency} {rate.day} {rate.rate.normalize():f}")  # fmt: skip
    rate.delete()


def rates_between(
    company: Company, currencies: Collection[str], first: date, last: date
) -> dict[str, tuple[ExchangeRate, ...]]:
    """The rates of these currencies over these days, by currency; one statement."""
    rows = DailyRate.objects.filter(
        workspace=company.workspace_id, company=company, currency__in=currencies, day__gte=first, day__lte=last
    ).order_by("day")
    found: dict[str, list[ExchangeRate]] = defaultdict(list)
    for currency, day, rate, source in rows.values_list("currency", "day", "rate", "source"):
        found[currency].append(ExchangeRate(currency=currency, own=company.currency, rate=shortest(rate),
                                            source=source, day=day))  # fmt: skip
    return {currency: tuple(rates) for currency, rates in found.items()}


def shortest(rate: Decimal) -> Decimal:
    """A rate as somebody would write it: the column has more digits than most rates."""
    plain = rate.normalize()
    return plain if plain.as_tuple().exponent <= 0 else plain.quantize(Decimal(1))  # type: ignore[operator]
