"""What stands on a clearing account at the end of a day: item by item, and by age."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from decimal import Decimal
from enum import StrEnum

from pydantic import computed_field

from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Exact, Text, Value

ZERO = Decimal(0)
# Ages in days, each up to and with the last of them; what is older comes after them.
AGES = (7, 30, 90)


class WhyStands(StrEnum):
    """Why something stands there."""

    NOT_PAID_OUT = "not paid out yet"
    NOT_POSTED = "paid out, and the payout is not posted"
    PAID_OUT_OTHERWISE = "paid out with another amount"
    NOT_RECEIVED = "paid out, and its receipt is not posted"
    RECEIVED_ELSEWHERE = "paid out, and received on another account or day"
    NOT_ARRIVED = "on its way to the bank"
    CARRIED_OVER = "carried over by the provider"


class StandingItem(Value):
    """One transaction, or one payout, of which something stands on the account.

    Shape: ``received`` is what was put there, ``cleared`` what was taken off again; ``day`` when it came, or where
    nothing did, when it was taken off. ``number`` is that of the order or refund, ``payout`` that of the payout that
    has it.
    """

    why: WhyStands
    number: Text = ""
    transaction: Text = ""
    payout: Text = ""
    crossing: int | None = None
    day: datetime.date
    received: Exact
    cleared: Exact

    @computed_field  # type: ignore[prop-decorator]
    @property
    def amount(self) -> Exact:
        """What is left of it."""
        return self.received - self.cleared


class Aged(Value):
    """What is not older than ``up_to`` days, and older than the age before; of the last, all that is older."""

    up_to: int | None
    count: int
    amount: Exact


def why_standing(
    *, received: Decimal | None, cleared: Decimal | None, payout: str, posted_elsewhere: bool = False
) -> WhyStands:
    """Why a charge or a refund stands on the clearing account, by what is known of both its sides: ``payout`` that has
    it, posted or not; ``posted_elsewhere`` tells of a receipt that stands anywhere but there."""
    if received is None:
        # Below zero there: it was taken off what never came in.
        return WhyStands.RECEIVED_ELSEWHERE if posted_elsewhere else WhyStands.NOT_RECEIVED
    if cleared is not None:
        return WhyStands.PAID_OUT_OTHERWISE
    return WhyStands.NOT_POSTED if payout else WhyStands.NOT_PAID_OUT


class Standing(Value):
    """What stands on an account at the end of a day, and why.

    Shape: ``from_elsewhere`` is what the books had before the first day that was not posted from here (opening
    balances, and what was entered by hand), ``other_journals`` what journals of anything but payouts put there.
    ``items`` are the oldest of ``count``, which come to ``amount``; ``ages`` are of all of them. ``not_accounted_for``
    is what none of these is.
    """

    from_elsewhere: Exact
    other_journals: Exact
    count: int
    amount: Exact
    ages: tuple[Aged, ...]
    items: tuple[StandingItem, ...]
    not_accounted_for: Exact


@record
class OfDay:
    """How many items came on a day, and what they come to."""

    day: datetime.date
    count: int
    amount: Decimal


def standing_of(
    sums: Iterable[OfDay], items: Iterable[StandingItem], *, on: datetime.date, closing: Decimal,
    from_elsewhere: Decimal, other_journals: Decimal,
) -> Standing:  # fmt: skip
    """What an account that closes with ``closing`` is made of: all its items, summed by day, and the oldest of them."""
    bounds: Sequence[int | None] = (*AGES, None)
    counts, amounts = dict.fromkeys(bounds, 0), dict.fromkeys(bounds, ZERO)
    for one in sums:
        age = (on - one.day).days
        bound = next((bound for bound in AGES if age <= bound), None)
        counts[bound] += one.count
        amounts[bound] += one.amount
    come_to = sum(amounts.values(), ZERO)
    # What no item, journal or opening is must show: it would be the one amount here with a name for being left over.
    return Standing(
        from_elsewhere=from_elsewhere,
        other_journals=other_journals,
        count=sum(counts.values()),
        amount=come_to,
        ages=tuple(Aged(up_to=bound, count=counts[bound], amount=amounts[bound]) for bound in bounds),
        items=tuple(items),
        not_accounted_for=closing - from_elsewhere - other_journals - come_to,
    )
