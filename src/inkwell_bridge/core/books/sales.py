"""Documents of a sale: order, invoice, cash sale, credit note."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.books.trade import LedgerDocument, TradeDocument
from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, Text, Value


class SalesOrder(TradeDocument):
    """What is to be delivered; it takes nothing into the ledger yet."""

    role: Literal["sales order"] = "sales order"
    warehouse: Text = ""
    deliver_on: datetime.date | None = None


class Invoice(LedgerDocument):
    """A sales invoice. ``tax_point`` is the day the tax falls on, where it is not the document's own.

    ``final`` tells that it is the last of an order that was paid ahead, and deducts what was paid.
    """

    role: Literal["invoice"] = "invoice"
    tax_point: datetime.date | None = None
    due_on: datetime.date | None = None
    terms: Text = ""
    sales_order: Text = ""
    final: bool = False


class Takings(Value):
    """Money received with a cash sale, on the account of its tender."""

    account: Code
    amount: Amount
    transaction: Text = ""


class CashSale(LedgerDocument):
    """A sale that was paid as it was made: a till's day, for one."""

    role: Literal["cash sale"] = "cash sale"
    takings: tuple[Takings, ...] = ()


class CreditNote(LedgerDocument):
    """What is taken back of an invoice, in positive amounts; ``credits`` is the external reference of that invoice."""

    role: Literal["credit note"] = "credit note"
    credits: Text = ""
    reason: Text = ""
