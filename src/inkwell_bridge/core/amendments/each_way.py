"""Which document a correction stands on: what went up on an invoice, what went down on a credit note."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from decimal import Decimal

from inkwell_bridge.core.amendments.correcting_lines import Correction
from inkwell_bridge.core.books import LineKind

ZERO = Decimal(0)
_KINDS = list(LineKind)
# What has no life of its own: it goes where the goods go that it belongs to.
_COMPANIONS = frozenset({LineKind.DISCOUNT, LineKind.VOUCHER, LineKind.ROUNDING})


def each_way(changed: Sequence[Correction], *, together: bool) -> tuple[list[Correction], list[Correction]]:
    """The corrections of the invoice and those of the credit note, in their order; with ``together`` all of them on the
    one that their sum asks for.

    A discount goes with the goods of its tax code, on whichever document these are, as long as that still has
    something to ask for or to give back.
    """
    if together:
        whole = sum((_gross(one) for one in changed), ZERO)
        goes_up = whole > 0 or (not whole and any(_goes_up(one) for one in changed))
        return (_in_order(changed, 1), []) if goes_up else ([], _in_order(changed, -1))
    sums: dict[tuple[str, bool], Decimal] = defaultdict(Decimal)
    for one in changed:
        if not _is_companion(one):
            sums[one[1].tax_code, _goes_up(one)] += _gross(one)
    up: list[Correction] = []
    down: list[Correction] = []
    for one in changed:
        goes_up = _goes_up(one)
        if _is_companion(one):
            # More of a discount belongs to what was added, less of one to what was taken off.
            opposite = sums[one[1].tax_code, not goes_up] + _gross(one)
            if opposite and (opposite > 0) is not goes_up:
                goes_up = not goes_up
            sums[one[1].tax_code, goes_up] += _gross(one)
        (up if goes_up else down).append(one)
    return _in_order(up, 1), _in_order(down, -1)


def _in_order(changed: Sequence[Correction], sign: int) -> list[Correction]:
    """Goods first, taxes and roundings last, as on any invoice; of each what the document is for, then what takes some
    of it off again."""
    return sorted(changed, key=lambda one: (_KINDS.index(one[1].kind), sign * _gross(one) < 0))


def _goes_up(one: Correction) -> bool:
    """Pieces that cost nothing go the way that their number goes."""
    return _gross(one) > 0 if _gross(one) else one[0].change.quantity >= 0


def _is_companion(one: Correction) -> bool:
    return one[1].kind in _COMPANIONS


def _gross(one: Correction) -> Decimal:
    return one[1].net + one[1].tax
