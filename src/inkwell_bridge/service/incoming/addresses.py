"""The addresses that ends call, and the secrets that they sign with."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import cast

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from inkwell_bridge.core.books import BooksCapabilities
from inkwell_bridge.core.commerce import SalesCapabilities
from inkwell_bridge.ends.contract import RegistersCalls
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.signed_calls import new_signing_secret
from inkwell_bridge.service import vault
from inkwell_bridge.service.connections.ends import books_end, dialect_of, owner_of, sales_end
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.incoming.models import CallAddress, CallSecret
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.vault import Unreadable

# While an end is given a new secret, it may still sign with the one before.
BOTH_GOOD_FOR = timedelta(hours=24)
MOST_SECRETS = 2


class CallsNobody(Refusal):
    """An end of this kind does not call, or cannot be told whom to call."""

    code = "calls-nobody"
    hint = "Let the bridge run on a timetable instead."


class NotTold(Refusal):
    """The end did not take, or tell, whom it calls; nothing was changed here."""

    code = "end-refused"
    hint = "See that the connection is connected and may write there; or enter the address and secret there by hand."


def able(connection: Connection) -> SalesCapabilities | BooksCapabilities:
    """What the dialect of a connection can do.

    Raises:
        CallsNobody: it makes no signed calls.
    """
    found = dialect_of(connection).capabilities
    if not isinstance(found, SalesCapabilities | BooksCapabilities) or not found.signed_calls:
        raise CallsNobody(f"{dialect_of(connection).title} does not call when something happens.")
    return found


def address_of(connection: Connection) -> CallAddress:
    """The address of a connection; made when it is first asked for."""
    found, _ = CallAddress.objects.get_or_create(
        workspace=connection.workspace, connection=connection, defaults={"key": secrets.token_urlsafe(32)}
    )
    return found


def good_secrets(connection: Connection) -> list[CallSecret]:
    """Those that calls may be signed with now, the newest first."""
    rows = CallSecret.objects.select_related("made_by").filter(Q(ends_at=None) | Q(ends_at__gt=timezone.now()))
    return list(rows.filter(workspace=connection.workspace_id, connection=connection).order_by("-id"))


@transaction.atomic
def new_secret(connection: Connection, person: Person, *, given: str = "") -> str:
    """A secret to sign with from now on (Standard Webhooks): a new one, or the one that the end gave; answers it.

    The one before stays good for a day, so that nothing is refused while it is exchanged; older ones end at once.
    """
    secret = given or new_signing_secret()
    now = timezone.now()
    for place, older in enumerate(good_secrets(connection)):
        ends = now if place >= MOST_SECRETS - 1 else min(older.ends_at or now + BOTH_GOOD_FOR, now + BOTH_GOOD_FOR)
        CallSecret.objects.filter(pk=older.pk).update(ends_at=ends)
    CallSecret.objects.create(
        workspace=connection.workspace, connection=connection, made_by=person, sealed=vault.seal(
            {"secret": secret}, owner=_owner(connection.workspace.slug, connection.slug)
        ),
    )  # fmt: skip
    record(connection.workspace, person, "call secret.made", connection.slug)
    return secret


@transaction.atomic
def end_secret(connection: Connection, person: Person, number: int) -> bool:
    """Refuse what is signed with a secret from now on; answers whether it was good still."""
    now = timezone.now()
    ended = CallSecret.objects.filter(
        Q(ends_at=None) | Q(ends_at__gt=now), workspace=connection.workspace_id, connection=connection, pk=number
    ).update(ends_at=now)
    if ended:
        record(connection.workspace, person, "call secret.ended", connection.slug)
    return bool(ended)


def opened(sealed: bytes, *, workspace: str, connection: str) -> str:
    """The text of a secret of that workspace's connection.

    Raises:
        Unreadable: no key opens it.
    """
    return vault.unseal(sealed, owner=_owner(workspace, connection))["secret"]


def register(connection: Connection, person: Person, address: str) -> None:
    """Have the end call that address, signed with a new secret. Calls the end.

    Raises:
        CallsNobody: it cannot be told.
        NotTold: it was not.
    """
    secret = new_signing_secret()
    with _registrar(connection) as end:
        end.register_calls(address, secret)
    # Only then: what failed has ended no other secret. A call in between is sent again.
    new_secret(connection, person, given=secret)
    record(connection.workspace, person, "calls.registered", connection.slug, address=address)


def end_registration(connection: Connection, person: Person) -> None:
    """Have the end call nobody. Calls the end.

    Raises:
        CallsNobody: it cannot be told.
        NotTold: it was not.
    """
    with _registrar(connection) as end:
        end.end_calls()
    record(connection.workspace, person, "calls.ended", connection.slug)


def registered_to(connection: Connection) -> str:
    """The address that the end says it calls; empty where it calls nobody. Calls the end.

    Raises:
        CallsNobody: it cannot be asked.
        NotTold: it did not say.
    """
    with _registrar(connection) as end:
        return end.calls_go_to()


@contextmanager
def _registrar(connection: Connection) -> Iterator[RegistersCalls]:
    if not able(connection).registers_calls:
        raise CallsNobody(
            f"{dialect_of(connection).title} cannot be told whom to call through its interface. Enter the address and "
            "the secret there by hand."
        )
    try:
        yield cast(RegistersCalls, books_end(connection) if connection.side == "books" else sales_end(connection))
    except (EndError, Unreadable) as error:
        raise NotTold(f"{connection.name}: {error}") from error


def _owner(workspace: str, connection: str) -> str:
    return f"{owner_of(workspace, connection)}/calls"
