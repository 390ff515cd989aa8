"""Finding or making the contact of a document: once, whoever comes at the same time.

Looking for and making a contact is locked per buyer, so that two orders of one new buyer make one, and nobody else
waits.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from copy import copy
from datetime import timedelta
from functools import partial

from django.db.models import Exists, OuterRef
from django.utils import timezone

from inkwell_bridge.core.books import Contact, Particular, Step
from inkwell_bridge.core.commerce import Buyer, checksum
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.core.rulebook.customers import CustomerRules
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import OutcomeUnknown, Refused, Temporary
from inkwell_bridge.service.blinding import blind
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.effects import Ask, Call, Effects, Lock, Save, Unlock
from inkwell_bridge.service.carriage.holding import Hold, hold
from inkwell_bridge.service.carriage.models import ContactLink, Crossing
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.later import TryLater, after_pause
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.reference.models import Entry, Part

# Longer than a look-up takes; a document that waited so long gives its place to another.
LONGEST_WAIT_SECONDS = 5.0
_LINKED = ("books_id", "intended_at", "intended_key")
_SAID: dict[Step, str] = {"email": "e-mail", "tax number": "tax number", "name and postcode": "name and postcode"}


def customer_in_books(contact: Contact, crossing: Crossing, books: BooksEnd, rules: CustomerRules) -> Effects[str]:
    """The books' id of a customer's contact, which takes on of what changed as much as the rules say.

    The account is linked by its own id, so that another e-mail does not make another contact.

    Raises:
        Hold, TryLater: as ``contact_in_books``.
    """
    connection = crossing.bridge.books
    account = _account(crossing)
    link = yield Ask(_links, connection, _blinded(account, connection))
    if link is None:
        books_id, made = yield from _contact(contact, connection, books, rules)
        link = _new_link(connection, _blinded(account, connection))
        link.books_id = books_id
        yield Save((link,))
        if made:
            return books_id
    if rules.update:
        yield from _amended(contact, link, books, rules.update)
    return str(link.books_id)


def _amended(contact: Contact, link: ContactLink, books: BooksEnd, only: Sequence[Particular]) -> Effects[None]:
    """Amending gives the same result when it is done again, so an unknown outcome is simply tried once more."""
    try:
        yield Call(lambda: books.amend_contact(link.books_id, contact, only))
    except OutcomeUnknown as error:
        raise TryLater(str(error), after_pause(0)) from error


def linked_contacts(bridge: Bridge, buyers: Sequence[Buyer]) -> list[str]:
    """The books' id of the contact that a person, an import or a rule linked each buyer to; nothing where none is.

    By the account, else by the e-mail: who buys as a guest is the customer with that e-mail, unless customers with it
    lead to different contacts. Three statements at most, of however many.
    """
    between = Between.of(bridge, LinkKind.CUSTOMERS)
    of_account = _targets(between, {buyer.account_id for buyer in buyers if buyer.account_id})
    found = [of_account.get(buyer.account_id or "", "") for buyer in buyers]
    emails = {buyer.email_key for buyer, contact in zip(buyers, found, strict=True) if not contact} - {""}
    of_email = _targets_by_email(between, emails) if emails else {}
    return [contact or of_email.get(buyer.email_key, "") for buyer, contact in zip(buyers, found, strict=True)]


def _targets_by_email(between: Between, emails: set[str]) -> dict[str, str]:
    accounts: dict[str, set[str]] = defaultdict(set)
    for email, key in between.sold().filter(email_key__in=emails).values_list("email_key", "source_id"):
        accounts[email].add(key)
    linked = _targets(between, set().union(*accounts.values())) if accounts else {}
    reached = {email: {linked[key] for key in keys if key in linked} for email, keys in accounts.items()}
    return {email: next(iter(targets)) for email, targets in reached.items() if len(targets) == 1}


def _targets(between: Between, account_ids: set[str]) -> dict[str, str]:
    links = between.links().filter(key__in=account_ids).exclude(target_id="")
    return dict(links.order_by("-pk").values_list("key", "target_id"))


def forget_buyer(workspace_id: int, email: str) -> list[tuple[int, str]]:
    """Forget which contacts a buyer with that e-mail is; answers them, each with the key of its connection.

    An order of theirs that comes later looks for the contact in the books anew.
    """
    blinded = blind(email.strip().casefold(), purpose=f"contact:{workspace_id}")
    links = ContactLink.objects.filter(workspace=workspace_id, buyer=blinded)
    found = list(links.exclude(books_id="").values_list("connection_id", "books_id"))
    links.filter(intended_at__isnull=True).delete()
    return found


def link_buyer(contact: Contact, connection: Connection, rules: CustomerRules, books_id: str) -> None:
    """Keep that a buyer is this contact of the books, whatever was known before: a person said so."""
    _keep(connection, _known_by(contact, rules), books_id)


def link_account(crossing: Crossing, books_id: str) -> None:
    """Keep that a customer's account is this contact of the books: a person said so."""
    _keep(crossing.bridge.books, _account(crossing), books_id)


