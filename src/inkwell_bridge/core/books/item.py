"""An item: what the books call an article."""

from __future__ import annotations

from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.core.values import Code, Exact, Text, Value


class Item(Value):
    """An item to be found by ``code`` (then ``barcode``), or made where there is none.

    Units: ``price`` without tax, in the company's own currency.
    """

    code: Code
    name: Text
    barcode: Text = ""
    unit: Code = PIECE
    price: Exact | None = None
    tax_code: Text = ""
    account: Text = ""
    stocked: bool = True
    lots: bool = False
    active: bool = True
