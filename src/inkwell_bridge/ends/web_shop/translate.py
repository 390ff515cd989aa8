"""From the web shop's words to ours."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.errors import DocumentInvalid, InkwellError
from inkwell_bridge.ends.contract import Fetched

Json = Mapping[str, Any]


def fetched(order: Any) -> Fetched:
    """An order of the shop; one that cannot be understood comes back with what is wrong, never lost."""
    if not isinstance(order, Mapping):
        return Fetched(id="", number="", changed_at=None, order=None, problem="an order that is no JSON object")
    identity = str(order.get("id", ""))
    number = str(order.get("reference", identity))
    try:
        read = Order.read(_canonical(order))
    except DocumentInvalid as error:
        return Fetched(id=identity, number=number, changed_at=None, order=None, problem=str(error))
    except (InkwellError, KeyError, TypeError, ValueError, AttributeError) as error:
        problem = f"the shop's order lacks or misstates {error}"
        return Fetched(id=identity, number=number, changed_at=None, order=None, problem=problem)
    return Fetched(id=read.id, number=read.number, changed_at=read.changed_at, order=read)


def _canonical(order: Json) -> dict[str, Any]:
    shopper, ship_to = order.get("shopper") or {}, order.get("ship_to") or {}
    return {
        "id": str(order["id"]),
        "number": order["reference"],
        "channel": "web shop",
        "status": order["state"],
        "placed_at": datetime.fromisoformat(order["placed"]),
        "changed_at": datetime.fromisoformat(order["last_change"]),
        "currency": order["currency"],
        "prices_include_tax": order["prices"] == "with tax",
        "country": ship_to.get("country", ""),
        "buyer": _buyer(shopper, order.get("bill_to"), order.get("ship_to")),
        "lines": [_line(row) for row in order["basket"]],
        "discounts": [
            {"code": voucher["code"], "title": voucher["title"], "amount": voucher["sum"]}
            for voucher in order.get("vouchers", [])
        ],
        "shipping": [_carriage(order["carriage"])] if order.get("carriage") else [],
        "payments": [
            {
                "transaction": money["transaction"],
                "method": money["by"],
                "amount": money["sum"],
                "paid_at": datetime.fromisoformat(money["when"]),
            }
            for money in order.get("received", [])
        ],
        "tax_total": order["tax"],
        "total": order["total"],
        "link": order.get("page", ""),
    }


def _buyer(shopper: Json, bill_to: Json | None, ship_to: Json | None) -> dict[str, Any]:
    return {
        "account_id": str(shopper["account"]) if shopper.get("account") is not None else None,
        "email": shopper.get("email") or "",
        "name": f"{shopper.get('first_name', '')} {shopper.get('last_name', '')}".strip(),
        "company": shopper.get("company") or "",
        "phone": shopper.get("phone") or "",
        "tax_number": shopper.get("tax_number") or "",
        "billing": _address(bill_to),
        "delivery": _address(ship_to),
    }


def _address(address: Json | None) -> dict[str, Any] | None:
    if not address:
        return None
    return {name: address.get(name, "") for name in ("name", "town", "postcode", "country")} | {
        "lines": address.get("lines", [])
    }


def _line(row: Json) -> dict[str, Any]:
    return {
        "id": str(row["row"]),
        "sku": row.get("article", ""),
        "title": row["title"],
        "quantity": row["count"],
        "unit_price": row["price"],
        "amount": row["sum"],
        "discount": row.get("reduction", "0.00"),
        "tax_class": row["tax"]["class"],
        "taxes": [_tax(row["tax"])],
    }


def _carriage(carriage: Json) -> dict[str, Any]:
    return {
        "id": "carriage",
        "title": carriage["title"],
        "amount": carriage["sum"],
        "tax_class": carriage["tax"]["class"],
        "taxes": [_tax(carriage["tax"])],
    }


def _tax(tax: Json) -> dict[str, Any]:
    return {"name": tax["class"], "rate_percent": tax["percent"], "amount": tax["sum"]}
