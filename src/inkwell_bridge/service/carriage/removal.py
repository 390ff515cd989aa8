"""Removing bridges and connections: what was carried stays to be read, and nothing is carried any more."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from inkwell_bridge.service import vault
from inkwell_bridge.service.bridges.models import Bridge, Timetable
from inkwell_bridge.service.carriage.models import Crossing, Run
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import ACTIVE_RUN, CrossingState
from inkwell_bridge.service.confirming import NotConfirmed, counted
from inkwell_bridge.service.connections.ends import owner_of
from inkwell_bridge.service.connections.models import Connection, Grant, SignIn
from inkwell_bridge.service.links.models import Link
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.reference.models import Entry
from inkwell_bridge.service.refusal import Refusal

CHUNK = 1000


class InUse(Refusal):
    """Something still stands on what is to be removed."""

    code = "in-use"

    def __init__(self, text: str, hint: str) -> None:
        self.hint = hint
        super().__init__(text)


@transaction.atomic
def remove_bridge(bridge: Bridge, person: Person, *, confirmed: bool) -> None:
    """Remove a bridge: its lanes go off, its timetable goes, and what has not crossed is left out.

    Its rules, its documents and their history stay, under its name, which is free for another bridge.

    Raises:
        InUse: it runs just now.
        NotConfirmed: with what ends.
    """
    Bridge.objects.select_for_update().get(pk=bridge.pk)
    running = Run.objects.filter(workspace=bridge.workspace_id, bridge=bridge, state__in=ACTIVE_RUN).first()
    if running is not None:
        raise InUse(f"{bridge.name} is running, as run {running.pk}.", "Wait until the run has ended, or stop it.")
    # What differs from its plan is in the books already: a person has to look at it all the same.
    unfinished = Crossing.objects.filter(
        workspace=bridge.workspace_id, bridge=bridge, state__in=(CrossingState.WAITING, CrossingState.HELD)
    )
    if not confirmed:
        raise NotConfirmed(f"{bridge.name} would be removed.", _ends_with_bridge(bridge, unfinished.count()))
    bridge.lanes.update(on=False)
    Timetable.objects.filter(workspace=bridge.workspace_id, bridge=bridge).delete()
    Bridge.objects.filter(pk=bridge.pk).update(removed_at=timezone.now())
    record(bridge.workspace, person, "bridge.removed", bridge.slug)
    # Leaving out is the carriage's: it voids drafts, and writes down figures and history.
    keys = list(unfinished.values_list("pk", flat=True))
    for start in range(0, len(keys), CHUNK):
        chosen = Crossing.objects.filter(pk__in=keys[start : start + CHUNK])
        chosen.update(state=CrossingState.WAITING, cause="", tries=0, next_try_at=None)
        defer_carrying(chosen.select_related("bridge__books"))


def _ends_with_bridge(bridge: Bridge, unfinished: int) -> list[str]:
    on = [lane.kind for lane in bridge.lanes.all() if lane.on]
    done = (CrossingState.CARRIED, CrossingState.ADOPTED)
    carried = Crossing.objects.filter(workspace=bridge.workspace_id, bridge=bridge, state__in=done).count()
    ends = [f"These lanes will be switched off: {', '.join(sorted(on))}."] if on else []
    if bridge.timetables.exists():
        ends.append("It will not run by itself any more: its timetables are removed.")
    if unfinished:
        ends.append(f"{counted(unfinished, 'document')} held or waiting will be left out; drafts are voided.")
    if carried:
        ends.append(f"{counted(carried, 'carried document')} will stay in the books, and here under the bridge's name.")
    return ends


@transaction.atomic
def remove_connection(connection: Connection, person: Person, *, confirmed: bool) -> None:
    """Remove a connection: its credentials are erased, and its links and loaded names go.

    What was posted through it stays, and so does its history.

    Raises:
        InUse: a bridge stands on it, or documents of a bridge that was removed are still being left out.
        NotConfirmed: with what ends.
    """
    Connection.objects.select_for_update().get(pk=connection.pk)
    here = Q(source=connection) | Q(books=connection)
    bridges = list(Bridge.current.filter(here, workspace=connection.workspace).order_by("slug"))
    if bridges:
        names = ", ".join(bridge.slug for bridge in bridges)
        raise InUse(f"{connection.name} is an end of {names}.", "Remove what stands on it first.")
    ended = Bridge.objects.filter(here, workspace=connection.workspace)
    if Crossing.objects.filter(bridge__in=ended, state=CrossingState.WAITING).exists():
        text = f"Documents of a bridge from or to {connection.name} that was removed are still being left out."
        raise InUse(text, "Try again in a minute.")
    links = Link.objects.filter(here, workspace=connection.workspace, ended_in__isnull=True)
    if not confirmed:
        raise NotConfirmed(f"{connection.name} would be removed.", _ends_with_connection(connection, links.count()))
    Entry.objects.filter(workspace=connection.workspace, connection=connection).delete()
    Grant.objects.filter(workspace=connection.workspace, connection=connection).delete()
    SignIn.objects.filter(workspace=connection.workspace, connection=connection).delete()
    owner = owner_of(connection.workspace.slug, connection.slug)
    Connection.objects.filter(pk=connection.pk).update(
        credentials=vault.seal({}, owner=owner), removed_at=timezone.now()
    )
    record(connection.workspace, person, "connection.removed", connection.slug)


def _ends_with_connection(connection: Connection, links: int) -> Sequence[str]:
    names = Entry.objects.filter(workspace=connection.workspace, connection=connection).count()
    ends = ["Its credentials are erased."]
    if names:
        ends.append(f"The reference data that was loaded from it is forgotten: {counted(names, 'name')}.")
    if links:
        ends.append(f"{counted(links, 'link')} to or from it can no longer be used.")
    return ends
