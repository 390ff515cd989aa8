"""Numbers that are missing from a row, and what a sales side counts more than it lists."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.completeness import Became, KindCompleteness, NumberGap, SumIn, counted_otherwise, number_gaps
from inkwell_bridge.core.completeness.numbering import MOST_MISSING


def missing(*numbers: str) -> list[str]:
    """The numbers that are missing between these."""
    return [gap.number for gap in number_gaps(numbers)]


@pytest.mark.parametrize(
    ("there", "gaps"),
    [
        ("LK-1 LK-2 LK-4 LK-5 LK-6", "LK-3"),
        # A longer number goes on where a shorter one ended; padded ones keep their length.
        ("8 9 11 12 13", "10"),
        ("W0008 W0009 W0011 W0012 W0013", "W0010"),
        # What stands before and behind tells one row from another.
        ("2026-101-A 2026-102-A 2026-104-A 2026-105-A 2026-106-A", "2026-103-A"),
        ("A1 A2 A3 A4 A5 B7 B8 B9 B10 B11", ""),
        # Several in a row, in their order, however they were read.
        ("N9 N3 N1 N2 N4 N10 N7 N8", "N5 N6"),
        # Numbers from a wide range do not follow each other, and few tell nothing.
        ("701-55 701-918 701-2040 701-7 701-31", ""),
        ("1 2 4", ""),
        ("", ""),
        # No number at all, and one longer than any that is counted.
        ("gift thanks now", ""),
        ("1 2 3 4 5 99999999999999999999", ""),
    ],
)
def test_a_number_that_is_missing_is_named(there: str, gaps: str) -> None:
    """Between the first and the last of a row."""
    assert missing(*there.split()) == gaps.split()


def test_a_gap_names_the_number_before_it() -> None:
    """So that its day is known."""
    assert number_gaps(f"M{number}" for number in (1, 2, 3, 6, 7, 8, 9, 10)) == [
        NumberGap(number="M4", after="M3"), NumberGap(number="M5", after="M3"),
    ]  # fmt: skip


@given(st.sets(st.integers(0, 400), min_size=5), st.sampled_from(["", "MW-", "W2026-"]))
def test_all_that_is_missing_is_found_or_nothing_is(there: set[int], before: str) -> None:
    """Where four of five are there all the others are named; else none."""
    found = missing(*(f"{before}{number}" for number in there))
    lacking = sorted(set(range(min(there), max(there) + 1)) - there)
    dense = len(there) * 5 >= (max(there) - min(there) + 1) * 4
    # Numbers that begin with a nought are padded, and a row of their own: here only 0 itself.
    if 0 not in there:
        assert found == ([f"{before}{number}" for number in lacking] if dense else [])


def test_a_row_with_very_many_gaps_is_not_told_to_the_end() -> None:
    """A thousand of them are enough to look into."""
    assert len(number_gaps(str(number) for number in range(1, 20_000) if number % 6)) == MOST_MISSING


def sums(**of: tuple[int, str]) -> tuple[SumIn, ...]:
    """So many, and what they come to, by currency."""
    return tuple(SumIn(currency=name, count=count, gross=Decimal(gross)) for name, (count, gross) in of.items())


def test_what_is_counted_more_than_is_listed_is_told_by_currency() -> None:
    """More in one, less in another, the same in a third; of a side that does not count nothing."""
    told = sums(GBP=(3, "30.00"), EUR=(1, "5.00"), USD=(2, "7.00"))
    listed = sums(GBP=(2, "20.00"), USD=(2, "7.00"), NOK=(1, "9.00"))
    assert counted_otherwise(told, listed) == sums(EUR=(1, "5.00"), GBP=(1, "10.00"), NOK=(-1, "-9.00"))
    assert counted_otherwise(None, listed) == ()
    # The same number of documents, and another sum.
    assert counted_otherwise(sums(GBP=(2, "20.01")), sums(GBP=(2, "20.00"))) == sums(GBP=(0, "0.01"))


def test_what_was_fetched_is_complete_and_what_is_gone_is_not() -> None:
    """What is here by now is what counts."""
    assert KindCompleteness(kind="orders", counts={Became.FETCHED: 3, Became.READ_ANEW: 1, Became.THERE: 2}).complete
    assert not KindCompleteness(kind="orders", counts={Became.GONE: 1}).complete
    assert not KindCompleteness(kind="orders", counts={Became.NOT_FETCHED: 1}).complete
    assert not KindCompleteness(kind="orders", gaps=(NumberGap(number="3", after="2"),)).complete
