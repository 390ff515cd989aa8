"""An account of money, proved day by day: what was posted from here, beside what the books have on it.

Both sides begin with the books' own balance before the first day. From there each goes by itself: ours by what was read
back of every document, the books' by the entries that they tell of the account. Where they part, the items say why.
"""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal
from enum import StrEnum

from pydantic import computed_field

from inkwell_bridge.core.clearing.columns import Column
from inkwell_bridge.core.record import record
from inkwell_bridge.core.values import Code, Exact, Text, Value

ZERO = Decimal(0)


class WhyDiffers(StrEnum):
    """Why an item is not the same on both sides."""

    ENTERED_THERE = "entered by hand"
    NOT_KNOWN = "bears our mark, and nothing here made it"
    KNOWN_ELSEWHERE = "known here on another account or day"
    MISSING = "missing in the books"
    TWICE = "twice in the books"
    OTHER_AMOUNT = "another amount"
    OTHER_DAY = "another day"


class Item(Value):
    """One document on both sides of an account; absent on the side that does not have it.

    Shape: ``documents`` counts those that the books have under its reference. ``entered_there`` tells one that bears no
    mark of ours, ``known_elsewhere`` one that was posted from here and stood on another account or day when it was read
    back. ``crossing`` is the number of what it came from, here. Units: as on the account, a debit positive.
    """

    reference: Text = ""
    number: Text = ""
    text: Text = ""
    entered_there: bool = False
    known_elsewhere: bool = False
    documents: int = 1
    our_day: datetime.date | None = None
    our_amount: Exact | None = None
    books_day: datetime.date | None = None
    books_amount: Exact | None = None
    crossing: int | None = None
    source_number: Text = ""

    @computed_field  # type: ignore[prop-decorator]
    @property
    def amount(self) -> Exact:
        """What the books have more of it (below zero: less)."""
        return (self.books_amount or ZERO) - (self.our_amount or ZERO)

    @computed_field  # type: ignore[prop-decorator]
    @property
    def why(self) -> WhyDiffers | None:
        """Why it is not the same; nothing where it is."""
        if self.our_amount is None and self.known_elsewhere:
            # Posted from here, and moved since: to this account from another, or into these days.
            return WhyDiffers.KNOWN_ELSEWHERE
        if self.our_amount is None:
            # What bears our mark is no entry by hand: somebody copied it, or what is known here was lost.
            return WhyDiffers.ENTERED_THERE if self.entered_there else WhyDiffers.NOT_KNOWN
        if self.books_amount is None:
            return WhyDiffers.MISSING
        if self.documents > 1:
            # Asked before the amount, which two documents double: that is the lesser news.
            return WhyDiffers.TWICE
        if self.amount:
            return WhyDiffers.OTHER_AMOUNT
        return WhyDiffers.OTHER_DAY if self.our_day != self.books_day else None


class AccountDay(Value):
    """A day of the account: what it began with, what came in each column, and what it ended with on both sides."""

    day: datetime.date
    opening: Exact
    amounts: dict[Column, Exact]
    closing: Exact
    books: Exact

    @computed_field  # type: ignore[prop-decorator]
    @property
    def difference(self) -> Exact:
        """What the books have more."""
        return self.books - self.closing


class Difference(Value):
    """Items that differ for one reason, and what the books have more by them."""

    why: WhyDiffers
    count: int
    amount: Exact


class AccountProof(Value):
    """The account over some days.

    Shape: ``days`` are those on which anything moved, ``amounts`` the columns of all of them. ``closing`` is ours,
    ``books`` what the books say themselves at the end of the last day. ``unexplained`` is what the items do not
    account for: zero, unless the books' own entries do not lead from their one balance to the other.
    """

    account: Code
    currency: Code
    first: datetime.date
    last: datetime.date
    opening: Exact
    amounts: dict[Column, Exact]
    closing: Exact
    books: Exact
    days: tuple[AccountDay, ...]
    differences: tuple[Difference, ...]
    unexplained: Exact

    @property
    def proves(self) -> bool:
        """Whether both sides are the same, item by item: two that cancel are not."""
        return not self.differences and not self.unexplained


@record
class AccountRead:
    """What the books told of an account: its balance on the evening before the first day and on that of the last, and
    what their entries come to on each day."""

    account: str
    currency: str
    first: datetime.date
    last: datetime.date
    opening: Decimal
    closing: Decimal
    moved: Mapping[datetime.date, Decimal]


def prove_account(
    there: AccountRead,
    moved: Mapping[datetime.date, Iterable[tuple[Column, Decimal]]],
    differences: Iterable[Difference],
) -> AccountProof:
    """Hold what was posted from here, by day and column, against what the books told; ``differences`` are sums over the
    items that are not the same on both sides."""
    # Ours begins where theirs does, or an opening balance that nobody posted from here would differ for ever.
    ours = {day: added(parts) for day, parts in moved.items()}
    days = tuple(_days(there, ours))
    closing = days[-1].closing if days else there.opening
    told = tuple(sorted(differences, key=lambda one: list(WhyDiffers).index(one.why)))
    return AccountProof(
        account=there.account,
        currency=there.currency,
        first=there.first,
        last=there.last,
        opening=there.opening,
        amounts=added(part for amounts in ours.values() for part in amounts.items()),
        closing=closing,
        books=there.closing,
        days=days,
        differences=told,
        # Of the items, never of the days: two days that part and meet again would explain each other.
        unexplained=there.closing - closing - sum((one.amount for one in told), ZERO),
    )


def _days(there: AccountRead, ours: Mapping[datetime.date, Mapping[Column, Decimal]]) -> Iterator[AccountDay]:
    here = in_books = there.opening
    for day in sorted({*ours, *there.moved}):
        opening = here
        amounts = dict(ours.get(day, {}))
        here += sum(amounts.values(), ZERO)
        in_books += there.moved.get(day, ZERO)
        yield AccountDay(day=day, opening=opening, amounts=amounts, closing=here, books=in_books)


def added(parts: Iterable[tuple[Column, Decimal]]) -> dict[Column, Decimal]:
    """The parts by column, in the order of columns; one that comes to nothing is there all the same."""
    sums: dict[Column, Decimal] = defaultdict(lambda: ZERO)
    for column, amount in parts:
        sums[column] += amount
    return {column: sums[column] for column in Column if column in sums}


def differences_of(items: Iterable[Item]) -> list[Difference]:
    """The items that differ, counted and summed by the reason."""
    counts: dict[WhyDiffers, int] = defaultdict(int)
    amounts: dict[WhyDiffers, Decimal] = defaultdict(lambda: ZERO)
    for item in items:
        if item.why is not None:
            counts[item.why] += 1
            amounts[item.why] += item.amount
    return [Difference(why=why, count=counts[why], amount=amounts[why]) for why in counts]
