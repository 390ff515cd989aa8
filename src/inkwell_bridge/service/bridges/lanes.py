"""The kinds of document that have a lane; the carriage, which stands above, tells them when the service starts."""

from __future__ import annotations

from django.db import transaction

from inkwell_bridge.service.bridges.models import Bridge, Lane
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

_names: list[str] = []


def offer_lane(name: str) -> None:
    """Let bridges have a lane for a kind of document."""
    if name not in _names:
        _names.append(name)


def lane_names() -> tuple[str, ...]:
    """Every kind that has a lane, in the order in which they were offered."""
    return tuple(_names)


@transaction.atomic
def switch(bridge: Bridge, person: Person, kind: str, *, on: bool) -> Lane:
    """Let a kind of document be carried over a bridge, or not; ``kind`` is one that has a lane."""
    lane, _ = Lane.objects.get_or_create(workspace=bridge.workspace, bridge=bridge, kind=kind)
    lane.on = on
    lane.save(update_fields=["on"])
    record(bridge.workspace, person, "lane.on" if on else "lane.off", f"{bridge.slug} {kind}")
    return lane