def _keep(connection: Connection, name: str, books_id: str) -> None:
    ContactLink.objects.update_or_create(
        workspace_id=connection.workspace_id, connection=connection, company=connection.settled_company,
        buyer=_blinded(name, connection), defaults={"books_id": books_id, "intended_at": None},
    )  # fmt: skip


def _account(crossing: Crossing) -> str:
    return f"customer:{crossing.bridge.source.slug}:{crossing.source_id}"


def contact_in_books(contact: Contact, connection: Connection, books: BooksEnd, rules: CustomerRules) -> Effects[str]:
    """The books' id of a contact.

    Calls: none where the buyer is known here, else a search for each step of the rules, and one to make it. Takes the
    buyer's locks, waited for no longer than ``LONGEST_WAIT_SECONDS``.

    Raises:
        Hold: two contacts match, or none does and the rules forbid making one.
        TryLater: whether it was made is not known yet.
    """
    return (yield from _contact(contact, connection, books, rules))[0]


def _blinded(name: str, connection: Connection) -> str:
    return blind(name, purpose=f"contact:{connection.workspace_id}")


def _contact(
    contact: Contact, connection: Connection, books: BooksEnd, rules: CustomerRules
) -> Effects[tuple[str, bool]]:
    """The books' id, and whether the contact was made just now."""
    buyer = _blinded(_known_by(contact, rules), connection)
    link = yield Ask(_links, connection, buyer)
    if link and link.books_id:
        return link.books_id, False
    lock = _lock_names(contact, connection, rules)
    # Whoever finds no contact makes one: two orders of a new buyer must not do so side by side.
    if not (yield Lock(lock, LONGEST_WAIT_SECONDS)):
        raise TryLater("Another document of this buyer is looking for the contact.", after_pause(0))
    # Whoever held the lock before may have made it.
    link = (yield Ask(_links, connection, buyer)) or _new_link(connection, buyer)
    made = False
    if not link.books_id:
        link.books_id = yield from _found(contact, link, books, rules)
        if not link.books_id and rules.not_found == "house" and rules.house and not contact.house_code:
            # Not linked: somebody may make a contact of their own for this buyer later.
            yield Unlock(lock)
            return (yield from _house(rules.house, books)), False
        if not link.books_id:
            link.books_id = yield from _made(contact, link, books, rules)
            made = True
        link.intended_at = None
        yield Save((link,), _LINKED)
    yield Unlock(lock)
    return link.books_id, made


def _lock_names(contact: Contact, connection: Connection, rules: CustomerRules) -> tuple[str, ...]:
    """A lock for everything by which two documents could be of one buyer; other buyers never wait for it."""
    keys = {contact.house_code} if contact.house_code else {f"{step}:{contact.key(step)}" for step in rules.find_by}
    names = sorted(key for key in keys if key and not key.endswith(":")) or [_known_by(contact, rules)]
    return tuple(f"contact:{connection.workspace_id}:{connection.pk}:{_blinded(name, connection)}" for name in names)


def forget_missing(contact: Contact, contact_id: str, connection: Connection, books: BooksEnd,
                   rules: CustomerRules) -> Effects[bool]:  # fmt: skip
    """Whether a contact that we know is gone from the books (merged, deleted); its link is forgotten then.

    Asked once the books have refused a document. Calls: one search for each step of the rules.
    """
    if not contact_id:
        return False
    for step in rules.find_by if not contact.house_code else (None,):
        if step is not None and not contact.key(step):
            continue
        found = yield Call(partial(books.find_contacts, contact, *([step] if step is not None else [])))
        if contact_id in found:
            return False
    links = ContactLink.objects.filter(workspace=connection.workspace_id, connection=connection, books_id=contact_id)
    return bool(links.update(books_id="", intended_at=None))


def _known_by(contact: Contact, rules: CustomerRules) -> str:
    """What a buyer is linked by: an e-mail as it stands, anything else under the name of its step."""
    if contact.house_code or contact.email:
        return contact.house_code or contact.email
    return next((f"{step}:{contact.key(step)}" for step in rules.find_by if contact.key(step)), "")


