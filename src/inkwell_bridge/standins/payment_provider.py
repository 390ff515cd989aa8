"""A simulated payment provider: what it took for a merchant, kept of it and paid out, day by day.

Amounts are whole minor units, signed as the provider's account sees them. Lists go on by a cursor.
"""

from __future__ import annotations

from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins import doors
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import Do, Turned
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
PAYOUTS, ENTRIES_PAGE = 50, 200


class PaymentProvider:
    """The provider's state and its calls."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()

    def load(self, world: str, contents: Json) -> None:
        """Fill a world; ``reset`` empties it first. A payout of a number that is there takes its place."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for payout in contents.get("payouts", []):
            self.store.put(world, "payout", payout["seq"], payout, find=payout["payout"], sort=payout["altered"])

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Its payouts, for the page."""
        title = (self.store.get(world, "company", 1) or {"name": "No such merchant"})["name"]
        heads = ["Payout", "Made", "Lands", "Currency", "Minor units", "Entries"]
        rows = [
            [one["payout"], one["made"], one["lands"], one["money"], str(one["minor"]), str(len(one["entries"]))]
            for one in self.store.all(world, "payout")
        ]
        return title, [Table(title="Payouts", heads=heads, rows=rows)]

    def merchant(self, request: Request, world: str, body: bytes) -> Response:
        """Whose account it is, without its token."""
        company = self.store.get(world, "company", 1) or {}
        return JSONResponse({name: value for name, value in company.items() if name != "token"})

    def payouts(self, request: Request, world: str, body: bytes) -> Response:
        """Those altered at or after a moment, oldest first, without their entries; or some by their numbers."""
        given = request.query_params
        if "numbers" in given:
            found = self.store.search(world, "payout", *given["numbers"].split(",")[:PAYOUTS])
            return JSONResponse({"payouts": [_head(one) for one in found], "cursor": None})
        moment, _, number = given.get("cursor", "").rpartition("|")
        after = (moment, int(number)) if number else (given.get("altered_since") or "0", 0)
        found = self.store.page(world, "payout", after=after, limit=PAYOUTS + 1)
        last = found[PAYOUTS - 1] if len(found) > PAYOUTS else None
        cursor = f"{last['altered']}|{last['seq']}" if last else None
        return JSONResponse({"payouts": [_head(one) for one in found[:PAYOUTS]], "cursor": cursor})

    def payout(self, request: Request, world: str, _: bytes) -> Response:
        """One payout, without its entries."""
        return JSONResponse(_head(self._found(request, world)))

    def entries(self, request: Request, world: str, _: bytes) -> Response:
        """The entries of a payout, from ``cursor`` on."""
        begins = int(request.query_params.get("cursor") or 0)
        entries = self._found(request, world)["entries"]
        ends = begins + ENTRIES_PAGE
        return JSONResponse({"entries": entries[begins:ends], "cursor": str(ends) if ends < len(entries) else None})

    def _found(self, request: Request, world: str) -> Json:
        found: list[Json] = self.store.search(world, "payout", request.path_params["payout"])
        if not found:
            raise Turned(404, "no such payout")
        return found[0]


def _head(payout: Json) -> Json:
    return {name: value for name, value in payout.items() if name != "entries"}


def application(store: Store) -> Starlette:
    """The provider as an ASGI application; each first part of a path is a merchant of its own."""
    provider = PaymentProvider(store)

    def route(path: str, call: str, right: str, do: Do) -> Route:
        async def endpoint(request: Request) -> Response:
            return await doors.answer(
                request, store=store, misbehaviour=provider.misbehaviour, call=call, right=right, do=do
            )

        return Route(f"/{{world}}{path}", endpoint, methods=["GET"])

    return Starlette(
        routes=[
            route("/merchant", "merchant", "", provider.merchant),
            route("/payouts", "payouts.list", "payouts", provider.payouts),
            route("/payouts/{payout}", "payouts.read", "payouts", provider.payout),
            route("/payouts/{payout}/entries", "payouts.entries", "payouts", provider.entries),
            *control_routes(store, provider.misbehaviour, provider.load, provider.look),
        ]
    )
