"""The lines of an order."""

from __future__ import annotations

from decimal import Decimal
from enum import StrEnum

from inkwell_bridge.core.commerce.charge import Charge, Property
from inkwell_bridge.core.priced import Amount
from inkwell_bridge.core.values import Code, Exact, Text, Value

ONE = Decimal(1)
PIECE = "C62"


class Nature(StrEnum):
    """What kind of supply an article is; it decides about stock and about where it is taxed."""

    GOODS = "goods"
    DIGITAL = "digital"
    SERVICE = "service"
    GIFT_CARD = "gift card"
    VOUCHER = "voucher"
    DEPOSIT = "deposit"


class Lot(Value):
    """So many units out of one lot."""

    code: Code
    quantity: Exact


class Component(Value):
    """One article inside a kit, per kit; ``share`` is its part of the kit's price where the seller says so."""

    sku: Code
    title: Text = ""
    quantity: Exact
    share: Amount | None = None
    tax_class: Text = ""


class OrderLine(Charge):
    """A line.

    Units: ``amount`` is ``quantity`` times ``unit_price``; ``unit`` is a code of UN/ECE Recommendation 20
    (C62: one piece); one unit holds ``pack_of`` pieces of the article ``sku``. ``quantity`` is what is
    still ordered, ``quantity_placed`` what was ordered first.
    """

    sku: Text = ""
    barcode: Text = ""
    product_id: Text = ""
    product_type: Text = ""
    nature: Nature = Nature.GOODS
    quantity: Exact
    quantity_placed: Exact | None = None
    unit: Code = PIECE
    pack_of: Exact = ONE
    unit_price: Exact
    components: tuple[Component, ...] = ()
    lots: tuple[Lot, ...] = ()
    serials: tuple[Text, ...] = ()
    location: Text = ""
    gift_card: Text = ""
    properties: tuple[Property, ...] = ()
