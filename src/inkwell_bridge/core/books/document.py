"""The roles a document can have in the books, and the one shape that stands for any of them."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from inkwell_bridge.core.books.bill import Bill
from inkwell_bridge.core.books.goods import Dispatch, StockLevel, StockMove
from inkwell_bridge.core.books.journal import Journal
from inkwell_bridge.core.books.payment import Payment, RefundPayment
from inkwell_bridge.core.books.payment_request import PaymentRequest
from inkwell_bridge.core.books.sales import CashSale, CreditNote, Invoice, SalesOrder
from inkwell_bridge.core.books.write_off import WriteOff

BooksDocument = (
    SalesOrder | Invoice | CashSale | CreditNote | Payment | RefundPayment | WriteOff | Journal | Bill | Dispatch
    | StockMove | StockLevel | PaymentRequest
)  # fmt: skip
AnyBooksDocument = Annotated[BooksDocument, Field(discriminator="role")]


class Role(StrEnum):
    """What a document is at the end that it goes to; part of its identity."""

    SALES_ORDER = "sales order"
    INVOICE = "invoice"
    CASH_SALE = "cash sale"
    CREDIT_NOTE = "credit note"
    PAYMENT = "payment"
    REFUND_PAYMENT = "refund payment"
    WRITE_OFF = "write-off"
    JOURNAL = "journal"
    BILL = "bill"
    DISPATCH = "dispatch"
    STOCK_MOVE = "stock move"
    STOCK_LEVEL = "stock level"
    PAYMENT_REQUEST = "payment request"

    @property
    def shape(self) -> type[BooksDocument]:
        """The canonical shape of this role."""
        return _SHAPES[self]


_SHAPES: dict[Role, type[BooksDocument]] = {
    Role.SALES_ORDER: SalesOrder,
    Role.INVOICE: Invoice,
    Role.CASH_SALE: CashSale,
    Role.CREDIT_NOTE: CreditNote,
    Role.PAYMENT: Payment,
    Role.REFUND_PAYMENT: RefundPayment,
    Role.WRITE_OFF: WriteOff,
    Role.JOURNAL: Journal,
    Role.BILL: Bill,
    Role.DISPATCH: Dispatch,
    Role.STOCK_MOVE: StockMove,
    Role.STOCK_LEVEL: StockLevel,
    Role.PAYMENT_REQUEST: PaymentRequest,
}
