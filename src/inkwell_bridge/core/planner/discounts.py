"""An order's discounts, shared over what each of them may reduce."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from decimal import Decimal
from typing import NamedTuple

from inkwell_bridge.core.commerce import Discount, Nature, Order, OrderLine, Shipping
from inkwell_bridge.core.findings import Finding, source_error
from inkwell_bridge.core.money import allocate
from inkwell_bridge.core.planner.plan import PostedShare
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
# Money kept for its owner: sold for less, it is owed in full all the same.
_DEBTS = frozenset({Nature.GIFT_CARD, Nature.DEPOSIT})


@record
class DiscountShare:
    """So much of a discount, as a negative amount; ``number`` tells the order's discounts apart.

    ``tax`` is the tax that it takes with it where it stands on a line of its own, below zero as well.
    """

    number: int
    title: str
    source: str
    amount: Decimal
    tax: Decimal = ZERO


class Shared(NamedTuple):
    """The shares by the pointer of what they reduce; and, by the number of each discount, what is left of it."""

    shares: dict[str, list[DiscountShare]]
    left: dict[int, Decimal]


def shared(order: Order, posted: Sequence[PostedShare] = ()) -> Shared:
    """Share each discount over the lines that it is for, by what each comes to; what these cannot bear goes on to
    carriage.

    One that names no lines is for all goods: never for a gift card or a deposit, whose debt stays what it is, nor for a
    line below zero (something taken back in the same order), which is reduced no further. A charge that is as it was
    when it was ``posted`` keeps its share, as long as those that changed can bear what is left of the discount.
    """
    room = {f"/lines/{index}": max(line.reduced, ZERO) for index, line in enumerate(order.lines)}
    room |= {f"/shipping/{index}": max(part.reduced, ZERO) for index, part in enumerate(order.shipping)}
    weights = dict(room)
    shares: dict[str, list[DiscountShare]] = defaultdict(list)
    left: dict[int, Decimal] = {}
    for number, discount in enumerate(order.discounts):
        rest = discount.amount
        # Goods first: carriage is only made free with what is beyond them.
        for places in _reduced_by(discount, order):
            bears = min(rest, sum((room[at] for at in places), ZERO))
            if not bears:
                continue
            kept = _kept(discount, places, order, posted)
            spread = _spread_around(kept, bears, places, weights, room, order.currency)
            for at, amount in zip(places, spread, strict=True):
                room[at] -= amount
                if amount:
                    source = f"/discounts/{number}/amount"
                    shares[at].append(DiscountShare(number=number, title=discount.name, source=source, amount=-amount))
            rest -= bears
        if rest:
            left[number] = rest
    return Shared(shares, left)


def shares_as_posted(order: Order, posted: Sequence[PostedShare] = ()) -> tuple[PostedShare, ...]:
    """What each charge of an order bears of its discounts, to be kept once it is posted."""
    charges = dict(_charges(order))
    return tuple(
        PostedShare(charge=charges[at].id, discount=_name(order.discounts[share.number]), of=charges[at].reduced,
                    tax=charges[at].tax, amount=-share.amount)
        for at, shares in shared(order, posted).shares.items()
        for share in shares
    )  # fmt: skip


def _charges(order: Order) -> Iterator[tuple[str, OrderLine | Shipping]]:
    yield from ((f"/lines/{index}", line) for index, line in enumerate(order.lines))
    yield from ((f"/shipping/{index}", part) for index, part in enumerate(order.shipping))


def _name(discount: Discount) -> str:
    return f"{discount.code} {discount.name}"


def _kept(
    discount: Discount, places: Sequence[str], order: Order, posted: Sequence[PostedShare]
) -> dict[str, Decimal]:  # fmt: skip
    """The shares of those that are as they were."""
    known = {one.charge: one for one in posted if one.discount == _name(discount)}
    charges = dict(_charges(order))
    as_it_was = {at: known[charges[at].id] for at in places if charges[at].id in known}
    return {
        at: one.amount for at, one in as_it_was.items() if (one.of, one.tax) == (charges[at].reduced, charges[at].tax)
    }


def _spread_around(
    kept: dict[str, Decimal], amount: Decimal, places: Sequence[str], weights: dict[str, Decimal],
    room: dict[str, Decimal], currency: str,
) -> Sequence[Decimal]:  # fmt: skip
    """Shares in which those that are ``kept`` stay, and the others bear the rest; all anew where they cannot."""
    others = [at for at in places if at not in kept]
    rest = amount - sum(kept.values(), ZERO)
    fits = all(share <= room[at] for at, share in kept.items())
    if kept and fits and (0 <= rest <= sum((room[at] for at in others), ZERO)):
        spread = dict(zip(others, _spread(rest, others, weights, room, currency), strict=True)) if others else {}
        return [kept[at] if at in kept else spread[at] for at in places]
    return _spread(amount, places, weights, room, currency)


def _reduced_by(discount: Discount, order: Order) -> tuple[Sequence[str], Sequence[str]]:
    """The lines that a discount is for, then the carriage."""
    named = set(discount.applies_to)
    goods = [
        f"/lines/{index}"
        for index, line in enumerate(order.lines)
        # What the source names it names with reason, a deposit on a reduced price among it.
        if (line.id in named if named else line.nature not in _DEBTS) and line.nature is not Nature.GIFT_CARD
    ]
    carriage = [f"/shipping/{index}" for index, part in enumerate(order.shipping) if not named or part.id in named]
    return goods, carriage


def _spread(
    amount: Decimal, places: Sequence[str], weights: dict[str, Decimal], room: dict[str, Decimal], currency: str
) -> Sequence[Decimal]:
    """Shares by what each comes to, or by what is left of each where another discount took the most of one."""
    shares = allocate(amount, [weights[at] for at in places], currency)
    if all(share <= room[at] for at, share in zip(places, shares, strict=True)):
        return shares
    return allocate(amount, [room[at] for at in places], currency)


def check_discounts(order: Order) -> Iterator[Finding]:
    """An error for each discount that is more than what it may reduce."""
    # Most orders have none, and nothing need be shared to know that.
    for number, rest in shared(order).left.items() if order.discounts else ():
        discount = order.discounts[number]
        yield source_error(
            "SRC-E005",
            f"/discounts/{number}",
            f"The discount '{discount.name[:80]}' of {discount.amount} {order.currency} on order {order.number} "
            f"is {rest} more than what it may reduce.",
            "A discount never reduces what is owed for gift cards or deposits. Look at the discounts in the shop.",
        )
