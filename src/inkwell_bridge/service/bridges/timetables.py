"""Setting when a bridge runs by itself."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from django.db import transaction

from inkwell_bridge.core.timetable import next_after
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge, Timetable
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record


@transaction.atomic
def set_timetable(bridge: Bridge, person: Person, rule: str, zone: str) -> Timetable:
    """Let it run by a rule of RFC 5545 in a time zone, from the next time on."""
    now = clock.now()
    # A rule of days starts with its day, so that a time later today is not passed over.
    start = now if "MINUTELY" in rule else now.astimezone(ZoneInfo(zone)).replace(hour=0, minute=0, second=0)
    coming = next_after(rule, now, zone=zone, start=start.replace(microsecond=0))
    timetable, _ = Timetable.objects.update_or_create(
        workspace=bridge.workspace, bridge=bridge, defaults={"rule": rule, "time_zone": zone, "next_at": coming}
    )
    record(bridge.workspace, person, "timetable.set", bridge.slug, rule=rule, time_zone=zone)
    return timetable


@transaction.atomic
def remove_timetable(bridge: Bridge, person: Person) -> None:
    """Let it run only when somebody starts it."""
    Timetable.objects.filter(workspace=bridge.workspace, bridge=bridge).delete()
    record(bridge.workspace, person, "timetable.removed", bridge.slug)
