"""What a supplier wants to be paid."""

from __future__ import annotations

import datetime
from typing import Literal

from inkwell_bridge.core.books.trade import LedgerDocument
from inkwell_bridge.core.values import Text


class Bill(LedgerDocument):
    """A bill; ``supplier_number`` is the number on the supplier's own document."""

    role: Literal["bill"] = "bill"
    supplier_number: Text = ""
    due_on: datetime.date | None = None
    purchase_order: Text = ""
