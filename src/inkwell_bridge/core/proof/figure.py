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
    """Whether a figure is a whole document or the part of it under one account and tax code."""

    DOCUMENT = "document"
    LINE = "line"


class Section(StrEnum):
    """The part of the sheet that a figure belongs to; what belongs to none is no figure of the sheet."""

    SALES = "sales"
    REFUNDS = "refunds"
    MONEY = "money"
    NONE = ""


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


def added(parts: Iterable[tuple[Key, Amounts]]) -> dict[Key, Amounts]:
    """The parts, those of one key together."""
    sums: dict[Key, Amounts] = defaultdict(Amounts)
    for key, amounts in parts:
        sums[key] = sums[key].plus(amounts)
    return dict(sums)
