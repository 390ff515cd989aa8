"""The kinds of document that have a lane; the carriage, which stands above, tells them when the service starts."""

from __future__ import annotations

from collections.abc import Callable

from django.db import transaction

from inkwell_bridge.service.bridges.models import Bridge, Lane
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

# By the name of each kind, what the ends of a bridge cannot do for it.
_offered: dict[str, Callable[[Bridge], str]] = {}


def offer_lane(name: str, cannot: Callable[[Bridge], str]) -> None:
    """Let bridges have a lane for a kind of document; ``cannot`` says what their ends lack for it."""
    _offered.setdefault(name, cannot)


def lane_names() -> tuple[str, ...]:
    """Every kind that has a lane, in the order in which they were offered."""
    return tuple(_offered)


def ends_cannot(bridge: Bridge, name: str) -> str:
    """What the ends of a bridge cannot do for a kind, in words; nothing where its lane may be switched on."""
    return _offered[name](bridge) if name in _offered else ""


@transaction.atomic
def switch(bridge: Bridge, person: Person, kind: str, *, on: bool) -> Lane:
    """Let a kind of document be carried over a bridge, or not; ``kind`` is one that has a lane."""
    lane, _ = Lane.objects.get_or_create(workspace=bridge.workspace, bridge=bridge, kind=kind)
    lane.on = on
    lane.save(update_fields=["on"])
    record(bridge.workspace, person, "lane.on" if on else "lane.off", f"{bridge.slug} {kind}")
    return lane