def _links(connection: Connection, buyers: Sequence[str]) -> list[ContactLink | None]:
    """Of the company whose books these are now: what was linked in another's is history. One statement.

    A contact that was gone when the contacts were last loaded is looked for anew.
    """
    gone = Entry.objects.filter(
        connection=connection, kind=Part.CONTACTS, source_id=OuterRef("books_id"), gone_in__isnull=False
    )
    rows = ContactLink.objects.filter(
        workspace=connection.workspace_id, connection=connection, buyer__in=buyers, company=connection.settled_company
    )
    found = {link.buyer: link for link in rows.annotate(gone=Exists(gone))}
    for link in found.values():
        if link.gone:
            link.books_id = ""
    # Two orders of one buyer each have a row of their own to write down.
    return [copy(found[buyer]) if buyer in found else None for buyer in buyers]


def _new_link(connection: Connection, buyer: str) -> ContactLink:
    return ContactLink(
        workspace_id=connection.workspace_id, connection=connection, buyer=buyer, company=connection.settled_company
    )


def _found(contact: Contact, link: ContactLink, books: BooksEnd, rules: CustomerRules) -> Effects[str]:
    """The contact that a step finds alone, first step first; two are a question for a person."""
    same_call = books.capabilities.idempotency_keys and link.intended_key == _key(contact, link)
    if link.intended_at and not same_call:
        # Another order of this buyer may say other things of them: that would be another call, and another contact.
        _wait_for_slow_answers(link, books)
    # A house contact is the client's own: it is found by its code or not at all.
    if contact.house_code:
        return _one((yield Call(lambda: books.find_contacts(contact))), f"code {contact.house_code}")
    several: tuple[int, Step] | None = None
    for step in rules.find_by:
        if not contact.key(step):
            continue
        matches = yield Call(partial(books.find_contacts, contact, step))
        if len(matches) == 1:
            return str(matches[0])
        if matches and several is None:
            several = len(matches), step
    if several:
        number, step = several
        raise _too_many(number, f"the {_SAID[step]} of this order")
    return ""


def _one(matches: Sequence[str], what: str) -> str:
    if len(matches) > 1:
        raise _too_many(len(matches), what)
    return matches[0] if matches else ""


def _too_many(number: int, what: str) -> Hold:
    return hold(
        "CUST-E002",
        Cause.CUSTOMER_UNCLEAR,
        f"The books have {number} contacts with {what}.",
        "Choose the one that is meant here, or merge them in the books; then release the order.",
    )


def _house(code: str, books: BooksEnd) -> Effects[str]:
    found = yield Call(lambda: books.find_contacts(Contact(house_code=code)))
    if len(found) != 1:
        raise hold(
            "CUST-E003",
            Cause.CUSTOMER_UNCLEAR,
            f"The books have {len(found)} contacts with code {code}.",
            "See that there is exactly one, then release the order.",
        )
    return str(found[0])


def _key(contact: Contact, link: ContactLink) -> str:
    return f"contact:{link.buyer}:{checksum(contact.as_json())[:16]}"


def _wait_for_slow_answers(link: ContactLink, books: BooksEnd) -> None:
    assert link.intended_at is not None
    sure_at = link.intended_at + timedelta(seconds=books.capabilities.slowest_answer_seconds)
    if timezone.now() < sure_at:
        raise TryLater("Whether the books made the contact is not known yet.", sure_at)


def _made(contact: Contact, link: ContactLink, books: BooksEnd, rules: CustomerRules) -> Effects[str]:
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
            f"The books have no contact with the {' or '.join(_SAID[step] for step in rules.find_by)} of this order.",
            "Choose one here, or make it in the books; then release the order; or let the rulebook create contacts.",
        )
    # Written down before the call goes out: whoever comes after a crash must know that one may stand there.
    link.intended_at, link.intended_key = timezone.now(), _key(contact, link)
    yield Save((link,), _LINKED)
    try:
        return str((yield Call(lambda: books.create_contact(contact, key=link.intended_key))))
    # The intent stays, so that nobody makes a second before the first can no longer appear.
    except OutcomeUnknown as error:
        sure_at = timezone.now() + timedelta(seconds=books.capabilities.slowest_answer_seconds)
        raise TryLater(str(error), sure_at) from error
    # A definite no: nothing stands there, and the next may try at once.
    except (Refused, Temporary):
        link.intended_at = None
        yield Save((link,), _LINKED)
        raise
