"""What people decide of requests: that an invoice becomes one, whatever the rules say, or that one is cancelled."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force, parsed
from inkwell_bridge.service.carriage import payment_links
from inkwell_bridge.service.carriage.kinds import kind_named
from inkwell_bridge.service.carriage.kinds.requests import NAME
from inkwell_bridge.service.carriage.models import Crossing, PaymentLink, RequestState, Wish
from inkwell_bridge.service.carriage.releases import plan_anew
from inkwell_bridge.service.carriage.staging import keep_page
from inkwell_bridge.service.connections.ends import books_end
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference.pinned import load_master_data, newest_master_data
from inkwell_bridge.service.refusal import Refusal


class CannotAsk(Refusal):
    """A bridge cannot ask for money as things stand."""

    code = "cannot-ask-for-payment"
    hint = "The bridge's page shows what is missing; docs/guide tells how requests for payment are set up."


class PaidAlready(Refusal):
    """A request that nothing is left of to cancel."""

    code = "paid-already"
    hint = "Money that is to go back is paid back at the provider, and entered in the books."


class NotReadable(Refusal):
    """The books told of an invoice in a way that nobody understands."""

    code = "invoice-not-understood"
    hint = "Open the invoice in the books and correct what is named here."


def make(bridge: Bridge, number: str, person: Person) -> PaymentLink:
    """Make a request of an invoice by its number, as the books have it now, whatever the conditions of the rules say;
    one that was cancelled is taken up again. Calls: one to the books.

    Raises:
        CannotAsk: the bridge is paused, has no rules for it, or an end of it cannot do it.
        NotReadable: the invoice was found, and not understood.
        Refused: the books have no such invoice.
    """
    kind, version = kind_named(NAME), in_force(bridge)
    missing = "no rulebook is published" if version is None else kind.rules_missing(parsed(version))
    missing = missing or kind.ends_cannot(bridge)
    for one in (bridge, bridge.source, bridge.books):
        missing = missing or (f"{one.name} is {one.paused_text}" if one.paused_at else "")
    if missing:
        raise CannotAsk(f"{bridge.name} cannot ask for payment: {missing}.")
    found = books_end(bridge.books).document(kind.source_kind, number)
    if found.document is None:
        raise NotReadable(f"Invoice {number} was not understood: {found.problem}")
    if newest_master_data(bridge.books) is None:
        load_master_data(bridge.books)
    keep_page(bridge, kind, [found], carry=False)
    crossing = Crossing.objects.select_related("bridge__books").get(
        workspace=bridge.workspace_id, bridge=bridge, kind=NAME, source_id=found.id
    )
    return _decide(crossing, Wish.MADE, person, "")


def cancel(link: PaymentLink, person: Person, note: str) -> PaymentLink:
    """Cancel a request: the link says so at once, and the provider as soon as it is told. What was paid stays paid.

    Raises:
        PaidAlready: all of it is paid.
    """
    if link.state == RequestState.PAID:
        raise PaidAlready(f"Invoice {link.crossing.number} is paid, so there is nothing to cancel.")
    crossing = Crossing.objects.select_related("bridge__books", "bridge__workspace").get(pk=link.crossing_id)
    return _decide(crossing, Wish.CANCELLED, person, note)


def _decide(crossing: Crossing, wish: Wish, person: Person, note: str) -> PaymentLink:
    with transaction.atomic():
        link = payment_links.made_for([crossing])[crossing.pk]
        if link.wish != wish:
            link.wish, link.wished_by, link.wished_at, link.note = wish, person, timezone.now(), note
            link.save(update_fields=["wish", "wished_by", "wished_at", "note"])
            record(crossing.bridge.workspace, person, f"request.{wish}", crossing.number, note=note)
        plan_anew(crossing)
    return link
