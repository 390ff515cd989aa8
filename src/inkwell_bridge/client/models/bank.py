"""Bank accounts, their statements and lines, as the service answers them."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.client.models.answer import Answer


class BankAccount(Answer):
    """A bank account, and the account of the books that it is."""

    slug: str
    name: str
    books: str
    ledger_account: str
    number: str
    currency: str
    layout: dict[str, Any] | None
    open_lines: int
    last_day: date | None


class StatementFile(Answer):
    """A file of statements: what was taken of it, or why it was refused."""

    id: int
    name: str
    read_at: datetime
    read_by: str
    problem: str
    notes: list[str]
    lines: int
    new_lines: int


class TakenFile(Answer):
    """What became of a file."""

    name: str
    lines: int
    new_lines: int
    matched: int
    notes: list[str]


class LineMatch(Answer):
    """What a line is, or a part of it: a payout, money of an order or a refund, or of an invoice of the books."""

    crossing: int
    kind: str
    number: str
    amount: Decimal
    by: str
    note: str
    made_by: str
    made_at: datetime


class BankLine(Answer):
    """A line of the bank's, and what it is. Units: below zero it went out."""

    id: int
    booked_on: date
    value_on: date | None
    amount: Decimal
    currency: str
    reference: str
    end_to_end: str
    name: str
    text: str
    state: str
    note: str
    decided_by: str
    matches: list[LineMatch]


class Awaited(Answer):
    """A payout that should arrive, or an order, refund or invoice whose money the bank tells of.

    Units: ``amount`` is what is still to come, below zero what should go out.
    """

    crossing: int
    kind: str
    bridge: str
    number: str
    names: list[str]
    due_on: date
    days_late: int
    amount: Decimal
    currency: str
    on_account: str


class MatchProposal(Answer):
    """Lines and what is awaited that may belong together."""

    lines: list[int]
    crossings: list[int]
    by: str
    difference: Decimal


class Unmatched(Answer):
    """What is awaited, and what may be it."""

    awaited: list[Awaited]
    proposals: list[MatchProposal]


class ChangedLines(Answer):
    """How many lines were changed."""

    changed: int
