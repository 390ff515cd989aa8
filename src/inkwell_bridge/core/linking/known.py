"""A product or item, a customer or contact, told in the same words on both sides, with the keys it is found by."""

from __future__ import annotations

import re
import unicodedata
from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.books import Contact, Item
from inkwell_bridge.core.commerce import Customer, Product
from inkwell_bridge.core.values import Code, Exact, Text, Value

_GTIN_DIGITS = 14
_NO_WORD = re.compile(r"[\W_]+")


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
        return self.code.strip().casefold()

    @property
    def barcode_key(self) -> str:
        """The barcode as it is compared: as a GTIN of 14 digits (GS1), whichever length it was written in."""
        digits = "".join(self.barcode.split())
        return digits.zfill(_GTIN_DIGITS) if digits.isdigit() else digits.casefold()

    @property
    def email_key(self) -> str:
        """The e-mail as it is compared: case and surrounding space do not matter."""
        return self.email.strip().casefold()

    @property
    def tax_number_key(self) -> str:
        """The tax number without what people put between its digits."""
        return _NO_WORD.sub("", self.tax_number).upper()

    @property
    def place_key(self) -> str:
        """Name and postcode together; nothing where one of them is missing."""
        name, postcode = plain(self.name), _NO_WORD.sub("", self.postcode).upper()
        return f"{name}|{postcode}" if name and postcode else ""


def plain(text: str) -> str:
    """A text as it is compared: without case, accents and punctuation; words parted by single spaces."""
    letters = "".join(one for one in unicodedata.normalize("NFKD", text) if not unicodedata.combining(one))
    return _NO_WORD.sub(" ", letters.casefold()).strip()


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
