"""Asking for a rehearsal."""

from __future__ import annotations

from datetime import date

from django.utils import timezone

from inkwell_bridge.service import queue
from inkwell_bridge.service.asked_work import AlreadyUnderWay, begin, forget_old
from inkwell_bridge.service.bridges.models import Bridge, RulebookVersion
from inkwell_bridge.service.bridges.rules import parsed
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal
from inkwell_bridge.service.rehearsals.models import Rehearsal

# Of a bridge so many are kept; older ones say nothing of today's rules.
MOST_KEPT = 20


class CannotRehearse(Refusal):
    """There is nothing to rehearse."""

    code = "cannot-rehearse"
    hint = "Write a rulebook that says what orders become, as a draft or in force."


class AlreadyRehearsing(AlreadyUnderWay):
    """One of the same bridge is under way."""

    code = "already-rehearsing"
    what = "rehearsal"


def ask(
    bridge: Bridge, person: Person, *, rulebook: RulebookVersion, since: RulebookVersion | None, first: date, last: date
) -> Rehearsal:
    """Have the documents of a period planned under ``rulebook`` in the background; compared with ``since``, where one
    is given.

    Raises:
        CannotRehearse: one of the versions says nothing of orders.
        AlreadyRehearsing: another of this bridge is under way.
    """
    for version in filter(None, (rulebook, since)):
        if parsed(version).orders is None:
            raise CannotRehearse(f"Version {version.number} of the rules says nothing of orders.")
    of_bridge = Rehearsal.objects.filter(workspace=bridge.workspace_id, bridge=bridge)

    def make() -> Rehearsal:
        rehearsal = Rehearsal.objects.create(
            workspace_id=bridge.workspace_id, bridge=bridge, rulebook=rulebook, since=since, first=first,
            last=last, asked_by=person, asked_at=timezone.now(),
        )  # fmt: skip
        arguments = {"workspace_id": bridge.workspace_id, "rehearsal_id": rehearsal.pk}
        queue.defer(queue.REHEARSE, [queue.Call(arguments=arguments, lock=f"rehearsing:{bridge.pk}")])
        record(bridge.workspace, person, "rulebook.rehearsed", f"{bridge.slug} version {rulebook.number}",
               first=first.isoformat(), last=last.isoformat())  # fmt: skip
        forget_old(of_bridge, keep=MOST_KEPT)
        return rehearsal

    return begin(make, of_bridge, lambda running: AlreadyRehearsing(
        f"Rehearsal {running.pk} of {bridge.name} is under way.", running.pk
    ))  # fmt: skip
