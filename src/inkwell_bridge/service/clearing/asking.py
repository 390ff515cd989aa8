"""Asking for the proof of an account."""

from __future__ import annotations

from datetime import date

from django.utils import timezone

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import AlreadyUnderWay, begin, forget_old
from inkwell_bridge.service.clearing.accounts import is_of_money, tells
from inkwell_bridge.service.clearing.models import ClearingProof
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

# Of each account: enough to look back over a year of months.
MOST_KEPT = 24


class CannotProve(Refusal):
    """These books do not tell what stands on an account, or have no such account of money."""

    code = "cannot-prove"
    hint = "An account is proved where the books tell its balance and its entries; load their lists first."


class AlreadyProving(AlreadyUnderWay):
    """The same account is being proved."""

    code = "already-proving"
    what = "proof"


def ask(books: Connection, person: Person, *, account: str, first: date, last: date) -> ClearingProof:
    """Have an account proved in the background: what the books have on it, beside what was posted from here.

    Raises:
        CannotProve: the books do not tell of accounts, or have none of that code, or it is no account of money.
        AlreadyProving: the same account is being proved.
    """
    if not tells(books):
        raise CannotProve(f"{books.name} does not tell what stands on an account.")
    if not is_of_money(books, account):
        raise CannotProve(f"{books.name} has no account {account} of a bank or another asset.")
    of_account = ClearingProof.objects.filter(books=books, account=account)

    def make() -> ClearingProof:
        proof = ClearingProof.objects.create(
            workspace_id=books.workspace_id, books=books, account=account, first=first, last=last,
            asked_by=person, asked_at=timezone.now(),
        )  # fmt: skip
        arguments = {"workspace_id": books.workspace_id, "proof_id": proof.pk}
        lock = f"proving:{books.pk}:{account}"
        queue.defer(queue.PROVE_ACCOUNT, [queue.Call(arguments=arguments, lock=lock, priority=queue.ASKED_FOR)])
        record(books.workspace, person, "account.proved", books.slug, account=account, first=first.isoformat(),
               last=last.isoformat())  # fmt: skip
        forget_old(of_account, keep=MOST_KEPT)
        return proof

    return begin(make, of_account, lambda running: AlreadyProving(
        f"Account {account} of {books.name} is being proved.", running.pk
    ))  # fmt: skip
