"""Who bought. All that tells a person apart stands here and nowhere else in an order,
so that it can be kept, expired and erased apart from the figures."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from inkwell_bridge.core.values import Code, Country, Moment, Text, Value

Language = Annotated[str, Field(max_length=35, description="A language tag of BCP 47, such as en-GB, or empty.")]


class Address(Value):
    """A postal address; ``region`` is a state, county or province."""

    name: Text = ""
    company: Text = ""
    lines: tuple[Text, ...] = ()
    town: Text = ""
    region: Text = ""
    postcode: Text = ""
    country: Country = ""
    phone: Text = ""


class Buyer(Value):
    """A customer as the sales side knows them; ``account_id`` is absent for a guest."""

    account_id: Code | None = None
    email: Text = ""
    name: Text = ""
    company: Text = ""
    phone: Text = ""
    tax_number: Text = ""
    language: Language = ""
    billing: Address | None = None
    delivery: Address | None = None

    @property
    def email_key(self) -> str:
        """The e-mail as it is compared: case and surrounding space do not matter."""
        # RFC 5321 lets the part before the @ mind its case, and no provider does: two contacts are the greater harm.
        return self.email.strip().casefold()


class Note(Value):
    """What somebody wrote on a document."""

    text: Text
    by: Text = ""
    at: Moment | None = None
