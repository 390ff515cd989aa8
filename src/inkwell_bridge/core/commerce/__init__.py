"""What the sales side holds, in canonical shape."""

from inkwell_bridge.core.commerce.arrival import Arrival, ArrivedPayout
from inkwell_bridge.core.commerce.buyer import Address, Buyer, Note
from inkwell_bridge.core.commerce.capabilities import SalesCapabilities, WriteBackKind
from inkwell_bridge.core.commerce.changes import Change, changes
from inkwell_bridge.core.commerce.charge import (
    Charge,
    Conversion,
    Discount,
    Extra,
    ExtraKind,
    Property,
    Shipping,
    TaxLine,
)
from inkwell_bridge.core.commerce.customer import Customer
from inkwell_bridge.core.commerce.entered_by_hand import EnteredByHand, EnteredLine
from inkwell_bridge.core.commerce.fingerprint import FINGERPRINT_VERSION, books_digest, checksum, content_digest
from inkwell_bridge.core.commerce.goods import Dispatch, DispatchLine, StockLevel
from inkwell_bridge.core.commerce.history import EventKind, LineChange, OrderEvent
from inkwell_bridge.core.commerce.line import Component, Lot, Nature, OrderLine
from inkwell_bridge.core.commerce.master_data import Rate, SalesMasterData, TaxClass
from inkwell_bridge.core.commerce.opening_balances import OpenFor, OpeningBalance, OpeningBalances
from inkwell_bridge.core.commerce.order import Order, Treatment
from inkwell_bridge.core.commerce.payment import MoneyState, Payment, Teller, Tender, counted_once
from inkwell_bridge.core.commerce.payout import EntryKind, Payout, PayoutEntry
from inkwell_bridge.core.commerce.posted_invoice import PostedInvoice
from inkwell_bridge.core.commerce.product import Product
from inkwell_bridge.core.commerce.provider_charge import ProviderCharge
from inkwell_bridge.core.commerce.purchase_order import PurchaseLine, PurchaseOrder
from inkwell_bridge.core.commerce.receipt import Receipt, SettledPart
from inkwell_bridge.core.commerce.refund import Goodwill, Refund, RefundLine
from inkwell_bridge.core.commerce.request_payment import RequestPayment
from inkwell_bridge.core.commerce.source import SourceDocument, SourceKind
from inkwell_bridge.core.commerce.till_day import TillDay, TillSale, TillTender

__all__ = [
    "FINGERPRINT_VERSION",
    "Address",
    "Arrival",
    "ArrivedPayout",
    "Buyer",
    "Change",
    "Charge",
    "Component",
    "Conversion",
    "Customer",
    "Discount",
    "Dispatch",
    "DispatchLine",
    "EnteredByHand",
    "EnteredLine",
    "EntryKind",
    "EventKind",
    "Extra",
    "ExtraKind",
    "Goodwill",
    "LineChange",
    "Lot",
    "MoneyState",
    "Nature",
    "Note",
    "OpenFor",
    "OpeningBalance",
    "OpeningBalances",
    "Order",
    "OrderEvent",
    "OrderLine",
    "Payment",
    "Payout",
    "PayoutEntry",
    "PostedInvoice",
    "Product",
    "Property",
    "ProviderCharge",
    "PurchaseLine",
    "PurchaseOrder",
    "Rate",
    "Receipt",
    "Refund",
    "RefundLine",
    "RequestPayment",
    "SalesCapabilities",
    "SalesMasterData",
    "SettledPart",
    "Shipping",
    "SourceDocument",
    "SourceKind",
    "StockLevel",
    "TaxClass",
    "TaxLine",
    "Teller",
    "Tender",
    "TillDay",
    "TillSale",
    "TillTender",
    "Treatment",
    "WriteBackKind",
    "books_digest",
    "changes",
    "checksum",
    "content_digest",
    "counted_once",
]
