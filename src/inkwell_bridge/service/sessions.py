"""The database sessions of threads, which share them."""

from __future__ import annotations

from django.db import connection


def give_session_back() -> None:
    """Let others have this thread's session while it waits; one in a transaction stays, for its work."""
    if not connection.in_atomic_block:
        connection.close()
