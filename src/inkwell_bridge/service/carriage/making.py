"""Making in the books what has no counterpart there, once, and linking it."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from inkwell_bridge.core.books import Item
from inkwell_bridge.core.commerce import Customer, Product, SourceKind
from inkwell_bridge.core.planner.contacts import contact_of
from inkwell_bridge.core.rulebook.customers import CustomerRules
from inkwell_bridge.ends.contract import BooksEnd
from inkwell_bridge.ends.errors import EndError, OutcomeUnknown
from inkwell_bridge.service.carriage.contacts import contact_in_books
from inkwell_bridge.service.carriage.holding import Hold
from inkwell_bridge.service.carriage.lot import run_alone
from inkwell_bridge.service.connections.actions import settle
from inkwell_bridge.service.connections.ends import books_end, sales_end
from inkwell_bridge.service.later import TryLater
from inkwell_bridge.service.links.between import SIDES, Between
from inkwell_bridge.service.links.changing import Target, put
from inkwell_bridge.service.links.models import Change, What
from inkwell_bridge.service.links.naming import entry_named
from inkwell_bridge.service.locks import advisory_lock
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.reference.entries import known_of, of_known
from inkwell_bridge.service.reference.models import Entry, Loading, LoadingState
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.vault import Unreadable

_SHORT = 500
LONGEST_WAIT_SECONDS = 20.0
_CREATE = CustomerRules(not_found="create")


class NotMade(Refusal):
    """It could not be made in the books, or nobody knows yet whether it was."""

    code = "not-made"
    hint = "Make it in the books by hand, load them again and link it; or try once more later."


def make(between: Between, key: str, person: Person) -> Change:
    """Make the item or contact for one of the sales side, named by id or code, unless the books have it by now, and
    link it.

    Raises:
        ValidationError: there is none with that id or code, or there are several.
        NotMade: with what the books said.
    """
    entry = entry_named(between.sold(), key, where=between.source.name, field="key")
    key = entry.source_id
    settle(between.books)
    with advisory_lock(f"making:{between.lock}:{key}", wait_seconds=LONGEST_WAIT_SECONDS) as free:
        if not free:
            raise NotMade("Somebody else is making this one just now; look again in a moment.")
        try:
            books_id, code = _made(between, entry, person)
        except (EndError, Unreadable, TryLater) as error:
            raise NotMade(f"{between.books.name}: {error}") from error
        except Hold as stopped:
            raise NotMade(stopped.finding.text) from stopped
        _enter(between, entry, books_id, code)
        target = Target(id=books_id, code=code, rule="made in the books")
        change = put(between, {key: [target]}, what=What.ANSWERED, person=person)
        return change or between.changes()[0]


def _made(between: Between, entry: Entry, person: Person) -> tuple[str, str]:
    fetched = sales_end(between.source).fetch_by_ids(SourceKind(entry.kind), [entry.source_id])
    document = fetched[0].document if fetched else None
    books = books_end(between.books)
    if isinstance(document, Product):
        item = Item(code=document.number, name=document.title[:_SHORT], barcode=document.barcode, unit=document.unit,
                    stocked=document.stocked)  # fmt: skip
        return _item(between, item, books, person), item.code
    if isinstance(document, Customer) and document.person is not None and document.person.email_key:
        contact = contact_of(document.person, _CREATE, books.master_data(), group=document.group,
                             terms=document.payment_terms)  # fmt: skip
        return run_alone(contact_in_books(contact, between.books, books, _CREATE)), ""
    raise NotMade(f"{entry.code or entry.source_id} has gone from the sales side, or lacks what is needed to make it.")


def _item(between: Between, item: Item, books: BooksEnd, person: Person) -> str:
    """The books' id of an item, made where they have none. The intent is written before the call goes out."""
    there = books.find_items(item)
    if there:
        return there[0]
    text = f"item {item.code}"
    intent = between.changes().filter(what=What.CREATING, text=text).first()
    if intent is not None and not books.capabilities.idempotency_keys:
        sure_at = intent.at + timedelta(seconds=books.capabilities.slowest_answer_seconds)
        if timezone.now() < sure_at:
            raise NotMade(f"Whether the books made {text} is not known yet; try again in a minute.")
    if intent is None or not books.capabilities.idempotency_keys:
        intent = Change.objects.create(**between.place, what=What.CREATING, person=person, text=text)
    try:
        return books.create_item(item, key=f"item:{between.source.slug}:{item.code}")
    except OutcomeUnknown as error:
        raise NotMade(f"Whether the books made {text} is not known yet; try again in a minute. {error}") from error


def _enter(between: Between, entry: Entry, books_id: str, code: str) -> None:
    """Let the books' list have it at once, as the next loading will find it."""
    part = SIDES[between.kind][1]
    newest = (
        Loading.objects.filter(connection=between.books, part=part, state=LoadingState.ENDED).order_by("-pk").first()
    )
    if newest is None or between.kept().filter(source_id=books_id).exists():
        return
    known = known_of(entry).model_copy(update={"id": books_id, "code": code, "parts": ()})
    made = of_known(part.value, known)
    made.workspace, made.connection = between.workspace, between.books
    made.seen_in = made.added_in = newest
    Entry.objects.bulk_create([made], ignore_conflicts=True)
