"""A document as it stands in the books, read back."""

from __future__ import annotations

import datetime
from enum import StrEnum

from inkwell_bridge.core.books.base_amounts import BaseAmounts
from inkwell_bridge.core.books.document import AnyBooksDocument
from inkwell_bridge.core.values import Code, Exact, Text, Value


class Standing(StrEnum):
    """How far a document has come in the books."""

    DRAFT = "draft"
    POSTED = "posted"
    VOID = "void"


class Brief(Value):
    """A document of the books in a line, whoever entered it.

    Shape: ``external_reference`` is its reference as it stands there, ours or what somebody typed; ``order_number`` the
    order's, where the books keep it apart. ``net``, ``tax`` and ``gross`` are the books' own.
    """

    id: Code
    number: Text = ""
    standing: Standing
    external_reference: Text = ""
    order_number: Text = ""
    date: datetime.date | None = None
    currency: Text = ""
    net: Exact | None = None
    tax: Exact | None = None
    gross: Exact | None = None
    link: Text = ""


class BooksRecord(Value):
    """What the books hold under one of our external references.

    ``net``, ``tax`` and ``gross`` are the books' own totals, never our sums of their lines; absent for what
    has none, as is ``base``: the same in the company's own currency, of a document in another. ``version`` tells one
    state of the document from the next (an ETag, RFC 9110), where the books have such a thing. ``changed_by`` is who
    changed it there last, in the books' own words, where they tell.
    """

    id: Code
    number: Text = ""
    standing: Standing
    contact_id: Text = ""
    document: AnyBooksDocument
    net: Exact | None = None
    tax: Exact | None = None
    gross: Exact | None = None
    base: BaseAmounts | None = None
    link: Text = ""
    version: Text = ""
    changed_by: Text = ""
