"""Taking the bank's statements: each file whole, or not at all.

The lines of a statement go into a table of their own first, as they are read, so that a file of half a million takes no
more memory than one of ten. There they are held against what is known in a few statements, whatever their number: what
stands in both is recognised, what is new is added, and what contradicts refuses the file and names its line.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal
from typing import Any, BinaryIO

from django.db import connection
from django.db.models import Q, Sum
from django.utils import timezone

from inkwell_bridge.core.bank import (
    StatementHead,
    StatementInvalid,
    StatementLine,
    StatementPart,
    Stretch,
    TableLayout,
    gaps_beside,
    join,
    read_camt,
    read_table,
)
from inkwell_bridge.core.bank.statement import as_number
from inkwell_bridge.core.money import exact
from inkwell_bridge.service.bank.models import BankAccount, BankLine, Statement, StatementFile
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

ZERO, ONE_DAY = Decimal(0), timedelta(days=1)
_PIECE = 1_000_000


class StatementRefused(Refusal):
    """A file of statements of which nothing was taken."""

    code = "statement-refused"
    hint = "Nothing of the file was taken. Fetch it from the bank anew, and see that it is of this account."


def lock_of(account: BankAccount) -> str:
    """Whoever changes lines or matches of an account goes one after the other."""
    return f"bank:{account.workspace_id}:{account.pk}"


def take(account: BankAccount, name: str, stream: BinaryIO, person: Person | None) -> tuple[StatementFile, bool]:
    """Take a file; answers it, and whether it had been taken before. Expects no transaction.

    Raises:
        StatementRefused: naming the line that is wrong, or that contradicts what is known; it is kept that it was.
    """
    digest = digest_of(stream)
    try:
        with transaction_under(lock_of(account)):
            # Under the lock: the same file may be given twice at the same moment.
            known = StatementFile.objects.filter(account=account, digest=digest, problem="").first()
            return (known, True) if known else (_taken(account, name, digest, stream, person), False)
    except StatementInvalid as error:
        StatementFile.objects.create(
            workspace_id=account.workspace_id, account=account, name=name, digest=digest, read_at=timezone.now(),
            read_by=person, problem=str(error),
        )  # fmt: skip
        raise StatementRefused(f"{name}: {error}") from error


def digest_of(stream: BinaryIO) -> str:
    """By what a file is known; the stream stands at its beginning again."""
    found = hashlib.sha256()
    while piece := stream.read(_PIECE):
        found.update(piece)
    stream.seek(0)
    return found.hexdigest()


def _taken(account: BankAccount, name: str, digest: str, stream: BinaryIO, person: Person | None) -> StatementFile:
    file = StatementFile.objects.create(
        workspace_id=account.workspace_id, account=account, name=name, digest=digest, read_at=timezone.now(),
        read_by=person,
    )  # fmt: skip
    parts = iter(_parts(account, stream))
    head = next(parts, None)
    while isinstance(head, StatementHead):
        lines = _LinesOf(parts)
        found = _take_statement(file, head, lines)
        file.lines += found.count
        file.new_lines += found.added
        file.notes += found.notes
        head = lines.next_head
    file.save(update_fields=["lines", "new_lines", "notes"])
    record(account.workspace, person, "statement.taken", account.slug, file=name, lines=file.lines, new=file.new_lines)
    return file


def _parts(account: BankAccount, stream: BinaryIO) -> Iterator[StatementPart]:
    begins = stream.read(200).lstrip(b"\xef\xbb\xbf\xfe\xff \t\r\n\0")
    stream.seek(0)
    if begins.startswith(b"<"):
        yield from read_camt(stream)
    elif account.layout is None:
        raise StatementInvalid(
            "this is no statement by ISO 20022, and how its table is laid out is not described for this account"
        )
    else:
        layout = TableLayout.read(account.layout)
        yield from read_table(stream, layout, account=account.number, currency=account.currency)


class _LinesOf:
    """The lines up to the next head, which is kept for whoever goes on."""

    def __init__(self, parts: Iterator[StatementPart]) -> None:
        self._parts = parts
        self.next_head: StatementHead | None = None

    def __iter__(self) -> Iterator[StatementLine]:
        for part in self._parts:
            if isinstance(part, StatementHead):
                self.next_head = part
                return
            yield part


@dataclass(slots=True)
class _LineTotals:
    """What the lines of one statement come to, as they pass by."""

    count: int = 0
    total: Decimal = ZERO
    first: StatementLine | None = None
    last: StatementLine | None = None
    days: tuple[date, date] | None = None
    added: int = 0
    notes: list[str] = field(default_factory=list)

    def counted(self, lines: Iterable[StatementLine]) -> Iterator[StatementLine]:
        """The same lines."""
        for line in lines:
            self.count += 1
            self.total += line.amount
            self.first, self.last = self.first or line, line
            first, last = self.days or (line.booked_on, line.booked_on)
            self.days = min(first, line.booked_on), max(last, line.booked_on)
            yield line

    @property
    def balances(self) -> tuple[Decimal | None, Decimal | None]:
        """Those before and after all lines, by the balance that each has, the oldest standing first or last."""
        if self.first is None or self.last is None or self.first.balance is None or self.last.balance is None:
            return None, None
        opening = self.first.balance - self.first.amount
        if opening + self.total == self.last.balance:
            return opening, self.last.balance
        return self.last.balance - self.last.amount, self.first.balance


def _take_statement(file: StatementFile, head: StatementHead, lines: _LinesOf) -> _LineTotals:
    account = file.account
    if as_number(head.account) != as_number(account.number):
        raise StatementInvalid(f"this is a statement of account {head.account}, and not of {account.number}")
    if head.currency != account.currency:
        raise StatementInvalid(f"this is a statement in {head.currency}, and the account is in {account.currency}")
    totals = _LineTotals()
    _receive(totals.counted(lines))
    statement = _statement(file, head, totals)
    totals.added = _add_new(statement)
    _hold_against(statement)
    stretch = _stretch(statement)
    if stretch is not None:
        known = _stretches_beside(statement)
        join(stretch, known, lambda first, last: _moved(account, first, last))
        totals.notes += gaps_beside(stretch, known)
    return totals


def _statement(file: StatementFile, head: StatementHead, totals: _LineTotals) -> Statement:
    opening, closing = (head.opening, head.closing) if head.opening is not None else totals.balances
    if head.opening is not None and head.closing is not None and head.opening + totals.total != head.closing:
        raise StatementInvalid(
            f"its lines come to {totals.total}, and its balances lead from {head.opening} to {head.closing}"
        )
    first, last = totals.days or (head.first_day, head.last_day)
    return Statement.objects.create(
        workspace_id=file.workspace_id,
        account=file.account,
        file=file,
        number=head.number,
        first_day=min(filter(None, (first, head.first_day)), default=None),
        last_day=max(filter(None, (last, head.last_day)), default=None),
        opening=opening,
        closing=closing,
        complete=head.complete,
        # Balances at both ends of a day, or days that the bank names, are of whole days; a table has neither.
        whole_days=head.opening is not None or head.last_day is not None,
    )


_COLUMNS = ("line", "booked_on", "value_on", "amount", "reference", "end_to_end", "name", "text", "digest")


def _receive(lines: Iterable[StatementLine]) -> None:
    """Bring the lines to the database as they are read; one COPY."""
    with connection.cursor() as cursor:
        cursor.execute(_MAKE_ROOM)
        with cursor.copy(f"COPY bank_incoming ({', '.join(_COLUMNS)}) FROM STDIN") as copy:
            for line in lines:
                copy.write_row(_row(line))
        cursor.execute(_LOOK_OVER)


def _row(line: StatementLine) -> tuple[Any, ...]:
    # The bank's own name for a line tells it from all others of its day and amount; else all that is said does.
    said = [line.reference] if line.reference else ["", line.end_to_end, line.name, line.text, str(line.balance or "")]
    # No text of a line has the character that parts them.
    whole = "\x1f".join((line.booked_on.isoformat(), str(line.amount), *said))
    digest = hashlib.blake2b(whole.encode(), digest_size=16).hexdigest()
    return (line.line, line.booked_on, line.value_on, line.amount, line.reference, line.end_to_end, line.name,
            line.text, digest)  # fmt: skip


_MAKE_ROOM = """
    DROP TABLE IF EXISTS bank_incoming;
    CREATE TEMPORARY TABLE bank_incoming (
        place bigint GENERATED ALWAYS AS IDENTITY, line integer, booked_on date, value_on date, amount numeric(20, 4),
        reference text, end_to_end text, name text, text text, digest text
    ) ON COMMIT DROP
