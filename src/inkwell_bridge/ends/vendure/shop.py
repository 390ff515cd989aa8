"""Calls to a storefront kept in Vendure."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.commerce import SalesCapabilities, SalesMasterData, SourceKind, StockLevel, WriteBackKind
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.ends.errors import Away, NotOffered, Refused
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.shapes import (
    AddDispatch,
    AddNote,
    AddTag,
    Check,
    Event,
    Fetched,
    Page,
    SetStock,
    SignedCall,
    WriteBack,
)
from inkwell_bridge.ends.vendure import queries
from inkwell_bridge.ends.vendure.graphql import GraphQL
from inkwell_bridge.ends.vendure.lists import LISTINGS, Lists, fetched
from inkwell_bridge.ends.vendure.mapping import Json, carriage_class
from inkwell_bridge.ends.vendure.orders import Orders

NAME = "Vendure"
CAPABILITIES = SalesCapabilities(
    lists=tuple(LISTINGS),
    by_number=tuple(LISTINGS),
    writes_back=(WriteBackKind.NOTE, WriteBackKind.DISPATCH, WriteBackKind.STOCK),
    signed_calls=False,
)
# Each right that the work needs, and which of Vendure's own give it.
NEEDED = {
    "read orders": {"ReadOrder"},
    "read customers": {"ReadCustomer"},
    "read products": {"ReadCatalog", "ReadProduct"},
    "read settings": {"ReadSettings", "ReadTaxRate"},
    "write orders": {"UpdateOrder"},
    "write stock": {"UpdateCatalog", "UpdateProduct"},
}
REMEDY = "In Vendure, Settings > Roles: tick this right for the role of the user that Inkwell Bridge signs in as."


class VendureShop:
    """A connected storefront."""

    capabilities = CAPABILITIES

    def __init__(self, opening: Opening) -> None:
        self._graphql = GraphQL(opening)
        self._lists = Lists(self._graphql)
        self._reader: Orders | None = None

    def check(self) -> Check:
        """See ``SalesEnd.check``. Vendure has no time zone: all its moments are in UTC."""
        try:
            said = self._shop()
            channel = said["activeChannel"]
            ours = [one for one in said["me"]["channels"] if one["code"] == channel["code"]]
            rights = {right for one in ours for right in one["permissions"]}
            granted = [name for name, by in NEEDED.items() if rights & (by | {"SuperAdmin"})]
            languages = channel["availableLanguageCodes"] or [channel["defaultLanguageCode"]]
            words = {"name": (channel.get("seller") or {}).get("name") or channel["code"], "time_zone": "UTC",
                     "currency": channel["defaultCurrencyCode"], "languages": languages,
                     "permissions": granted}  # fmt: skip
        except (KeyError, TypeError, AttributeError) as error:
            raise Away(f"Vendure's account of itself lacks or misstates {error}") from error
        return Check.of(words, needed=tuple(NEEDED), remedy=REMEDY)

    def master_data(self) -> SalesMasterData:
        """See ``SalesEnd.master_data``. Tax classes are named by Vendure's rates: each has one name and one value."""
        try:
            return SalesMasterData.read(_reference(self._shop()["activeChannel"], self._graphql.read(queries.NAMES)))
        except (DocumentInvalid, KeyError, TypeError, AttributeError) as error:
            raise Away(f"Vendure's list of names lacks or misstates {error}") from error

    def documents(self, kind: SourceKind, *, changed_since: datetime | None, page: str | None = None) -> Page:
        """See ``SalesEnd.documents``. Orders come in the order in which they were begun."""
        _offered(kind)
        entries, onward = self._lists.page(kind, changed_since, int(page or 0))
        found = [one for entry in entries for one in fetched(kind, entry, self._read())]
        if changed_since is not None:
            found = [one for one in found if one.changed_at is None or one.changed_at >= changed_since]
        return Page(documents=tuple(found), next=None if onward is None else str(onward))

    def document(self, kind: SourceKind, number: str) -> Fetched:
        """See ``SalesEnd.document``."""
        _offered(kind)
        owner = {SourceKind.REFUNDS: "-R", SourceKind.DISPATCHES: "-D", SourceKind.STOCK: " "}.get(kind)
        value = number.rpartition(owner)[0] if owner else number.removeprefix("C-")
        entries = self._lists.by_numbers(kind, [value]) if value else []
        found = [one for entry in entries for one in fetched(kind, entry, self._read())]
        for one in found:
            if one.number == number or one.document is None:
                return one
        raise Refused(f"Vendure has no {kind.removesuffix('s')} {number}", why="not found")

    def fetch_by_ids(self, kind: SourceKind, ids: Sequence[str]) -> tuple[Fetched, ...]:
        """See ``SalesEnd.fetch_by_ids``."""
        _offered(kind)
        found = [one for entry in self._lists.by_ids(kind, ids) for one in fetched(kind, entry, self._read())]
        wanted = set(ids)
        return tuple(one for one in found if one.id in wanted)

    def write_back(self, what: WriteBack) -> None:
        """See ``SalesEnd.write_back``."""
        match what:
            case AddTag():
                raise NotOffered(NAME, "tags on orders")
            case AddNote():
                self._note(what)
            case AddDispatch():
                self._send(what)
            case SetStock():
                self._set_stock(what.levels)

    def parse_webhook(self, call: SignedCall, secrets: Sequence[str] = ()) -> Event:
        """See ``SalesEnd.parse_webhook``."""
        raise NotOffered(NAME, "signed calls")

    def _shop(self) -> Any:
        return self._graphql.read(queries.SHOP)

    def _read(self) -> Orders:
        if self._reader is None:
            try:
                said = self._shop()
                digits = said["globalSettings"]["serverConfig"]["moneyStrategyPrecision"]
                self._reader = Orders(int(digits), with_tax=bool(said["activeChannel"]["pricesIncludeTax"]))
            except (KeyError, TypeError, ValueError) as error:
                raise Away(f"Vendure's account of itself lacks or misstates {error}") from error
        return self._reader

    def _note(self, what: AddNote) -> None:
        order = self._graphql.read(queries.NOTES, id=what.id)["order"]
        if order is None:
            raise Refused(f"Vendure has no order {what.id}", why="not found")
        if all(entry["data"].get("note") != what.text for entry in order["history"]["items"]):
            self._graphql.change(queries.ADD_NOTE, input={"id": what.id, "note": what.text, "isPublic": False})

    def _send(self, what: AddDispatch) -> None:
        """Tell of a dispatch; a parcel is known by its tracking number, or where it has none by its own."""
        order = next(self._lists.by_ids(SourceKind.ORDERS, [what.id]), None)
        if order is None:
            raise Refused(f"Vendure has no order {what.id}", why="not found")
        tracking = what.dispatch.tracking_number or what.dispatch.number
        there = next((one for one in order["fulfillments"] or [] if one["trackingCode"] == tracking), None)
        if there is None:
            lines = [{"orderLineId": line.line, "quantity": int(line.quantity)} for line in what.dispatch.lines]
            words = {"method": what.dispatch.carrier or "Carrier", "trackingCode": tracking}
            arguments = [{"name": name, "value": value} for name, value in words.items()]
            handler = {"code": "manual-fulfillment", "arguments": arguments}
            there = self._graphql.change(queries.ADD_FULFILMENT, input={"lines": lines, "handler": handler})
        if there.get("state", "Pending") == "Pending":
            self._graphql.change(queries.SHIP, id=there["id"])

    def _set_stock(self, levels: Sequence[StockLevel]) -> None:
        places = {one["name"]: one["id"] for one in self._graphql.read(queries.PLACES)["stockLocations"]["items"]}
        skus = sorted({level.sku for level in levels})
        variants = {entry["sku"]: entry["id"] for entry in self._lists.by_numbers(SourceKind.STOCK, skus)}
        lacking = [level.sku for level in levels if level.sku not in variants]
        lacking += [level.location for level in levels if level.location not in places]
        if lacking:
            raise Refused(f"Vendure has no article or place {lacking[0]}")
        words: dict[str, list[dict[str, Any]]] = {}
        for level in levels:
            told = {"stockLocationId": places[level.location], "stockOnHand": int(level.on_hand)}
            words.setdefault(variants[level.sku], []).append(told)
        given = [{"id": number, "stockLevels": told} for number, told in words.items()]
        self._graphql.change(queries.SET_STOCK, input=given)


