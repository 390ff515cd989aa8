"""A contact of the books: the customer a document is made out to."""

from __future__ import annotations

from typing import Literal, get_args

from inkwell_bridge.core.commerce import Address
from inkwell_bridge.core.commerce.buyer import Language
from inkwell_bridge.core.comparing import place_key, tax_number_key
from inkwell_bridge.core.values import Code, Text, Value

# What a contact is looked for by, one step after the other; and its particulars, each of which may change by itself.
Step = Literal["email", "tax number", "name and postcode"]
Particular = Literal["name", "email", "phone", "tax number", "language", "group", "terms", "billing", "delivery"]
STEPS: tuple[Step, ...] = get_args(Step)
PARTICULARS: tuple[Particular, ...] = get_args(Particular)


class Contact(Value):
    """A contact to be found, or made where there is none.

    Shape: ``house_code`` names an account that stands for many buyers and is never made by us; without it the contact
    is found by ``email`` (already in compared form), tax number, or name with postcode.
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

    def key(self, step: Step) -> str:
        """What it is compared by in a step; nothing where it does not say."""
        if step == "email":
            return self.email
        if step == "tax number":
            return tax_number_key(self.tax_number)
        # A company is known by its own name, whoever of it ordered.
        return place_key(self.company or self.name, self.postcode)

    @property
    def postcode(self) -> str:
        """Where it is billed, or else delivered to."""
        address = self.billing or self.delivery
        return address.postcode if address else ""
