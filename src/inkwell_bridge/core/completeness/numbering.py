"""Numbers that are missing from a row of numbers: documents that no list shows.

A shop that numbers its orders one after the other tells by a gap that there is, or was, one more. Of numbers that are
drawn from a wide range, as marketplaces have them, gaps say nothing.
"""

from __future__ import annotations

import re
from array import array
from collections import defaultdict
from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import pairwise
from typing import NamedTuple

from inkwell_bridge.core.values import Text, Value

# The last run of digits tells one number from the next: LK-2026-10412, W10412-A.
_PARTED = re.compile(r"^(?P<before>.*?)(?P<digits>[0-9]{1,18})(?P<behind>[^0-9]*)$", re.DOTALL)
# Numbers follow each other where so many of those between the first and the last are there.
FOLLOWS = Fraction(4, 5)
# Fewer tell nothing of how a shop counts.
FEWEST = 5
# Of each row so many missing numbers are looked into at most.
MOST_MISSING = 1_000


class NumberGap(Value):
    """A number that is missing, and the one before it that is there."""

    number: Text
    after: Text


class _Row(NamedTuple):
    """What numbers of one row have in common; ``width`` is their length where they are padded with noughts, else 0."""

    before: str
    behind: str
    width: int

    def number(self, place: int) -> str:
        return f"{self.before}{place:0{self.width or 1}}{self.behind}"


def number_gaps(numbers: Iterable[str]) -> list[NumberGap]:
    """The numbers that are missing between these, in their order; none of a row whose numbers do not follow each
    other. Each number takes eight bytes while it is looked at, however long it is."""
    rows: dict[_Row, array[int]] = defaultdict(lambda: array("q"))
    for number in numbers:
        parted = _PARTED.match(number)
        if parted:
            digits = parted["digits"]
            # Padded with noughts all have the same length; else a longer number goes on where a shorter one ended.
            width = len(digits) if digits.startswith("0") else 0
            rows[_Row(parted["before"], parted["behind"], width)].append(int(digits))
    return [gap for row, places in sorted(rows.items()) for gap in _of_row(row, places)]


def _of_row(row: _Row, places: Iterable[int]) -> Iterator[NumberGap]:
    in_order = sorted(set(places))
    if len(in_order) < FEWEST or len(in_order) < FOLLOWS * (in_order[-1] - in_order[0] + 1):
        return
    left = MOST_MISSING
    for earlier, later in pairwise(in_order):
        for missing in range(earlier + 1, min(later, earlier + 1 + left)):
            left -= 1
            yield NumberGap(number=row.number(missing), after=row.number(earlier))
