"""The balances of a statement, held against the statements beside it and over the same days."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import Q, Sum

from inkwell_bridge.core.bank import Moved, Stretch, gaps_beside, join
from inkwell_bridge.core.money import exact
from inkwell_bridge.service.bank.models import BankLine, Statement

ZERO, ONE_DAY = Decimal(0), timedelta(days=1)


def hold_balances_against(statement: Statement) -> list[str]:
    """See that balances follow from one another; answers what there is to say of days between. Four statements.

    Raises:
        StatementInvalid: naming the two statements that do not.
    """
    if not _has_balances(statement):
        return []
    others = [one for one in _statements_beside(statement) if _has_balances(one)]
    sums = _moved_by_day([statement, *others])

    def moved(first: date, last: date) -> Decimal:
        come_to = sum((amount for day, amount in sums.items() if first <= day <= last), ZERO)
        return exact(come_to, statement.account.currency)

    new, known = _stretch(statement, moved), [_stretch(one, moved) for one in others]
    join(new, known, moved)
    return list(gaps_beside(new, known))


def _has_balances(statement: Statement) -> bool:
    """Whether it has balances at both ends of whole days; of a table, the last day may be half."""
    first, last = statement.first_day, statement.last_day
    if not statement.complete or first is None or last is None:
        return False
    return statement.opening is not None and statement.closing is not None and (statement.whole_days or first < last)


def _stretch(statement: Statement, moved: Moved) -> Stretch:
    """The whole days of a statement; of a table, those before its last."""
    first, last, opening, closing = statement.first_day, statement.last_day, statement.opening, statement.closing
    assert first is not None
    assert last is not None
    assert opening is not None
    assert closing is not None
    if not statement.whole_days:
        last -= ONE_DAY
        closing = opening + moved(first, last)
    return Stretch(
        name=statement.number or f"of {statement.first_day} to {statement.last_day}",
        first_day=first,
        last_day=last,
        # With the digits of the currency: they are told to people.
        opening=exact(opening, statement.account.currency),
        closing=exact(closing, statement.account.currency),
    )


def _statements_beside(statement: Statement) -> list[Statement]:
    """Those that touch its days, and the nearest before and after."""
    first, last = statement.first_day, statement.last_day
    assert first is not None
    assert last is not None
    others = (
        Statement.objects.filter(account=statement.account_id, complete=True, opening__isnull=False)
        .exclude(pk=statement.pk)
        .select_related("account")
    )
    touching = others.filter(Q(first_day__lte=last + ONE_DAY), Q(last_day__gte=first - ONE_DAY))
    before = others.filter(last_day__lt=first - ONE_DAY).order_by("-last_day")[:1]
    after = others.filter(first_day__gt=last + ONE_DAY).order_by("first_day")[:1]
    return [*touching, *before, *after]


def _moved_by_day(statements: list[Statement]) -> Mapping[date, Decimal]:
    """What all lines that are known come to on each day of these statements; one statement."""
    days = [day for one in statements for day in (one.first_day, one.last_day) if day is not None]
    rows = BankLine.objects.filter(account=statements[0].account_id, booked_on__range=(min(days), max(days)))
    return dict(rows.order_by().values_list("booked_on").annotate(moved=Sum("amount")))
