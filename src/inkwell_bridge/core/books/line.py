"""A line of a document in the books."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text, Value

PIECE = "C62"


class LineKind(StrEnum):
    """What a line stands for."""

    GOODS = "goods"
    SHIPPING = "shipping"
    DISCOUNT = "discount"
    EXTRA = "extra"
    TAX = "tax"
    DEPOSIT = "deposit"
    VOUCHER = "voucher"
    ROUNDING = "rounding"


class Dimension(Value):
    """One reporting dimension and the value a line is reported under."""

    name: Code
    value: Code


class Field(Value):
    """A further field that the books keep beside their own, and what it says."""

    name: Code
    value: Text


class DocumentLine(Value):
    """A line; ``net`` is ``quantity`` times ``unit_price`` to the currency's minor unit, without tax.

    ``line_reference`` leads back to the line of the source document, ``order_number`` and ``link`` to the document
    itself; ``unit`` is a code of UN/ECE Rec 20. ``account`` and ``tax_code`` are empty only on documents that take
    nothing into the ledger. ``pieces`` are those that it stands for where its quantity says otherwise: a lot with one
    price for all, or none where only a price is corrected, whose item is ``price_of``. Both are sent nowhere.
    """

    kind: LineKind
    line_reference: ExternalReference
    text: Text
    account: Text = ""
    item: Text = ""
    quantity: Exact
    unit: Code = PIECE
    unit_price: Exact
    net: Amount
    tax_code: Text = ""
    tax: Amount
    warehouse: Text = ""
    lot: Text = ""
    dimensions: tuple[Dimension, ...] = ()
    order_number: Text = ""
    link: Text = ""
    fields: tuple[Field, ...] = ()
    pieces: Exact | None = None
    price_of: Text = ""
