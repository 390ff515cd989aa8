"""Locks that end with their holder: PostgreSQL's advisory locks.

A process that is killed loses its database session, and with it the lock; nothing has to be cleaned up.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


def _number(name: str) -> int:
    return int.from_bytes(hashlib.blake2b(name.encode(), digest_size=8).digest(), signed=True)


@contextmanager
def held(name: str) -> Iterator[None]:
    """Wait for the lock called ``name`` and hold it."""
    number = _number(name)
    _call("pg_advisory_lock", number)
    try:
        yield
    finally:
        _call("pg_advisory_unlock", number)


@contextmanager
def held_if_free(name: str) -> Iterator[bool]:
    """Hold the lock called ``name`` where nobody else does; answers whether."""
    number = _number(name)
    got = bool(_call("pg_try_advisory_lock", number))
    try:
        yield got
    finally:
        if got:
            _call("pg_advisory_unlock", number)


@contextmanager
def transaction_under(name: str) -> Iterator[None]:
    """A transaction that holds the lock called ``name`` to its end: the next sees all that it wrote."""
    with transaction.atomic():
        _call("pg_advisory_xact_lock", _number(name))
        yield


def _call(function: str, number: int) -> object:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {function}(%s)", [number])
        return cursor.fetchone()[0]
