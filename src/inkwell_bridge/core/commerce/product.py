"""What the sales side sells."""

from __future__ import annotations

from inkwell_bridge.core.commerce.charge import Property
from inkwell_bridge.core.commerce.line import ONE, PIECE, Component, Nature
from inkwell_bridge.core.priced import Amount, Priced
from inkwell_bridge.core.values import Code, Exact, Moment, Text


class Product(Priced):
    """One article that can be ordered; variants of one product share ``parent_id``.

    Units: one ``unit`` (UN/ECE Rec 20) holds ``pack_of`` pieces; ``weight_kg`` is that of one unit.
    """

    id: Code
    number: Code
    parent_id: Text = ""
    changed_at: Moment
    title: Text
    description: Text = ""
    barcode: Text = ""
    product_type: Text = ""
    nature: Nature = Nature.GOODS
    unit: Code = PIECE
    pack_of: Exact = ONE
    price: Amount
    price_includes_tax: bool
    tax_class: Text = ""
    weight_kg: Exact | None = None
    stocked: bool = True
    components: tuple[Component, ...] = ()
    properties: tuple[Property, ...] = ()
    active: bool = True
    link: Text = ""
