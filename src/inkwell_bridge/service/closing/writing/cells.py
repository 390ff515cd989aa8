"""What a table of the report is made of: cells, some of them worked out of others, and how they stand on a page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from enum import Enum
from typing import NamedTuple


class Amount(NamedTuple):
    """An amount in its currency."""

    value: Decimal
    currency: str


class At(NamedTuple):
    """A cell of a table, by its place in it; of ``table``, where it is another."""

    row: int
    column: int
    table: str = ""


@dataclass(frozen=True, slots=True)
class Worked:
    """A figure that is worked out of other cells: ``formula`` has ``{0}``, ``{1}`` … in place of the cells ``of``."""

    value: Amount | int
    formula: str
    of: tuple[At, ...]


Cell = str | int | date | Amount | Worked | None


class Kind(Enum):
    """What stands in a column."""

    TEXT = "text"
    FIGURE = "figure"


@dataclass(slots=True)
class SheetTable:
    """A table: ``name`` tells it from others, ``wide`` are the parts of the page's width that its columns have.

    ``strong`` are rows that sum others up, ``open_rows`` those that somebody has to look at.
    """

    name: str
    title: str
    heads: Sequence[str]
    kinds: Sequence[Kind]
    wide: Sequence[float]
    rows: list[list[Cell]] = field(default_factory=list)
    strong: set[int] = field(default_factory=set)
    open_rows: set[int] = field(default_factory=set)
    empty: str = ""
    after: str = ""

    def add(self, *cells: Cell, strong: bool = False, is_open: bool = False) -> int:
        """Put a row below; answers its place."""
        place = len(self.rows)
        self.rows.append(list(cells))
        if strong:
            self.strong.add(place)
        if is_open:
            self.open_rows.add(place)
        return place
