"""The sheet of a period: both sides, and the difference by its reasons."""

from __future__ import annotations

import datetime as _dt
from decimal import Decimal

from inkwell_bridge.client.models.answer import Answer
from inkwell_bridge.client.models.carriage import Totals


class SheetPart(Totals):
    """The part of a difference that one reason accounts for; ``detail`` is the cause of a hold, or the rule that left
    something out. With what is ``settled`` the period ties."""

    reason: str
    detail: str
    documents: int | None
    settled: bool


class SheetRow(Answer):
    """One row: what should be there, what the books hold, and why these differ. Empty is what it is not parted by."""

    section: str
    currency: str
    bridge: str
    day: _dt.date | None
    tax_code: str
    tender: str
    source: Totals
    books: Totals
    difference: Totals
    parts: list[SheetPart]
    unexplained: Totals
    ties: bool

    def part(self, reason: str) -> Totals:
        """What one reason accounts for, whatever its detail; zeros where it accounts for nothing."""
        # With the digits of the row's currency.
        none = self.source.gross * 0
        found = Totals(count=0, net=none, tax=none, gross=none)
        for one in self.parts:
            if one.reason == reason:
                found = Totals(count=found.count + one.count, net=found.net + one.net, tax=found.tax + one.tax,
                               gross=found.gross + one.gross)  # fmt: skip
        return found


class AccountRow(SheetRow):
    """One account of the books: what the rules put on it, and what stands there; net of sales and refunds (``section``
    is ``both``), or money (``money``).

    ``used_for`` are the roles that the rules in force give it, such as ``shipping`` or ``gift cards``.
    """

    connection: str
    account: str
    name: str
    used_for: list[str]


class Differing(Answer):
    """How many documents differ in the books for one reason."""

    reason: str
    documents: int


class TieOut(Answer):
    """The sheet of a period, by currency; by tax code, account and tender besides."""

    first: _dt.date
    last: _dt.date
    ties: bool
    differing: list[Differing]
    rows: list[SheetRow]
    tax_codes: list[SheetRow]
    accounts: list[AccountRow]
    tenders: list[SheetRow]

    @property
    def sales(self) -> list[SheetRow]:
        """The rows of sales, one for each currency."""
        return [row for row in self.rows if row.section == "sales"]


class PaidOut(Answer):
    """One kind of entry of payouts over one bridge, as the provider tells it and as the books hold it."""

    bridge: str
    currency: str
    what: str
    documents: int
    source: Decimal
    books: Decimal
    difference: Decimal


class BehindDocument(Answer):
    """A source document behind an amount of the sheet, and what it has there."""

    id: int
    kind: str
    number: str
    bridge: str
    state: str
    date: _dt.date | None
    currency: str
    reasons: list[str]
    detail: str
    source: Totals
    books: Totals
    difference: Totals


class BehindPage(Answer):
    """A page of them, and where the next begins."""

    documents: list[BehindDocument]
    after: int | None