def _offered(kind: SourceKind) -> None:
    if kind not in LISTINGS:
        raise NotOffered(NAME, f"list of {kind}")


def _reference(channel: Json, names: Json) -> dict[str, Any]:
    rates: dict[str, list[dict[str, Any]]] = {}
    for one in names["taxRates"]["items"]:
        told = {"name": one["name"], "rate_percent": str(one["value"])}
        if one["enabled"] and told not in rates.setdefault(one["name"], []):
            rates[one["name"]].append(told)
    carriage = {carriage_class(rate): rate for rate in _carriage_rates(names)}
    rates |= {name: [{"name": name, "rate_percent": f"{rate:f}"}] for name, rate in carriage.items()}
    states = {one["name"] for one in names["globalSettings"]["serverConfig"]["orderProcess"]}
    return {
        "seller": (channel.get("seller") or {}).get("name") or channel["code"],
        "currency": channel["defaultCurrencyCode"],
        "tax_classes": [{"name": name, "rates": found} for name, found in rates.items()],
        "payment_methods": [one["code"] for one in names["paymentMethods"]["items"]],
        "shipping_methods": [one["code"] for one in names["shippingMethods"]["items"]],
        "order_statuses": sorted(states),
        "locations": [one["name"] for one in names["stockLocations"]["items"]],
        "customer_groups": [one["name"] for one in names["customerGroups"]["items"]],
        "languages": channel["availableLanguageCodes"] or [channel["defaultLanguageCode"]],
        "discount_codes": [one["couponCode"] for one in names["promotions"]["items"] if one["couponCode"]],
    }


def _carriage_rates(names: Json) -> list[Decimal]:
    arguments = [arg for one in names["shippingMethods"]["items"] for arg in one["calculator"]["args"]]
    return [Decimal(arg["value"]) for arg in arguments if arg["name"] == "taxRate"] + [Decimal(0)]
