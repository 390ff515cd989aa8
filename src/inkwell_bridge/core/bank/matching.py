"""Which lines of a bank statement are what is awaited there: payouts, and money that pays invoices or credit notes.

A line that names what is awaited and has its amount is it. One that names an invoice and is less is a part of it. One
that names nothing is only proposed, unless the rules let it be taken where exactly one set fits. Nothing is ever taken
that does not come out to the penny, or to less than an invoice that it names.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from itertools import groupby
from typing import Literal

from inkwell_bridge.core.bank.statement import as_number
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# A bank puts the payouts of a long weekend into one line, and a buyer several invoices; so many of them that follow one
# another are tried together.
_MOST_TOGETHER = 5
# A shorter name says nothing: it stands in many lines by chance.
_SHORTEST_NAME = 5
_NOT_IN_WORDS = re.compile(r"[^0-9A-Z]+")


@record
class OpenLine:
    """A line that nobody has matched; ``said`` is all that it says. Units: ``amount`` in the account's currency.

    Shape: ``is_not`` are ids of awaited sums of which a person said that it is none of theirs: it is neither matched to
    those nor proposed for them, and to others without asking only where it names them.
    """

    id: int
    booked_on: date
    amount: Decimal
    said: str = ""
    is_not: frozenset[int] = frozenset()


@record
class Awaited:
    """Something that the bank should have, or what is still to come of it: below zero, what should go out.

    Shape: ``names`` are what the bank's line may call it. By its amount alone a line may be it that was booked from
    ``earliest`` to ``latest``, where there is one; ``alone`` lets that be taken without asking. Only those of one
    ``group`` can be one line together; unnamed, only those of one ``party`` as well. What is payable ``in_part`` is
    matched to less where it is named.
    """

    id: int
    amount: Decimal
    due_on: date
    earliest: date
    latest: date | None = None
    names: tuple[str, ...] = ()
    group: str = ""
    party: str = ""
    alone: bool = False
    in_part: bool = False


@record
class Fit:
    """Lines and awaited sums that belong together.

    Shape: one line to many awaited, or many lines to one. ``is_sure`` where it may be taken without asking.
    ``difference`` is by how much the lines are more than what they name (below zero: less); what is sure has none, but
    for a part.
    """

    lines: tuple[int, ...]
    awaited: tuple[int, ...]
    by: Literal["reference", "amount"]
    is_sure: bool
    difference: Decimal = ZERO


def fits(lines: Sequence[OpenLine], awaited: Sequence[Awaited]) -> list[Fit]:
    """What belongs together; the same whatever order they come in. Nothing is in two that are sure."""
    in_order = sorted(awaited, key=lambda one: (one.due_on, one.id))
    found = list(_by_reference(sorted(lines, key=lambda one: one.id), in_order))
    taken_lines = {one for fit in found for one in fit.lines}
    taken = {one for fit in found for one in fit.awaited}
    left = [one for one in lines if one.id not in taken_lines]
    return [*found, *_by_amount(left, [one for one in in_order if one.id not in taken])]


def _by_reference(lines: Sequence[OpenLine], awaited: Sequence[Awaited]) -> Iterator[Fit]:
    names, by_id = _Names(awaited), {one.id: one for one in awaited}
    named = {line.id: _meant(line, names.found_in(line.said), by_id) for line in lines}
    lines_of: dict[int, list[int]] = defaultdict(list)
    for line, its in named.items():
        for one in its:
            lines_of[one].append(line)
    amounts = {one.id: one.amount for one in lines}
    done: set[int] = set()
    for first, its_lines in lines_of.items():
        if first in done:
            continue
        group = {one for line in its_lines for one in named[line]}
        # What is named by many lines that name others too tells nothing: a provider's own name, say.
        if len(its_lines) > 1 and len(group) > 1:
            continue
        if any(len(lines_of[one]) > 1 for one in group) and len(group) > 1:
            continue
        done |= group
        if len(group) == 1 and by_id[first].in_part:
            clearly = {line: named[line][first] for line in its_lines}
            yield from _in_parts(by_id[first], {line: amounts[line] for line in its_lines}, clearly)
            continue
        difference = sum((amounts[line] for line in its_lines), ZERO) - sum((by_id[one].amount for one in group), ZERO)
        yield Fit(lines=tuple(its_lines), awaited=tuple(sorted(group)), by="reference", is_sure=not difference,
                  difference=difference)  # fmt: skip


def _in_parts(one: Awaited, amounts: Mapping[int, Decimal], clearly: Mapping[int, bool]) -> Iterator[Fit]:
    """The lines that pay an invoice together, and those that are too much for it: paid twice, the first is its
    payment, and a person is asked what the second is."""
    left, pays, beyond = one.amount, [], []
    for line, amount in amounts.items():
        if abs(amount) <= abs(left):
            pays.append(line)
            left -= amount
        else:
            beyond.append(line)
    if pays:
        yield Fit(lines=tuple(pays), awaited=(one.id,), by="reference",
                  is_sure=not left or all(clearly[line] for line in pays), difference=-left)  # fmt: skip
    for line in beyond:
        yield Fit(lines=(line,), awaited=(one.id,), by="reference", is_sure=False,
                  difference=amounts[line] - left)  # fmt: skip


def _meant(line: OpenLine, named: Mapping[int, bool], by_id: Mapping[int, Awaited]) -> dict[int, bool]:
    """What a line can mean of all that it names: an invoice is not paid by money that went out, or by none, and a name
    that stands for an order and for what is given back of it means one of both. Things of several groups tell
    nothing."""
    meant = {
        one: clearly
        for one, clearly in named.items()
        if one not in line.is_not
        if not by_id[one].in_part or (line.amount and (by_id[one].amount < 0) == (line.amount < 0))
    }
    return meant if len({by_id[one].group for one in meant}) == 1 else {}


class _Names:
    """The names of what is awaited, found in texts as words of their own, however they are parted there, or not at all.

    What a line costs depends on its words, and not on how much is awaited, most of whose names begin alike.
    """

    def __init__(self, awaited: Iterable[Awaited]) -> None:
        self._named: dict[tuple[str, ...], set[int]] = defaultdict(set)
        for one in awaited:
            for name in one.names:
                whole = as_number(name)
                if len(whole) >= _SHORTEST_NAME:
                    self._named[_words(name)].add(one.id)
                    self._named[whole,].add(one.id)
        self._lengths = sorted({len(words) for words in self._named})

    def found_in(self, text: str) -> dict[int, bool]:
        """What a text names, each with whether it does so clearly: a few digits alone may be anybody's number, and mean
        something where the amount is right as well."""
        said = _words(text)
        found: dict[int, bool] = {}
        for many in self._lengths:
            for place in range(len(said) - many + 1):
                run = said[place : place + many]
                clearly = not "".join(run).isdecimal()
                for one in self._named.get(run, ()):
                    found[one] = clearly or found.get(one, False)
        return found


def _words(text: str) -> tuple[str, ...]:
    return tuple(word for word in _NOT_IN_WORDS.split(text.upper()) if word)


def _by_amount(lines: Iterable[OpenLine], awaited: Sequence[Awaited]) -> Iterator[Fit]:
    of_amount: Mapping[Decimal, list[OpenLine]] = defaultdict(list)
    for line in sorted(lines, key=lambda one: one.id):
        of_amount[line.amount].append(line)
    found = [
        (line, run)
        for run in _runs(awaited)
        for line in of_amount.get(sum((one.amount for one in run), ZERO), ())
        if _is_near(line, run)
    ]
    of_line: dict[int, int] = defaultdict(int)
    of_awaited: dict[int, int] = defaultdict(int)
    for line, run in found:
        of_line[line.id] += 1
        for one in run:
            of_awaited[one.id] += 1
    for line, run in found:
        is_only = of_line[line.id] == 1 and all(of_awaited[one.id] == 1 for one in run)
        # Where a person had to correct this line once, the next guess is theirs to make.
        may_guess = not line.is_not and all(one.alone for one in run)
        yield Fit(lines=(line.id,), awaited=tuple(one.id for one in run), by="amount",
                  is_sure=is_only and may_guess)  # fmt: skip


def _runs(awaited: Sequence[Awaited]) -> Iterator[tuple[Awaited, ...]]:
    """One, and several that follow one another, of the same group and party."""

    def together(one: Awaited) -> tuple[str, str]:
        return one.group, one.party

    # Sorted by what keeps their order among themselves.
    for _, its in groupby(sorted(awaited, key=together), key=together):
        of_party = list(its)
        for start in range(len(of_party)):
            for many in range(1, min(_MOST_TOGETHER, len(of_party) - start) + 1):
                yield tuple(of_party[start : start + many])


def _is_near(line: OpenLine, run: Sequence[Awaited]) -> bool:
    return all(
        one.id not in line.is_not
        and one.earliest <= line.booked_on and (one.latest is None or line.booked_on <= one.latest) for one in run
    )  # fmt: skip
