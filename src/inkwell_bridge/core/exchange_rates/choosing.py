"""Which rate a document goes by: the first source that has one, in the order that the rules name them."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Sequence
from datetime import timedelta
from decimal import Decimal

from inkwell_bridge.core.commerce import Conversion, MoneyState, Order, Payment
from inkwell_bridge.core.exchange_rates.rate import ExchangeRate, fitted
from inkwell_bridge.core.rulebook.exchange_rates import ExchangeRateRules
from inkwell_bridge.core.values import LONGEST_TEXT

ZERO = Decimal(0)


def rate_of_order(
    order: Order, day: datetime.date, own: str, rules: ExchangeRateRules, table: Sequence[ExchangeRate]
) -> ExchangeRate | None:
    """The rate of an order's documents, dated ``day``; nothing where no source has one."""
    return next(_of_order(order, day, own, rules, table), None)


def _of_order(
    order: Order, day: datetime.date, own: str, rules: ExchangeRateRules, table: Sequence[ExchangeRate]
) -> Iterator[ExchangeRate]:
    for source in rules.taken_from:
        if source == "order" and order.settlement is not None:
            yield from _told(order.settlement, order.currency, own, "the order's own rate")
        elif source == "payment":
            yield from _of_all_money(order, own)
        elif source == "table":
            yield from _of_table(order.currency, day, own, rules, table)


def rate_of_money(
    money: Payment | None, day: datetime.date, of_order: ExchangeRate, rules: ExchangeRateRules,
    table: Sequence[ExchangeRate],
) -> ExchangeRate:  # fmt: skip
    """The rate of one payment on its ``day``: what its provider settled it at, or else the table's; where neither has
    one, that of its order, for then there is no difference that anybody knows of."""
    for source in rules.taken_from:
        if source == "payment" and money is not None and money.settled is not None:
            found = list(_told(money.settled, of_order.currency, of_order.own, "the provider's settlement"))
        elif source == "table":
            found = list(_of_table(of_order.currency, day, of_order.own, rules, table))
        else:
            continue
        if found:
            return found[0]
    return of_order


def _told(conversion: Conversion, currency: str, own: str, source: str) -> Iterator[ExchangeRate]:
    # In a third currency it says nothing of what the company's own is worth; and what can be no rate is none, whoever
    # tells it.
    rate = fitted(conversion.rate)
    if conversion.currency == own and rate is not None:
        said = f"{source}, {conversion.source}" if conversion.source else source
        day = conversion.at.date() if conversion.at else None
        yield ExchangeRate(currency=currency, own=own, rate=rate, source=said[:LONGEST_TEXT], day=day)


def _of_all_money(order: Order, own: str) -> Iterator[ExchangeRate]:
    """The rate that all of an order's money was settled at together; none where some of it was not."""
    received = [one for one in order.payments if one.state is MoneyState.RECEIVED and one.amount]
    settled = [one.settled for one in received if one.settled is not None and one.settled.currency == own]
    if not received or len(settled) < len(received):
        return
    if len({one.rate for one in settled}) == 1:
        yield from _told(settled[0], order.currency, own, "the provider's settlement")
        return
    whole = sum((one.amount for one in settled), ZERO)
    rate = fitted(whole / order.received) if order.received > 0 else None
    if rate is not None:
        said = f"the provider's settlement, {len(settled)} payments together"
        yield ExchangeRate(currency=order.currency, own=own, rate=rate, source=said)


def _of_table(
    currency: str, day: datetime.date, own: str, rules: ExchangeRateRules, table: Sequence[ExchangeRate]
) -> Iterator[ExchangeRate]:
    oldest = day - timedelta(days=rules.oldest_days)
    fitting = [one for one in table if (one.currency, one.own) == (currency, own)
               and one.day is not None and oldest <= one.day <= day]  # fmt: skip
    if fitting:
        newest = max(fitting, key=lambda one: one.day or oldest)
        said = f"{newest.source or 'daily rates'}, {newest.day}"
        yield newest.model_copy(update={"source": said})
