"""The ERP's words for the company, its chart, contacts and items."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.core.books import Contact, Item, MasterData, Particular
from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.core.commerce import Address

Json = Mapping[str, Any]

MEASURES = {"C62": "piece", "KGM": "kg", "GRM": "g", "HUR": "hour"}
UNITS = {measure: unit for unit, measure in MEASURES.items()}


def reference(company: Json, names: Json) -> MasterData:
    """What the ERP calls things, as a rulebook names them."""
    return MasterData.read(
        {
            "company": company["name"],
            "currency": company["currency"],
            "accounts": [{name: account[name] for name in ("code", "name", "type")} for account in names["accounts"]],
            "tax_codes": [
                {"code": tax["code"], "name": tax["name"], "rate_percent": tax["rate"], "outside": tax["outside"]}
                for tax in names["tax_codes"]
            ],
            "warehouses": _named(names["warehouses"]),
            "terms": _named(names["terms"]),
            "price_lists": _named(names.get("price_lists", [])),
            "units": _named(names.get("units", [])),
            "currencies": names["currencies"],
            "periods": [
                {name: period[name] for name in ("name", "first", "last", "open")} for period in names["periods"]
            ],
            "locked_until": company.get("locked_until") or None,
        }
    )


def _named(entries: list[Json]) -> list[dict[str, Any]]:
    return [{"code": entry["code"], "name": entry["name"]} for entry in entries]


def contact(wanted: Contact) -> dict[str, Any]:
    """A contact as the ERP makes it; one without a name goes by its e-mail."""
    return {
        "code": "",
        "name": wanted.company or wanted.name or wanted.email,
        "person": wanted.name,
        "email": wanted.email,
        "phone": wanted.phone,
        "tax_number": wanted.tax_number,
        "language": wanted.language,
        "group": wanted.group,
        "terms": wanted.terms,
        "billing": _address(wanted.billing),
        "delivery": _address(wanted.delivery),
    }


PLACES: dict[Particular, tuple[str, ...]] = {
    "name": ("name", "person"),
    "email": ("email",),
    "phone": ("phone",),
    "tax number": ("tax_number",),
    "language": ("language",),
    "group": ("group",),
    "terms": ("terms",),
    "billing": ("billing",),
    "delivery": ("delivery",),
}


def _address(address: Address | None) -> dict[str, Any] | None:
    return address.as_json() if address else None


def contact_read(said: Json) -> Contact:
    """A contact that the ERP has; of one that is a company, ``person`` is who to ask for."""
    return Contact.read(
        {
            "email": str(said.get("email") or "").strip().lower(),
            "name": said["name"],
            **{name: said.get(name) or "" for name in ("phone", "tax_number", "language", "group", "terms")},
            "billing": said.get("billing"),
            "delivery": said.get("delivery"),
        }
    )


def item_read(said: Json) -> Item:
    """An article that the ERP has."""
    return Item.read(
        {
            **{name: said[name] for name in ("code", "name")},
            **{name: said.get(name) or "" for name in ("barcode", "tax_code", "account")},
            "unit": UNITS.get(said.get("measure", ""), PIECE),
            "price": said.get("price"),
            **{name: said[name] for name in ("stocked", "lots", "active") if name in said},
        }
    )


def item(wanted: Item) -> dict[str, Any]:
    """An item as the ERP makes it: an article."""
    return {
        "code": wanted.code,
        "name": wanted.name,
        "barcode": wanted.barcode,
        "measure": MEASURES.get(wanted.unit, "piece"),
        "price": None if wanted.price is None else f"{wanted.price:f}",
        "tax_code": wanted.tax_code,
        "account": wanted.account,
        "stocked": wanted.stocked,
        "lots": wanted.lots,
        "active": wanted.active,
    }
