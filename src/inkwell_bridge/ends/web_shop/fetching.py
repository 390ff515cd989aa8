"""What the web shop lists, and how each thing it hands out is read; nothing that is not understood is lost."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.core.errors import DocumentInvalid, InkwellError
from inkwell_bridge.ends.shapes import Fetched
from inkwell_bridge.ends.web_shop import goods, orders, people
from inkwell_bridge.ends.web_shop.words import Json


@dataclass(frozen=True, slots=True, kw_only=True)
class Listing:
    """One list of the shop: where it is, and how an entry is translated."""

    path: str
    translate: Callable[[Json], dict[str, Any]]


LISTINGS = {
    SourceKind.ORDERS: Listing(path="orders", translate=orders.order),
    SourceKind.CUSTOMERS: Listing(path="customers", translate=people.customer),
    SourceKind.PRODUCTS: Listing(path="products", translate=goods.product),
    SourceKind.REFUNDS: Listing(path="refunds", translate=goods.refund),
    SourceKind.DISPATCHES: Listing(path="dispatches", translate=goods.dispatch),
    SourceKind.STOCK: Listing(path="stock", translate=goods.stock_level),
}


def fetched(kind: SourceKind, said: Any) -> Fetched:
    """An entry of a list; one that cannot be understood comes back with what is wrong with it."""
    if not isinstance(said, Mapping):
        return Fetched(id="", number="", changed_at=None, document=None, problem="an entry that is no JSON object")
    identity = str(said.get("id", ""))
    number = str(said.get("reference", identity))
    try:
        document: Any = kind.shape.read(LISTINGS[kind].translate(said))
    except DocumentInvalid as error:
        return Fetched(id=identity, number=number, changed_at=None, document=None, problem=str(error))
    except (InkwellError, KeyError, TypeError, ValueError, AttributeError) as error:
        problem = f"the shop's answer lacks or misstates {error}"
        return Fetched(id=identity, number=number, changed_at=None, document=None, problem=problem)
    return Fetched(id=document.id, number=document.number, changed_at=document.changed_at, document=document)
