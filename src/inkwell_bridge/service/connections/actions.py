"""What is done with connections: save, check, load."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.books import Reference
from inkwell_bridge.core.commerce import checksum
from inkwell_bridge.ends.errors import EndError, Refused
from inkwell_bridge.ends.shapes import Check
from inkwell_bridge.service.connections import vault
from inkwell_bridge.service.connections.ends import books_end, owner_of, sales_end
from inkwell_bridge.service.connections.models import Connection, ConnectionState, ReferenceLoad
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

MOST_READ = 64
_read: dict[str, Reference] = {}


def mended_address(pasted: str) -> tuple[str, list[str]]:
    """A pasted address without what does not belong there, and what was taken away."""
    mended: list[str] = []
    address = "".join(pasted.split())
    if address != pasted:
        mended.append("spaces and line breaks")
    if "://" not in address:
        address = f"https://{address}"
        mended.append("a missing https:// was added")
    if address.endswith("/"):
        address = address.rstrip("/")
        mended.append("the slash at its end")
    parts = urlsplit(address)
    if parts.scheme not in {"http", "https"} or not parts.hostname:
        raise ValueError(f"expected an address such as https://shop.example/api, got {pasted.strip()[:200]!r}")
    if parts.username or parts.password:
        raise ValueError("expected an address without user and password; they belong in the credentials")
    return address, mended


def mended_credentials(pasted: dict[str, Any]) -> dict[str, str]:
    """Credentials without the spaces and line breaks that pasting leaves around them."""
    return {name: str(value).strip() for name, value in pasted.items()}


@transaction.atomic
def save(connection: Connection, person: Person, *, credentials: dict[str, str] | None = None) -> Connection:
    """Keep a connection; what was open under its old address or credentials is not used again."""
    if credentials is not None:
        connection.credentials = vault.seal(credentials, owner=owner_of(connection.workspace.slug, connection.slug))
    fresh = connection.pk is None
    if not fresh:
        connection.version += 1
    connection.save()
    what = "connection.created" if fresh else "connection.changed"
    record(connection.workspace, person, what, connection.slug, credentials_entered=credentials is not None)
    return connection


def check(connection: Connection) -> Check | None:
    """Ask the end who it is and what we may do; its state is kept either way."""
    try:
        end = sales_end(connection) if connection.side == "sales" else books_end(connection)
        found = end.check()
    except (EndError, vault.Unreadable) as error:
        note(connection, error)
        return None
    missing = [f"{permission.name}: {permission.remedy}" for permission in found.missing]
    connection.state = ConnectionState.REFUSED if missing else ConnectionState.CONNECTED
    connection.state_text = " ".join(["Missing rights.", *missing]) if missing else ""
    connection.described = found.as_json()
    connection.checked_at = timezone.now()
    connection.save(update_fields=["state", "state_text", "described", "checked_at"])
    return found


def note(connection: Connection, error: Exception) -> None:
    """Keep in sight what an end last failed with."""
    refused = isinstance(error, Refused | vault.Unreadable)
    state = ConnectionState.REFUSED if refused else ConnectionState.UNREACHABLE
    Connection.objects.filter(pk=connection.pk, workspace=connection.workspace_id).update(
        state=state, state_text=str(error), checked_at=timezone.now()
    )
    connection.state, connection.state_text = state, str(error)


def load_reference(connection: Connection) -> ReferenceLoad:
    """Load what an end calls things; the same content is kept once.

    Raises:
        EndError: the end could not be asked.
    """
    end = sales_end(connection) if connection.side == "sales" else books_end(connection)
    reference = end.reference()
    content = reference.as_json()
    load, _ = ReferenceLoad.objects.update_or_create(
        workspace=connection.workspace,
        connection=connection,
        checksum=checksum(content),
        defaults={"loaded_at": timezone.now()},
        create_defaults={"loaded_at": timezone.now(), "content": content},
    )
    return load


def newest_reference(connection: Connection) -> ReferenceLoad | None:
    """What was loaded last, if anything was."""
    return (
        ReferenceLoad.objects.filter(workspace=connection.workspace_id, connection=connection)
        .order_by("-loaded_at")
        .first()
    )


def reference_of(load: ReferenceLoad) -> Reference:
    """A load in canonical shape; the same content is read once."""
    if load.checksum not in _read:
        if len(_read) >= MOST_READ:
            _read.clear()
        _read[load.checksum] = Reference.read(load.content)
    return _read[load.checksum]
