"""Signing in with a token (RFC 6750)."""

from __future__ import annotations

import hashlib
import secrets
from typing import Any

from django.utils import timezone
from rest_framework import authentication, exceptions
from rest_framework.request import Request

from inkwell_bridge.service.people.models import Person, Token

PREFIX = "ibt_"


def new_token(person: Person, **fields: Any) -> str:
    """Make a token; its text is shown this once and kept nowhere."""
    text = PREFIX + secrets.token_urlsafe(32)
    Token.objects.create(person=person, digest=_digest(text), **fields)
    return text


def _digest(text: str) -> str:
    # Without salt, for it is looked up by: a token is random, and no dictionary holds it.
    return hashlib.sha256(text.encode()).hexdigest()


class BearerAuthentication(authentication.BaseAuthentication):
    """``Authorization: Bearer ibt_...``; the token is at hand as ``request.auth``."""

    def authenticate(self, request: Request) -> tuple[Person, Token] | None:
        """The token's person, or nothing where no bearer token was sent."""
        scheme, _, text = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer":
            return None
        token = Token.objects.select_related("person").filter(digest=_digest(text.strip())).first()
        if token is None or not token.person.is_active or (token.expires_at and token.expires_at <= timezone.now()):
            # One answer for all three, so that nobody learns which tokens there ever were.
            raise exceptions.AuthenticationFailed("This token is unknown, withdrawn or has expired; make a new one.")
        return token.person, token

    def authenticate_header(self, request: Request) -> str:
        """What a client without credentials is told."""
        return "Bearer"
