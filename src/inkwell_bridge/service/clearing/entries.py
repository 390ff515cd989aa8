"""What the books tell of one account: read page by page into a table, until it leads from one balance to the other."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from django.db.models import Sum

from inkwell_bridge.core.books import AccountEntry
from inkwell_bridge.core.clearing import AccountRead
from inkwell_bridge.core.text import fit_line, fit_name
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.every_page import every_page
from inkwell_bridge.service.clearing.models import ClearingProof, ReadEntry
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.rows import insert_rows
from inkwell_bridge.service.statistics import MANY, analyse_table

ZERO, ONE_DAY = Decimal(0), timedelta(days=1)
# As a fault of it is told.
ENTRIES = "the books' list of entries"
# Somebody may post while it is read; who posts all the time is told so.
TRIES = 3


class Stopped(Exception):
    """Somebody cancelled it, or it goes on in another worker."""


def read_account(proof: ClearingProof, currency: str) -> AccountRead:
    """Read balances and entries; where the one do not lead to the other, for something was posted meanwhile, again.

    Raises:
        EndError: the books do not answer.
        Stopped: it is not wanted any more.
    """
    end, moved = books_end(proof.books), dict[date, Decimal]()
    for _ in range(TRIES):
        opening = end.account_balance(proof.account, proof.first - ONE_DAY)
        _read_entries(proof, end)
        closing = end.account_balance(proof.account, proof.last)
        rows = ReadEntry.objects.filter(proof=proof).order_by().values_list("date")
        moved = dict(rows.annotate(come_to=Sum("amount")))
        if opening + sum(moved.values(), ZERO) == closing:
            break
    return AccountRead(account=proof.account, currency=currency, first=proof.first, last=proof.last,
                       opening=opening, closing=closing, moved=moved)  # fmt: skip


def _read_entries(proof: ClearingProof, end: BooksEnd) -> None:
    ReadEntry.objects.filter(proof=proof).delete()
    done = 0
    for told in every_page(
        lambda page: end.account_entries(proof.account, proof.first, proof.last, page=page), of=ENTRIES
    ):
        insert_rows([_row(proof, one) for one in told.entries])
        done += len(told.entries)
        if not proof.while_active.update(done=done):
            raise Stopped
    if done >= MANY:
        analyse_table(ReadEntry)


def _row(proof: ClearingProof, entry: AccountEntry) -> ReadEntry:
    return ReadEntry(
        workspace_id=proof.workspace_id, proof=proof, family=fit_line(entry.family, 120), books_id=fit_name(entry.id),
        number=fit_line(entry.number, 120), date=entry.date, reference=fit_line(entry.external_reference, 250),
        text=fit_line(entry.text, 200), amount=entry.amount,
    )  # fmt: skip
