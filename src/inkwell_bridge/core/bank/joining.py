"""Whether one statement joins those that are known: its balances follow from theirs, day by day."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import date, timedelta
from decimal import Decimal

from inkwell_bridge.core.bank.statement import StatementInvalid
from inkwell_bridge.core.record import record

ONE_DAY = timedelta(days=1)
# What moved on an account from one day to another, both counted, by all lines that are known.
Moved = Callable[[date, date], Decimal]


@record
class Stretch:
    """The days that a statement covers, and its balances before the first and after the last of them."""

    name: str
    first_day: date
    last_day: date
    opening: Decimal
    closing: Decimal


def join(new: Stretch, known: Sequence[Stretch], moved: Moved) -> None:
    """See that a statement and those beside it, or over the same days, tell of one account.

    Raises:
        StatementInvalid: saying which two do not, on which day and by how much.
    """
    if new.opening + moved(new.first_day, new.last_day) != new.closing:
        # Its own lines were summed before; so what is known besides was left out of it.
        raise StatementInvalid(
            f"its lines and those that are known of {new.first_day} to {new.last_day} do not lead from its opening "
            f"balance {new.opening} to its closing balance {new.closing}"
        )
    for other in known:
        before, after = (other, new) if other.first_day <= new.first_day else (new, other)
        # With days between them nobody knows what moved; see ``gaps_beside``.
        if after.first_day > before.last_day + ONE_DAY:
            continue
        leads_to = before.opening + moved(before.first_day, after.first_day - ONE_DAY)
        if leads_to != after.opening:
            raise StatementInvalid(
                f"statement {before.name} leads to {leads_to} on the morning of {after.first_day}, and statement "
                f"{after.name} opens with {after.opening}"
            )


def gaps_beside(new: Stretch, known: Sequence[Stretch]) -> Iterator[str]:
    """Days that no statement covers, before or after this one, where the balance moved meanwhile."""
    earlier = max((one for one in known if one.last_day < new.first_day - ONE_DAY), key=_ends, default=None)
    later = min((one for one in known if one.first_day > new.last_day + ONE_DAY), key=_begins, default=None)
    for before, after in ((earlier, new), (new, later)):
        if before is None or after is None or before.closing == after.opening:
            continue
        if any(one.first_day <= before.last_day + ONE_DAY and one.last_day >= after.first_day - ONE_DAY
               for one in known):  # fmt: skip
            continue
        first, last = before.last_day + ONE_DAY, after.first_day - ONE_DAY
        yield (f"No statement covers {first} to {last}, and {after.opening - before.closing} moved on these days: load "
               "that one too.")  # fmt: skip


def _ends(stretch: Stretch) -> date:
    return stretch.last_day


def _begins(stretch: Stretch) -> date:
    return stretch.first_day
