"""A bank statement as it comes out of a file, whatever the file's format: a head, then its lines, one by one."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.values import FIRST_YEAR, LAST_YEAR

# A year of days, several times over.
MOST_LINES, MOST_STATEMENTS = 1_000_000, 2_000
LONGEST_REFERENCE, LONGEST_NAME, LONGEST_TEXT = 120, 200, 1000
_NOT_IN_NUMBERS = re.compile(r"[^0-9A-Z]")
_LONGEST_AMOUNT = 24


class StatementInvalid(InkwellError):
    """A statement that cannot be read; nothing of it is to be kept.

    ``line`` is the line of the file that says so, from 1; nothing where it is the file as a whole.
    """

    def __init__(self, text: str, line: int | None = None) -> None:
        super().__init__(f"line {line}: {text}" if line else text)
        self.line = line


class StatementHead(NamedTuple):
    """What stands above the lines of a statement.

    Shape: ``account`` is the number of the account as the bank writes it, ``number`` that of the statement.
    ``first_day`` and ``last_day`` are the days that it covers, where it tells; ``complete`` tells that it has every
    line of them. Units: balances in ``currency``, below zero where the account is overdrawn.
    """

    account: str = ""
    currency: str = ""
    number: str = ""
    first_day: date | None = None
    last_day: date | None = None
    opening: Decimal | None = None
    closing: Decimal | None = None
    complete: bool = True


class StatementLine(NamedTuple):
    """One line of a statement.

    Shape: ``line`` is where it stands in the file; ``reference`` is the bank's own name for it, ``end_to_end`` that of
    whoever paid; ``balance`` is that of the account after it, where the file has it.
    Units: ``amount`` in the account's currency, below zero where it went out.
    """

    line: int
    booked_on: date
    amount: Decimal
    value_on: date | None = None
    reference: str = ""
    end_to_end: str = ""
    name: str = ""
    text: str = ""
    balance: Decimal | None = None


StatementPart = StatementHead | StatementLine


def as_number(account: str) -> str:
    """The number of an account without what is only there to be read by: spaces, dots and dashes; in capitals."""
    return _NOT_IN_NUMBERS.sub("", account.upper())


def amount_of(text: str, currency: str, line: int) -> Decimal:
    """An amount as a plain decimal number, with no more digits than the currency has.

    Raises:
        StatementInvalid: naming the line.
    """
    if not re.fullmatch(r"[+-]?[0-9]{1,15}(\.[0-9]{1,8})?", text) or len(text) > _LONGEST_AMOUNT:
        raise StatementInvalid(f"expected an amount, got {text[:40]!r}", line)
    try:
        return exact(Decimal(text), currency)
    except ValueError as error:
        raise StatementInvalid(f"{text} is no amount of {currency}", line) from error


def day_of(text: str, line: int) -> date:
    """A day as ISO 8601 writes it; of a moment, its day.

    Raises:
        StatementInvalid: naming the line.
    """
    try:
        found = date.fromisoformat(text[:10])
    except ValueError as error:
        raise StatementInvalid(f"expected a day, got {text[:40]!r}", line) from error
    return of_our_time(found, line)


def of_our_time(day: date, line: int) -> date:
    """The day itself; of another century it is a mistake."""
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise StatementInvalid(f"expected a day between {FIRST_YEAR} and {LAST_YEAR}, got {day}", line)
    return day


def fitting(text: str, longest: int) -> str:
    """A text on one line, cut where it is longer than anybody reads."""
    return " ".join(text.split())[:longest]
