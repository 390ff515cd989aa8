"""Letting held crossings go again."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from inkwell_bridge.service.carriage.models import Crossing, CrossingEvent
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import CrossingState, EventKind, Trial
from inkwell_bridge.service.people.models import Person, Workspace
from inkwell_bridge.service.people.trail import record

STOPPED = (CrossingState.HELD, CrossingState.DIFFERS, CrossingState.LEFT_OUT)


@transaction.atomic
def release(
    crossings: QuerySet[Crossing], workspace: Workspace, person: Person, *, queue: bool = True
) -> int:  # fmt: skip
    """Try those of ``crossings`` again that are stopped; answers how many. Without ``queue`` a run queues them."""
    found = crossings.filter(workspace=workspace, bridge__removed_at__isnull=True, state__in=STOPPED)
    stopped = list(found.select_related("bridge__books").select_for_update(of=("self",)))
    Crossing.objects.filter(pk__in=[crossing.pk for crossing in stopped]).update(
        state=CrossingState.WAITING, cause="", tries=0, next_try_at=None
    )
    # Taken back from a trial and left out: it goes like any other now.
    over = [crossing.pk for crossing in stopped if crossing.state == CrossingState.LEFT_OUT]
    Crossing.objects.filter(pk__in=over, trial=Trial.TAKEN_BACK).update(trial=Trial.NONE)
    now = timezone.now()
    CrossingEvent.objects.bulk_create(
        CrossingEvent(
            workspace=workspace, crossing=crossing, at=now, kind=EventKind.RELEASED, person=person,
            detail={"was": crossing.state, "cause": crossing.cause},
        )
        for crossing in stopped
    )  # fmt: skip
    if queue:
        defer_carrying(stopped)
    if stopped:
        record(
            workspace,
            person,
            "crossings.released",
            f"{len(stopped)} documents",
            numbers=[crossing.number for crossing in stopped[:100]],
        )
    return len(stopped)


def carry_again(crossings: Iterable[Crossing]) -> None:
    """Let crossings that were carried go once more, for something that they were posted without is known by now; each
    with its bridge and books."""
    carried = list(crossings)
    if not carried:
        return
    Crossing.objects.filter(pk__in=[one.pk for one in carried], state=CrossingState.CARRIED).update(
        state=CrossingState.WAITING, tries=0
    )
    defer_carrying(carried)


def retry_held(crossings: Iterable[Crossing]) -> None:
    """Let held crossings go again by themselves, once what they waited for is there; each with its bridge and books.

    No person lets them go, so there is no event of it. One that a person has let go meanwhile is left as it is.
    """
    held = list(crossings)
    if not held:
        return
    Crossing.objects.filter(pk__in=[one.pk for one in held], state__in=STOPPED).update(
        state=CrossingState.WAITING, cause="", tries=0
    )
    defer_carrying(held)


def plan_anew(crossing: Crossing) -> None:
    """Let a crossing go again at once, whatever it had come to or waits for: somebody decided of it; with its bridge
    and books."""
    Crossing.objects.filter(pk=crossing.pk).update(
        state=CrossingState.WAITING, cause="", tries=0, next_try_at=None
    )  # fmt: skip
    defer_carrying([crossing])
