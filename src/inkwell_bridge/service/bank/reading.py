"""Taking the bank's statements: each file whole, or not at all.

What stands in the file and is known is recognised, what is new is added, and what contradicts refuses the file and
names its line.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import BinaryIO

from django.utils import timezone

from inkwell_bridge.core.bank import (
    StatementHead,
    StatementInvalid,
    StatementLine,
    StatementPart,
    TableLayout,
    read_camt,
    read_table,
)
from inkwell_bridge.core.bank.statement import as_number
from inkwell_bridge.service.bank.beside import hold_balances_against
from inkwell_bridge.service.bank.lines import add_new, hold_against, receive
from inkwell_bridge.service.bank.models import BankAccount, Statement, StatementFile
from inkwell_bridge.service.locks import transaction_under
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

ZERO = Decimal(0)
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
    digest = _digest_of(stream)
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


def _digest_of(stream: BinaryIO) -> str:
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
            "this is no statement by ISO 20022, and how its table is laid out is not described for this account: "
            "describe it with inkwell bank layout FILE"
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
    receive(totals.counted(lines))
    statement = _statement(file, head, totals)
    totals.added = add_new(statement)
    hold_against(statement)
    totals.notes += hold_balances_against(statement)
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
