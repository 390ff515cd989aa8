"""Figures: one amount each, of one side, on one day; whatever is told of a period is a sum of them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from enum import StrEnum
from typing import NamedTuple

ZERO = Decimal(0)


class Side(StrEnum):
    """Whose figure it is.

    ``source`` is what the origin says; ``coded`` the same amounts under the accounts and codes that the rules gave
    them; ``books`` what was read back; ``reconciling`` a named reason why source and books may differ.
    """

    SOURCE = "source"
    CODED = "coded"
    BOOKS = "books"
    RECONCILING = "reconciling"


class Grain(StrEnum):
    """Whether a figure is a whole document or the part of it under one account and tax code; what stands between the
    sides of one account, whatever the code, is of the account."""

    DOCUMENT = "document"
    LINE = "line"
    ACCOUNT = "account"


class Section(StrEnum):
    """The part of the sheet that a figure belongs to; what belongs to none is no figure of the sheet."""

    SALES = "sales"
    REFUNDS = "refunds"
    MONEY = "money"
    NONE = ""


class Reconciles(StrEnum):
    """Why source and books of one crossing may differ, each with its own amounts.

    ``withheld``: a tax that a marketplace keeps and remits. ``vouchers``: taxed when they were sold, and deducted from
    what they pay. ``deposits``: tax of what was paid ahead that falls due on its delivery. ``penny``: what the rules
    for a rounding difference settled. ``tax computed``: the books computed another tax for the same line and code.
    ``tax lines``: a tax that stands on a line of its own, whose amount the books count as net. ``cancelled``: the
    source lists the order still, and it came off the books again. ``converted``: what stands in the books in the
    company's own currency, for the source's is another. ``credited before``: what a refund pays that a change of its
    order had credited already. ``not as money``: money of the source that never comes as
    money, or that another tells of.
    """

    WITHHELD = "withheld"
    VOUCHERS = "vouchers"
    DEPOSITS = "deposits"
    PENNY = "penny"
    TAX_COMPUTED = "tax computed"
    TAX_LINES = "tax lines"
    CANCELLED = "cancelled"
    CONVERTED = "converted"
    CREDITED = "credited before"
    NOT_MONEY = "not as money"


class Table(StrEnum):
    """The tables of the sheet that figures are added up in."""

    TOTALS = "totals"
    TAX_CODES = "tax codes"
    ACCOUNTS = "accounts"
    TENDERS = "tenders"


IN_TOTALS = (Section.SALES, Section.REFUNDS)
# Of the named reasons those that are about the lines of a tax code.
OF_CODES = (Reconciles.PENNY, Reconciles.TAX_COMPUTED)


def tables_of(side: str, grain: str, section: str, role: str) -> list[Table]:
    """The tables that a figure counts in: of whole documents source and books meet, of the lines of a tax code or an
    account what the rules made of the source and the books, and named reasons stand between them."""
    named, document = side == Side.RECONCILING, grain == Grain.DOCUMENT
    in_full = named or (document and side in (Side.SOURCE, Side.BOOKS))
    of_lines = role in OF_CODES if named else not document and side in (Side.CODED, Side.BOOKS)
    if section == Section.MONEY:
        # Money has no tax code, and stands on an account.
        return [*([Table.TENDERS] if in_full else []), *([Table.ACCOUNTS] if of_lines else [])]
    if section not in IN_TOTALS:
        return []
    return [*([Table.TOTALS] if in_full else []), *([Table.TAX_CODES, Table.ACCOUNTS] if of_lines else [])]


class Key(NamedTuple):
    """What a figure is about. ``role`` is the kind of a source document, the role of a document in the books, or the
    name of a reason."""

    side: str
    grain: str
    section: str
    role: str
    date: date
    currency: str
    account: str = ""
    tax_code: str = ""
    tender: str = ""


class Amounts(NamedTuple):
    """What it says; what came back counts against. Units: the figure's currency."""

    count: int = 0  # type: ignore[assignment]
    net: Decimal = ZERO
    tax: Decimal = ZERO
    gross: Decimal = ZERO

    def plus(self, other: Amounts, sign: int = 1) -> Amounts:
        """Both together, or with ``sign`` -1 what is left of the first."""
        return Amounts(
            self.count + sign * other.count,
            self.net + sign * other.net,
            self.tax + sign * other.tax,
            self.gross + sign * other.gross,
        )


def on_account(amounts: Amounts) -> Amounts:
    """What of a line stands on its account: its net, or the money. Its tax stands on an account of the tax code, which
    the books choose; and how many lines there are says nothing."""
    return Amounts(0, amounts.net, ZERO, amounts.net)


def added(parts: Iterable[tuple[Key, Amounts]]) -> dict[Key, Amounts]:
    """The parts, those of one key together."""
    sums: dict[Key, Amounts] = defaultdict(Amounts)
    for key, amounts in parts:
        sums[key] = sums[key].plus(amounts)
    return dict(sums)
