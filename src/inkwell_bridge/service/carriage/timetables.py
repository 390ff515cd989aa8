"""Runs that start by themselves."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import structlog
from django.db import transaction

from inkwell_bridge.core.timetable import next_after
from inkwell_bridge.service import clock
from inkwell_bridge.service.bridges.models import Bridge, Timetable
from inkwell_bridge.service.bridges.timetables import EVERY_LANE
from inkwell_bridge.service.carriage.models import Run
from inkwell_bridge.service.carriage.runs import AlreadyRunning, Choice, NotReady, start
from inkwell_bridge.service.carriage.states import ACTIVE_RUN

log = structlog.get_logger("inkwell.timetable")


def start_due() -> int:
    """Start every run that is due; answers how many.

    Where times were missed while nothing ran, or while another run of the bridge was under way, one run makes up for
    all of them.
    """
    started, looked_at = 0, []
    while (bridge := _next_due(looked_at)) is not None:
        looked_at.append(bridge)
        started += _start_lanes(bridge)
    return started


def _next_due(but: Sequence[int]) -> int | None:
    due = Timetable.objects.filter(next_at__lte=clock.now()).exclude(bridge__in=but)
    return due.order_by("next_at").values_list("bridge", flat=True).first()


@transaction.atomic
def _start_lanes(bridge_id: int) -> int:
    """One run for all lanes of a bridge that are due."""
    now = clock.now()
    bridge = Bridge.objects.select_related("workspace", "source", "books", "paused_by").get(pk=bridge_id)
    due = list(Timetable.objects.select_for_update(skip_locked=True).filter(bridge=bridge, next_at__lte=now))
    # Still due where another run is under way: it starts once that has ended.
    if not due or Run.objects.filter(bridge=bridge, state__in=ACTIVE_RUN).exists():
        return 0
    started = 0
    try:
        lanes = _lanes(bridge, {timetable.kind for timetable in due})
        if lanes:
            with transaction.atomic():
                start(bridge, None, Choice(lanes=lanes))
            started = 1
    except AlreadyRunning as error:
        # Somebody was a moment faster.
        log.info("timetable.waits", bridge=bridge.slug, why=str(error))
        return 0
    except NotReady as error:
        log.info("timetable.passed_over", bridge=bridge.slug, why=str(error))
    for timetable in due:
        timetable.next_at = next_after(timetable.table, now)
    Timetable.objects.bulk_update(due, ["next_at"])
    return started


def _lanes(bridge: Bridge, due: Iterable[str]) -> list[str]:
    """The lanes that are on and due: by a timetable of their own, or by that of every lane that has none."""
    own = set(bridge.timetables.exclude(kind=EVERY_LANE).values_list("kind", flat=True))
    on = bridge.lanes.filter(on=True).order_by("kind").values_list("kind", flat=True)
    return [kind for kind in on if kind in due or (EVERY_LANE in due and kind not in own)]
