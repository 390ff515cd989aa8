"""Giving a connection to another company: on purpose, with the old links kept as history, and clean from there on."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Q

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.models import Bridge, Lane
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import put
from inkwell_bridge.service.links.models import What
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal


class NotMeant(Refusal):
    """The company's name was not typed as the end says it."""

    code = "company-not-confirmed"
    hint = "Type the name exactly as the end says it, if this is meant."


@transaction.atomic
def switch(connection: Connection, person: Person, *, typed: str, company: Company | None) -> Connection:
    """Let a connection belong to the company that its end says it is.

    Every link to or from it ends, and its lanes are switched off: what is carried next is a deliberate act.

    Raises:
        NotMeant: ``typed`` is not the name of that company.
    """
    said = str(connection.described.get("company", ""))
    if not said or typed.strip() != said:
        raise NotMeant(f"The end of {connection.name} says that it belongs to {said or 'nobody'}.")
    before = connection.settled_company
    bridges = Bridge.objects.filter(Q(source=connection) | Q(books=connection), workspace=connection.workspace)
    for bridge in bridges.select_related("workspace", "source", "books"):
        for kind in LinkKind:
            _end_links(Between.of(bridge, kind), person, f"{connection.name} went from {before} to {said}"[:500])
    Lane.objects.filter(bridge__in=bridges).update(on=False)
    connection.settled_company = said
    if company is not None:
        connection.company = company
    connection.version += 1
    connection.save(update_fields=["settled_company", "company", "version"])
    record(connection.workspace, person, "connection.switched", connection.slug, before=before, now=said)
    connections.check(connection)
    return connection


def _end_links(between: Between, person: Person, text: str) -> None:
    keys = list(between.links().values_list("key", flat=True).distinct())
    if keys:
        put(between, {}, what=What.SWITCHED, person=person, ends=keys, text=text)
