"""Who bought. All that tells a person apart stands here and nowhere else in an order,
so that it can be kept, expired and erased apart from the figures."""

from __future__ import annotations

from inkwell_bridge.core.values import Code, Text, Value


class Address(Value):
    """A postal address; ``country`` is ISO 3166-1 alpha-2."""

    name: Text = ""
    company: Text = ""
    lines: tuple[Text, ...] = ()
    town: Text = ""
    postcode: Text = ""
    country: Text = ""


class Buyer(Value):
    """A customer as the sales side knows them; ``account_id`` is absent for a guest."""

    account_id: Code | None = None
    email: Text = ""
    name: Text = ""
    company: Text = ""
    phone: Text = ""
    tax_number: Text = ""
    language: Text = ""
    billing: Address | None = None
    delivery: Address | None = None

    @property
    def email_key(self) -> str:
        """The e-mail as it is compared: case and surrounding space do not matter."""
        return self.email.strip().casefold()