"""
_LOOK_OVER = "CREATE INDEX ON bank_incoming (digest); ANALYZE bank_incoming"


def _add_new(statement: Statement) -> int:
    """Add the lines that are not known yet; answers how many."""
    with connection.cursor() as cursor:
        cursor.execute(_ADD, [statement.workspace_id, statement.account_id, statement.pk])
        return int(cursor.rowcount)


# What is just like another of its day is told from it by its place among them.
_ADD = """
    INSERT INTO bank_bankline (workspace_id, account_id, statement_id, line, booked_on, value_on, amount, reference,
                               end_to_end, name, text, digest, occurrence, state, note)
    SELECT %s, %s, %s, line, booked_on, value_on, amount, reference, end_to_end, name, text, digest,
           row_number() OVER (PARTITION BY digest ORDER BY place), 'open', ''
    FROM bank_incoming ORDER BY booked_on, place
    ON CONFLICT (account_id, digest, occurrence) DO NOTHING
"""


def _hold_against(statement: Statement) -> None:
    """See that of days which this statement and another cover both have the same lines.

    Raises:
        StatementInvalid: naming the first line that one of them lacks.
    """
    asked = {"account": statement.account_id, "statement": statement.pk, "first": statement.first_day,
             "last": statement.last_day, "whole": statement.whole_days}  # fmt: skip

    def said(amount: Decimal) -> str:
        return f"{exact(amount, statement.account.currency)}"

    with connection.cursor() as cursor:
        cursor.execute(_MISSING_THERE, asked)
        found = cursor.fetchone()
        if found is not None:
            line, day, amount, number, known_day, known_amount = found
            known = f"; it was known with {said(known_amount)} on {known_day}" if known_day else ""
            raise StatementInvalid(
                f"this line of {day}, {said(amount)}, is new, though {_named(number)} covers that day{known}", line
            )
        # Single lines cover no day, and lack nothing.
        if not statement.complete:
            return
        cursor.execute(_MISSING_HERE, asked)
        found = cursor.fetchone()
        if found is not None:
            day, amount, reference, number = found
            named = f" ({reference})" if reference else ""
            raise StatementInvalid(
                f"it covers {day}, and lacks a line of that day that {_named(number)} has: {said(amount)}{named}"
            )


def _named(number: str) -> str:
    return f"statement {number}" if number else "an earlier one"


# The first one alone is looked for among what was known before: of each line, that would be all lines times all.
_MISSING_THERE = """
    WITH missing AS (
        SELECT line.line, line.booked_on, line.amount, line.reference, other.number
        FROM bank_bankline AS line JOIN bank_statement AS other
          ON other.account_id = line.account_id AND other.id <> line.statement_id AND other.complete
         AND ((other.whole_days AND line.booked_on BETWEEN other.first_day AND other.last_day)
              OR (line.booked_on > other.first_day AND line.booked_on < other.last_day))
        WHERE line.account_id = %(account)s AND line.statement_id = %(statement)s
        ORDER BY line.line, line.id LIMIT 1)
    SELECT missing.line, missing.booked_on, missing.amount, missing.number, known.booked_on, known.amount
    FROM missing LEFT JOIN LATERAL (
        SELECT was.booked_on, was.amount FROM bank_bankline AS was
        WHERE was.account_id = %(account)s AND was.statement_id <> %(statement)s
          AND was.reference = missing.reference AND was.reference <> ''
        ORDER BY was.id LIMIT 1
    ) AS known ON true
