"""The provider's doors: what it took for a merchant, kept of it and paid out, day by day, and what it asks buyers for.

Amounts are whole minor units, signed as the provider's account sees them. Lists go on by a cursor.
"""

from __future__ import annotations

import json
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins import doors
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import Do, Turned
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.payment_provider.calls import signed
from inkwell_bridge.standins.payment_provider.charges import Charges
from inkwell_bridge.standins.payment_provider.pages import page_routes
from inkwell_bridge.standins.payment_provider.requests import Requests
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
PAYOUTS, ENTRIES_PAGE = 50, 200


class PaymentProvider:
    """The provider's state and its calls."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()
        self.hooks = Hooks(store, self.misbehaviour, signed)
        self.requests = Requests(store, self.hooks)
        self.charges = Charges(store, self.hooks)

    def load(self, world: str, contents: Json) -> None:
        """Fill a world; ``reset`` empties it first. A payout of a number that is there takes its place."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for payout in contents.get("payouts", []):
            self.store.put(world, "payout", payout["seq"], payout, find=payout["payout"], sort=payout["altered"])
            self.hooks.tell(world, "payout", payout)
        for number, entry in enumerate(contents.get("open_entries", []), start=1):
            self.store.put(world, "open entry", number, entry)
        self.charges.load(world, contents)
        self.requests.load(world, contents)

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Its payouts, for the page."""
        title = (self.store.get(world, "company", 1) or {"name": "No such merchant"})["name"]
        heads = ["Payout", "Made", "Lands", "Currency", "Minor units", "Entries"]
        rows = [
            [one["payout"], one["made"], one["lands"], one["money"], str(one["minor"]), str(len(one["entries"]))]
            for one in self.store.all(world, "payout")
        ]
        asked = [
            [one["request"], one["says"], one["money"], str(one["minor"]), str(one["came_in"]), one["page_until"]]
            for one in self.store.all(world, "request")
        ]
        of_requests = Table(title="Requests", heads=["Request", "Says", "Currency", "Minor units", "Came in",
                                                     "Page until"], rows=asked)  # fmt: skip
        return title, [Table(title="Payouts", heads=heads, rows=rows), *([of_requests] if asked else [])]

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

    def unpaid(self, request: Request, world: str, _: bytes) -> Response:
        """Entries up to the end of a day that stood in no payout made by then: of later payouts, and of none yet."""
        company = self.store.get(world, "company", 1) or {}
        zone = ZoneInfo(company["time_zone"])
        last, begins = date.fromisoformat(request.query_params["day"]), int(request.query_params.get("cursor") or 0)

        def on(moment: str) -> date:
            return datetime.fromisoformat(moment).astimezone(zone).date()

        payouts = self.store.all(world, "payout")
        paid = {one.get("about") for payout in payouts for one in payout["entries"]}
        later = [one for payout in payouts if on(payout["made"]) > last for one in payout["entries"]]
        taken = [_charged(one) for one in self.store.all(world, "taking") if one["taking"] not in paid]
        found = [one for one in (*later, *self.store.all(world, "open entry"), *taken) if on(one["when"]) <= last]
        found.sort(key=lambda one: (one["when"], one["entry"]))
        ends = begins + ENTRIES_PAGE
        return JSONResponse({"money": company["currency"], "entries": found[begins:ends],
                             "cursor": str(ends) if ends < len(found) else None})  # fmt: skip

    def called(self, request: Request, world: str, _: bytes) -> Response:
        """Whom it calls when something was taken."""
        return JSONResponse({"address": self.hooks.address(world)})

    def call(self, request: Request, world: str, body: bytes) -> Response:
        """Call that address from now on, signed with that secret; nobody, where it is empty."""
        said = json.loads(body)
        self.hooks.register(world, str(said["address"]), str(said["secret"]))
        return JSONResponse({"address": self.hooks.address(world)})

    def _found(self, request: Request, world: str) -> Json:
        found: list[Json] = self.store.search(world, "payout", request.path_params["payout"])
        if not found:
            raise Turned(404, "no such payout")
        return found[0]


def _charged(taking: Json) -> Json:
    """Money that came in on a request, as an entry of the ledger; the provider keeps nothing of it."""
    return {"entry": f"we_{taking['taking']}", "does": "charge", "about": taking["taking"], "shop_ref": taking["bill"],
            "when": taking["when"], "minor": taking["minor"], "left": taking["minor"]}  # fmt: skip


def _head(payout: Json) -> Json:
    return {name: value for name, value in payout.items() if name != "entries"}


def application(store: Store) -> Starlette:
    """The provider as an ASGI application; each first part of a path is a merchant of its own."""
    provider = PaymentProvider(store)

    def route(path: str, call: str, right: str, do: Do, method: str = "GET") -> Route:
        async def endpoint(request: Request) -> Response:
            return await doors.answer(
                request, store=store, misbehaviour=provider.misbehaviour, call=call, right=right, do=do
            )

        return Route(f"/{{world}}{path}", endpoint, methods=[method])

    asked = provider.requests
    return Starlette(
        routes=[
            route("/merchant", "merchant", "", provider.merchant),
            route("/payouts", "payouts.list", "payouts", provider.payouts),
            route("/payouts/{payout}", "payouts.read", "payouts", provider.payout),
            route("/payouts/{payout}/entries", "payouts.entries", "payouts", provider.entries),
            route("/unpaid", "unpaid", "payouts", provider.unpaid),
            route("/charges", "charges.list", "payouts", provider.charges.listed),
            route("/charges/{charge}", "charges.read", "payouts", provider.charges.read),
            route("/requests", "requests.make", "requests", asked.make, "POST"),
            route("/requests", "requests.search", "requests", asked.search),
            route("/requests/{request}", "requests.read", "requests", asked.read),
            route("/requests/{request}", "requests.change", "requests", asked.change, "PUT"),
            route("/requests/{request}/pages", "requests.renew", "requests", asked.renew, "POST"),
            route("/takings", "takings.list", "requests", asked.takings),
            route("/takings/{taking}", "takings.read", "requests", asked.taking),
            route("/calls", "calls.read", "", provider.called),
            route("/calls", "calls.set", "", provider.call, "PUT"),
            *page_routes(asked),
            *control_routes(store, provider.misbehaviour, provider.load, provider.look),
        ]
    )
