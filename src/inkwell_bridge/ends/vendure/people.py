"""From Vendure's customers and addresses to ours."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.vendure.mapping import Json, moment


def buyer(customer: Json | None, bill_to: Json | None, ship_to: Json | None) -> dict[str, Any] | None:
    """Who bought; one without a user of their own is a guest."""
    if not customer:
        return None
    name = f"{customer['firstName']} {customer['lastName']}".strip()
    billing = _address(bill_to) or _address(ship_to)
    return {
        "account_id": customer["id"] if customer.get("user") else None,
        "email": customer["emailAddress"],
        "name": name,
        "company": (billing or {}).get("company", ""),
        "phone": customer.get("phoneNumber") or "",
        "billing": billing,
        "delivery": _address(ship_to),
    }


def group(customer: Json | None) -> str:
    """The first group of a customer."""
    groups = (customer or {}).get("groups") or []
    return str(groups[0]["name"]) if groups else ""


def customer(said: Json) -> dict[str, Any]:
    """An account of the shop."""
    addresses = said["addresses"] or []
    billing = _chosen(addresses, "defaultBillingAddress")
    return {
        "id": said["id"],
        "number": f"C-{said['id']}",
        "changed_at": moment(said["updatedAt"]),
        "person": buyer(said, billing, _chosen(addresses, "defaultShippingAddress")),
        "group": group(said),
    }


def _chosen(addresses: list[Json], mark: str) -> dict[str, Any] | None:
    found = next((one for one in addresses if one.get(mark)), addresses[0] if addresses else None)
    return {**found, "countryCode": (found.get("country") or {}).get("code")} if found else None


def _address(said: Json | None) -> dict[str, Any] | None:
    if not said or not any(said.values()):
        return None
    return {
        "name": said.get("fullName") or "",
        "company": said.get("company") or "",
        "lines": [line for line in (said.get("streetLine1"), said.get("streetLine2")) if line],
        "town": said.get("city") or "",
        "region": said.get("province") or "",
        "postcode": said.get("postalCode") or "",
        "country": said.get("countryCode") or "",
        "phone": said.get("phoneNumber") or "",
    }
