"""What the seller orders from a supplier."""

from __future__ import annotations

from datetime import date

from inkwell_bridge.core.commerce.charge import Charge
from inkwell_bridge.core.commerce.line import ONE, PIECE
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Exact, Moment, Text


class PurchaseLine(Charge):
    """An ordered article or service; amounts as on any charge."""

    sku: Text = ""
    quantity: Exact
    quantity_received: Exact | None = None
    unit: Code = PIECE
    pack_of: Exact = ONE
    unit_price: Exact


class PurchaseOrder(Priced):
    """A purchase order; ``supplier_code`` is how the sales side names the supplier."""

    id: Code
    number: Code
    status: Code
    supplier_code: Code
    supplier_name: Text = ""
    supplier_tax_number: Text = ""
    supplier_document: Text = ""
    ordered_at: Moment
    changed_at: Moment
    due_on: date | None = None
    location: Text = ""
    prices_include_tax: bool = False
    lines: tuple[PurchaseLine, ...]
    charges: tuple[Charge, ...] = ()
    tax_total: Amount
    total: Amount
    link: Text = ""
