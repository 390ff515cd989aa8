"""An order, and what the books hold for it: what rules are learnt from."""

from __future__ import annotations

from inkwell_bridge.core.books import BooksRecord, CashSale, Invoice, Payment, SalesOrder
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import Articles
from inkwell_bridge.core.values import Text, Value

Sale = Invoice | SalesOrder | CashSale


class Example(Value):
    """One order with its documents in the books, whoever entered them.

    Shape: the first record with lines is the sale, its money follows. ``contact`` is the code of the contact that the
    sale is made out to, where the books tell it. ``articles`` is what the books know of what was sold. Without records
    the order has nothing in the books.
    """

    order: Order
    records: tuple[BooksRecord, ...] = ()
    contact: Text = ""
    articles: Articles = Articles()

    @property
    def sale(self) -> Sale | None:
        """The document of the sale itself."""
        return next((one.document for one in self.records if isinstance(one.document, Sale)), None)

    @property
    def sale_number(self) -> str:
        """The number that the sale bears in the books."""
        return next((one.number for one in self.records if isinstance(one.document, Sale)), "")

    @property
    def money(self) -> tuple[Payment, ...]:
        """What was received for it."""
        return tuple(one.document for one in self.records if isinstance(one.document, Payment))
