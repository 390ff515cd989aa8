"""The shop's own arithmetic, in whole pence: nothing of the product's core is used to make its test data."""

from __future__ import annotations

from collections.abc import Sequence


def tax_inside(pence: int, percent: int) -> int:
    """The tax inside a price, halves up: 999 at 20 gives 167."""
    return (2 * pence * percent + 100 + percent) // (2 * (100 + percent))


def tax_on_top(pence: int, percent: int) -> int:
    """The tax on a price without tax, halves up, as the books compute it."""
    return (2 * pence * percent + 100) // 200


def shared(pence: int, weights: Sequence[int]) -> list[int]:
    """``pence`` shared by largest remainder, ties to the earlier."""
    total = sum(weights)
    shares = [pence * weight // total for weight in weights]
    order = sorted(range(len(weights)), key=lambda place: (-(pence * weights[place] % total), place))
    for place in order[: pence - sum(shares)]:
        shares[place] += 1
    return shares


def pence_of(text: str) -> int:
    """'8.32' as 832."""
    return int(text.replace(".", ""))


def written(pence: int) -> str:
    """832 as '8.32'."""
    sign = "-" if pence < 0 else ""
    return f"{sign}{abs(pence) // 100}.{abs(pence) % 100:02d}"
