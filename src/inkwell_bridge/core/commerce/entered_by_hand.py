"""What stands in the books on the accounts of a bridge's sales, and was not posted from here."""

from __future__ import annotations

import datetime
from decimal import Decimal

from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Moment, Text, Value

ZERO = Decimal(0)


class EnteredLine(Value):
    """What one line of it puts on such an account: a sale above zero, what takes one back below."""

    account: Code
    tax_code: Text = ""
    net: Amount
    tax: Amount = ZERO


class EnteredByHand(Priced):
    """A document of the books that nobody here made: somebody entered it, or another program did.

    Shape: ``role`` is its role, where it is one of a sale; of anything else (a journal) ``documents`` is 0, for it
    counts amounts and no document; -1 of one that takes a sale back. ``changed_at`` is its day: books do not say when
    an entry was changed. ``lines`` are those of the accounts that sales of the bridge stand on. What was written on it
    is not kept, for it may tell of a person. ``external_reference`` is its reference as it stands there.
    """

    id: Code
    number: Text
    role: Text = ""
    entered_on: datetime.date
    changed_at: Moment
    external_reference: Text = ""
    documents: int = 0
    lines: tuple[EnteredLine, ...] = ()

    @property
    def net(self) -> Decimal:
        """Of all its lines, without tax."""
        return sum((line.net for line in self.lines), ZERO)

    @property
    def tax(self) -> Decimal:
        """The tax of all its lines."""
        return sum((line.tax for line in self.lines), ZERO)
