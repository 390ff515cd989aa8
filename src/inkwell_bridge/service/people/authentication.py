"""Signing in with a token (RFC 6750)."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any

from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone
from rest_framework import authentication, exceptions
from rest_framework.request import Request

from inkwell_bridge.service.blinding import digest_of_secret
from inkwell_bridge.service.people.last_use import note_use
from inkwell_bridge.service.people.models import Person, Token

PREFIX = "ibt_"
ENDS_HEADER = "Inkwell-Token-Ends"
WARNED_BEFORE = timedelta(days=14)


def new_token(person: Person, **fields: Any) -> str:
    """Make a token; its text is shown this once and kept nowhere."""
    text = PREFIX + secrets.token_urlsafe(32)
    Token.objects.create(person=person, digest=digest_of_secret(text), **fields)
    return text


def _note(request: Request, token: Token) -> None:
    note_use(Token.objects.filter(pk=token.pk), token.last_used_at)
    if token.expires_at and token.expires_at < timezone.now() + WARNED_BEFORE:
        request._request.token_ends_at = token.expires_at


def token_ends_middleware(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Say with every answer when the token that it was asked for under ends, from two weeks before."""

    def middleware(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        ends_at: datetime | None = getattr(request, "token_ends_at", None)
        if ends_at is not None:
            response.headers[ENDS_HEADER] = ends_at.isoformat()
        return response

    return middleware


def token_of(request: Request) -> Token | None:
    """The token that a request came under; none in a browser's session."""
    return request.auth if isinstance(request.auth, Token) else None


class BearerAuthentication(authentication.BaseAuthentication):
    """``Authorization: Bearer ibt_...``; the token is at hand as ``request.auth``."""

    def authenticate(self, request: Request) -> tuple[Person, Token] | None:
        """The token's person, or nothing where no bearer token was sent."""
        scheme, _, text = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer":
            return None
        token = Token.objects.select_related("person").filter(digest=digest_of_secret(text.strip())).first()
        if token is None or not token.person.is_active or (token.expires_at and token.expires_at <= timezone.now()):
            # One answer for all three, so that nobody learns which tokens there ever were.
            raise exceptions.AuthenticationFailed("This token is unknown, withdrawn or has expired; make a new one.")
        _note(request, token)
        return token.person, token

    def authenticate_header(self, request: Request) -> str:
        """What a client without credentials is told."""
        return "Bearer"
