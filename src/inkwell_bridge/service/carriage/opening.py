"""Opening balances of a bridge: entered by a person at the cut-over, posted once, proved like any document."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone

from inkwell_bridge.core.commerce import OpeningBalances
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.bridges.rules import in_force
from inkwell_bridge.service.carriage import snapshots
from inkwell_bridge.service.carriage.models import Crossing
from inkwell_bridge.service.carriage.runs import defer_carrying
from inkwell_bridge.service.carriage.states import CrossingState
from inkwell_bridge.service.people.models import Person
from inkwell_bridge.service.people.trail import record
from inkwell_bridge.service.refusal import Refusal

ID, NUMBER = "opening", "Opening balances"
KIND = "opening balances"


class CannotOpen(Refusal):
    """Balances cannot be entered, or not any more."""

    code = "cannot-open"
    hint = "Set the start date and publish the rules first; what is posted is corrected in the books."


def entered(bridge: Bridge) -> Crossing | None:
    """What was entered for a bridge, with what became of it."""
    return Crossing.objects.filter(bridge=bridge, kind=KIND, source_id=ID).first()


@transaction.atomic
def enter(bridge: Bridge, person: Person, against: str, balances: Sequence[dict[str, Any]]) -> Crossing:
    """Keep the balances of the cut-over and let them be posted, dated on the bridge's first day.

    Raises:
        CannotOpen: there is no first day, no rulebook in force, they are posted already, or they cannot be read.
    """
    Bridge.objects.select_for_update().get(pk=bridge.pk)
    missing = "start date" if bridge.starts_on is None else "" if in_force(bridge) else "published rulebook"
    if missing:
        raise CannotOpen(f"{bridge.name} has no {missing} yet.")
    there = entered(bridge)
    if there is not None and there.documents.filter(posting_at__isnull=False).exists():
        raise CannotOpen(f"The opening balances of {bridge.name} are posted already.")
    opening = _read(bridge, against, balances)
    fetched = Fetched(id=ID, number=NUMBER, document=opening, changed_at=opening.changed_at)
    kept = snapshots.keep(bridge.source, KIND, [fetched], at=timezone.now())[ID]
    fields = {
        "snapshot": kept,
        "state": CrossingState.WAITING,
        "cause": "",
        "number": NUMBER,
        "currency": opening.currency,
        "business_date": opening.opened_on,
        "moment": opening.changed_at,
    }
    crossing, _ = Crossing.objects.update_or_create(
        workspace_id=bridge.workspace_id, bridge=bridge, kind=KIND, source_id=ID, defaults=fields
    )
    record(bridge.workspace, person, "opening.entered", bridge.slug, total=str(_total(opening)))
    defer_carrying([crossing])
    return crossing


def _read(bridge: Bridge, against: str, balances: Sequence[dict[str, Any]]) -> OpeningBalances:
    said = {"id": ID, "number": NUMBER, "opened_on": bridge.starts_on, "changed_at": timezone.now(),
            "currency": bridge.company.currency, "against": against, "balances": balances}  # fmt: skip
    try:
        return OpeningBalances.read(said)
    except DocumentInvalid as error:
        raise CannotOpen(f"{error.at or 'The balances'}: {error.expected}") from error


def _total(opening: OpeningBalances) -> Decimal:
    return sum((one.amount for one in opening.balances), Decimal(0))
