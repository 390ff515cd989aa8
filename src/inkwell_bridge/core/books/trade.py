"""What documents that sell or buy have in common: lines, and the totals they make."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Self

from pydantic import model_validator

from inkwell_bridge.core.books.base_amounts import BaseAmounts, in_base
from inkwell_bridge.core.books.line import DocumentLine, Field
from inkwell_bridge.core.priced import ZERO, Priced
from inkwell_bridge.core.values import Code, Exact, ExternalReference, Text

# What a document's header bears by rule, where the books keep it, each by its code there; in the order of their lists.
HEADER_CODES = ("organisational_unit", "price_list", "delivery_method", "sales_person", "language")


class TradeDocument(Priced):
    """A document with lines, planned or read back.

    Shape: ``external_reference`` is our name for it in the books (connection, source document, role, part) and the same
    for every attempt; ``order_number`` and ``link`` are the way back to the source. ``organisational_unit``,
    ``price_list``, ``delivery_method`` and ``sales_person`` are codes of the books; ``language`` (BCP 47) is the one
    that they print it in.
    """

    external_reference: ExternalReference
    date: datetime.date
    order_number: Code
    link: Text = ""
    text: Text = ""
    organisational_unit: Text = ""
    price_list: Text = ""
    delivery_method: Text = ""
    sales_person: Text = ""
    language: Text = ""
    lines: tuple[DocumentLine, ...]
    fields: tuple[Field, ...] = ()

    @property
    def net(self) -> Decimal:
        """The lines' amounts without tax."""
        return sum((line.net for line in self.lines), ZERO)

    @property
    def tax(self) -> Decimal:
        """The lines' taxes."""
        return sum((line.tax for line in self.lines), ZERO)

    @property
    def gross(self) -> Decimal:
        """What is owed."""
        return self.net + self.tax


class LedgerDocument(TradeDocument):
    """A document that takes its lines into the ledger: each names an account and a tax code.

    Shape: ``number`` is the legal number it is to bear, where that is not the books' own to give. ``rate_from`` says
    where the ``rate`` came from.
    Units: one unit of the currency is ``rate`` units of ``base_currency``, the company's own. Without a rate it is in
    that, or the books take a rate of theirs.
    """

    number: Text = ""
    rate: Exact | None = None
    rate_from: Text = ""
    base_currency: Text = ""

    @property
    def base(self) -> BaseAmounts | None:
        """What it comes to in the company's own currency, where it has a rate."""
        if self.rate is None:
            return None
        return in_base(self.net, self.tax, self.rate, self.base_currency)

    @model_validator(mode="after")
    def _lines_have_their_places(self) -> Self:
        # Books put a line without either on an account of their own choice, where nobody looks for it.
        for number, line in enumerate(self.lines, start=1):
            if not line.account or not line.tax_code:
                raise ValueError(f"an account and a tax code on each line, line {number} lacks one")
        return self
