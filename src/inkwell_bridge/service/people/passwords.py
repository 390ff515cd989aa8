"""Passwords as people choose, change and reset them."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError as NotGoodEnough
from django.core.mail import send_mail
from django.db import transaction
from rest_framework import serializers

from inkwell_bridge.service.people.models import Person, Token
from inkwell_bridge.service.refusal import Refusal


class Ended(Refusal):
    """A link that opens nothing any more."""

    status = 410
    code = "reset-ended"
    hint = "Ask for another on the page for signing in."


def only_a_good_one(password: str, person: Person, *, field: str = "password") -> None:
    """See to it that a password is long enough, no common one, and not like its owner's name or e-mail.

    Raises:
        ValidationError: with everything that is wrong with it.
    """
    try:
        validate_password(password, person)
    except NotGoodEnough as error:
        raise serializers.ValidationError({field: error.messages}) from error


@transaction.atomic
def choose(person: Person, password: str, *, withdraw_tokens: bool) -> None:
    """Give a person the password that they chose. Every session under the old one ends by it, for each is signed with
    it; tokens stay unless they are to go too.

    Raises:
        ValidationError: it is not good enough.
    """
    only_a_good_one(password, person, field="new_password")
    person.set_password(password)
    person.save(update_fields=["password"])
    if withdraw_tokens:
        Token.objects.filter(person=person).delete()


def mail_link(person: Person, page: str) -> None:
    """Mail the link by which a password is chosen anew: good once, for ``PASSWORD_RESET_TIMEOUT``."""
    # Signed, and bound to the password and the last time somebody signed in: using it ends it. Behind a #, so that no
    # log of a server or proxy ever has it.
    secret = f"{person.pk}.{default_token_generator.make_token(person)}"
    minutes = settings.PASSWORD_RESET_TIMEOUT // 60
    send_mail(
        "Your password for Inkwell Bridge",
        f"Somebody asked to choose a new password for {person.email}. If it was you:\n\n{page}#{secret}\n\n"
        f"The link works once, for {minutes} minutes. If it was not you, do nothing: your password stays as it is.\n",
        None,
        [person.email],
    )


def of_link(secret: str) -> Person:
    """Whose password a link is for.

    Raises:
        Ended: it works no more, or never did.
    """
    number, _, token = secret.partition(".")
    person = Person.objects.filter(pk=int(number), is_active=True).first() if _is_number(number) else None
    if person is None or not default_token_generator.check_token(person, token):
        raise Ended("This link was used, or has ended.")
    return person


def _is_number(text: str) -> bool:
    return text.isascii() and text.isdigit() and len(text) < 18
