"""A contact of the books: the customer a document is made out to."""

from __future__ import annotations

from inkwell_bridge.core.commerce import Address
from inkwell_bridge.core.commerce.buyer import Language
from inkwell_bridge.core.values import Code, Text, Value


class Contact(Value):
    """A contact to be found, or made where there is none.

    Shape: ``house_code`` names an account that stands for many buyers and is never made by us;
    without it ``email`` (already in compared form) is what the contact is found by.
    """

    house_code: Code | None = None
    email: Text = ""
    name: Text = ""
    company: Text = ""
    phone: Text = ""
    tax_number: Text = ""
    language: Language = ""
    group: Text = ""
    terms: Text = ""
    billing: Address | None = None
    delivery: Address | None = None
