"""What happened to an order after it was placed."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class EventKind(StrEnum):
    """What was done."""

    EDITED = "edited"
    CANCELLED = "cancelled"
    REOPENED = "reopened"
    DISPATCHED = "dispatched"


class LineChange(Value):
    """How much of a line there was before and after."""

    line: Code
    before: Exact
    after: Exact


class OrderEvent(Value):
    """One change, as the sales side tells it; totals are the order's own before and after, where it keeps them."""

    id: Code
    kind: EventKind
    at: Moment
    text: Text = ""
    total_before: Amount | None = None
    total_after: Amount | None = None
    lines: tuple[LineChange, ...] = ()
