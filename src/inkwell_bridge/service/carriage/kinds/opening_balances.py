"""Opening balances: entered by a person at the cut-over, posted as one journal."""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from inkwell_bridge.core.commerce import OpeningBalances, SourceDocument, SourceKind
from inkwell_bridge.core.planner import Plan, plan_opening
from inkwell_bridge.service.carriage.carrying import Carrying
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind, gathered_with_rules
from inkwell_bridge.service.carriage.kinds.protocol import Gathered, Listed


class OpeningBalancesKind(BaseKind):
    """The balances of a cut-over. No end hands them out, so they have no lane."""

    name = "opening balances"
    source_kind = SourceKind.OPENING_BALANCES
    has_lane = False

    def listed(self, source: SourceDocument) -> Listed:
        """When they were entered; they are no sale, so they have no totals."""
        opening = cast(OpeningBalances, source)
        return Listed(moment=opening.changed_at, currency=opening.currency)

    def gather(self, carryings: Sequence[Carrying]) -> Sequence[Gathered | Exception]:
        """The versions, and the rules for orders, whose accounts the balances stand on."""
        return gathered_with_rules(carryings)

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """See ``core.planner.plan_opening``."""
        return plan_opening(cast(OpeningBalances, source), gathered.context)


register(OpeningBalancesKind())
