"""What the books side holds, in canonical shape."""

from inkwell_bridge.core.books.account_entry import AccountEntry
from inkwell_bridge.core.books.base_amounts import BaseAmounts
from inkwell_bridge.core.books.bill import Bill
from inkwell_bridge.core.books.capabilities import BooksCapabilities
from inkwell_bridge.core.books.contact import PARTICULARS, STEPS, Contact, Particular, Step
from inkwell_bridge.core.books.directory import Directory
from inkwell_bridge.core.books.document import AnyBooksDocument, BooksDocument, Role
from inkwell_bridge.core.books.goods import Dispatch, GoodsLine, StockLevel, StockMove
from inkwell_bridge.core.books.item import Item
from inkwell_bridge.core.books.journal import Journal, JournalLine
from inkwell_bridge.core.books.line import PIECE, Dimension, DocumentLine, Field, LineKind
from inkwell_bridge.core.books.master_data import (
    Account,
    AccountType,
    DimensionValues,
    MasterData,
    Named,
    NamedItem,
    Period,
    TaxCode,
)
from inkwell_bridge.core.books.payment import Application, ExchangeDifference, Payment, RefundPayment
from inkwell_bridge.core.books.payment_request import PaymentRequest
from inkwell_bridge.core.books.record import BooksRecord, Brief, Standing
from inkwell_bridge.core.books.sales import CashSale, CreditNote, Invoice, SalesOrder, Takings
from inkwell_bridge.core.books.trade import HEADER_CODES, LedgerDocument, TradeDocument
from inkwell_bridge.core.books.write_off import WriteOff

__all__ = [
    "HEADER_CODES",
    "PARTICULARS",
    "PIECE",
    "STEPS",
    "Account",
    "AccountEntry",
    "AccountType",
    "AnyBooksDocument",
    "Application",
    "BaseAmounts",
    "Bill",
    "BooksCapabilities",
    "BooksDocument",
    "BooksRecord",
    "Brief",
    "CashSale",
    "Contact",
    "CreditNote",
    "Dimension",
    "DimensionValues",
    "Directory",
    "Dispatch",
    "DocumentLine",
    "ExchangeDifference",
    "Field",
    "GoodsLine",
    "Invoice",
    "Item",
    "Journal",
    "JournalLine",
    "LedgerDocument",
    "LineKind",
    "MasterData",
    "Named",
    "NamedItem",
    "Particular",
    "Payment",
    "PaymentRequest",
    "Period",
    "RefundPayment",
    "Role",
    "SalesOrder",
    "Standing",
    "Step",
    "StockLevel",
    "StockMove",
    "Takings",
    "TaxCode",
    "TradeDocument",
    "WriteOff",
]  # fmt: skip
