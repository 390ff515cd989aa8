"""A product or item, a customer or contact, told in the same words on both sides, with the keys it is found by."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.books import Contact, Item
from inkwell_bridge.core.commerce import Customer, Product
from inkwell_bridge.core.comparing import barcode_key, code_key, place_key, tax_number_key
from inkwell_bridge.core.values import Code, Exact, Text, Value


class LinkKind(StrEnum):
    """What is linked."""

    PRODUCTS = "products"
    CUSTOMERS = "customers"


class Part(Value):
    """So much of an article in a kit; ``share`` of the kit's price, where the seller says."""

    code: Code
    quantity: Exact
    share: Exact | None = None


class Known(Value):
    """One of either side.

    Shape: ``id`` is the side's own, ``code`` what people know it by. ``parts`` are what a kit holds.
    Units: one sold holds ``pack_of`` pieces.
    """

    id: Code
    code: Text = ""
    name: Text = ""
    barcode: Text = ""
    email: Text = ""
    tax_number: Text = ""
    postcode: Text = ""
    pack_of: Exact = Decimal(1)
    parts: tuple[Part, ...] = ()
    active: bool = True

    @property
    def code_key(self) -> str:
        """The code as it is compared: case and surrounding space do not matter."""
        return code_key(self.code)

    @property
    def barcode_key(self) -> str:
        """The barcode as it is compared: as a GTIN of 14 digits (GS1), whichever length it was written in."""
        return barcode_key(self.barcode)

    @property
    def email_key(self) -> str:
        """The e-mail as it is compared: case and surrounding space do not matter."""
        return code_key(self.email)

    @property
    def tax_number_key(self) -> str:
        """The tax number without what people put between its digits."""
        return tax_number_key(self.tax_number)

    @property
    def place_key(self) -> str:
        """Name and postcode together; nothing where one of them is missing."""
        return place_key(self.name, self.postcode)


def known_product(product: Product) -> Known:
    """A product of the sales side."""
    return Known(
        id=product.id,
        code=product.number,
        name=product.title,
        barcode=product.barcode,
        pack_of=product.pack_of,
        parts=tuple(
            Part(code=part.sku, quantity=part.quantity, share=part.share) for part in product.components if part.sku
        ),
        active=product.active,
    )


def known_item(item_id: str, item: Item) -> Known:
    """An item of the books."""
    return Known(id=item_id, code=item.code, name=item.name, barcode=item.barcode, active=item.active)


def known_customer(customer: Customer) -> Known:
    """A customer of the sales side."""
    person = customer.person
    if person is None:
        return Known(id=customer.id, code=customer.number, active=customer.active)
    address = person.billing or person.delivery
    return Known(
        id=customer.id,
        code=customer.number,
        name=person.company or person.name,
        email=person.email,
        tax_number=person.tax_number,
        postcode=address.postcode if address else "",
        active=customer.active,
    )


def known_contact(contact_id: str, code: str, contact: Contact) -> Known:
    """A contact of the books."""
    address = contact.billing or contact.delivery
    return Known(
        id=contact_id,
        code=code,
        name=contact.company or contact.name,
        email=contact.email,
        tax_number=contact.tax_number,
        postcode=address.postcode if address else "",
    )
