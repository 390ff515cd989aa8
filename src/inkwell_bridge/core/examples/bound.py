"""What any decision list must cost at the least: a list that costs no more is proved to be the smallest.

A clause is shared by the examples that it could answer. Each of these pays for what answers it, never more than being
answered otherwise would cost it, and all that could share a clause together never more than its price. Whatever list
there is, its clauses and its mistakes cost no less than all examples pay together; only what the default answers, or
the table that is asked last, is had for nothing.

It is the dual of facility location (Erlenkotter, *A dual-based procedure for uncapacitated facility location*,
Operations Research 26, 1978).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import NamedTuple

Key = tuple[str, ...]


class Cell(NamedTuple):
    """So many ``examples`` that no list can tell apart, with one answer: ``keys`` are theirs in each table, or None."""

    keys: tuple[Key | None, ...]
    answer: str
    examples: int


def least_cost(cells: Iterable[Cell], *, clause: int, mistake: int, has_last: bool) -> int:
    """A bound from below for the cost of any list.

    Shape: the last key of a cell is that of the table which is asked last; without ``has_last`` it is the default, and
    the same for all. What answers there costs nothing, one answer for each key.
    Units: ``clause`` is the price of one, ``mistake`` that of an example which is answered otherwise.
    """
    every = sorted(cells, key=lambda cell: (cell.examples, cell.answer, repr(cell.keys)))
    # Small ones first: of what could share a clause, those that have little to pay leave the most to the others.
    return max(_bound(order, clause, mistake, has_last) for order in (every, every[::-1]))


def _bound(cells: Sequence[Cell], clause: int, mistake: int, has_last: bool) -> int:
    left: dict[tuple[int, Key, str], int] = defaultdict(lambda: clause)
    paid: dict[Key | None, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    for cell in cells:
        clauses = [(place, key, cell.answer) for place, key in enumerate(cell.keys[:-1]) if key is not None]
        pays = min([mistake * cell.examples, *(left[one] for one in clauses)])
        for one in clauses:
            left[one] -= pays
        paid[cell.keys[-1]][cell.answer] += pays
    # Whichever answer stands there, the examples that have another go on to pay.
    free = {key: max(answers.values()) for key, answers in paid.items() if key is not None or not has_last}
    return sum(sum(answers.values()) for answers in paid.values()) - sum(free.values())
