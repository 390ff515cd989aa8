"""From Vendure's variants to our products and stock levels."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.vendure.mapping import Json, moment
from inkwell_bridge.ends.vendure.orders import Orders


def product(said: Json, read: Orders) -> dict[str, Any]:
    """An article that can be ordered: a variant."""
    return {
        "id": said["id"],
        "number": said["sku"],
        "parent_id": said["productId"],
        "changed_at": moment(said["updatedAt"]),
        "title": said["name"],
        "description": said["product"]["description"][:2000],
        "currency": said["currencyCode"],
        "price": read.money(said["priceWithTax" if read.with_tax else "price"]),
        "price_includes_tax": read.with_tax,
        "tax_class": said["taxCategory"]["name"],
        "stocked": said["trackInventory"] != "FALSE",
        "properties": [{"name": one["group"]["name"], "value": one["name"]} for one in said["options"]],
        "active": said["enabled"],
    }


def stock_levels(said: Json) -> list[dict[str, Any]]:
    """How much of a variant each place has; what is promised to orders cannot be sold again."""
    return [
        {
            "id": f"{said['id']}.{level['id']}",
            "number": f"{said['sku']} {level['stockLocation']['name']}",
            "sku": said["sku"],
            "location": level["stockLocation"]["name"],
            "on_hand": level["stockOnHand"],
            "available": level["stockOnHand"] - level["stockAllocated"],
            "changed_at": moment(level["updatedAt"]),
        }
        for level in said["stockLevels"]
    ]
