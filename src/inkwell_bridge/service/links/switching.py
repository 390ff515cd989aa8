"""Giving a connection to another company: on purpose, with the old links kept as history, and clean from there on.

What ended can be brought back for a day, once the end says again that it is the former company's.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from inkwell_bridge.core.linking import LinkKind
from inkwell_bridge.service.bridges.models import Bridge, Lane
from inkwell_bridge.service.confirming import NotConfirmed, counted
from inkwell_bridge.service.connections import actions as connections
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.links.between import Between
from inkwell_bridge.service.links.changing import put, undo
from inkwell_bridge.service.links.models import Change, Switch, What
from inkwell_bridge.service.people.models import Company, Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

BROUGHT_BACK_FOR = timedelta(days=1)


class NotMeant(Refusal):
    """The company's name was not typed as the end says it."""

    code = "company-not-confirmed"
    hint = "Type the name exactly as the end says it, if this is meant."


class SameCompany(Refusal):
    """There is nothing to switch: the connection belongs to that company already."""

    code = "same-company"
    hint = "A new address or key is entered with: inkwell connections change."


class NothingToBringBack(Refusal):
    """No switch of this connection can be taken back."""

    code = "nothing-to-bring-back"
    hint = "A switch can be taken back for a day. The history of the links keeps what ended."


def switch(
    connection: Connection, person: Person, *, typed: str, company: Company | None, confirmed: bool
) -> Connection:
    """Let a connection belong to the company that its end says it is.

    Every link to or from it ends, and its lanes are switched off: what is carried next is a deliberate act. The end is
    asked who it is afterwards; no transaction is open over that call.

    Raises:
        SameCompany: it belongs to that company already.
        NotMeant: ``typed`` is not the name of that company.
        NotConfirmed: with what ends.
    """
    said = str(connection.described.get("company", ""))
    if said and said == connection.settled_company:
        raise SameCompany(f"{connection.name} belongs to {said} already.")
    if not said or typed.strip() != said:
        raise NotMeant(f"The end of {connection.name} says that it belongs to {said or 'nobody'}.")
    if not confirmed:
        what = f"{connection.name} would go from {connection.settled_company or 'nobody'} to {said}."
        raise NotConfirmed(what, _ends(connection))
    with transaction.atomic():
        before = connection.settled_company
        text = f"{connection.name} went from {before} to {said}"
        Switch.objects.create(
            workspace=connection.workspace, connection=connection, at=timezone.now(), person=person, before=before,
            now=said, company_before=connection.company, changes=_end_links(connection, person, text),
            lanes=_switch_off(connection),
        )  # fmt: skip
        _settle(connection, said, company or connection.company)
        record(connection.workspace, person, "connection.switched", connection.slug, before=before, now=said)
    connections.check(connection)
    return connection


def switch_back(connection: Connection, person: Person) -> Connection:
    """Take the newest switch back: its links stand again, and its lanes are on again.

    What was linked meanwhile ends, for it belongs to the other company.

    Raises:
        NothingToBringBack: there was none in the last day.
        NotMeant: the end says that it is not the former company's.
    """
    since = timezone.now() - BROUGHT_BACK_FOR
    found = Switch.objects.filter(workspace=connection.workspace, connection=connection).order_by("-id").first()
    if found is None or found.undone_at or found.at < since:
        raise NothingToBringBack(f"{connection.name} was not switched in the last 24 hours.")
    said = str(connection.described.get("company", ""))
    if said != found.before:
        refused = NotMeant(f"The end of {connection.name} says that it belongs to {said or 'nobody'}.")
        refused.hint = f"Enter the address and key of {found.before} first, and check the connection."
        raise refused
    with transaction.atomic():
        text = f"{connection.name} went back from {found.now} to {found.before}"
        _end_links(connection, person, text)
        for change in Change.objects.filter(pk__in=found.changes).select_related("workspace", "source", "books"):
            undo(_between(change), change, person)
        Lane.objects.filter(workspace=connection.workspace, pk__in=found.lanes).update(on=True)
        Switch.objects.filter(pk=found.pk).update(undone_at=timezone.now())
        _settle(connection, found.before, found.company_before)
        record(
            connection.workspace, person, "connection.switched-back", connection.slug, before=found.now,
            now=found.before,
        )  # fmt: skip
    connections.check(connection)
    return connection


def _ends(connection: Connection) -> list[str]:
    links = [
        f"{counted(number, 'link')} of {kind.value} over {bridge.slug} will end."
        for bridge in _bridges(connection)
        for kind in LinkKind
        if (number := Between.of(bridge, kind).links().count())
    ]
    on = sorted(f"{lane.kind} over {lane.bridge.slug}" for lane in _lanes_on(connection).select_related("bridge"))
    return [*links, *([f"These lanes will be switched off: {', '.join(on)}."] if on else []),
            "All of this can be brought back for a day."]  # fmt: skip


def _bridges(connection: Connection) -> Sequence[Bridge]:
    here = Q(source=connection) | Q(books=connection)
    found = Bridge.current.filter(here, workspace=connection.workspace)
    return list(found.select_related("workspace", "source", "books").order_by("slug"))


def _lanes_on(connection: Connection) -> QuerySet[Lane]:
    return Lane.objects.filter(workspace=connection.workspace, bridge__in=_bridges(connection), on=True)


def _switch_off(connection: Connection) -> list[int]:
    """Switch the lanes off; answers which were on."""
    lanes = list(_lanes_on(connection).values_list("pk", flat=True))
    Lane.objects.filter(pk__in=lanes).update(on=False)
    return lanes


def _end_links(connection: Connection, person: Person, text: str) -> list[int]:
    """End every link to or from a connection; answers the changes that this made."""
    changes = []
    for bridge in _bridges(connection):
        for kind in LinkKind:
            between = Between.of(bridge, kind)
            # Two bridges between the same ends have their links in common: for the second none stand any more.
            keys = list(between.links().values_list("key", flat=True).distinct())
            change = put(between, {}, what=What.SWITCHED, person=person, ends=keys, text=text[:500]) if keys else None
            changes += [change.pk] if change is not None else []
    return changes


def _between(change: Change) -> Between:
    return Between(workspace=change.workspace, source=change.source, books=change.books, kind=LinkKind(change.kind))


def _settle(connection: Connection, name: str, company: Company | None) -> None:
    connection.settled_company, connection.company = name, company
    connection.version += 1
    connection.save(update_fields=["settled_company", "company", "version"])
