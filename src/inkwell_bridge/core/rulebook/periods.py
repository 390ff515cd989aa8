"""What becomes of documents that are dated in a period which the books have locked."""

from __future__ import annotations

from typing import Literal

from inkwell_bridge.core.values import Text, Value


class PeriodRules(Value):
    """A document dated in a locked period waits for a person, or takes the first open day.

    Shape: ``own_date`` is the field of the books that then keeps the day it would have had; where they have none, its
    text says so. The day of its tax stays.
    Source: trade practice; a return that was filed is not changed by what comes later.
    """

    locked: Literal["hold", "first open day"] = "hold"
    own_date: Text = ""
