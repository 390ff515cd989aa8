"""What the books side holds, in canonical shape."""

from inkwell_bridge.core.books.capabilities import BooksCapabilities
from inkwell_bridge.core.books.contact import Contact
from inkwell_bridge.core.books.invoice import Invoice, InvoiceLine, LineKind
from inkwell_bridge.core.books.reference import Account, AccountType, Reference, TaxCode
from inkwell_bridge.core.books.standing import Held, Standing

__all__ = [
    "Account",
    "AccountType",
    "BooksCapabilities",
    "Contact",
    "Held",
    "Invoice",
    "InvoiceLine",
    "LineKind",
    "Reference",
    "Standing",
    "TaxCode",
]
