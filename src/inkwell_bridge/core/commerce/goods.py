"""Goods on their way: dispatches and stock levels."""

from __future__ import annotations

from inkwell_bridge.core.commerce.line import Lot
from inkwell_bridge.core.values import Code, Exact, Moment, Text, Value


class DispatchLine(Value):
    """So much of one order line, sent."""

    line: Text = ""
    sku: Code
    quantity: Exact
    lots: tuple[Lot, ...] = ()
    serials: tuple[Text, ...] = ()


class Dispatch(Value):
    """Goods that left for a buyer: all of an order or a part of it."""

    id: Code
    number: Code
    order_number: Code
    dispatched_at: Moment
    changed_at: Moment
    location: Text = ""
    carrier: Text = ""
    tracking_number: Text = ""
    tracking_link: Text = ""
    lines: tuple[DispatchLine, ...]


class StockLevel(Value):
    """How much of an article a location has; ``available`` is what may be sold of ``on_hand``."""

    id: Code
    number: Code
    sku: Code
    location: Code
    on_hand: Exact
    available: Exact
    changed_at: Moment
