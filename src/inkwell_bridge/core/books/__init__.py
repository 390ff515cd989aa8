"""What the books side holds, in canonical shape."""

from inkwell_bridge.core.books.bill import Bill
from inkwell_bridge.core.books.capabilities import BooksCapabilities
from inkwell_bridge.core.books.contact import PARTICULARS, STEPS, Contact, Particular, Step
from inkwell_bridge.core.books.directory import Directory
from inkwell_bridge.core.books.document import AnyBooksDocument, BooksDocument, Role
from inkwell_bridge.core.books.goods import Dispatch, GoodsLine, StockMove
from inkwell_bridge.core.books.item import Item
from inkwell_bridge.core.books.journal import Journal, JournalLine
from inkwell_bridge.core.books.line import Dimension, DocumentLine, Field, LineKind
from inkwell_bridge.core.books.payment import Application, Payment, RefundPayment
from inkwell_bridge.core.books.reference import (
    Account,
    AccountType,
    DimensionValues,
    Named,
    NamedItem,
    Period,
    Reference,
    TaxCode,
)
from inkwell_bridge.core.books.sales import CashSale, CreditNote, Invoice, SalesOrder, Takings
from inkwell_bridge.core.books.standing import Brief, Held, Standing
from inkwell_bridge.core.books.trade import LedgerDocument, TradeDocument

__all__ = [
    "PARTICULARS",
    "STEPS",
    "Account",
    "AccountType",
    "AnyBooksDocument",
    "Application",
    "Bill",
    "BooksCapabilities",
    "BooksDocument",
    "Brief",
    "CashSale",
    "Contact",
    "CreditNote",
    "Dimension",
    "DimensionValues",
    "Directory",
    "Dispatch",
    "DocumentLine",
    "Field",
    "GoodsLine",
    "Held",
    "Invoice",
    "Item",
    "Journal",
    "JournalLine",
    "LedgerDocument",
    "LineKind",
    "Named",
    "NamedItem",
    "Particular",
    "Payment",
    "Period",
    "Reference",
    "RefundPayment",
    "Role",
    "SalesOrder",
    "Standing",
    "Step",
    "StockMove",
    "Takings",
    "TaxCode",
    "TradeDocument",
]  # fmt: skip
