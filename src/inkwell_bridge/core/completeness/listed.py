"""What a sales side says of a period, without the documents themselves."""

from __future__ import annotations

from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class ListedDocument(Value):
    """A document in a line, as a list of the sales side has it.

    Shape: ``placed_at`` is the moment that it counts by: an order's when it was placed, a refund's when it was made.
    Units: ``gross`` with tax, in ``currency``, positive also for what went back.
    """

    id: Code
    number: Text
    placed_at: Moment
    changed_at: Moment | None = None
    currency: Code
    gross: Exact


class SumIn(Value):
    """So many documents of one currency, and what they come to together. Units: ``gross`` in ``currency``."""

    currency: Code
    count: int
    gross: Exact


class Told(Value):
    """What the sales side counts itself for a period, by currency: its own report, and no sum of ours."""

    sums: tuple[SumIn, ...] = ()
