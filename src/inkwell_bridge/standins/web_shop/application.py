"""The shop's doors: lists, single documents, changes, and the names of things."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any
from urllib.parse import urlencode

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.after_sale import after_sale_route
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import basic
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store
from inkwell_bridge.standins.web_shop.after_sale import ShopAfterSale
from inkwell_bridge.standins.web_shop.calls import signed
from inkwell_bridge.standins.web_shop.changes import Changes, NoSuchThing
from inkwell_bridge.standins.web_shop.shelves import KINDS, Shelves

# Refunds and parcels are read with the right to read orders.
READING = {"orders": "read orders", "customers": "read customers", "products": "read products",
           "refunds": "read orders", "dispatches": "read orders", "stock": "read products"}  # fmt: skip
# Listed by when they were placed, or made.
PERIODS = ("orders", "refunds")
_SECRET = {"key", "secret", "signing_secret"}
Do = Callable[[Request, str, Any], Response]


class WebShop:
    """The shop's calls."""

    def __init__(self, store: Store) -> None:
        self.shelves = Shelves(store)
        self.misbehaviour = Misbehaviour()
        self.hooks = Hooks(store, self.misbehaviour, signed)
        self.changes = Changes(self.shelves)

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """See ``Shelves.load``; whoever is registered is told of each document."""
        for kind, entry in self.shelves.load(world, contents):
            self.hooks.tell(world, kind, entry)

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Orders and refunds, for the page."""
        shop = self.shelves.shop(world) or {"name": "No such shop"}
        orders = [
            [order["reference"], order["placed"], order["state"], order["tax"], order["total"],
             ", ".join(order.get("labels", []))]
            for order in self.shelves.store.all(world, "order")
        ]  # fmt: skip
        refunds = [
            [one["reference"], one["order"], one["when"], one["tax"], one["total"]]
            for one in self.shelves.store.all(world, "refund")
        ]
        return shop["name"], [
            Table(title="Orders", heads=["Order", "Placed", "State", "Tax", "Total", "Labels"], rows=orders),
            Table(title="Refunds", heads=["Refund", "Order", "When", "Tax", "Total"], rows=refunds),
        ]

    async def answer(self, request: Request, call: str, right: str, do: Do) -> Response:
        """Check the key, then do the call as the misbehaviour rules want it."""
        world = request.path_params["world"]
        body = await request.json() if request.method == "PUT" and await request.body() else None

        async def work() -> Response:
            shop = self.shelves.shop(world)
            if shop is None:
                return _error(404, "no such shop")
            if basic(request) != (shop["key"], shop["secret"]):
                return _error(401, "unknown key or wrong secret")
            if right and right not in shop["permissions"]:
                return _error(403, f"this key may not: {right}")
            try:
                return do(request, world, body)
            except NoSuchThing as missing:
                return _error(404, str(missing))
            except (KeyError, TypeError, ValueError) as wrong:
                return _error(422, f"the call does not fit: {wrong!r}")

        return await self.misbehaviour.around(world, call, work)

    def describe(self, request: Request, world: str, _: Any) -> Response:
        """The shop's own facts, without its secrets."""
        shop = self.shelves.shop(world) or {}
        return JSONResponse({name: value for name, value in shop.items() if name not in {*_SECRET, "names"}})

    def names(self, request: Request, world: str, _: Any) -> Response:
        """The shop's reference data."""
        shop = self.shelves.shop(world) or {}
        return JSONResponse({"name": shop["name"], "currency": shop["currency"], "languages": shop["languages"],
                             **shop.get("names", {})})  # fmt: skip

    def listed(self, name: str) -> Do:
        """A list, by time of change or by ids."""

        def do(request: Request, world: str, _: Any) -> Response:
            given = request.query_params
            if "ids" in given:
                ids = [int(number) for number in given["ids"].split(",") if number.isdigit()]
                return JSONResponse({name: self.shelves.by_ids(world, KINDS[name], ids)})
            limit = int(given.get("limit", "50"))
            entries, onward = self.shelves.listed(
                world, KINDS[name], since=given.get("changed_since", ""), after=given.get("after", ""), limit=limit
            )
            query = urlencode({"limit": limit, "after": onward})
            link = (self.shelves.shop(world) or {}).get("leads_to") or (onward and f"{request.url.path}?{query}")
            headers = {"Link": f'<{link}>; rel="next"'} if link else {}
            # Counting is for who reads all of it, and once is enough.
            first = not given.get("after") and not given.get("changed_since")
            total = {"total": self.shelves.store.count(world, KINDS[name])} if first else {}
            return JSONResponse({name: entries, **total}, headers=headers)

        return do

    def placed(self, name: str) -> Do:
        """What was placed, or made, between two moments."""

        def do(request: Request, world: str, _: Any) -> Response:
            given = request.query_params
            found = self.shelves.placed(
                world, KINDS[name], given["from"], given["before"], after=int(given.get("after", "0")),
                limit=int(given.get("limit", "250")),
            )  # fmt: skip
            return JSONResponse(found)

        return do

    def one(self, name: str) -> Do:
        """One document by its reference."""

        def do(request: Request, world: str, _: Any) -> Response:
            found = self.shelves.by_reference(world, KINDS[name], request.path_params["reference"])
            return JSONResponse(found) if found else _error(404, f"no such {KINDS[name]}")

        return do

    def label(self, request: Request, world: str, _: Any) -> Response:
        """Put a label on an order."""
        return self._changed(world, self.changes.label(world, _id(request), request.path_params["label"]))

    def remark(self, request: Request, world: str, body: Any) -> Response:
        """Write a remark on an order."""
        return self._changed(world, self.changes.remark(world, _id(request), body["text"]))

    def dispatch(self, request: Request, world: str, body: Any) -> Response:
        """Tell of a parcel."""
        return self._changed(world, self.changes.dispatch(world, _id(request), body))

    def money(self, request: Request, world: str, body: Any) -> Response:
        """Tell of money that came in elsewhere."""
        return self._changed(world, self.changes.money(world, _id(request), body))

    def stock(self, request: Request, world: str, body: Any) -> Response:
        """Set stock levels."""
        self.changes.stock(world, body["levels"])
        return JSONResponse({})

    def called(self, request: Request, world: str, _: Any) -> Response:
        """Whom the shop calls when something changes, without the secret."""
        return JSONResponse({"address": self.hooks.address(world)})

    def call(self, request: Request, world: str, body: Any) -> Response:
        """Call that address from now on, signed with that secret."""
        self.hooks.register(world, str(body["address"]), str(body["secret"]))
        return JSONResponse({"address": self.hooks.address(world)})

    def call_nobody(self, request: Request, world: str, _: Any) -> Response:
        """Call nobody."""
        self.hooks.register(world, "", "")
        return JSONResponse({"address": ""})

    def _changed(self, world: str, order: dict[str, Any]) -> Response:
        self.hooks.tell(world, "order", order)
        return JSONResponse(order)


