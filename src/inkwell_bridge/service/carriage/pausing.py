"""Pausing a bridge or a connection, and letting it go on: one switch, whatever timetables and lanes say."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Q

from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.runs import hurry_paused
from inkwell_bridge.service.connections.models import Connection
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

Pausable = Bridge | Connection


@transaction.atomic
def pause(what: Pausable, person: Person) -> None:
    """Let nothing be read or carried by way of it. What is under way at an end is brought to its end; all else waits.

    Repeated, the first one stands: since when, and by whom.
    """
    if type(what).objects.filter(pk=what.pk, paused_at=None).update(paused_at=clock.now(), paused_by=person):
        record(what.workspace, person, f"{_noun(what)}.paused", what.slug)


def go_on(what: Pausable, person: Person) -> None:
    """Let it go on: timetables start what they missed, once, and what waited goes at once."""
    with transaction.atomic():
        if not type(what).objects.filter(pk=what.pk, paused_at__isnull=False).update(paused_at=None, paused_by=None):
            return
        record(what.workspace, person, f"{_noun(what)}.went on", what.slug)
    here = Q(bridge=what) if isinstance(what, Bridge) else Q(bridge__source=what) | Q(bridge__books=what)
    hurry_paused(Q(workspace=what.workspace_id) & here)


def _noun(what: Pausable) -> str:
    return type(what).__name__.lower()
