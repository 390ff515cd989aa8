"""Which lines of a bank statement are which payouts: by what the line says, or by its amount alone.

A line that names a payout and has its amount is that payout. One that names nothing is only proposed, unless the rules
let it be taken where exactly one fits. Nothing is ever matched that does not come out to the penny.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from typing import Literal

from inkwell_bridge.core.bank.statement import as_number
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# A bank puts the payouts of a long weekend into one line; so many that follow one another are tried together.
_MOST_TOGETHER = 5
# A shorter name says nothing: it stands in many lines by chance.
_SHORTEST_NAME = 5
_NOT_IN_WORDS = re.compile(r"[^0-9A-Z]+")


@record
class OpenLine:
    """A line that nobody has matched; ``said`` is all that it says. Units: ``amount`` in the account's currency."""

    id: int
    booked_on: date
    amount: Decimal
    said: str = ""


@record
class AwaitedPayout:
    """A payout that has not arrived, or not all of it; ``amount`` is what is still to come.

    Shape: ``names`` are its own number and what its provider writes on the bank's line; ``due_on`` is when the bank
    should have it. ``within_days`` of that a line may be it by its amount alone; ``alone`` lets that be taken without
    asking.
    """

    id: int
    amount: Decimal
    due_on: date
    names: tuple[str, ...] = ()
    within_days: int = 5
    alone: bool = False


@record
class Fit:
    """Lines and payouts that belong together.

    Shape: one line to many payouts, or many lines to one. ``is_sure`` where it may be taken without asking.
    ``difference`` is by how much the lines are more than the payouts that they name; what is sure has none.
    """

    lines: tuple[int, ...]
    payouts: tuple[int, ...]
    by: Literal["reference", "amount"]
    is_sure: bool
    difference: Decimal = ZERO


def fits(lines: Sequence[OpenLine], payouts: Sequence[AwaitedPayout]) -> list[Fit]:
    """What belongs together; the same whatever order they come in. No line and no payout is in two that are sure."""
    in_order = sorted(payouts, key=lambda one: (one.due_on, one.id))
    found = list(_by_reference(sorted(lines, key=lambda one: one.id), in_order))
    taken_lines = {one for fit in found for one in fit.lines}
    taken_payouts = {one for fit in found for one in fit.payouts}
    left = [one for one in lines if one.id not in taken_lines]
    return [*found, *_by_amount(left, [one for one in in_order if one.id not in taken_payouts])]


def _by_reference(lines: Sequence[OpenLine], payouts: Sequence[AwaitedPayout]) -> Iterator[Fit]:
    names = _Names(payouts)
    named = {line.id: names.found_in(line.said) for line in lines}
    lines_of: dict[int, list[int]] = defaultdict(list)
    for line, its in named.items():
        for payout in its:
            lines_of[payout].append(line)
    amounts = {one.id: one.amount for one in lines}
    awaited = {one.id: one for one in payouts}
    done: set[int] = set()
    for payout, its_lines in lines_of.items():
        if payout in done:
            continue
        group = {one for line in its_lines for one in named[line]}
        # What is named by many lines that name others too tells nothing: a provider's own name, say.
        if len(its_lines) > 1 and len(group) > 1:
            continue
        if any(len(lines_of[one]) > 1 for one in group) and len(group) > 1:
            continue
        done |= group
        difference = sum((amounts[line] for line in its_lines), ZERO) - sum(
            (awaited[one].amount for one in group), ZERO
        )
        yield Fit(lines=tuple(its_lines), payouts=tuple(sorted(group)), by="reference", is_sure=not difference,
                  difference=difference)  # fmt: skip


class _Names:
    """The names of payouts, found in texts as words of their own, however they are parted there, or not at all.

    What a line costs depends on its words, and not on how many payouts there are, most of whose names begin alike.
    """

    def __init__(self, payouts: Iterable[AwaitedPayout]) -> None:
        self._payouts: dict[tuple[str, ...], set[int]] = defaultdict(set)
        for payout in payouts:
            for name in payout.names:
                whole = as_number(name)
                if len(whole) >= _SHORTEST_NAME:
                    self._payouts[_words(name)].add(payout.id)
                    self._payouts[whole,].add(payout.id)
        self._lengths = sorted({len(words) for words in self._payouts})

    def found_in(self, text: str) -> set[int]:
        """The payouts that a text names."""
        said = _words(text)
        runs = (said[place : place + many] for many in self._lengths for place in range(len(said) - many + 1))
        return set().union(*(self._payouts[run] for run in runs if run in self._payouts))


def _words(text: str) -> tuple[str, ...]:
    return tuple(word for word in _NOT_IN_WORDS.split(text.upper()) if word)


def _by_amount(lines: Iterable[OpenLine], payouts: Sequence[AwaitedPayout]) -> Iterator[Fit]:
    of_amount: Mapping[Decimal, list[OpenLine]] = defaultdict(list)
    for line in sorted(lines, key=lambda one: one.id):
        of_amount[line.amount].append(line)
    found: list[tuple[OpenLine, tuple[AwaitedPayout, ...]]] = []
    for start in range(len(payouts)):
        for many in range(1, _MOST_TOGETHER + 1):
            run = tuple(payouts[start : start + many])
            if len(run) == many:
                come_to = sum((one.amount for one in run), ZERO)
                found += [(line, run) for line in of_amount.get(come_to, ()) if _is_near(line, run)]
    of_line: dict[int, int] = defaultdict(int)
    of_payout: dict[int, int] = defaultdict(int)
    for line, run in found:
        of_line[line.id] += 1
        for one in run:
            of_payout[one.id] += 1
    for line, run in found:
        is_only = of_line[line.id] == 1 and all(of_payout[one.id] == 1 for one in run)
        yield Fit(lines=(line.id,), payouts=tuple(one.id for one in run), by="amount",
                  is_sure=is_only and all(one.alone for one in run))  # fmt: skip


def _is_near(line: OpenLine, run: Sequence[AwaitedPayout]) -> bool:
    return all(abs((line.booked_on - one.due_on).days) <= one.within_days for one in run)