def _id(request: Request) -> int:
    return int(request.path_params["id"])


def _error(status: int, said: str) -> Response:
    return JSONResponse({"error": said}, status)


def application(store: Store) -> Starlette:
    """The web shop as an ASGI application; each first part of a path is a shop of its own."""
    shop = WebShop(store)

    def route(path: str, call: str, right: str, do: Do, method: str = "GET") -> Route:
        async def endpoint(request: Request) -> Response:
            return await shop.answer(request, call, right, do)

        return Route(f"/{{world}}/api{path}", endpoint, methods=[method])

    return Starlette(
        routes=[
            route("/shop", "shop", "", shop.describe),
            route("/reference", "reference", "", shop.names),
            *(route(f"/{name}", name, right, shop.listed(name)) for name, right in READING.items()),
            *(route(f"/placed/{name}", f"placed.{name}", READING[name], shop.placed(name)) for name in PERIODS),
            *(route(f"/{name}/{{reference}}", KINDS[name], right, shop.one(name)) for name, right in READING.items()),
            route("/orders/{id}/labels/{label}", "orders.label", "write orders", shop.label, "PUT"),
            route("/orders/{id}/remarks", "orders.remark", "write orders", shop.remark, "PUT"),
            route("/orders/{id}/dispatches", "orders.dispatch", "write orders", shop.dispatch, "PUT"),
            route("/orders/{id}/money", "orders.money", "write orders", shop.money, "PUT"),
            route("/call-address", "call-address", "read orders", shop.called),
            route("/call-address", "call-address.set", "write orders", shop.call, "PUT"),
            route("/call-address", "call-address.remove", "write orders", shop.call_nobody, "DELETE"),
            route("/stock", "stock.set", "write stock", shop.stock, "PUT"),
            after_sale_route(ShopAfterSale(shop.shelves, shop.hooks.tell)),
            *control_routes(store, shop.misbehaviour, shop.load, shop.look),
        ]
    )
