"""From the web shop's products, dispatches, stock and refunds to ours."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.web_shop.mapping import (
    MEASURES,
    NATURES,
    Json,
    charge,
    components,
    lots,
    moment,
    payment,
    properties,
    tax_lines,
)


def product(said: Json) -> dict[str, Any]:
    """An article of the shop."""
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "parent_id": str(said.get("family", "")),
        "changed_at": moment(said["last_change"]),
        "title": said["title"],
        "description": said.get("text", ""),
        "barcode": said.get("barcode", ""),
        "product_type": said.get("type", ""),
        "nature": NATURES[said.get("nature", "article")],
        "unit": MEASURES[said.get("measure", "piece")],
        "pack_of": said.get("pack", "1"),
        "currency": said["currency"],
        "price": said["price"],
        "price_includes_tax": said["prices"] == "with tax",
        "tax_class": said.get("class", ""),
        "weight_kg": said.get("kilograms"),
        "stocked": said.get("stocked", True),
        "components": components(said.get("contents")),
        "properties": properties(said.get("options")),
        "active": said.get("active", True),
        "link": said.get("page", ""),
    }


def refund(said: Json) -> dict[str, Any]:
    """Money or goods given back."""
    carriage = said.get("carriage")
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "order_id": str(said["order_id"]),
        "order_number": said["order"],
        "refunded_at": moment(said["when"]),
        "changed_at": moment(said["last_change"]),
        "currency": said["currency"],
        "prices_include_tax": said["prices"] == "with tax",
        "reason": said.get("why", ""),
        "lines": [_refunded(row) for row in said.get("rows", [])],
        "shipping": [charge(carriage, identity="carriage")] if carriage else [],
        "cash_rounding": said.get("rounding", "0"),
        "goodwill": [charge(part, identity=part["row"]) for part in said.get("goodwill", [])],
        "payments": [payment(money) for money in said.get("paid_back", [])],
        "tax_total": said["tax"],
        "total": said["total"],
        "link": said.get("page", ""),
    }


def _refunded(row: Json) -> dict[str, Any]:
    return {
        "line": str(row["row"]),
        "sku": row.get("article", ""),
        "title": row.get("title", ""),
        "quantity": row["count"],
        "amount": row["sum"],
        "taxes": tax_lines(row["tax"]),
        "restocked": row.get("back_on_shelf", False),
        "location": row.get("to", ""),
        "lots": lots(row.get("lots")),
    }


def dispatch(said: Json) -> dict[str, Any]:
    """A parcel."""
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "order_number": said["order"],
        "dispatched_at": moment(said["when"]),
        "changed_at": moment(said["last_change"]),
        "location": said.get("from", ""),
        "carrier": said.get("carrier", ""),
        "tracking_number": said.get("tracking", ""),
        "tracking_link": said.get("tracking_page", ""),
        "lines": [
            {
                "line": str(row.get("row", "")),
                "sku": row["article"],
                "quantity": row["count"],
                "lots": lots(row.get("lots")),
                "serials": row.get("serials", []),
            }
            for row in said["rows"]
        ],
    }


def stock_level(said: Json) -> dict[str, Any]:
    """How much of an article a place has."""
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "sku": said["article"],
        "location": said["at"],
        "on_hand": said["there"],
        "available": said["free"],
        "changed_at": moment(said["last_change"]),
    }
