"""What the web shop lists, and how each thing it hands out is read; nothing that is not understood is lost."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends import entries
from inkwell_bridge.ends.entries import Translate
from inkwell_bridge.ends.errors import TooLarge
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.ends.too_large import told_of
from inkwell_bridge.ends.web_shop import goods, orders, people
from inkwell_bridge.ends.web_shop.mapping import Json

ID, NUMBER = "id", "reference"


@dataclass(frozen=True, slots=True, kw_only=True)
class Listing:
    """One list of the shop: where it is, how an entry is translated, and the field that names what it belongs to."""

    path: str
    translate: Translate
    parent: str = ""


LISTINGS = {
    SourceKind.ORDERS: Listing(path="orders", translate=orders.order),
    SourceKind.CUSTOMERS: Listing(path="customers", translate=people.customer),
    SourceKind.PRODUCTS: Listing(path="products", translate=goods.product),
    SourceKind.REFUNDS: Listing(path="refunds", translate=goods.refund, parent="order_id"),
    SourceKind.DISPATCHES: Listing(path="dispatches", translate=goods.dispatch),
    SourceKind.STOCK: Listing(path="stock", translate=goods.stock_level),
}


def in_a_line(said: Json) -> Json:
    """An entry of a list by day, in the words of ``ListedDocument``."""
    return {"id": str(said[ID]), "number": said[NUMBER], "placed_at": said["when"], "changed_at": said["last_change"],
            "currency": said["currency"], "gross": said["total"]}  # fmt: skip


def counted(answer: Json) -> list[Json] | None:
    """What the shop counts of the days itself, in the words of ``SumIn``; it says so on the first page."""
    if "in_all" not in answer:
        return None
    return [{"currency": one["currency"], "count": one["number"], "gross": one["total"]} for one in answer["in_all"]]


def fetched(kind: SourceKind, said: Any) -> Fetched:
    """An entry of a list; see ``entries.fetched``."""
    listing = LISTINGS[kind]
    return entries.fetched(
        kind, said, listing.translate, id_field=ID, number_field=NUMBER, end="the shop", parent_field=listing.parent
    )


def too_large(error: TooLarge, *, depth: int, known_id: str = "") -> Fetched:
    """One that is too large to be read; see ``ends.too_large.told_of``."""
    return told_of(error, id_field=ID, number_field=NUMBER, depth=depth, known_id=known_id)
