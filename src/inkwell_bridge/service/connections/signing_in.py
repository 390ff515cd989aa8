"""Signing in at an end through its consent page: begun here, granted there, finished here by the same person."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from ipaddress import ip_address
from urllib.parse import urlsplit

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.ends.consent import ProofKey
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.oauth import CONSENT_PAGE
from inkwell_bridge.service import vault
from inkwell_bridge.service.blinding import digest_of_secret
from inkwell_bridge.service.connections import granted
from inkwell_bridge.service.connections.ends import consent_of, owner_of
from inkwell_bridge.service.connections.models import Connection, Grant, SignIn
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

LASTS = timedelta(minutes=10)


class NoConsentPage(Refusal):
    """Nobody signs in at this end."""

    code = "no-consent-page"
    hint = "Its key is entered on the connection itself; where there is a choice, choose the consent page first."


class NotBegun(Refusal):
    """There is no such sign-in under way for this person."""

    code = "sign-in-unknown"
    hint = "Begin again from the connection: a sign-in is good once, for ten minutes, and for whoever began it."


class NotReturned(Refusal):
    """The consent page may not send anybody there."""

    code = "return-address"
    hint = "Use this service's own address, or one on loopback with http, such as http://127.0.0.1:50123/signed-in."


class NotGranted(Refusal):
    """The end did not let us in."""

    code = "sign-in-refused"
    hint = "Begin again from the connection, and allow what the page asks for."


@dataclass(frozen=True, slots=True, kw_only=True)
class Begun:
    """A sign-in under way: where somebody's browser must go, and until when."""

    page: str
    state: str
    ends_at: datetime


def begin(connection: Connection, person: Person, *, return_to: str, own_origin: str) -> Begun:
    """Begin a sign-in.

    Raises:
        NoConsentPage, NotReturned: see there.
    """
    if not _is_ours(return_to, own_origin):
        raise NotReturned(f"{return_to[:200]} is neither this service nor on loopback.")
    page = consent_of(connection)
    if page is None or grant_of(connection) != CONSENT_PAGE:
        raise NoConsentPage(f"{connection.name} has no consent page that we sign in through.")
    key, secret, now = ProofKey.fresh(), secrets.token_urlsafe(32), timezone.now()
    state = f"{connection.workspace.slug}/{connection.slug}/{secret}"
    SignIn.objects.filter(begun_at__lt=now - LASTS).delete()
    SignIn.objects.create(
        workspace=connection.workspace,
        connection=connection,
        person=person,
        digest=digest_of_secret(state),
        sealed=vault.seal({"verifier": key.verifier}, owner=_owner(connection)),
        return_to=return_to,
        begun_at=now,
    )
    where = page.page(state=state, challenge=key.challenge, return_to=return_to)
    return Begun(page=where, state=state, ends_at=now + LASTS)


def finish(connection: Connection, person: Person, *, state: str, code: str, error: str) -> None:
    """Exchange the code that the consent page gave for a token, and keep that.

    Raises:
        NotBegun, NotGranted: see there.
    """
    under_way = _taken(connection, person, state)
    if error or not code:
        record(connection.workspace, person, "connection.sign-in-refused", connection.slug)
        raise NotGranted(f"{connection.name} did not let us in: {error[:200] or 'its page gave no code'}.")
    page = consent_of(connection)
    if page is None:
        raise NoConsentPage(f"{connection.name} has no consent page.")
    verifier = vault.unseal(under_way.sealed, owner=_owner(connection))["verifier"]
    try:
        token = page.redeem(code=code, verifier=verifier, return_to=under_way.return_to)
    except EndError as refused:
        record(connection.workspace, person, "connection.sign-in-refused", connection.slug)
        raise NotGranted(f"{connection.name} did not take the code: {refused}") from refused
    with transaction.atomic():
        kept = granted.sealed(token, owner_of(connection.workspace.slug, connection.slug))
        Grant.objects.update_or_create(
            connection=connection,
            defaults={"workspace": connection.workspace, "sealed": kept, "signed_in_at": timezone.now(), "by": person},
        )
        # Every worker opens the end anew, with the new token.
        connection.version += 1
        connection.save(update_fields=["version"])
        record(connection.workspace, person, "connection.signed-in", connection.slug)


def grant_of(connection: Connection) -> str:
    """How we sign in at an end that has a consent page, as its credentials say."""
    owner = owner_of(connection.workspace.slug, connection.slug)
    return vault.unseal_or_nothing(connection.credentials, owner=owner).get("grant", "")


@transaction.atomic
def _taken(connection: Connection, person: Person, state: str) -> SignIn:
    rows = SignIn.objects.select_for_update().filter(
        connection=connection, person=person, digest=digest_of_secret(state), begun_at__gte=timezone.now() - LASTS
    )
    found = rows.first()
    if found is None:
        raise NotBegun("No sign-in with this state is under way for you.")
    rows.delete()
    return found


def _owner(connection: Connection) -> str:
    return f"{owner_of(connection.workspace.slug, connection.slug)}#sign-in"


def _is_ours(return_to: str, own_origin: str) -> bool:
    parts = urlsplit(return_to)
    if f"{parts.scheme}://{parts.netloc}" == own_origin:
        return True
    try:
        return parts.scheme == "http" and ip_address(parts.hostname or "").is_loopback
    except ValueError:
        return False
