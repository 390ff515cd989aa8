"""A document as it stands in the books, read back."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.books.invoice import Invoice
from inkwell_bridge.core.values import Code, Exact, Text, Value


class Standing(StrEnum):
    """How far a document has come in the books."""

    DRAFT = "draft"
    POSTED = "posted"
    VOID = "void"


class Held(Value):
    """What the books hold under one of our marks.

    ``net``, ``tax`` and ``gross`` are the books' own totals, never our sums of their lines.
    """

    id: Code
    number: Text = ""
    standing: Standing
    contact_id: Code
    invoice: Invoice
    net: Exact
    tax: Exact
    gross: Exact
    link: Text = ""
