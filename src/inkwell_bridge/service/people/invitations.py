"""Inviting people: they come by a link that works once and for a day, and choose their password themselves.

So nobody can make an account for somebody else's address, and nobody has a role that they did not take.
"""

from __future__ import annotations

import secrets
from datetime import timedelta
from smtplib import SMTPException

from django.conf import settings
from django.core.mail import send_mail
from django.db import transaction
from django.utils import timezone

from inkwell_bridge.service.blinding import digest_of_secret
from inkwell_bridge.service.people.models import Invitation, Membership, Person, Workspace
from inkwell_bridge.service.people.passwords import only_a_good_one
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

GOOD_FOR = timedelta(days=1)


class Ended(Refusal):
    """A link that opens nothing any more; one answer for all reasons, so that nobody learns which there ever were."""

    status = 410
    code = "invitation-ended"
    hint = "Ask whoever invited you for another."

    def __init__(self) -> None:
        super().__init__("This invitation was taken up, withdrawn or has ended.")


class NotMailed(Refusal):
    """The mail could not be sent."""

    code = "not-mailed"
    hint = "Look at the settings of the mail server (INKWELL_SMTP), then invite again."


def invite(workspace: Workspace, by: Person, *, email: str, role: str, name: str, page: str) -> tuple[Invitation, str]:
    """Invite somebody; a new invitation takes the place of an earlier one for the same address.

    ``page`` is where the console takes invitations up. Answers the invitation, and the link to hand on: empty where it
    was mailed, for then it is for nobody else to see.

    Raises:
        NotMailed: nothing was kept.
    """
    secret = secrets.token_urlsafe(32)
    now = timezone.now()
    # Behind a #, so that no log of a server or proxy ever has it.
    link = f"{page}#{secret}"
    with transaction.atomic():
        invitation, _ = Invitation.objects.update_or_create(
            workspace=workspace,
            email=email.lower(),
            defaults={
                "name": name,
                "role": role,
                "digest": digest_of_secret(secret),
                "invited_by": by,
                "invited_at": now,
                "ends_at": now + GOOD_FOR,
            },
        )
        record(workspace, by, "person.invited", email.lower(), role=role)
    if not settings.EMAIL_HOST:
        return invitation, link
    try:
        _mail(invitation, link)
    except (OSError, SMTPException) as error:
        invitation.delete()
        raise NotMailed(f"The invitation of {email} could not be mailed: {error}") from error
    return invitation, ""


def _mail(invitation: Invitation, link: str) -> None:
    by = invitation.invited_by.name or invitation.invited_by.email
    send_mail(
        f"{by} invites you to {invitation.workspace.name}",
        f"{by} invites you to work on {invitation.workspace.name} in Inkwell Bridge.\n\n{link}\n\n"
        "The link works once, for a day. If you expected no invitation, do nothing.\n",
        None,
        [invitation.email],
    )


def read(secret: str) -> Invitation:
    """The invitation of a link.

    Raises:
        Ended: it works no more.
    """
    found = Invitation.objects.select_related("workspace", "invited_by").filter(digest=digest_of_secret(secret)).first()
    if found is None or found.ends_at <= timezone.now():
        raise Ended
    return found


def has_account(email: str) -> bool:
    """Whether somebody with that address can sign in already: nobody else chooses a password for them by a link."""
    person = Person.objects.filter(email=email).first()
    return person is not None and (person.has_usable_password() or person.identities.exists())


@transaction.atomic
def accept(secret: str, person: Person | None, *, password: str, name: str) -> Membership:
    """Take an invitation up: as the person who proved to be who it is for, or with a password that is chosen now.

    Raises:
        Ended: the link works no more.
        ValidationError: the password that was chosen is not good enough.
    """
    invitation = _taken(secret)
    if person is None:
        # Another invitation may have been taken up since it was asked whether there is an account.
        if has_account(invitation.email):
            raise Ended
        person = _account(invitation, name)
        only_a_good_one(password, person)
        person.set_password(password)
        person.save()
    return _enter(invitation, person)


@transaction.atomic
def accept_as(secret: str, *, email: str, name: str) -> Membership:
    """Take an invitation up as whom the provider of identities says that somebody is.

    Raises:
        Ended: the link works no more, or is for another address.
    """
    invitation = _taken(secret)
    if invitation.email != email:
        raise Ended
    person = _account(invitation, name)
    if person.pk is None:
        person.set_unusable_password()
        person.save()
    return _enter(invitation, person)


def _taken(secret: str) -> Invitation:
    invitation = read(secret)
    # Of two who take it up at once, the second finds it gone.
    if not Invitation.objects.select_for_update().filter(pk=invitation.pk).exists():
        raise Ended
    return invitation


def _account(invitation: Invitation, name: str) -> Person:
    """The person of the address that was invited; one not saved yet where there is none."""
    person = Person.objects.filter(email=invitation.email).first()
    return person or Person(email=invitation.email, name=name or invitation.name or invitation.email)


def _enter(invitation: Invitation, person: Person) -> Membership:
    membership, _ = Membership.objects.update_or_create(
        workspace=invitation.workspace, person=person, defaults={"role": invitation.role}
    )
    invitation.delete()
    record(invitation.workspace, person, "invitation.accepted", person.email, role=invitation.role)
    return membership
