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
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

import psycopg
from django.conf import settings
from django.db import connection, transaction

POLL_SECONDS = 0.05
_TRY = "SELECT n, pg_try_advisory_lock(n) FROM unnest(%s::bigint[]) AS n"
_UNLOCK = "SELECT pg_advisory_unlock(n) FROM unnest(%s::bigint[]) AS n"


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

    def try_each(self, groups: Sequence[tuple[str, ...]]) -> list[Claim | None]:
        """For each group of names all of its locks, or none where somebody holds one of them. One statement, and a
        second where a group was free in part."""
        wanted = [tuple(sorted({_number(name) for name in names})) for names in groups]
        with self._guard:
            session, ours = self._open(), set(self._held)
            asked: list[tuple[int, ...] | None] = []
            for numbers in wanted:
                free = not ours.intersection(numbers)
                asked.append(numbers if free else None)
                ours.update(numbers if free else ())
            all_numbers = [number for numbers in asked if numbers for number in numbers]
            if not all_numbers:
                return [None if numbers is None else Claim((), self._session) for numbers in asked]
            taken = {number for number, got in self._ask(session, _TRY, all_numbers) if got}
            claims = [
                Claim(numbers, self._session) if numbers is not None and taken.issuperset(numbers) else None
                for numbers in asked
            ]
            kept = {number for claim in claims if claim for number in claim.numbers}
            if taken - kept:
                self._ask(session, _UNLOCK, sorted(taken - kept))
            self._held.update(kept)
            return claims

    def unlock(self, claims: Iterable[Claim]) -> None:
        """Give locks back, in one statement; those of a session that is gone are free already."""
        with self._guard:
            if self._connection is None:
                return
            numbers = [number for claim in claims if claim.session == self._session for number in claim.numbers]
            self._held.difference_update(numbers)
            try:
                if numbers:
                    self._ask(self._connection, _UNLOCK, numbers)
            except psycopg.Error:
                self._forget()

    def verify(self, claims: Iterable[Claim]) -> None:
        """See to it that the session which holds these is still there; no statement unless something came in.

        Raises:
            ClaimLost: it is not.
        """
        with self._guard:
            ours = all(claim.session == self._session for claim in claims)
            if not ours or self._connection is None or not self._alive(self._connection):
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

    def _ask(self, session: psycopg.Connection, statement: str, numbers: Sequence[int]) -> list[tuple[int, bool]]:
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


class Claims:
    """Locks of one piece of work, taken and given back as it goes on, and all given back at its end.

    It takes no transaction, and no database session of the thread. To be used with ``with``.
    """

    def __init__(self) -> None:
        self._claims: dict[tuple[str, ...], Claim] = {}

    def __enter__(self) -> Claims:
        """Begin with none."""
        return self

    def __exit__(self, *_: object) -> None:
        """Give all back."""
        self.give_back(list(self._claims))

    def take(self, groups: Sequence[tuple[str, ...]]) -> list[bool]:
        """For each group of names all of its locks or none; answers which groups are ours now."""
        claims = _locks.try_each(groups)
        self._claims.update({group: claim for group, claim in zip(groups, claims, strict=True) if claim is not None})
        return [claim is not None for claim in claims]

    def wait_for(self, names: tuple[str, ...], seconds: float) -> bool:
        """Wait up to so long for these locks; answers whether they are ours now."""
        deadline = time.monotonic() + seconds
        while self.take([names]) != [True]:
            if time.monotonic() > deadline:
                return False
            time.sleep(POLL_SECONDS)
        return True

    def give_back(self, groups: Iterable[tuple[str, ...]]) -> None:
        """Give groups back; those that are not ours are left alone."""
        _locks.unlock([self._claims.pop(group) for group in groups if group in self._claims])

    def verify(self) -> None:
        """See to it that all are still ours; asked before an intent is written and before a call goes out.

        Raises:
            ClaimLost: the session that held them is gone.
        """
        _locks.verify(self._claims.values())


@contextmanager
def try_advisory_lock(*names: str) -> Iterator[bool]:
    """Hold these locks where nobody holds any of them; answers whether. No transaction, no session of the thread."""
    with Claims() as claims:
        (free,) = claims.take([names])
        yield free


@contextmanager
def advisory_lock(*names: str, wait_seconds: float) -> Iterator[bool]:
    """Wait up to so long for these locks, and hold them; answers whether they came free."""
    with Claims() as claims:
        yield claims.wait_for(names, wait_seconds)


def share_until_commit(names: Iterable[str]) -> None:
    """Let nobody begin to hold these locks for themselves until this transaction ends; many may share them. Waits for
    whoever holds one. One statement."""
    with connection.cursor() as cursor:
        numbers = sorted(map(_number, names))
        cursor.execute("SELECT pg_advisory_xact_lock_shared(n) FROM unnest(%s::bigint[]) AS n", [numbers])


@contextmanager
def transaction_under(name: str) -> Iterator[None]:
    """A transaction that holds the lock called ``name`` to its end: the next sees all that it wrote."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_number(name)])
        yield