"""
_MISSING_HERE = """
    SELECT line.booked_on, line.amount, line.reference, other.number
    FROM bank_bankline AS line JOIN bank_statement AS other ON other.id = line.statement_id
    WHERE line.account_id = %(account)s AND line.statement_id <> %(statement)s
      AND ((%(whole)s AND line.booked_on BETWEEN %(first)s AND %(last)s)
           OR (line.booked_on > %(first)s AND line.booked_on < %(last)s))
      AND line.occurrence > (SELECT count(*) FROM bank_incoming AS here WHERE here.digest = line.digest)
    ORDER BY line.booked_on, line.id LIMIT 1
"""


def _stretch(statement: Statement) -> Stretch | None:
    """The whole days of a statement with balances; of a table, those before its last day."""
    first, last, opening, closing = statement.first_day, statement.last_day, statement.opening, statement.closing
    if not statement.complete or first is None or last is None or opening is None or closing is None:
        return None
    if not statement.whole_days:
        if first == last:
            return None
        last -= ONE_DAY
        closing = opening + _moved(statement.account, first, last)
    name = statement.number or f"of {statement.first_day} to {statement.last_day}"
    # With the digits of its currency: they are told to people.
    told = (exact(opening, statement.account.currency), exact(closing, statement.account.currency))
    return Stretch(name=name, first_day=first, last_day=last, opening=told[0], closing=told[1])


def _stretches_beside(statement: Statement) -> list[Stretch]:
    """Those of other statements that touch this one's days, and the nearest before and after."""
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
    return [found for one in (*touching, *before, *after) if (found := _stretch(one)) is not None]


def _moved(account: BankAccount, first: date, last: date) -> Decimal:
    if last < first:
        return ZERO
    rows = BankLine.objects.filter(account=account, booked_on__range=(first, last))
    return exact(rows.aggregate(sum=Sum("amount"))["sum"] or ZERO, account.currency)
