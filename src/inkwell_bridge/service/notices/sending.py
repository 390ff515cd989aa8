"""Sending a message: by e-mail (SMTP), or by a signed call."""

from __future__ import annotations

from smtplib import SMTPException
from typing import Any

from django.conf import settings
from django.core.mail import EmailMessage

from inkwell_bridge.core.errors import InkwellError
from inkwell_bridge.core.notices import Message
from inkwell_bridge.ends.errors import EndError
from inkwell_bridge.ends.outgoing_calls import call_out
from inkwell_bridge.service import vault
from inkwell_bridge.service.notices.links import stop_link
from inkwell_bridge.service.notices.models import Channel, NoticeRule
from inkwell_bridge.service.people.models import Membership


class NotSent(InkwellError):
    """A message was not taken; ``again``: it is worth another try."""

    def __init__(self, why: str, *, again: bool) -> None:
        self.again = again
        super().__init__(why)


def send(rule: NoticeRule, message: Message, event: dict[str, Any]) -> str:
    """Send one message; answers what the other side said. Calls the mail server, or the address.

    Raises:
        NotSent: with why.
    """
    return _mail(rule, message) if rule.channel == Channel.MAIL else _call(rule, event)


def _mail(rule: NoticeRule, message: Message) -> str:
    person = rule.person
    if person is None or not Membership.objects.filter(workspace=rule.workspace_id, person=person).exists():
        raise NotSent("Whoever it is for has no role here any more.", again=False)
    if not settings.EMAIL_HOST:
        raise NotSent("No mail server is set up: see INKWELL_SMTP in docs/operate.", again=False)
    stop = stop_link(rule)
    mail = EmailMessage(
        message.subject, message.text, None, [person.email],
        # One click in a mail reader ends them (RFC 8058).
        headers={"List-Unsubscribe": f"<{stop}>", "List-Unsubscribe-Post": "List-Unsubscribe=One-Click",
                 "Auto-Submitted": "auto-generated"},
    )  # fmt: skip
    try:
        mail.send()
    except (OSError, SMTPException) as error:
        # What a mail server says may name the address; its kind is enough here.
        raise NotSent(f"The mail server did not take it ({type(error).__name__}).", again=True) from error
    return "The mail server took it."


def _call(rule: NoticeRule, event: dict[str, Any]) -> str:
    try:
        secret = vault.unseal(rule.sealed, owner=owner_of(rule))["secret"]
        status = call_out(rule.address, secret, event, guard=settings.END_GUARD)
    except EndError as error:
        raise NotSent(str(error)[:300], again=True) from error
    except vault.Unreadable as error:
        raise NotSent(str(error)[:300], again=False) from error
    return f"It was taken with status {status}."


def owner_of(rule: NoticeRule) -> str:
    """To whom the secret of a rule's calls is bound."""
    return f"{rule.workspace.slug}/notices/{rule.pk}"
