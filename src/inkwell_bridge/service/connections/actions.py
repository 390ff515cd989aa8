"""What is done with connections: save, check, note what failed."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import timedelta
from typing import Any
from urllib.parse import urlsplit

from django.conf import settings
from django.db import transaction
from django.db.models import F
from django.dispatch import Signal
from django.utils import timezone

from inkwell_bridge.core.text import fit
from inkwell_bridge.ends.errors import EndError, Refused
from inkwell_bridge.ends.guard import Unresolved
from inkwell_bridge.ends.shapes import Check
from inkwell_bridge.service import queue, vault
from inkwell_bridge.service.api.outward import AllWaiting, asks_outside
from inkwell_bridge.service.connections import breaker, granted
from inkwell_bridge.service.connections.ends import end_of, owner_of
from inkwell_bridge.service.connections.models import Connection, ConnectionState
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

EXPIRES_SOON = timedelta(days=14)
# Sent with the connection once a check finds an end well that had been away, or had refused us.
is_well_again = Signal()


def judge_address(address: str) -> None:
    """See to it that an end may be there; a name that leads nowhere yet is left to the check.

    Raises:
        Refused: with ``why`` address.
    """
    parts = urlsplit(address)
    try:
        settings.END_GUARD.addresses(parts.hostname or "", parts.port or (443 if parts.scheme == "https" else 80))
    except Unresolved:
        return


@transaction.atomic
def save(
    connection: Connection,
    person: Person,
    *,
    credentials: dict[str, str] | None = None,
    was: Mapping[str, Any] | None = None,
) -> Connection:
    """Keep a connection; what was open under its old address or credentials is not used again.

    ``credentials`` that are given take the place of those of the same name; the others stay as they were. ``was`` are
    the fields that were changed, with what they were before.
    """
    fresh, was = connection.pk is None, was or {}
    owner = owner_of(connection.workspace.slug, connection.slug)
    if not fresh:
        # As they are now: somebody else may have changed it since this row was read.
        stored = Connection.objects.select_for_update().only("credentials", "version").get(pk=connection.pk)
        connection.credentials, connection.version = stored.credentials, stored.version + 1
        if "address" in was:
            granted.forget(connection)
        granted.make_due(connection, owner)
    if credentials is not None:
        kept = {} if fresh else vault.unseal_or_nothing(connection.credentials, owner=owner)
        connection.credentials = vault.seal({**kept, **credentials}, owner=owner)
    # Nothing but what was changed: a check that ended meanwhile has written its state and its count.
    connection.save(update_fields=None if fresh else [*was, "credentials", "version"])
    what = "connection.created" if fresh else "connection.changed"
    record(
        connection.workspace,
        person,
        what,
        connection.slug,
        fields={name: _told(getattr(connection, name)) for name in was},
        was={name: _told(value) for name, value in was.items()},
        # Their names: what they are is nobody's to read.
        credentials_entered=sorted(credentials or ()),
    )
    return connection


def _told(value: Any) -> str:
    # A company by its name in addresses.
    return str(getattr(value, "slug", "" if value is None else value))


def ask_for_check(connection: Connection) -> None:
    """Have a connection checked by a worker, before all that waits to be read.

    Not by whoever asks: an end that does not answer would take the service's own threads with it. Only where no worker
    lives is it checked here, in turn with all else that must ask an end itself, while there is room.
    """
    if not queue.is_worked_on():
        try:
            asks_outside(check)(connection)
        except AllWaiting:
            # What was saved stays saved: the check waits for a worker.
            pass
        else:
            return
    rows = Connection.objects.filter(pk=connection.pk)
    with transaction.atomic():
        rows.update(checks_asked=F("checks_asked") + 1)
        queue.defer(queue.CHECK, [check_call(connection.workspace_id, connection.pk, priority=queue.ASKED_FOR)])
        # Read before the worker can know of it: a count of checks that is newer than the state that is answered with
        # would say that the check is done, and show what was before it.
        connection.checks_asked, connection.checks_done = rows.values_list("checks_asked", "checks_done").get()


def check_call(workspace_id: int, pk: int, *, priority: int = 0) -> queue.Call:
    """The job that checks one connection; checks of the same one go one after the other."""
    arguments = {"workspace_id": workspace_id, "connection_id": pk}
    return queue.Call(arguments=arguments, lock=f"checking:{pk}", priority=priority)


def check(connection: Connection) -> Check | None:
    """Ask the end who it is and what we may do; its state is kept either way. ``ask_for_check`` has it done."""
    asked = connection.checks_asked
    try:
        return _checked(connection)
    finally:
        # As many as had been asked for when this one began: what was changed since is checked by the next.
        Connection.objects.filter(pk=connection.pk, checks_done__lt=asked).update(checks_done=asked)
        connection.checks_done = max(connection.checks_done, asked)


def _checked(connection: Connection) -> Check | None:
    try:
        found = end_of(connection).check()
    except (EndError, vault.Unreadable) as error:
        note(connection, error)
        return None
    connection.key_expires_at = found.key_expires_at or connection.key_expires_at
    connection.state, connection.state_text = _judged(connection, found)
    connection.described = fit(found.as_json())
    connection.checked_at = timezone.now()
    connection.save(update_fields=["state", "state_text", "described", "checked_at", "key_expires_at"])
    if connection.state in _WELL and breaker.close(connection):
        # What waits for it is carriage's to let go, which stands above this room.
        is_well_again.send(Connection, connection=connection)
    return found


def _judged(connection: Connection, found: Check) -> tuple[ConnectionState, str]:
    settled = connection.settled_company
    if settled and found.company != settled:
        text = (
            f"This end belongs to {found.company}; what is linked and posted here belongs to {settled}. Nothing is "
            "carried until somebody switches the connection to the other company, or enters the old address and key."
        )
        return ConnectionState.OTHER_COMPANY, text
    if found.missing:
        missing = [f"{permission.name}: {permission.remedy}" for permission in found.missing]
        return ConnectionState.LIMITED, " ".join(["Missing rights.", *missing])
    expires = connection.key_expires_at
    if expires and expires - timezone.now() < EXPIRES_SOON:
        text = f"The key expires on {expires:%d %B %Y}. Make a new one at the other end and enter it here."
        return ConnectionState.EXPIRING, text
    return ConnectionState.CONNECTED, ""


def note(connection: Connection, error: Exception) -> None:
    """Keep in sight what an end last failed with; credentials that begin to fail are told in the trail."""
    state = _state_of(error)
    with transaction.atomic():
        rows = Connection.objects.filter(pk=connection.pk, workspace=connection.workspace_id)
        before = rows.select_for_update().values_list("state", flat=True).first()
        rows.update(state=state, state_text=str(error), checked_at=timezone.now())
        if before != state and (
            isinstance(error, vault.Unreadable) or getattr(error, "why", "") in {"credentials", "sign-in"}
        ):
            record(connection.workspace, None, "connection.credentials-failed", connection.slug)
    connection.state, connection.state_text = state, str(error)


def answered(connection: Connection) -> None:
    """An end answered that was last noted as failing: have it checked, once, so that its state tells the truth again.

    A statement only then.
    """
    if connection.state not in _FAILING:
        return
    rows = Connection.objects.filter(pk=connection.pk, state__in=_FAILING, checks_done__gte=F("checks_asked"))
    with transaction.atomic():
        if rows.update(checks_asked=F("checks_asked") + 1):
            queue.defer(queue.CHECK, [check_call(connection.workspace_id, connection.pk)])


_WELL = (ConnectionState.CONNECTED, ConnectionState.EXPIRING)
_FAILING = (ConnectionState.UNREACHABLE, ConnectionState.REFUSED, ConnectionState.SIGN_IN)


def _state_of(error: Exception) -> ConnectionState:
    if isinstance(error, Refused) and error.why == "sign-in":
        return ConnectionState.SIGN_IN
    refused = isinstance(error, Refused | vault.Unreadable)
    return ConnectionState.REFUSED if refused else ConnectionState.UNREACHABLE


def settle(connection: Connection) -> None:
    """From now on what is kept here belongs to the company that the end last said it is."""
    company = str(connection.described.get("company", ""))[:200]
    if company and not connection.settled_company:
        Connection.objects.filter(pk=connection.pk, settled_company="").update(settled_company=company)
        connection.settled_company = company
