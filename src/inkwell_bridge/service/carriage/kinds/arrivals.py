"""Arrivals: lines of the bank's that are payouts, as a journal that brings them from where they stood to the bank."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime, time
from typing import cast
from zoneinfo import ZoneInfo

from inkwell_bridge.core.books import BooksDocument
from inkwell_bridge.core.commerce import Arrival, SourceDocument, SourceKind
from inkwell_bridge.core.planner import ArrivalContext, Plan, plan_arrival
from inkwell_bridge.service.bridges.models import Bridge
from inkwell_bridge.service.carriage.amending import amended_journal, changed_since_posted
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_under
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed
from inkwell_bridge.service.carriage.steps import WITHOUT_CONTACT
from inkwell_bridge.service.reference.pinned import master_data_of


class ArrivalsKind(BaseKind):
    """A matched line. It goes over the bridge that its payouts came by; no end hands it out, so it has no lane."""

    name = "arrivals"
    source_kind = SourceKind.ARRIVALS
    is_money_alone = True
    has_lane = False
    steps = WITHOUT_CONTACT

    def listed(self, source: SourceDocument) -> Listed:
        """What the bank booked, on its day. It is the money of payouts that were counted already."""
        arrival = cast(Arrival, source)
        # At noon it is the same day on nearly all clocks.
        moment = datetime.combine(arrival.booked_on, time(12), UTC)
        return Listed(moment=moment, currency=arrival.currency, gross=arrival.amount, ties=False)

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The versions that each stands under."""
        bridge = carryings[0].crossing.bridge
        return [
            _with_context(one, found, bridge) for one, found in zip(carryings, gathered_under(carryings), strict=True)
        ]

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_arrival``."""
        return plan_arrival(cast(Arrival, source), cast(ArrivalContext, gathered.context))

    def amended(self, carrying: Carrying, gathered: Gathered, theirs: Mapping[str, BooksDocument]) -> Plan:
        """A journal of the difference, on the day on which somebody matched it otherwise, or took it back."""
        arrival, context = cast(Arrival, carrying.source), cast(ArrivalContext, gathered.context)
        zone = ZoneInfo(carrying.crossing.bridge.company.time_zone)
        day = arrival.changed_at.astimezone(zone).date()
        return amended_journal(carrying, theirs, plan_arrival(arrival, context), context, day=day)


def _with_context(one: Carrying, gathered: Gathered, bridge: Bridge) -> Gathered:
    if gathered.ready is not None:
        return gathered
    context = ArrivalContext(
        source=bridge.source.slug,
        periods=gathered.rulebook.periods,
        master_data=master_data_of(gathered.master_data),
        locked_until=gathered.locked_until,
    )
    changed = one.under is None and changed_since_posted(one)
    return replace(gathered, context=context, earlier=changed or None)


register(ArrivalsKind())
