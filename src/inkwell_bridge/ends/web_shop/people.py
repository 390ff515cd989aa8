"""From the web shop's shoppers to our buyers and customers."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.web_shop.mapping import Json, moment


def person(shopper: Json, bill_to: Json | None, ship_to: Json | None) -> dict[str, Any]:
    """Who bought, with both addresses."""
    return {
        # A guest has none, which is something else than an account without a name.
        "account_id": str(shopper["account"]) if shopper.get("account") is not None else None,
        "email": shopper.get("email") or "",
        "name": f"{shopper.get('first_name', '')} {shopper.get('last_name', '')}".strip(),
        "company": shopper.get("company") or "",
        "phone": shopper.get("phone") or "",
        "tax_number": shopper.get("tax_number") or "",
        "language": shopper.get("language") or "",
        "billing": _address(bill_to),
        "delivery": _address(ship_to),
    }


def customer(said: Json) -> dict[str, Any]:
    """An account of the shop."""
    return {
        "id": str(said["id"]),
        "number": said["reference"],
        "changed_at": moment(said["last_change"]),
        "person": person({**said, "account": said["id"]}, said.get("bill_to"), said.get("ship_to")),
        "group": said.get("group", ""),
        "payment_terms": said.get("terms", ""),
        "tags": said.get("labels", []),
        "active": said.get("active", True),
        "link": said.get("page", ""),
    }


def _address(address: Json | None) -> dict[str, Any] | None:
    if not address:
        return None
    return {
        name: address.get(name) or "" for name in ("name", "company", "town", "region", "postcode", "country", "phone")
    } | {"lines": address.get("lines", [])}
