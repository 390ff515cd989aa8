"""The token of a connection, kept sealed in the database for all workers, and renewed by one of them at a time."""

from __future__ import annotations

import time
from dataclasses import asdict, replace

from django.conf import settings
from django.db import transaction

from inkwell_bridge.ends.errors import Away
from inkwell_bridge.ends.tokens import Fetch, Token
from inkwell_bridge.service import vault
from inkwell_bridge.service.connections.models import Connection, Grant
from inkwell_bridge.service.locks import advisory_lock
from inkwell_bridge.service.sessions import give_session_back


class StoredTokens:
    """See ``ends.tokens.Tokens``; what was read stays at hand until it is due."""

    def __init__(self, connection: Connection, owner: str) -> None:
        self._connection_id, self._workspace_id = connection.pk, connection.workspace_id
        self._owner = owner
        self._known: Token | None = None

    def current(self) -> Token | None:
        """See ``Tokens.current``."""
        if self._known is None or self._known.is_due:
            row = Grant.objects.filter(connection=self._connection_id).first()
            self._known = unsealed(row, self._owner) if row else None
        return self._known

    def renewed(self, spent: Token | None, fetch: Fetch) -> Token:
        """See ``Tokens.renewed``. Takes a lock while the end is asked, so that another worker waits for the answer; no
        transaction and no database session are kept meanwhile."""
        Grant.objects.get_or_create(connection_id=self._connection_id, defaults={"workspace_id": self._workspace_id})
        with advisory_lock(f"token:{self._connection_id}", wait_seconds=2 * settings.END_TIMEOUT_SECONDS) as free:
            if not free:
                raise Away("another worker is renewing the token, and has no answer yet")
            row = Grant.objects.filter(connection=self._connection_id).first()
            stored = unsealed(row, self._owner) if row else None
            # Whoever held the lock before may have renewed it: then that one is used, and no call goes out.
            if stored is None or stored == spent or stored.is_due:
                give_session_back()
                stored = fetch(stored)
                # Durable: what the end has taken back must not be in force again because somebody else's work failed.
                with transaction.atomic(durable=True):
                    rows = Grant.objects.filter(connection=self._connection_id)
                    rows.update(sealed=sealed(stored, self._owner))
        self._known = stored
        return stored


def sealed(token: Token, owner: str) -> bytes:
    """A token as it is kept."""
    return vault.seal({name: str(value) for name, value in asdict(token).items()}, owner=f"{owner}#token")


def unsealed(row: Grant, owner: str) -> Token | None:
    """The token that is kept; nothing where there is none, or no key opens it any more."""
    kept = vault.unseal_or_nothing(row.sealed, owner=f"{owner}#token") if row.sealed else {}
    if not kept:
        return None
    return Token(access=kept["access"], refresh=kept["refresh"], ends_at=float(kept["ends_at"]),
                 renew_at=float(kept["renew_at"]))  # fmt: skip


def make_due(connection: Connection, owner: str) -> None:
    """Have the next call renew the token, so that new credentials are tried at once."""
    with transaction.atomic():
        row = Grant.objects.select_for_update().filter(connection=connection).first()
        token = unsealed(row, owner) if row else None
        if row and token:
            row.sealed = sealed(replace(token, renew_at=time.time()), owner)
            row.save(update_fields=["sealed"])


def forget(connection: Connection) -> None:
    """Give up the token: it was for another address, which must not see it."""
    Grant.objects.filter(connection=connection).delete()
