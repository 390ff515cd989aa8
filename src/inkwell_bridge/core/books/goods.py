"""Goods that leave, goods that move between warehouses, and how much of an item there is."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text, Value


class GoodsLine(Value):
    """So many units of an item, of one lot where lots are kept."""

    line_reference: Text = ""
    item: Code
    quantity: Exact
    unit: Code = PIECE
    lot: Text = ""
    serials: tuple[Text, ...] = ()


class Dispatch(Value):
    """Goods that leave a warehouse for a customer, against the sales order under ``sales_order``."""

    role: Literal["dispatch"] = "dispatch"
    external_reference: ExternalReference
    date: datetime.date
    order_number: Text = ""
    sales_order: Text = ""
    warehouse: Code
    carrier: Text = ""
    tracking_number: Text = ""
    lines: tuple[GoodsLine, ...]


class StockMove(Value):
    """Goods that go from one warehouse to another, or (``to_warehouse`` empty) out of stock, or into it."""

    role: Literal["stock move"] = "stock move"
    external_reference: ExternalReference
    date: datetime.date
    text: Text = ""
    from_warehouse: Text = ""
    to_warehouse: Text = ""
    lines: tuple[GoodsLine, ...]


class StockLevel(Value):
    """How much of an item a place has: ``available`` is what may be sold of ``on_hand``.

    A document without a life of its own: where it goes it stands as the latest level of that item and place.
    """

    role: Literal["stock level"] = "stock level"
    external_reference: ExternalReference
    date: datetime.date
    item: Code
    warehouse: Code
    on_hand: Exact
    available: Exact
