"""The kinds of document that a sales side hands out, and the one shape that stands for any of them."""

from __future__ import annotations

from enum import StrEnum

from inkwell_bridge.core.commerce.arrival import Arrival
from inkwell_bridge.core.commerce.customer import Customer
from inkwell_bridge.core.commerce.entered_by_hand import EnteredByHand
from inkwell_bridge.core.commerce.goods import Dispatch, StockLevel
from inkwell_bridge.core.commerce.opening_balances import OpeningBalances
from inkwell_bridge.core.commerce.order import Order
from inkwell_bridge.core.commerce.payout import Payout
from inkwell_bridge.core.commerce.posted_invoice import PostedInvoice
from inkwell_bridge.core.commerce.product import Product
from inkwell_bridge.core.commerce.provider_charge import ProviderCharge
from inkwell_bridge.core.commerce.purchase_order import PurchaseOrder
from inkwell_bridge.core.commerce.receipt import Receipt
from inkwell_bridge.core.commerce.refund import Refund
from inkwell_bridge.core.commerce.request_payment import RequestPayment
from inkwell_bridge.core.commerce.till_day import TillDay

SourceDocument = (
    Order
    | Customer
    | Product
    | Refund
    | Payout
    | TillDay
    | Dispatch
    | StockLevel
    | PurchaseOrder
    | OpeningBalances
    | Receipt
    | Arrival
    | PostedInvoice
    | RequestPayment
    | ProviderCharge
    | EnteredByHand
)


class SourceKind(StrEnum):
    """A kind of source document; also the name of the lane that carries it. Opening balances a person
    enters, receipts and invoices are handed out by the books, arrivals and bank payments come of the bank's
    statements, and what was entered by hand is found on the books' accounts."""

    ORDERS = "orders"
    CUSTOMERS = "customers"
    PRODUCTS = "products"
    REFUNDS = "refunds"
    PAYOUTS = "payouts"
    TILL_DAYS = "till days"
    DISPATCHES = "dispatches"
    STOCK = "stock"
    PURCHASE_ORDERS = "purchase orders"
    OPENING_BALANCES = "opening balances"
    RECEIPTS = "receipts"
    ARRIVALS = "arrivals"
    INVOICES = "invoices"
    REQUEST_PAYMENTS = "request payments"
    BANK_PAYMENTS = "bank payments"
    CHARGES = "charges"
    ENTERED_BY_HAND = "entered by hand"

    @property
    def shape(self) -> type[SourceDocument]:
        """The canonical shape of this kind."""
        return _SHAPES[self]


_SHAPES: dict[SourceKind, type[SourceDocument]] = {
    SourceKind.ORDERS: Order,
    SourceKind.CUSTOMERS: Customer,
    SourceKind.PRODUCTS: Product,
    SourceKind.REFUNDS: Refund,
    SourceKind.PAYOUTS: Payout,
    SourceKind.TILL_DAYS: TillDay,
    SourceKind.DISPATCHES: Dispatch,
    SourceKind.STOCK: StockLevel,
    SourceKind.PURCHASE_ORDERS: PurchaseOrder,
    SourceKind.OPENING_BALANCES: OpeningBalances,
    SourceKind.RECEIPTS: Receipt,
    SourceKind.ARRIVALS: Arrival,
    SourceKind.INVOICES: PostedInvoice,
    SourceKind.REQUEST_PAYMENTS: RequestPayment,
    SourceKind.BANK_PAYMENTS: RequestPayment,
    SourceKind.CHARGES: ProviderCharge,
    SourceKind.ENTERED_BY_HAND: EnteredByHand,
}
