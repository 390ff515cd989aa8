"""Setting when a bridge, or one of its lanes, runs by itself."""

from __future__ import annotations

from django.db import transaction

from inkwell_bridge.core.timetable import Timetable as Table
from inkwell_bridge.core.timetable import next_after, to_rule
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge, Timetable
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record

EVERY_LANE = ""


@transaction.atomic
def set_timetable(bridge: Bridge, person: Person, table: Table, *, kind: str = EVERY_LANE) -> Timetable:
    """Let a lane run by itself from the next time on; without ``kind`` every lane that has no timetable of its own."""
    fields = {"rule": to_rule(table), "time_zone": table.time_zone, "next_at": next_after(table, clock.now())}
    before = timetable_of(bridge, kind)
    timetable, _ = Timetable.objects.update_or_create(
        workspace=bridge.workspace, bridge=bridge, kind=kind, defaults=fields
    )
    record(
        bridge.workspace, person, "timetable.set", _about(bridge, kind),
        rule=fields["rule"], time_zone=table.time_zone, was=_told(before),
    )  # fmt: skip
    return timetable


@transaction.atomic
def remove_timetable(bridge: Bridge, person: Person, *, kind: str = EVERY_LANE) -> None:
    """Let it run only when somebody starts it; a lane, whenever the bridge does."""
    before = timetable_of(bridge, kind)
    Timetable.objects.filter(workspace=bridge.workspace, bridge=bridge, kind=kind).delete()
    record(bridge.workspace, person, "timetable.removed", _about(bridge, kind), was=_told(before))


def timetable_of(bridge: Bridge, kind: str = EVERY_LANE) -> Timetable | None:
    """The timetable of a lane, or of the whole bridge; no statement where ``timetables`` was fetched before."""
    return next((one for one in bridge.timetables.all() if one.kind == kind), None)


def _told(timetable: Timetable | None) -> dict[str, str] | None:
    return {"rule": timetable.rule, "time_zone": timetable.time_zone} if timetable else None


def _about(bridge: Bridge, kind: str) -> str:
    return f"{bridge.slug} {kind}".strip()
