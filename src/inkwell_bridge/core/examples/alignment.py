"""Which line of a document in the books holds which amount of its order."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterator, Sequence
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.books import DocumentLine

ZERO = Decimal(0)


class Wanted(NamedTuple):
    """A line that an order asks for: ``sku``, ``role`` and ``tax_class`` of what it is for."""

    line: DocumentLine
    sku: str
    role: str
    tax_class: str


class Alignment(NamedTuple):
    """``pairs`` are places among the wanted lines, each with the line that holds it. What stands on either side and has
    no partner is left over; ``unsure`` are wanted lines that several lines could hold which say different things."""

    pairs: tuple[tuple[int, DocumentLine], ...]
    missing: tuple[int, ...]
    surplus: tuple[DocumentLine, ...]
    unsure: tuple[int, ...]


def align(wanted: Sequence[Wanted], there: Sequence[DocumentLine]) -> Alignment:
    """Find the line of each wanted amount: one of the same net, or one that holds several of a kind together."""
    pairs: list[tuple[int, DocumentLine]] = []
    unsure: list[int] = []
    by_net = defaultdict[Decimal, list[int]](list)
    for place, one in enumerate(wanted):
        by_net[one.line.net].append(place)
    surplus = defaultdict[Decimal, list[DocumentLine]](list)
    for line in there:
        surplus[line.net].append(line)
    for net, places in by_net.items():
        if net in surplus:
            found, doubtful = _of_one_net(wanted, places, surplus[net])
            pairs += found
            unsure += doubtful
    paired = {place for place, _ in pairs} | set(unsure)
    missing = [place for place in range(len(wanted)) if place not in paired]
    left = [line for lines in surplus.values() for line in lines]
    pairs += _together(wanted, missing, left)
    return Alignment(tuple(sorted(pairs, key=lambda one: one[0])), tuple(missing), tuple(left), tuple(unsure))


def _of_one_net(
    wanted: Sequence[Wanted], places: list[int], lines: list[DocumentLine]
) -> tuple[list[tuple[int, DocumentLine]], list[int]]:
    """Pair what has the same net, and take it from ``lines``."""
    if len({(line.account, line.tax_code, line.warehouse, line.dimensions) for line in lines}) == 1:
        # Whichever holds which, they say the same.
        found = list(zip(places, lines, strict=False))
        del lines[: len(found)]
        return found, []
    pairs: list[tuple[int, DocumentLine]] = []
    unsure: list[int] = []
    for place in places:
        if not lines:
            break
        likeness = [_likeness(wanted[place], line) for line in lines]
        best = max(likeness)
        likest = [number for number, one in enumerate(likeness) if one == best]
        if len(likest) > 1 or (len(places) > 1 and not best):
            unsure.append(place)
        else:
            pairs.append((place, lines.pop(likest[0])))
    # What none could be told apart for is no surplus either.
    del lines[: len(unsure)]
    return pairs, unsure


def _likeness(wanted: Wanted, line: DocumentLine) -> int:
    """How much speaks for a line besides its net: the item, the words, the quantity, the tax."""
    ours, theirs = wanted.line.text.casefold(), line.text.casefold()
    same_item = bool(wanted.sku) and wanted.sku.casefold() in {line.item.casefold(), *theirs.split()}
    same_words = bool(ours) and (ours in theirs or (bool(theirs) and theirs in ours))
    return 8 * same_item + 4 * same_words + 2 * (wanted.line.tax == line.tax) + (wanted.line.quantity == line.quantity)


def _together(
    wanted: Sequence[Wanted], missing: list[int], left: list[DocumentLine]
) -> Iterator[tuple[int, DocumentLine]]:
    """Lines that hold several amounts: all of one role and class, of one class, of one role, or all there are."""
    kinds: tuple[Callable[[Wanted], Hashable], ...] = (
        lambda one: (one.role, one.tax_class),
        lambda one: one.tax_class,
        lambda one: one.role,
        lambda one: True,
    )
    for kind in kinds:
        groups = defaultdict[Hashable, list[int]](list)
        for place in missing:
            groups[kind(wanted[place])].append(place)
        for places in groups.values():
            whole = sum((wanted[place].line.net for place in places), ZERO)
            holding = [line for line in left if line.net == whole]
            if len(holding) == 1:
                left.remove(holding[0])
                for place in places:
                    missing.remove(place)
                    yield place, holding[0]
