"""An account of the books beside the bank's own statements of it."""

from __future__ import annotations

import datetime
from decimal import Decimal

from inkwell_bridge.core.values import Exact, Value


class AtBank(Value):
    """The account beside the bank's statement, at the end of the last day that this covers.

    Shape: ``balance`` is the bank's, ``books`` the books' own. They differ by what they began with
    (``opening_difference``), by lines that nobody knows yet (``open_lines``) and by those that somebody said are no
    payouts (``excluded_lines``): none of these is in the books by way of here. ``not_accounted_for`` is what is none of
    them: the books have by another day what the bank booked, or somebody entered it by hand. Units: the account's
    currency; what the bank has more is positive.
    """

    day: datetime.date
    balance: Exact
    books: Exact
    opening_difference: Exact
    open_lines: Exact
    excluded_lines: Exact
    not_accounted_for: Exact


def beside_bank(
    *, day: datetime.date, balance: Decimal, matched: Decimal, open_lines: Decimal, excluded_lines: Decimal,
    books_opening: Decimal, books: Decimal,
) -> AtBank:  # fmt: skip
    """Hold a balance of the bank's against the books': ``matched`` and the other two are what its lines come to since
    the day that the books' opening is of."""
    # Reckoned back from the end: statements may begin on any day, and the proof on the first of a month.
    opening = balance - matched - open_lines - excluded_lines
    return AtBank(
        day=day,
        balance=balance,
        books=books,
        opening_difference=opening - books_opening,
        open_lines=open_lines,
        excluded_lines=excluded_lines,
        not_accounted_for=matched - (books - books_opening),
    )
