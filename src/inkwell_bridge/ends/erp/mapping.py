"""The ERP's words for the company, its chart, contacts and items."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inkwell_bridge.core.books import Item, MasterData
from inkwell_bridge.core.books.line import PIECE
from inkwell_bridge.ends.particulars import ContactWords

Json = Mapping[str, Any]

MEASURES = {"C62": "piece", "KGM": "kg", "GRM": "g", "HUR": "hour"}
UNITS = {measure: unit for unit, measure in MEASURES.items()}


def reference(company: Json, names: Json) -> MasterData:
    """The ERP's reference data, as a rulebook names them."""
    return MasterData.read(
        {
            "company": company["name"],
            "currency": company["currency"],
            "accounts": [{name: account[name] for name in ("code", "name", "type")} for account in names["accounts"]],
            "tax_codes": [
                {
                    "code": tax["code"],
                    "name": tax["name"],
                    "rate_percent": tax["rate"],
                    "outside": tax["outside"],
                    "parts": [
                        {"name": part["name"], "rate_percent": part["rate"], "on_others": part["on_others"]}
                        for part in tax.get("parts", [])
                    ],
                }
                for tax in names["tax_codes"]
            ],
            "warehouses": _named(names["warehouses"]),
            "terms": _named(names["terms"]),
            "price_lists": _named(names.get("price_lists", [])),
            "units": _named(names.get("units", [])),
            "delivery_methods": _named(names.get("delivery_ways", [])),
            "sales_people": _named(names.get("sellers", [])),
            "languages": _named(names.get("print_languages", [])),
            "currencies": names["currencies"],
            "periods": [
                {name: period[name] for name in ("name", "first", "last", "open")} for period in names["periods"]
            ],
            "locked_until": company.get("locked_until") or None,
        }
    )


def _named(entries: list[Json]) -> list[dict[str, Any]]:
    return [{"code": entry["code"], "name": entry["name"]} for entry in entries]


CONTACT = ContactWords()


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
