"""Bank statements as tables: comma-separated or the like, by a layout that was described once."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Mapping
from datetime import date, datetime
from decimal import Decimal
from typing import BinaryIO

from inkwell_bridge.core.bank.layout import DAYS, TableLayout
from inkwell_bridge.core.bank.statement import (
    LONGEST_NAME,
    LONGEST_REFERENCE,
    LONGEST_TEXT,
    MOST_LINES,
    StatementHead,
    StatementInvalid,
    StatementLine,
    StatementPart,
    amount_of,
    as_number,
    fitting,
    of_our_time,
)

ZERO = Decimal(0)
# In groups of three, as people write thousands; anything else is no amount.
_GROUPED = {".": re.compile(r"[+-]?[0-9]{1,3}(,[0-9]{3})+(\.[0-9]+)?\Z"),
            ",": re.compile(r"[+-]?[0-9]{1,3}([. \u00a0][0-9]{3})+(,[0-9]+)?\Z")}  # fmt: skip
_LONGEST_LINE = 20_000


def read_table(stream: BinaryIO, layout: TableLayout, *, account: str, currency: str) -> Iterator[StatementPart]:
    """The statement of a table, as its head and then its lines, in the order of the file.

    Raises:
        StatementInvalid: at the first line that is wrong; of one whose balances do not follow one another, too.
    """
    text = io.TextIOWrapper(stream, encoding="utf-8-sig" if layout.encoding == "utf-8" else layout.encoding, newline="")
    lines = _bounded(text)
    try:
        yield StatementHead(account=account, currency=currency)
        yield from _lines(lines, layout, account, currency)
    except UnicodeDecodeError as error:
        raise StatementInvalid(f"the file is not {layout.encoding.upper()}") from error
    finally:
        # The stream is the caller's.
        text.detach()


def _bounded(text: io.TextIOWrapper) -> Iterator[str]:
    """Line by line; one that goes on and on is no line of a statement."""
    for number in range(1, MOST_LINES + 2):
        line = text.readline(_LONGEST_LINE)
        if not line:
            return
        if len(line) >= _LONGEST_LINE:
            raise StatementInvalid(f"a line of more than {_LONGEST_LINE:,} characters", number)
        if "\0" in line:
            raise StatementInvalid("a character that no text may hold (U+0000)", number)
        yield line
    raise StatementInvalid(f"more than {MOST_LINES:,} lines in one file: load it in parts")


def _lines(lines: Iterator[str], layout: TableLayout, account: str, currency: str) -> Iterator[StatementLine]:
    for _ in range(layout.skip):
        next(lines, "")
    rows = csv.reader(lines, delimiter=layout.separator, strict=True)
    chain = _Chain()
    try:
        places = _places(next(rows, []), layout, layout.skip + 1)
        for row in rows:
            if not any(cell.strip() for cell in row):
                continue
            at = rows.line_num + layout.skip
            if len(row) <= max(places.values()):
                raise StatementInvalid(f"expected {max(places.values()) + 1} cells, got {len(row)}", at)
            said = {name: row[place].strip() for name, place in places.items()}
            _belongs(said, layout, account, currency, at)
            line = _line(said, layout, currency, at)
            chain.follow(line)
            yield line
    except csv.Error as error:
        raise StatementInvalid(f"this is no table any more ({error})", rows.line_num + layout.skip) from error


def _places(head: list[str], layout: TableLayout, at: int) -> Mapping[str, int]:
    known = {name.strip().casefold(): place for place, name in reversed(list(enumerate(head)))}
    missing = [name for name in layout.columns if name.strip().casefold() not in known]
    if missing:
        raise StatementInvalid(f"expected the column {missing[0]!r}, which the layout names", at)
    return {name: known[name.strip().casefold()] for name in layout.columns}


def _belongs(said: Mapping[str, str], layout: TableLayout, account: str, currency: str, at: int) -> None:
    if layout.account and as_number(said[layout.account]) != as_number(account):
        raise StatementInvalid(f"this is a line of another account, {said[layout.account][:40]!r}", at)
    if layout.currency and said[layout.currency].upper() != currency:
        raise StatementInvalid(f"expected an amount in {currency}, got one in {said[layout.currency][:10]!r}", at)


def _line(said: Mapping[str, str], layout: TableLayout, currency: str, at: int) -> StatementLine:
    def text(column: str, longest: int) -> str:
        return fitting(said[column], longest) if column else ""

    return StatementLine(
        line=at,
        booked_on=_day(said[layout.booked_on], layout, at),
        amount=_money(said, layout, currency, at),
        value_on=_day(said[layout.value_on], layout, at) if layout.value_on and said[layout.value_on] else None,
        reference=text(layout.reference, LONGEST_REFERENCE),
        end_to_end=text(layout.end_to_end, LONGEST_REFERENCE),
        name=text(layout.name, LONGEST_NAME),
        text=fitting(" ".join(said[column] for column in layout.text), LONGEST_TEXT),
        balance=_number(said[layout.balance], layout, currency, at)
        if layout.balance and said[layout.balance]
        else None,
    )


def _day(text: str, layout: TableLayout, at: int) -> date:
    try:
        found = datetime.strptime(text, DAYS[layout.days]).date()  # noqa: DTZ007 a day has no zone
    except ValueError as error:
        raise StatementInvalid(f"expected a day written {layout.days}, got {text[:40]!r}", at) from error
    return of_our_time(found, at)


def _money(said: Mapping[str, str], layout: TableLayout, currency: str, at: int) -> Decimal:
    if layout.amount:
        return _number(said[layout.amount], layout, currency, at)
    came, went = said[layout.paid_in], said[layout.paid_out]
    if bool(came) == bool(went):
        raise StatementInvalid(f"expected an amount in {layout.paid_in!r} or in {layout.paid_out!r}", at)
    found = _number(came or went, layout, currency, at)
    return found if came else -abs(found)


def _number(text: str, layout: TableLayout, currency: str, at: int) -> Decimal:
    """An amount as people write it: thousands in groups of three, and the layout's sign before the pence."""
    plain = (
        re.sub(r"[ \u00a0.]" if layout.decimal == "," else ",", "", text)
        if _GROUPED[layout.decimal].match(text)
        else text
    )
    if layout.decimal == ",":
        if "." in plain:
            raise StatementInvalid(f"expected an amount with a decimal comma, got {text[:40]!r}", at)
        plain = plain.replace(",", ".")
    elif "," in plain:
        raise StatementInvalid(f"expected an amount with a decimal point, got {text[:40]!r}", at)
    return amount_of(plain, currency, at)


class _Chain:
    """Whether each balance follows from the one before, the oldest line standing first or last."""

    def __init__(self) -> None:
        self._last: StatementLine | None = None
        self._downwards = True
        self._upwards = True

    def follow(self, line: StatementLine) -> None:
        """Take the next line of the file.

        Raises:
            StatementInvalid: its balance follows from the line before in neither order, or in another order than those
                before it.
        """
        before, self._last = self._last, line
        if before is None or before.balance is None or line.balance is None:
            return
        self._downwards = self._downwards and before.balance + line.amount == line.balance
        self._upwards = self._upwards and line.balance + before.amount == before.balance
        if not self._downwards and not self._upwards:
            raise StatementInvalid(
                f"the balance {line.balance} does not follow from {before.balance} in the line before", line.line
            )
