"""A simulated web shop: JSON over HTTP, key and secret by HTTP Basic (RFC 7617), pages by Link (RFC 8288)."""

from __future__ import annotations

import base64
import binascii
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlencode

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.control import control_routes
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

LARGEST_PAGE = 100


class WebShop:
    """The shop's state and its calls."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Put orders (and, where given, the shop's own facts) into a world; ``reset`` empties it first."""
        if contents.get("reset"):
            self.store.clear(world)
        if "shop" in contents:
            self.store.put(world, "shop", 1, contents["shop"])
        for order in contents.get("orders", []):
            self.store.put(world, "order", order["id"], order, find=order["reference"], sort=_instant(order))

    def look(self, world: str) -> tuple[str, list[str], list[list[str]]]:
        """All orders, for the page."""
        shop = self.store.get(world, "shop", 1) or {"name": "No such shop"}
        rows = [
            [order["reference"], order["placed"], order["state"], order["tax"], order["total"]]
            for order in self.store.all(world, "order")
        ]
        return shop["name"], ["Order", "Placed", "State", "Tax", "Total"], rows

    async def answer(self, request: Request, call: str) -> Response:
        """Check the key, then do the call as the misbehaviour rules want it."""
        world = request.path_params["world"]

        async def work() -> Response:
            shop = self.store.get(world, "shop", 1)
            if shop is None:
                return JSONResponse({"error": "no such shop"}, 404)
            if _credentials(request) != (shop["key"], shop["secret"]):
                return JSONResponse({"error": "unknown key or wrong secret"}, 401)
            if call == "shop":
                return JSONResponse({name: value for name, value in shop.items() if name not in {"key", "secret"}})
            if "read orders" not in shop["permissions"]:
                return JSONResponse({"error": "this key may not: read orders"}, 403)
            return self._orders(request, world) if call == "orders" else self._order(request, world)

        return await self.misbehaviour.around(world, call, work)

    def _orders(self, request: Request, world: str) -> Response:
        limit = min(int(request.query_params.get("limit", "50")), LARGEST_PAGE)
        since = _utc(request.query_params.get("changed_since", ""))
        sort, _, number = request.query_params.get("after", f"{since}~-1").rpartition("~")
        page = self.store.page(world, "order", after=(sort, int(number)), limit=limit + 1)
        headers = {}
        if len(page) > limit:
            page = page[:limit]
            query = {"limit": limit, "after": f"{_instant(page[-1])}~{page[-1]['id']}"}
            headers["Link"] = f'<{request.url.path}?{urlencode(query)}>; rel="next"'
        return JSONResponse({"orders": page}, headers=headers)

    def _order(self, request: Request, world: str) -> Response:
        found = self.store.search(world, "order", request.path_params["reference"])
        return JSONResponse(found[0]) if found else JSONResponse({"error": "no such order"}, 404)


def _instant(order: dict[str, Any]) -> str:
    return _utc(order["last_change"])


def _utc(moment: str) -> str:
    """A moment in UTC, so that text compares as time does."""
    return datetime.fromisoformat(moment).astimezone(UTC).isoformat() if moment else ""


def _credentials(request: Request) -> tuple[str, str] | None:
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() != "basic":
        return None
    try:
        key, _, secret = base64.b64decode(token, validate=True).decode().partition(":")
    except (binascii.Error, UnicodeDecodeError):
        return None
    return key, secret


def application(store: Store) -> Starlette:
    """The web shop as an ASGI application; each first part of a path is a shop of its own."""
    shop = WebShop(store)

    def route(path: str, call: str) -> Route:
        async def endpoint(request: Request) -> Response:
            return await shop.answer(request, call)

        return Route(f"/{{world}}/api{path}", endpoint)

    return Starlette(
        routes=[
            route("/shop", "shop"),
            route("/orders", "orders"),
            route("/orders/{reference}", "order"),
            *control_routes(store, shop.misbehaviour, shop.load, shop.look),
        ]
    )
