"""From the marketplace's sales, parcels and money handed back to ours."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.ends.marketplace.mapping import CALLED_OFF, NATURES, TREATMENTS, Json, charge, moment, taxes
from inkwell_bridge.ends.minor_units import Minor


def order(said: Json) -> dict[str, Any]:
    """A sale with its items."""
    minor = Minor(said["money"])
    post = said.get("postage")
    return {
        "id": str(said["key"]),
        "number": said["sale"],
        "channel": f"Lanternfair {said['fair']}",
        "status": said["progress"],
        "called_off": said["progress"] == CALLED_OFF,
        "placed_at": moment(said["agreed"]),
        "changed_at": moment(said["moved"]),
        "currency": said["money"],
        "prices_include_tax": said["prices"] == "gross",
        "treatment": TREATMENTS[said["tax_by"]],
        "country": said["for"]["to"]["land"],
        "buyer": _buyer(said["for"]),
        "lines": [_line(item, minor) for item in said["items"]],
        "shipping": [{**charge(post, minor, identity="postage"), "method": post["label"]}] if post else [],
        "payments": [_paid(money, minor) for money in said.get("paid", [])],
        "tax_total": minor(said["sums"]["tax"]),
        "total": minor(said["sums"]["due"]),
        "notes": [
            {"text": note["text"], "by": "seller", "at": moment(note["on"])} for note in said.get("seller_notes", [])
        ],
        "attributes": [{"name": "fair", "value": said["fair"]}],
        "link": said.get("page", ""),
    }


def _buyer(said: Json) -> dict[str, Any]:
    """The fair shows a relayed address in place of the buyer's own e-mail."""
    to = said["to"]
    address = {"name": said.get("name", ""), "lines": to.get("street", []), "town": to.get("place", ""),
               "region": to.get("county", ""), "postcode": to.get("code", ""), "country": to["land"]}  # fmt: skip
    return {"email": said.get("relay", ""), "name": said.get("name", ""), "billing": address, "delivery": address}


def _line(item: Json, minor: Minor) -> dict[str, Any]:
    return {
        **charge(item, minor, identity=str(item["pos"])),
        "sku": item.get("code", ""),
        "barcode": item.get("barcode", ""),
        "nature": NATURES[item.get("sort", "goods")],
        "quantity": str(item["how_many"]),
        "unit_price": minor(item["each"]),
    }


def _paid(money: Json, minor: Minor) -> dict[str, Any]:
    """What the buyer paid to the marketplace, which pays the seller later. A buyer's bank can reverse it."""
    return {
        "transaction": money["ref"],
        "method": "Lanternfair",
        "tender": "marketplace",
        "amount": minor(money["minor"]),
        "state": "failed" if money.get("reversed") else "received",
        "paid_at": moment(money["on"]),
    }


def refund(said: Json) -> dict[str, Any]:
    """Money handed back to a buyer by the marketplace."""
    minor = Minor(said["money"])
    post = said.get("postage")
    return {
        "id": str(said["key"]),
        "number": said["handback"],
        "order_id": str(said["sale_key"]),
        "order_number": said["sale"],
        "refunded_at": moment(said["on"]),
        "changed_at": moment(said["moved"]),
        "currency": said["money"],
        "prices_include_tax": said["prices"] == "gross",
        "reason": said.get("why", ""),
        "lines": [_returned(item, minor) for item in said.get("items", [])],
        "shipping": [charge(post, minor, identity="postage")] if post else [],
        "goodwill": [charge(part, minor, identity=f"goodwill-{place}") for place, part in
                     enumerate(said.get("goodwill", []), start=1)],
        "payments": [_paid(money, minor) for money in said.get("paid", [])],
        "tax_total": minor(said["sums"]["tax"]),
        "total": minor(said["sums"]["due"]),
        "link": said.get("page", ""),
    }  # fmt: skip


def _returned(item: Json, minor: Minor) -> dict[str, Any]:
    return {
        "line": str(item["pos"]),
        "sku": item.get("code", ""),
        "title": item.get("label", ""),
        "quantity": str(item["how_many"]),
        "amount": minor(item["minor"]),
        "taxes": taxes(item, minor),
        "restocked": item.get("came_back", False),
    }


def dispatch(said: Json) -> dict[str, Any]:
    """A parcel that the seller told the marketplace of."""
    return {
        "id": str(said["key"]),
        "number": said["parcel"],
        "order_number": said["sale"],
        "dispatched_at": moment(said["on"]),
        "changed_at": moment(said["moved"]),
        "carrier": said.get("carrier", ""),
        "tracking_number": said.get("tracking", ""),
        "lines": [
            {"line": str(item["pos"]), "sku": item["code"], "quantity": str(item["how_many"])} for item in said["items"]
        ],
    }


def in_a_line(said: Json) -> dict[str, Any]:
    """A sale, or money handed back, as a list by day has it, in the words of ``ListedDocument``."""
    minor = Minor(said["money"])
    return {"id": str(said["key"]), "number": said["name"], "placed_at": moment(said["on"]),
            "changed_at": moment(said["moved"]), "currency": said["money"], "gross": minor(said["due"])}  # fmt: skip
