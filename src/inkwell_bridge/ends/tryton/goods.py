"""Items: products in Tryton. A product is a variant of a template, which holds all but its code."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.books import Item
from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.ends.shapes import Entered
from inkwell_bridge.ends.tryton.names import Names
from inkwell_bridge.ends.tryton.rpc import TrytonRpc

# UN/ECE Rec 20, and Tryton's symbols for the same.
SYMBOLS = {"C62": "u", "KGM": "kg", "GRM": "g", "HUR": "h"}
UNITS = {symbol: unit for unit, symbol in SYMBOLS.items()}


class Goods:
    """Finding and making products."""

    def __init__(self, rpc: TrytonRpc, names: Names) -> None:
        self._rpc, self._names = rpc, names

    def find(self, item: Item) -> tuple[str, ...]:
        """Products with that code, else with that barcode."""
        found = self._search([["code", "=", item.code]])
        if not found and item.barcode:
            found = self._search([["identifiers.code", "=", item.barcode]])
        return tuple(str(number) for number in found)

    def listed(self, after: int) -> tuple[Entered, ...]:
        """Products by their ids, from behind one on."""
        fields = ["code", "rec_name", "template.name", "identifiers.code", "default_uom.symbol", "active"]
        found = self._rpc.listed("product.product", after, fields)
        return tuple(Entered(id=str(one["id"]), code=one["code"] or "", what=_item(one)) for one in found)

    def create(self, item: Item) -> str:
        """A new product; its account and tax are those of the category that is sold at that tax."""
        self._names.company()
        unit = self._names.one("unit", SYMBOLS.get(item.unit, "u"))
        product: dict[str, Any] = {"suffix_code": item.code, "active": item.active}
        if item.barcode:
            product["identifiers"] = [["create", [{"type": "ean", "code": item.barcode}]]]
        said: dict[str, Any] = {"name": item.name, "type": "goods" if item.stocked else "service", "default_uom": unit,
                                "salable": True, "sale_uom": unit, "products": [["create", [product]]]}  # fmt: skip
        if item.price is not None:
            said["list_price"] = item.price
        category = self._category(item)
        if category:
            said["account_category"] = category
        template = self._rpc.change("model.product.template.create", [said])[0]
        return str(self._search([["template", "=", template]])[0])

    def _category(self, item: Item) -> int | None:
        """The first accounting category whose products are sold at the item's tax, on its account if it has one."""
        if not item.tax_code:
            return None
        domain: list[Any] = [["accounting", "=", True], ["customer_taxes", "=", self._names.one("tax", item.tax_code)]]
        if item.account:
            domain.append(["account_revenue", "=", self._names.one("account", item.account)])
        found = self._rpc.read("model.product.category.search", domain, 0, 1, None)
        return int(found[0]) if found else None

    def _search(self, domain: list[Any]) -> list[int]:
        return list(self._rpc.read("model.product.product.search", domain, 0, 2, None))


def _item(product: dict[str, Any]) -> Item:
    return Item.read(
        {
            "code": product["code"] or str(product["id"]),
            "name": product["template."]["name"],
            "barcode": next((one["code"] for one in product["identifiers."]), ""),
            "unit": UNITS.get(product["default_uom."]["symbol"], PIECE),
            "active": product["active"],
        }
    )
