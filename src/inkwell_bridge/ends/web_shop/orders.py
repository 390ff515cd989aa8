"""From the web shop's orders to ours."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.web_shop.mapping import (
    DONE,
    MEASURES,
    NATURES,
    Json,
    charge,
    components,
    conversion,
    lots,
    moment,
    payment,
    properties,
)
from inkwell_bridge.ends.web_shop.people import person


def order(said: Json) -> dict[str, Any]:
    """An order of the shop in canonical shape."""
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "channel": said.get("channel", "web shop"),
        "location": said.get("from", ""),
        "status": said["state"],
        "placed_at": moment(said["placed"]),
        "changed_at": moment(said["last_change"]),
        "currency": said["currency"],
        "prices_include_tax": said["prices"] == "with tax",
        "treatment": said.get("treated_as"),
        "country": (said.get("ship_to") or {}).get("country", ""),
        "customer_group": said.get("group", ""),
        "payment_terms": said.get("terms", ""),
        "buyer": person(said.get("shopper") or {}, said.get("bill_to"), said.get("ship_to")),
        "lines": [_line(row) for row in said["basket"]],
        "discounts": [
            {
                "code": voucher["code"],
                "title": voucher["title"],
                "amount": voucher["sum"],
                "applies_to": [str(row) for row in voucher.get("rows", [])],
            }
            for voucher in said.get("vouchers", [])
        ],
        "shipping": [_carriage(said["carriage"])] if said.get("carriage") else [],
        "extras": [{**charge(extra, identity=extra["row"]), "kind": extra["for"]} for extra in said.get("extras", [])],
        "cash_rounding": said.get("rounding", "0"),
        "payments": [payment(money) for money in said.get("received", [])],
        "tax_total": said["tax"],
        "total": said["total"],
        "settlement": conversion(said.get("settled")),
        "history": [_event(event) for event in said.get("history", [])],
        "notes": [
            {"text": remark["text"], "by": remark.get("by", ""), "at": moment(remark.get("when"))}
            for remark in said.get("remarks", [])
        ],
        "tags": said.get("labels", []),
        "attributes": properties(said.get("fields")),
        "link": said.get("page", ""),
    }


def _line(row: Json) -> dict[str, Any]:
    return {
        **charge(row, identity=str(row["row"])),
        "sku": row.get("article", ""),
        "barcode": row.get("barcode", ""),
        "product_id": str(row.get("product", "")),
        "product_type": row.get("type", ""),
        "nature": NATURES[row.get("nature", "article")],
        "quantity": row["count"],
        "quantity_placed": row.get("count_first"),
        "unit": MEASURES[row.get("measure", "piece")],
        "pack_of": row.get("pack", "1"),
        "unit_price": row["price"],
        "components": components(row.get("contents")),
        "lots": lots(row.get("lots")),
        "serials": row.get("serials", []),
        "location": row.get("from", ""),
        "gift_card": row.get("card", ""),
        "properties": properties(row.get("options")),
    }


def _carriage(carriage: Json) -> dict[str, Any]:
    return {**charge(carriage, identity="carriage"), "method": carriage.get("method", "")}


def _event(event: Json) -> dict[str, Any]:
    return {
        "id": str(event["event"]),
        "kind": DONE[event["did"]],
        "at": moment(event["when"]),
        "text": event.get("why", ""),
        "total_before": event.get("was"),
        "total_after": event.get("is"),
        "lines": [{"line": str(row["row"]), "before": row["was"], "after": row["is"]} for row in event.get("rows", [])],
    }
