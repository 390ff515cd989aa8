"""What stands between the two sides of one source document, day by day.

Worked out for each document when one of its figures changes, and kept beside them. So every difference of a period is a
sum over documents, and for any period, whatever its first and last day, the two sides, the named reasons and these add
up to nothing.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from datetime import date
from enum import StrEnum
from typing import NamedTuple

from inkwell_bridge.core.proof.figure import (
    Amounts,
    Grain,
    Key,
    Reconciles,
    Section,
    Side,
    Table,
    added,
    on_account,
    tables_of,
)


class Between(StrEnum):
    """What stands between the sides of one source document: what one of them has and the other has not (``open``), or
    what both have on different days (``cut-off``)."""

    OPEN = "open"
    CUT_OFF = "cut-off"


class Meeting(NamedTuple):
    """Where on the sheet the sides of a document meet."""

    grain: str
    section: str
    currency: str
    tax_code: str = ""
    tender: str = ""
    account: str = ""


def table_of(grain: str, section: str) -> Table:
    """The table that sides which meet there meet in."""
    if grain == Grain.ACCOUNT:
        return Table.ACCOUNTS
    if section == Section.MONEY:
        return Table.TENDERS
    return Table.TAX_CODES if grain == Grain.LINE else Table.TOTALS


class Gap(NamedTuple):
    """One amount that stands between the sides, on one day."""

    meeting: Meeting
    between: Between
    date: date
    amounts: Amounts


def not_as_money(figures: Mapping[Key, Amounts]) -> dict[Key, Amounts]:
    """Of the source's money, tender by tender, what the rules made no money of, or money of another currency.

    Asked only of what has crossed: before, nobody knows yet what the rules will make of it.
    """
    return added(_not_as_money(figures))


def gaps(figures: Mapping[Key, Amounts]) -> list[Gap]:
    """What the sides of one source document leave between them, from all its figures."""
    days: dict[Meeting, dict[date, Amounts]] = defaultdict(lambda: defaultdict(Amounts))
    own: dict[Meeting, date] = {}
    for key, amounts in figures.items():
        for meeting, sign in _meetings(key):
            of_meeting = on_account(amounts) if meeting.grain == Grain.ACCOUNT else amounts
            days[meeting][key.date] = days[meeting][key.date].plus(of_meeting, sign)
            if sign > 0:
                # What is open counts on the day of the side that says it should be there.
                own[meeting] = min(own.get(meeting, key.date), key.date)
    return [
        gap for meeting, of_days in days.items() for gap in _gaps(meeting, of_days, own.get(meeting) or min(of_days))
    ]


def is_of_money(key: Key) -> bool:
    """Whether a figure is one of those that ``not_as_money`` works out."""
    return key.section == Section.MONEY and key.side == Side.RECONCILING


def _meetings(key: Key) -> Iterator[tuple[Meeting, int]]:
    """Where a figure counts, and whether towards what should be there or against it."""
    sign = 1 if key.side in (Side.SOURCE, Side.CODED) else -1
    for table in tables_of(key.side, key.grain, key.section, key.role):
        if table is Table.TAX_CODES:
            yield Meeting(Grain.LINE, key.section, key.currency, tax_code=key.tax_code), sign
        elif table is Table.ACCOUNTS:
            yield Meeting(Grain.ACCOUNT, key.section, key.currency, account=key.account), sign
        else:
            tender = key.tender if table is Table.TENDERS else ""
            yield Meeting(Grain.DOCUMENT, key.section, key.currency, tender=tender), sign


def _not_as_money(figures: Mapping[Key, Amounts]) -> Iterator[tuple[Key, Amounts]]:
    """Of the source's money, tender by tender, what the rules made no money of, or money of another currency."""
    name = Reconciles.NOT_MONEY
    if any(key.role == Reconciles.CONVERTED for key in figures):
        name = Reconciles.CONVERTED
    money = [key for key in figures if key.section == Section.MONEY and key.grain == Grain.DOCUMENT]
    paid_on: dict[str, date] = {}
    for key in money:
        if key.side == Side.SOURCE:
            paid_on[key.tender] = min(paid_on.get(key.tender, key.date), key.date)
    for key in money:
        if key.side in (Side.SOURCE, Side.CODED):
            # On the source's day also what the rules set to another, or a matter of days would be named as none.
            day = paid_on.get(key.tender, key.date)
            named = Key(Side.RECONCILING, Grain.LINE, key.section, name, day, key.currency, tender=key.tender)
            yield named, figures[key] if key.side == Side.SOURCE else Amounts().plus(figures[key], -1)


def _gaps(meeting: Meeting, days: Mapping[date, Amounts], own: date) -> Iterator[Gap]:
    # Of a tax code the lines are counted, whose number says nothing here: a line of rounding is the books' alone.
    counts = meeting.grain == Grain.DOCUMENT
    by_day = {day: amounts if counts else amounts._replace(count=0) for day, amounts in days.items()}
    total = Amounts()
    for amounts in by_day.values():
        total = total.plus(amounts)
    if any(total):
        yield Gap(meeting, Between.OPEN, own, total)
    for day, amounts in by_day.items():
        moved = amounts.plus(total, -1) if day == own else amounts
        if any(moved):
            yield Gap(meeting, Between.CUT_OFF, day, moved)
