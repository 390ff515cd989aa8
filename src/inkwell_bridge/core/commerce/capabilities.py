"""What a sales end can and cannot do."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.commerce.source import SourceKind
from inkwell_bridge.core.values import Value


class WriteBackKind(StrEnum):
    """What can be written back to the sales side."""

    TAG = "tag"
    NOTE = "note"
    DISPATCH = "dispatch"
    STOCK = "stock"
    PAYMENT = "payment"


class SalesCapabilities(Value):
    """The traits of one kind of sales end.

    Shape: ``lists`` are the kinds it hands out, ``by_number`` those that can be fetched by the number
    people know. ``signed_calls``: it calls in when something happens;
    ``registers_calls``: the address it calls can be set through its interface;
    ``takes_requests``: it asks buyers for money, and tells what they paid; ``tells_not_paid_out``: it tells which
    entries of its ledger stood in no payout at the end of a day; ``lists_periods`` are the kinds of which it lists in a
    line what it has of some days. No end is believed to move its times
    of change with every change: what is still open is always read again.
    """

    lists: tuple[SourceKind, ...] = (SourceKind.ORDERS,)
    by_number: tuple[SourceKind, ...] = (SourceKind.ORDERS,)
    writes_back: tuple[WriteBackKind, ...] = ()
    signed_calls: bool = False
    registers_calls: bool = False
    takes_requests: bool = False
    tells_not_paid_out: bool = False
    lists_periods: tuple[SourceKind, ...] = ()
