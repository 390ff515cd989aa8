"""Runs that start by themselves."""

from __future__ import annotations

import structlog
from django.db import transaction

from inkwell_bridge.core.timetable import next_after
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Timetable
from inkwell_bridge.service.carriage.runs import AlreadyRunning, NotReady, start

log = structlog.get_logger("inkwell.timetable")


def start_due() -> int:
    """Start every run that is due; answers how many.

    Where times were missed while nothing ran, one run makes up for all of them.
    """
    started = 0
    while (number := _take_one()) is not None:
        started += number
    return started


@transaction.atomic
def _take_one() -> int | None:
    now = clock.now()
    due = (
        Timetable.objects.select_for_update(skip_locked=True, of=("self",))
        .select_related("bridge__workspace", "bridge__source", "bridge__books")
        .filter(next_at__lte=now)
        .order_by("next_at")
        .first()
    )
    if due is None:
        return None
    due.next_at = next_after(due.rule, now, zone=due.time_zone, start=due.next_at)
    due.save(update_fields=["next_at"])
    try:
        with transaction.atomic():
            start(due.bridge, None)
    except (AlreadyRunning, NotReady) as error:
        log.info("timetable.passed_over", bridge=due.bridge.slug, why=str(error))
        return 0
    return 1
