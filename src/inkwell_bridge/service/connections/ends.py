"""Opening the ends that connections describe; one open end is shared by the threads of a process."""

from __future__ import annotations

import time
from collections import OrderedDict
from threading import Lock
from typing import Any, cast

from django.conf import settings
from django.utils import timezone

from inkwell_bridge.ends.consent import Consent
from inkwell_bridge.ends.contract import BooksEnd, CallsIn, EndKind, SalesEnd, kinds
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.ends.pace import UNPACED
from inkwell_bridge.service import vault
from inkwell_bridge.service.connections.granted import StoredTokens
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.connections.pacing import SharedPace
from inkwell_bridge.service.sessions import give_session_back

MOST_OPEN = 200
HEARD_EVERY_SECONDS = 20.0
_open: OrderedDict[tuple[int, int], Any] = OrderedDict()
_lock = Lock()


def dialect_of(connection: Connection) -> EndKind:
    """The dialect that a connection speaks."""
    return kinds()[connection.kind]


def owner_of(workspace_slug: str, connection_slug: str) -> str:
    """To whom sealed credentials are bound."""
    return f"{workspace_slug}/{connection_slug}"


def end_of(connection: Connection) -> SalesEnd | BooksEnd:
    """The end behind a connection, whichever side it is on."""
    return cast("SalesEnd | BooksEnd", _end(connection))


def sales_end(connection: Connection) -> SalesEnd:
    """The sales side behind a connection."""
    return cast(SalesEnd, _end(connection))


def books_end(connection: Connection) -> BooksEnd:
    """The books behind a connection."""
    return cast(BooksEnd, _end(connection))


def consent_of(connection: Connection) -> Consent | None:
    """The page that people sign in to this end through, where it has one."""
    page = dialect_of(connection).consent
    return page(_opening(connection)) if page else None


def opened_caller(pk: int, version: int) -> CallsIn:
    """The end behind a connection of that version, which calls in; the connection is read where nobody opened its end
    yet."""
    with _lock:
        found = _open.get((pk, version))
    if found is None:
        found = _end(Connection.objects.select_related("workspace").get(pk=pk))
    return cast(CallsIn, found)


def _end(connection: Connection) -> Any:
    key = (connection.pk, connection.version)
    with _lock:
        if key not in _open:
            _open[key] = WithoutSession(dialect_of(connection).open(_opening(connection)))
            while len(_open) > MOST_OPEN:
                _open.popitem(last=False)
        _open.move_to_end(key)
        return _open[key]


def _opening(connection: Connection) -> Opening:
    owner, rate = owner_of(connection.workspace.slug, connection.slug), dialect_of(connection).rate
    return Opening(
        address=connection.address,
        credentials=vault.unseal(connection.credentials, owner=owner),
        limits=Limits(
            timeout_seconds=settings.END_TIMEOUT_SECONDS, connect_timeout_seconds=min(5.0, settings.END_TIMEOUT_SECONDS)
        ),
        guard=settings.END_GUARD,
        on_answer=LastContactRecorder(connection.pk),
        pace=SharedPace(connection.pk, connection.workspace_id, rate) if rate else UNPACED,
        tokens=StoredTokens(connection, owner),
    )


# These only compute, so the session stays where it is.
_CALL_NOBODY = frozenset({"parse_webhook", "unsupported_fields"})


class WithoutSession:
    """An end whose every call gives the thread's database session back first.

    Whoever waits for an end may wait for another thread as well (one signs in for all), and that one may need a
    session: with all of them held by those who wait, nobody would ever go on.
    """

    def __init__(self, end: Any) -> None:
        self._end = end

    def __getattr__(self, name: str) -> Any:
        """What the end has; a method gives the session back before it does anything."""
        found = getattr(self._end, name)
        if not callable(found) or name in _CALL_NOBODY:
            return found

        def call(*arguments: Any, **options: Any) -> Any:
            give_session_back()
            return found(*arguments, **options)

        return call


class LastContactRecorder:
    """Keeps when an end last answered, written now and then: it answers many times a second."""

    def __init__(self, connection_id: int) -> None:
        self._connection_id = connection_id
        self._next = 0.0

    def __call__(self) -> None:
        now = time.monotonic()
        if now < self._next:
            return
        self._next = now + HEARD_EVERY_SECONDS
        Connection.objects.filter(pk=self._connection_id).update(last_contact_at=timezone.now())
        give_session_back()
