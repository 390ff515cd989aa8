"""A person's choice of the contact that a held document is made out to, and of all others of that buyer."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain
from typing import NamedTuple

from django.db import transaction
from django.db.models import Q

from inkwell_bridge.core.commerce import Buyer, Customer, SourceDocument
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.linking import LEAST_POINTS, Known, LinkKind, Score, scored
from inkwell_bridge.core.planner.contacts import contact_of
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage import releases
from inkwell_bridge.service.carriage.contacts import link_account, link_buyer
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.holds.freeing import MOST_TRIED
from inkwell_bridge.service.holds.groups import of_group
from inkwell_bridge.service.links import changing
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import Target
from inkwell_bridge.service.links.models import What
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference.entries import known_of
from inkwell_bridge.service.reference.models import Entry
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.rehearsals.planning import Past, in_chunks

# Several contacts match, or none does: what a choice answers. That an order names nobody to look for, or that the house
# contact is missing, is mended elsewhere.
_CHOICES = frozenset({"CUST-E002", "CUST-E004"})
MOST_OFFERED = 8
# Looked at by likeness before they are scored.
_CANDIDATES = 40


class NoChoice(Refusal):
    """There is no contact to be chosen for a document."""

    code = "no-contact-choice"
    hint = "Look at the document: what holds it is said there."


class Offered(NamedTuple):
    """A contact of the books, and how like the buyer it is."""

    entry: Entry
    score: Score


class Waiting(NamedTuple):
    """A document that waits for its contact, as it was last fetched, and who bought."""

    crossing: Crossing
    source: SourceDocument
    buyer: Buyer


def waiting_for_contact(crossing: Crossing) -> Waiting:
    """Who bought, of a document that waits for its contact.

    Raises:
        NoChoice: it waits for something else, or does not say who bought.
    """
    waits = crossing.cause == Cause.CUSTOMER_UNCLEAR.value and crossing.state == CrossingState.HELD
    if not waits or _CHOICES.isdisjoint(finding["id"] for finding in crossing.findings):
        raise NoChoice(f"{crossing.number} does not wait for its contact to be chosen.")
    source = next((past.source for past in _past([crossing.pk])), None)
    buyer = _buyer(source) if source is not None else None
    if source is None or buyer is None:
        raise NoChoice(f"{crossing.number} does not say who bought; a refund goes to the contact of its order.")
    return Waiting(crossing, source, buyer)


def offered(crossing: Crossing, wanted: Known) -> list[Offered]:
    """The contacts that may be meant, as last loaded, the likeliest first. Two statements."""
    rows = Between.of(crossing.bridge, LinkKind.CUSTOMERS).kept().filter(active=True)
    keys = {name: key for name in ("email_key", "tax_number_key", "place_key") if (key := getattr(wanted, name))}
    same = Q(pk__in=())
    for name, key in keys.items():
        same |= Q(**{name: key})
    likely = {entry.pk: entry for entry in rows.filter(same).order_by("pk")[:_CANDIDATES]}
    if words := wanted.name.lower():
        alike = rows.extra(where=["reference_entry.search %% %s"], params=[words])  # by trigrams, on their index
        likely |= {entry.pk: entry for entry in alike.order_by("pk")[:_CANDIDATES]}
    found = [Offered(entry, scored(LinkKind.CUSTOMERS, wanted, known_of(entry))) for entry in likely.values()]
    found.sort(key=lambda one: (-one.score.points, one.entry.code))
    return [one for one in found if one.score.points >= LEAST_POINTS][:MOST_OFFERED]


@transaction.atomic
def choose(waiting: Waiting, contact: Entry, person: Person) -> list[int]:
    """Let the buyer be that contact from now on, and let go what waits for it; answers the keys of these documents.

    A customer with an account is linked as on the page of links, where it can be taken back; a guest by what the rules
    look a buyer up by.
    """
    crossing, source, buyer = waiting
    version = in_force(crossing.bridge)
    if version is None:
        raise NoChoice("No rules are in force; publish those of the bridge first.")
    rules = parsed(version).customers
    if isinstance(source, Customer):
        link_account(crossing, contact.source_id)
    elif buyer.account_id:
        target = Target(id=contact.source_id, code=contact.code, rule="person")
        between = Between.of(crossing.bridge, LinkKind.CUSTOMERS)
        changing.put(between, {buyer.account_id: [target]}, what=What.ANSWERED, person=person)
    else:
        link_buyer(contact_of(buyer, rules, None), crossing.bridge.books, rules, contact.source_id)
    # Whom it is about must not stand on the trail; the document and the contact's code say enough.
    record(crossing.workspace, person, "contact.chosen", crossing.number, contact=contact.code or contact.source_id)
    of_buyer = _of_same_buyer(crossing, buyer)
    releases.release(Crossing.objects.filter(pk__in=of_buyer), crossing.workspace, person)
    return of_buyer


def _of_same_buyer(crossing: Crossing, buyer: Buyer) -> list[int]:
    """What waits for the contact of the same buyer, over the same bridge; who that is stands sealed, so the oldest of
    them are looked through."""
    rows = of_group(crossing.workspace, bridge=crossing.bridge.slug, cause=Cause.CUSTOMER_UNCLEAR.value)
    waiting = list(rows.values_list("pk", flat=True)[:MOST_TRIED])
    same = [past.crossing.pk for past in _past(waiting) if _is_same(_buyer(past.source), buyer)]
    return sorted({crossing.pk, *same})


def _past(crossings: Sequence[int]) -> Iterator[Past]:
    return chain.from_iterable(in_chunks(Crossing.objects.filter(pk__in=crossings)))


def _buyer(source: SourceDocument) -> Buyer | None:
    found = source.person if isinstance(source, Customer) else getattr(source, "buyer", None)
    return found if isinstance(found, Buyer) else None


def _is_same(one: Buyer | None, other: Buyer) -> bool:
    if one is None:
        return False
    if other.account_id or one.account_id:
        return one.account_id == other.account_id
    return bool(other.email_key) and one.email_key == other.email_key


def as_known(buyer: Buyer) -> Known:
    """A buyer as contacts are compared."""
    address = buyer.billing or buyer.delivery
    return Known(
        id="buyer", name=buyer.company or buyer.name, email=buyer.email, tax_number=buyer.tax_number,
        postcode=address.postcode if address else "",
    )  # fmt: skip
