"""Finding or making the contact of a document: once, whoever comes at the same time.

Making a contact is locked per books connection, so that two orders of one new buyer make one.
"""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from inkwell_bridge.core.books import Contact
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.rulebook.model import CustomerRules
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import OutcomeUnknown, Refused, Temporary
from inkwell_bridge.service.carriage.holding import hold
from inkwell_bridge.service.carriage.later import TryLater
from inkwell_bridge.service.carriage.locks import held
from inkwell_bridge.service.carriage.models import ContactLink
from inkwell_bridge.service.connections import vault
from inkwell_bridge.service.connections.models import Connection


def contact_in_books(contact: Contact, connection: Connection, books: BooksEnd, rules: CustomerRules) -> str:
    """The books' id of a contact.

    Raises:
        Hold: two contacts match, or none does and the rules forbid making one.
        TryLater: whether it was made is not known yet.
    """
    buyer = vault.blind(contact.house_code or contact.email, purpose=f"contact:{connection.workspace_id}")
    link = _link(connection, buyer)
    if link and link.books_id:
        return link.books_id
    with held(f"contacts:{connection.workspace_id}:{connection.pk}"):
        link = _link(connection, buyer) or ContactLink(
            workspace_id=connection.workspace_id, connection=connection, buyer=buyer
        )
        if not link.books_id:
            link.books_id = _found(contact, link, books) or _made(contact, link, books, rules)
            link.intended_at = None
            link.save()
        return link.books_id


def _link(connection: Connection, buyer: str) -> ContactLink | None:
    return ContactLink.objects.filter(workspace=connection.workspace_id, connection=connection, buyer=buyer).first()


def _found(contact: Contact, link: ContactLink, books: BooksEnd) -> str:
    if link.intended_at:
        _wait_for_slow_answers(link, books)
    matches = books.find_contacts(contact)
    if len(matches) > 1:
        what = f"code {contact.house_code}" if contact.house_code else "the e-mail of this order"
        raise hold(
            "CUST-E002",
            Cause.CUSTOMER_UNCLEAR,
            f"The books have {len(matches)} contacts with {what}.",
            "Merge them in the books, or take the e-mail from all but one; then release the order.",
        )
    return matches[0] if matches else ""


def _wait_for_slow_answers(link: ContactLink, books: BooksEnd) -> None:
    assert link.intended_at is not None
    sure_at = link.intended_at + timedelta(seconds=books.capabilities.slowest_answer_seconds)
    if timezone.now() < sure_at:
        raise TryLater("Whether the books made the contact is not known yet.", sure_at)


def _made(contact: Contact, link: ContactLink, books: BooksEnd, rules: CustomerRules) -> str:
    if contact.house_code:
        raise hold(
            "CUST-E003",
            Cause.CUSTOMER_UNCLEAR,
            f"The books have no contact with code {contact.house_code}.",
            "Make it in the books, then release the order.",
        )
    if rules.not_found == "hold":
        raise hold(
            "CUST-E004",
            Cause.CUSTOMER_UNCLEAR,
            "The books have no contact with the e-mail of this order.",
            "Make it in the books, then release the order; or let the rulebook create contacts.",
        )
    link.intended_at = timezone.now()
    link.save()
    try:
        return books.create_contact(contact)
    except OutcomeUnknown as error:
        sure_at = timezone.now() + timedelta(seconds=books.capabilities.slowest_answer_seconds)
        raise TryLater(str(error), sure_at) from error
    except (Refused, Temporary):
        link.intended_at = None
        link.save()
        raise
