"""A month of a calendar, written as in ISO 8601: 2026-10."""

from __future__ import annotations

import re
from datetime import date, timedelta
from typing import NamedTuple, Self

from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.values import FIRST_YEAR, LAST_YEAR

_WRITTEN = re.compile(r"([0-9]{4})-(0[1-9]|1[0-2])")


class Month(NamedTuple):
    """A month.

    Example:
        >>> Month.read("2026-10").last
        datetime.date(2026, 10, 31)
    """

    year: int
    number: int

    @classmethod
    def read(cls, text: str) -> Self:
        """From its written form.

        Raises:
            DocumentInvalid: it is none, or of another age.
        """
        found = _WRITTEN.fullmatch(text)
        if not found or not FIRST_YEAR <= int(found[1]) <= LAST_YEAR:
            raise DocumentInvalid("/month", f"a month from {FIRST_YEAR} to {LAST_YEAR}, such as 2026-10", file="")
        return cls(int(found[1]), int(found[2]))

    @classmethod
    def of(cls, day: date) -> Self:
        """The month that a day is in."""
        return cls(day.year, day.month)

    @property
    def first(self) -> date:
        """Its first day."""
        return date(self.year, self.number, 1)

    @property
    def last(self) -> date:
        """Its last day."""
        return self.next.first - timedelta(days=1)

    @property
    def next(self) -> Month:
        """The month after it."""
        return Month(self.year + 1, 1) if self.number == 12 else Month(self.year, self.number + 1)

    def __str__(self) -> str:
        return f"{self.year:04}-{self.number:02}"
