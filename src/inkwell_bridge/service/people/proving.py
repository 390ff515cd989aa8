"""Who somebody is: by password, and by a code where they turned the second factor on."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import authenticate
from rest_framework import serializers
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from inkwell_bridge.service.people import brake, second_factor
from inkwell_bridge.service.people.models import Person, Token
from inkwell_bridge.service.people.roles import Role


class CodeNeeded(AuthenticationFailed):
    """The password is right; a code is asked for besides."""

    default_code = "code-needed"


class ProofSerializer(serializers.Serializer[Any]):
    """One's password, and a code of the authenticator app (or a recovery code) where the second factor is on."""

    password = serializers.CharField(max_length=500, trim_whitespace=False, write_only=True)
    code = serializers.CharField(max_length=40, required=False, allow_blank=True, default="", write_only=True)


def prove(request: Request, email: str, password: str, code: str, *, wrong: str) -> Person:
    """The person with that e-mail, password and, where it is on, second factor; ``wrong`` is what failing says.

    Raises:
        Throttled: too many tries failed.
        CodeNeeded: the password is right and no code was given.
        AuthenticationFailed: something of it is wrong.
    """
    brake.check(request, email)
    person = authenticate(request, username=email, password=password)
    if not isinstance(person, Person):
        brake.failed(request, email)
        raise AuthenticationFailed(wrong)
    if second_factor.is_on(person):
        if not code:
            raise CodeNeeded("Enter the code that your authenticator app shows, or a recovery code.")
        if not second_factor.accept(person, code):
            brake.failed(request, email)
            raise AuthenticationFailed("This code is wrong, or was used before. Wait for the next, and enter that.")
    return person


def prove_again(request: Request) -> Person:
    """Whoever is signed in, once they have given password and code once more: a screen that was left open is not them.

    Raises:
        AuthenticationFailed, CodeNeeded, Throttled: see ``prove``.
    """
    given = ProofSerializer(data=request.data)
    given.is_valid(raise_exception=True)
    return prove(request, request.user.email, **given.validated_data, wrong="This is not your password.")


class OwnAccount(BasePermission):
    """A person's account is theirs: a browser's session and a token without limits reach it, a limited one does not."""

    message = "A token that is limited to a role or a workspace does not reach your account."

    def has_permission(self, request: Request, view: Any) -> bool:
        """Whether this request may."""
        if not request.user.is_authenticated:
            return False
        token = request.auth
        return not isinstance(token, Token) or (token.workspace_id is None and token.role == Role.OWN)
