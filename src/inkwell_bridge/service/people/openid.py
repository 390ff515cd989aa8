"""Signing in through a provider of identities that whoever runs the service trusts (``INKWELL_OPENID_*``).

Source: OpenID Connect Core 1.0 and Discovery 1.0, by authorisation code with PKCE (RFC 7636). The provider says who
somebody is and nothing more: an account comes about by an invitation to their address, as ever, and roles are given
here. Whoever comes through it gives no code of ours: the provider asks for what it asks for.
"""

from __future__ import annotations

import secrets
from functools import cache
from typing import Any
from urllib.parse import urlencode

import jwt
from django.conf import settings
from django.contrib.sessions.backends.base import SessionBase
from django.db import transaction

from inkwell_bridge.ends.consent import ProofKey
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.guard import Guard
from inkwell_bridge.ends.http import Http
from inkwell_bridge.ends.opening import Limits, Opening
from inkwell_bridge.service.people import invitations
from inkwell_bridge.service.people.models import Identity, Person
from inkwell_bridge.service.refusal import Refusal

KEPT_AS = "_openid"
ALGORITHMS = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512"]
LIMITS = Limits(timeout_seconds=10, longest_answer_seconds=20, largest_answer_bytes=500_000)
ANYWHERE = Guard.of(hosts=["*"], networks=["0.0.0.0/0", "::/0"])
CLOCK_OFF_SECONDS = 60
ENDPOINTS = ("authorization_endpoint", "token_endpoint", "jwks_uri")


class NotSet(Refusal):
    """The service trusts no provider."""

    status = 404
    code = "openid-not-set"
    hint = "Sign in with e-mail and password."


class ProviderFailed(Refusal):
    """The provider did not answer as it should."""

    status = 502
    code = "openid-provider"
    hint = "Try again; if it stays, whoever runs the service looks at INKWELL_OPENID_ISSUER and the provider."


class NotLetIn(Refusal):
    """The provider or we let this person in no further."""

    status = 403
    code = "openid-refused"
    hint = "Begin again on the page for signing in."


class NotInvited(NotLetIn):
    """Nobody with that address has an account here."""

    code = "openid-not-invited"
    hint = "Ask an owner of the workspace to invite the address that the provider knows you by."


def begin(session: SessionBase, return_to: str, *, invitation: str = "") -> str:
    """The page of the provider to go to; what must be known when somebody comes back is kept in the session.

    Raises:
        NotSet, ProviderFailed: there is none, or it does not answer.
    """
    provider = _provider()
    key, state, nonce = ProofKey.fresh(), secrets.token_urlsafe(32), secrets.token_urlsafe(32)
    session[KEPT_AS] = {"state": state, "nonce": nonce, "verifier": key.verifier, "return_to": return_to,
                        "invitation": invitation}  # fmt: skip
    asked = {"response_type": "code", "client_id": settings.OPENID.client_id, "redirect_uri": return_to,
             "scope": "openid email profile", "state": state, "nonce": nonce, "code_challenge": key.challenge,
             "code_challenge_method": "S256"}  # fmt: skip
    page = str(provider["authorization_endpoint"])
    return f"{page}{'&' if '?' in page else '?'}{urlencode(asked)}"


def finish(session: SessionBase, *, state: str, code: str, error: str) -> Person:
    """Who came back from the provider.

    Raises:
        NotLetIn: it is not this browser's sign-in, or the provider let nobody in.
        NotInvited: the person has no account here and came by no invitation.
        ProviderFailed: what the provider answers cannot be believed.
    """
    begun = session.pop(KEPT_AS, None)
    if begun is None or not secrets.compare_digest(begun["state"].encode(), state.encode()):
        raise NotLetIn("No sign-in with this state is under way in this browser.")
    if error or not code:
        raise NotLetIn("The provider let nobody in.")
    return _person(_claims(begun, code), begun["invitation"])


def _claims(begun: dict[str, str], code: str) -> dict[str, Any]:
    provider = _provider()
    given = {"grant_type": "authorization_code", "code": code, "redirect_uri": begun["return_to"],
             "code_verifier": begun["verifier"]}  # fmt: skip
    answer = _fetched("POST", provider["token_endpoint"], data=given,
                      auth=(settings.OPENID.client_id, settings.OPENID.client_secret))  # fmt: skip
    try:
        text = str(answer["id_token"])
        keys = jwt.PyJWKSet.from_dict(_fetched("GET", provider["jwks_uri"]))
        wanted = jwt.get_unverified_header(text).get("kid")
        key = next(key for key in keys.keys if wanted is None or key.key_id == wanted)
        claims: dict[str, Any] = jwt.decode(
            text, key, algorithms=ALGORITHMS, audience=settings.OPENID.client_id, issuer=settings.OPENID.issuer,
            leeway=CLOCK_OFF_SECONDS, options={"require": ["exp", "iat", "sub", "nonce"]},
        )  # fmt: skip
    except (jwt.PyJWTError, KeyError, StopIteration, TypeError) as failed:
        raise ProviderFailed(f"The provider's word cannot be believed: {type(failed).__name__}.") from failed
    if claims["nonce"] != begun["nonce"]:
        raise ProviderFailed("The provider's word is for another sign-in.")
    return claims


@transaction.atomic
def _person(claims: dict[str, Any], invitation: str) -> Person:
    subject = str(claims["sub"])[:255]
    email = str(claims.get("email", "")).lower() if claims.get("email_verified") is True else ""
    if invitation:
        if not email:
            raise NotInvited("The provider does not say that your e-mail address is yours.")
        invitations.accept_as(invitation, email=email, name=str(claims.get("name", ""))[:200])
    known = Identity.objects.select_related("person").filter(issuer=settings.OPENID.issuer, subject=subject).first()
    person = known.person if known else Person.objects.filter(email=email).first() if email else None
    if person is None or not person.is_active:
        raise NotInvited("There is no account here for the address that the provider knows you by.")
    if known is None:
        Identity.objects.create(person=person, issuer=settings.OPENID.issuer, subject=subject)
    return person


def _provider() -> dict[str, Any]:
    if settings.OPENID is None:
        raise NotSet("This service has no other way to sign in.")
    found = _fetched("GET", f"{settings.OPENID.issuer.rstrip('/')}/.well-known/openid-configuration")
    # Whoever answers for another issuer could speak for everybody (Discovery 1.0, section 4.3).
    if found.get("issuer") != settings.OPENID.issuer:
        raise ProviderFailed("The provider's description is of another issuer.")
    if not all(str(found.get(name, "")).startswith(("https://", "http://")) for name in ENDPOINTS):
        raise ProviderFailed("The provider's description lacks an address.")
    return found


def _fetched(method: str, address: str, **sent: Any) -> dict[str, Any]:
    try:
        # Asking again does no harm, so a missing answer is no unknown outcome.
        found, _ = _http().call(method, address, changes=False, **sent)
    except EndError as failed:
        raise ProviderFailed(f"The provider did not answer as it should: {failed}") from failed
    if not isinstance(found, dict):
        raise ProviderFailed("The provider's answer is not an object.")
    return found


@cache
def _http() -> Http:
    """As ends are spoken to, within bounds; where the provider is, whoever runs the service has said."""
    return Http(Opening(address=settings.OPENID.issuer, credentials={}, limits=LIMITS, guard=ANYWHERE))
