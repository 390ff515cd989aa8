"""What stands in the books on the accounts of sales, and was not posted from here: counted, and never carried."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, time
from typing import cast

from inkwell_bridge.core.commerce import EnteredByHand, SourceDocument, SourceKind
from inkwell_bridge.core.planner import Plan
from inkwell_bridge.core.proof import Amounts, Grain, Key, Section, Side, added
from inkwell_bridge.service.carriage.carrying import Carrying, Conclusion
from inkwell_bridge.service.carriage.kinds import register
from inkwell_bridge.service.carriage.kinds.base import BaseKind
from inkwell_bridge.service.carriage.kinds.protocol import Direction, Gathered, Listed
from inkwell_bridge.service.carriage.states import CrossingState


def keep_as_entered(carrying: Carrying) -> Conclusion:
    """Nothing becomes of it: it stands in the books already, and goes nowhere."""
    return Conclusion(state=CrossingState.ADOPTED)


class EnteredByHandKind(BaseKind):
    """A document that somebody entered in the books. A check of completeness finds it; no end hands it out."""

    source_kind = SourceKind.ENTERED_BY_HAND
    direction = Direction.BOOKS_TO_SALES
    has_lane = False
    steps = (keep_as_entered,)

    def __init__(self, name: str) -> None:
        self.name = name

    def listed(self, source: SourceDocument) -> Listed:
        """Its amounts, on its day in the books; they count on the books' side, see ``books_figures``."""
        found = cast(EnteredByHand, source)
        # At noon it is the same day on nearly all clocks.
        moment = datetime.combine(found.entered_on, time(12), UTC)
        return Listed(moment=moment, currency=found.currency, net=found.net, tax=found.tax,
                      gross=found.net + found.tax, ties=False)  # fmt: skip

    def plan(self, source: SourceDocument, gathered: Gathered) -> Plan:
        """Nothing is planned: ``steps`` end before that."""
        raise NotImplementedError(f"{self.name} is not planned")


def books_figures(found: EnteredByHand) -> Mapping[Key, Amounts]:
    """What it counts on the books' side: what it is, where it is a document of a sale, and its amounts in any case."""
    section = Section.REFUNDS if found.documents < 0 else Section.SALES
    role = found.role or "other"

    def key(grain: Grain, account: str = "", tax_code: str = "") -> Key:
        return Key(Side.BOOKS, grain, section, role, found.entered_on, found.currency, account, tax_code)

    lines = [(key(Grain.LINE, line.account, line.tax_code), Amounts(1, line.net, line.tax, line.net + line.tax))
             for line in found.lines]  # fmt: skip
    whole = Amounts(found.documents, found.net, found.tax, found.net + found.tax)
    return added([*lines, (key(Grain.DOCUMENT), whole)])


# Under our own reference, and yet not made from here: by another installation, say, or one that was restored since.
ENTERED_BY_HAND, NOT_POSTED_HERE = "entered_by_hand", "not_posted_here"
KINDS: Sequence[str] = (ENTERED_BY_HAND, NOT_POSTED_HERE)
for _name in KINDS:
    register(EnteredByHandKind(_name))
