"""Locks that end with their holder: PostgreSQL's advisory locks, held by a database session.

A process that is killed loses its session, and with it the lock; nothing has to be cleaned up.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection


def _number(name: str) -> int:
    return int.from_bytes(hashlib.blake2b(name.encode(), digest_size=8).digest(), signed=True)


@contextmanager
def held(name: str) -> Iterator[None]:
    """Wait for the lock called ``name`` and hold it."""
    number = _number(name)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s)", [number])
    try:
        yield
    finally:
        _release(number)


@contextmanager
def held_if_free(name: str) -> Iterator[bool]:
    """Hold the lock called ``name`` where nobody else does; answers whether."""
    number = _number(name)
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [number])
        got = bool(cursor.fetchone()[0])
    try:
        yield got
    finally:
        if got:
            _release(number)


def _release(number: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_unlock(%s)", [number])
