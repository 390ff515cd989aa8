"""What the sales side holds, in canonical shape."""

from inkwell_bridge.core.commerce.buyer import Address, Buyer
from inkwell_bridge.core.commerce.fingerprint import FINGERPRINT_VERSION, checksum, fingerprint
from inkwell_bridge.core.commerce.order import Charge, Discount, Order, OrderLine, Payment, Shipping, TaxLine

__all__ = [
    "FINGERPRINT_VERSION",
    "Address",
    "Buyer",
    "Charge",
    "Discount",
    "Order",
    "OrderLine",
    "Payment",
    "Shipping",
    "TaxLine",
    "checksum",
    "fingerprint",
]
