"""Locks that end with their holder: PostgreSQL's advisory locks.

All session locks of a process are held by one database session of its own, so that no thread keeps a session while it
waits for an outside system. A process that is killed loses that session, and with it its locks; nothing has to be
cleaned up. When the session itself is lost (PostgreSQL was restarted), everything that is under way under it stops
before its next call: somebody else may hold the lock by then.
"""

from __future__ import annotations

import hashlib
import os
import select
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import psycopg
from django.conf import settings
from django.db import connection, transaction

POLL_SECONDS = 0.05
_current = threading.local()


class ClaimLost(Exception):
    """The database session that held our locks is gone: what is under way must stop, and be claimed anew."""


@dataclass(frozen=True, slots=True)
class Claim:
    """Locks that are held together; ``session`` tells one session of the process from the next."""

    numbers: tuple[int, ...]
    session: int


class LockSession:
    """The one database session that holds the session locks of this process.

    The same session may take a lock of its own twice, so what threads of this process hold is kept beside it.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._connection: psycopg.Connection | None = None
        self._process = 0
        self._session = 0
        self._held: set[int] = set()

    def try_lock(self, names: tuple[str, ...]) -> Claim | None:
        """Take all of these locks, or none where somebody holds one of them. One statement."""
        numbers = tuple(sorted({_number(name) for name in names}))
        with self._guard:
            if self._held.intersection(numbers):
                return None
            session = self._open()
            taken = self._ask(session, "SELECT n, pg_try_advisory_lock(n) FROM unnest(%s::bigint[]) AS n", numbers)
            free = [number for number, got in taken if got]
            if len(free) < len(numbers):
                self._ask(session, "SELECT pg_advisory_unlock(n) FROM unnest(%s::bigint[]) AS n", free)
                return None
            self._held.update(numbers)
            return Claim(numbers, self._session)

    def unlock(self, claim: Claim) -> None:
        """Give locks back; those of a session that is gone are free already."""
        with self._guard:
            if claim.session != self._session or self._connection is None:
                return
            self._held.difference_update(claim.numbers)
            try:
                self._ask(
                    self._connection, "SELECT pg_advisory_unlock(n) FROM unnest(%s::bigint[]) AS n", claim.numbers
                )
            except psycopg.Error:
                self._forget()

    def verify(self, claim: Claim) -> None:
        """See to it that the session which holds a claim is still there; no statement unless something came in.

        Raises:
            ClaimLost: it is not.
        """
        with self._guard:
            if claim.session != self._session or self._connection is None or not self._alive(self._connection):
                raise ClaimLost("The database session that held this document's lock is gone.")

    def _alive(self, session: psycopg.Connection) -> bool:
        # Nothing is ever sent to an idle session but the news that it ended, so a look at its socket is enough.
        readable, _, _ = select.select([session.fileno()], [], [], 0)
        if not readable:
            return True
        try:
            session.execute("SELECT 1")
        except psycopg.Error:
            self._forget()
            return False
        return True

    def _open(self) -> psycopg.Connection:
        if self._process != os.getpid():
            # After a fork the parent's session is the parent's.
            self._connection, self._process = None, os.getpid()
            self._held = set()
        if self._connection is None or not self._alive(self._connection):
            self._forget()
            self._connection = psycopg.connect(**_parameters(), autocommit=True)
        return self._connection

    def _forget(self) -> None:
        if self._connection is not None:
            self._connection.close()
        self._connection = None
        self._session += 1
        self._held = set()

    def _ask(
        self, session: psycopg.Connection, statement: str, numbers: tuple[int, ...] | list[int]
    ) -> list[tuple[int, bool]]:
        try:
            return list(session.execute(statement, [list(numbers)]).fetchall())  # type: ignore[arg-type]
        except psycopg.Error:
            self._forget()
            raise


_locks = LockSession()


def _parameters() -> dict[str, object]:
    database = settings.DATABASES["default"]
    return {
        "dbname": database["NAME"], "user": database["USER"], "password": database["PASSWORD"],
        "host": database["HOST"], "port": database["PORT"], "application_name": "inkwell locks",
    }  # fmt: skip


def _number(name: str) -> int:
    return int.from_bytes(hashlib.blake2b(name.encode(), digest_size=8).digest(), signed=True)


@contextmanager
def try_advisory_lock(*names: str) -> Iterator[bool]:
    """Hold these locks where nobody holds any of them; answers whether. No transaction, no session of the thread."""
    claim = _locks.try_lock(names)
    if claim is None:
        yield False
        return
    claims = _claims()
    claims.append(claim)
    try:
        yield True
    finally:
        claims.remove(claim)
        _locks.unlock(claim)


@contextmanager
def advisory_lock(*names: str, wait_seconds: float) -> Iterator[bool]:
    """Wait up to so long for these locks, and hold them; answers whether they came free."""
    deadline = time.monotonic() + wait_seconds
    while True:
        with try_advisory_lock(*names) as free:
            if free or time.monotonic() > deadline:
                yield free
                return
        time.sleep(POLL_SECONDS)


def verify_claims() -> None:
    """See to it that all locks of this thread are still held; asked before an intent is written and a call goes out.

    Raises:
        ClaimLost: the session that held them is gone.
    """
    for claim in _claims():
        _locks.verify(claim)


def _claims() -> list[Claim]:
    if not hasattr(_current, "claims"):
        _current.claims = []
    found: list[Claim] = _current.claims
    return found


@contextmanager
def transaction_under(name: str) -> Iterator[None]:
    """A transaction that holds the lock called ``name`` to its end: the next sees all that it wrote."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_number(name)])
        yield
