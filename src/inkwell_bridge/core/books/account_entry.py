"""What stands on one account of the books, entry by entry."""

from __future__ import annotations

import datetime

from inkwell_bridge.core.books.document import Role
from inkwell_bridge.core.values import Code, Exact, Text, Value


class AccountEntry(Value):
    """What one posted document put on an account, whoever entered it.

    Shape: ``id`` is the books' own id of the document, unique among those of its ``family`` (the books' own word for
    documents of its kind); several lines of it on the account may come as one entry, or as several.
    ``external_reference`` is its reference as it stands there: ours, or what somebody typed. ``role`` is the role that
    the books give the document out in by that id, where they do. Units: ``amount`` is in
    the company's own currency, a debit positive.
    """

    id: Code
    family: Text = ""
    number: Text = ""
    date: datetime.date
    external_reference: Text = ""
    role: Role | None = None
    text: Text = ""
    amount: Exact
