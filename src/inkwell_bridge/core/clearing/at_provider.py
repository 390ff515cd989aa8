"""A clearing account beside the provider's own ledger: what it has taken and not paid out yet.

The books know of fees once a payout tells of them, the provider from the moment of each charge. So on a day without a
payout its balance and the account differ by what it will keep; and by what one side knows and the other does not.
"""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterable
from decimal import Decimal

from inkwell_bridge.core.clearing.columns import BY_ENTRY, Column
from inkwell_bridge.core.commerce import PayoutEntry
from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Exact, Text, Value

ZERO = Decimal(0)


class OneSided(Value):
    """Money that one side does not know, or knows with another amount.

    Shape: ``here`` is what stands on the account of it, ``there`` what the provider has; ``number`` that of the order.
    """

    transaction: Text
    number: Text = ""
    crossing: int | None = None
    day: datetime.date
    here: Exact | None = None
    there: Exact | None = None


class AtProvider(Value):
    """The account beside the provider, at the end of a day.

    Shape: ``amounts`` are the provider's entries that stand in no payout made by then, by column (``columns`` in the
    order in which people read them), and ``balance`` what they come to: what it owes. ``here`` is what stands on the
    account of money that it has not paid out. What differs between its charges and refunds and that is ``only_here``,
    ``only_there``, or there with another amount (``otherwise``, what stands here more); ``items`` are the oldest of
    these. With ``trouble`` it could not be asked.
    Units: the account's currency, as the provider's account sees them: a charge is positive.
    """

    provider: Text
    day: datetime.date
    columns: tuple[Column, ...] = ()
    amounts: dict[Column, Exact] = {}
    balance: Exact = ZERO
    here: Exact = ZERO
    only_here: Exact = ZERO
    only_there: Exact = ZERO
    otherwise: Exact = ZERO
    count: int = 0
    items: tuple[OneSided, ...] = ()
    trouble: Text = ""


@record
class Compared:
    """What both sides have of money that is not paid out, and how much of it only one of them has, over all items."""

    here: Decimal
    only_here: Decimal
    only_there: Decimal
    otherwise: Decimal
    count: int


def by_column(entries: Iterable[PayoutEntry]) -> dict[Column, Decimal]:
    """What entries of a provider's come to, each part in its column: together they are what it owes for them."""
    sums: dict[Column, Decimal] = defaultdict(Decimal)
    for entry in entries:
        for column, amount in ((BY_ENTRY.get(entry.kind, Column.OTHER), entry.amount), (Column.FEES, entry.fee),
                               (Column.FEE_TAX, entry.fee_tax)):  # fmt: skip
            if amount:
                sums[column] += amount
    return dict(sums)


def beside_provider(
    provider: str, day: datetime.date, sums: dict[Column, Decimal], compared: Compared, items: Iterable[OneSided]
) -> AtProvider:
    """Hold what a provider has not paid out against what stands on the account."""
    columns = tuple(column for column in Column if sums.get(column))
    return AtProvider(
        provider=provider,
        day=day,
        columns=columns,
        amounts={column: sums[column] for column in columns},
        balance=sum(sums.values(), ZERO),
        here=compared.here,
        only_here=compared.only_here,
        only_there=compared.only_there,
        otherwise=compared.otherwise,
        count=compared.count,
        items=tuple(items),
    )
