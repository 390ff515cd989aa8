"""A simulated contact list: people by their e-mail, and their orders by a name that the writer gives them."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins import doors
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import Do, Turned
from inkwell_bridge.standins.keys import once
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

LARGEST_PAGE = 500


class ContactList:
    """The list's state and its calls."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Fill a world; ``reset`` empties it first."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for person in contents.get("people", []):
            self.store.add(world, "person", person, find=_email(person))

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Everybody, for the page."""
        title = (self.store.get(world, "company", 1) or {"name": "No such list"})["name"]
        people = [[one["name"], one["email"], one["phone"], one["group"]] for one in self.store.all(world, "person")]
        orders = [[one["number"], one["day"], one["gross"]] for one in self.store.all(world, "order")]
        return title, [
            Table(title="People", heads=["Name", "E-mail", "Phone", "Group"], rows=people),
            Table(title="Orders", heads=["Order", "Day", "Gross"], rows=orders),
        ]

    def describe(self, request: Request, world: str, _: bytes) -> Response:
        """The list itself, without its token."""
        company = self.store.get(world, "company", 1) or {}
        return JSONResponse({name: value for name, value in company.items() if name != "token"})

    def people(self, request: Request, world: str, _: bytes) -> Response:
        """People with an e-mail, whatever its case, or all of them page by page."""
        if "after" in request.query_params:
            return JSONResponse(doors.listed(self.store, request, "person"))
        email = request.query_params["email"].strip().lower()
        return JSONResponse({"people": self.store.search(world, "person", email)})

    def add_person(self, request: Request, world: str, body: bytes) -> Response:
        """A new person, once under each key."""
        person = json.loads(body)

        def do() -> Response:
            return JSONResponse({"id": self.store.add(world, "person", person, find=_email(person))}, 201)

        return once(self.store, world, request, body, do)

    def change_person(self, request: Request, world: str, body: bytes) -> Response:
        """Other particulars for a person."""
        number = int(request.path_params["id"])
        if self.store.get(world, "person", number) is None:
            raise Turned(404, f"no person {number}")
        person = {**json.loads(body), "id": number}
        self.store.put(world, "person", number, person, find=_email(person))
        return JSONResponse(person)

    def orders(self, request: Request, world: str, _: bytes) -> Response:
        """The orders of some names, as far as they are there; or those of some numbers, or whose name begins so."""
        given = request.query_params
        if "numbers" in given:
            wanted = set(given["numbers"].split(","))
            found = [one for one in self.store.all(world, "order") if one["number"] in wanted]
            return JSONResponse({"entries": found, "onward": None})
        if "prefix" in given:
            page = self.store.found_behind(
                world, "order", given["prefix"], after=int(given["after"]), limit=int(given["limit"])
            )
            return JSONResponse(page)
        names = request.query_params.getlist("name")[:LARGEST_PAGE]
        return JSONResponse({"orders": self.store.search(world, "order", *names)})

    def order(self, request: Request, world: str, _: bytes) -> Response:
        """One order."""
        found = self.store.search(world, "order", request.path_params["name"])
        if not found:
            raise Turned(404, "no such order")
        return JSONResponse(found[0])

    def put_order(self, request: Request, world: str, body: bytes) -> Response:
        """Write an order under its name, in place of what stands there."""
        name, order = request.path_params["name"], json.loads(body)
        if self.store.get(world, "person", order["person"]) is None:
            raise Turned(422, f"no person {order['person']}")
        net = sum((Decimal(row["net"]) for row in order["rows"]), Decimal(0))
        tax = sum((Decimal(row["tax"]) for row in order["rows"]), Decimal(0))
        kept = {**order, "name": name, "net": str(net), "tax": str(tax), "gross": str(net + tax)}
        known = self.store.search(world, "order", name)
        if known:
            self.store.put(world, "order", known[0]["id"], {**kept, "id": known[0]["id"]}, find=name)
        else:
            self.store.add(world, "order", kept, find=name)
        return JSONResponse(kept)


def _email(person: dict[str, Any]) -> str:
    return str(person.get("email", "")).strip().lower()


def application(store: Store) -> Starlette:
    """The contact list as an ASGI application; each first part of a path is a list of its own."""
    contacts = ContactList(store)

    def route(method: str, path: str, call: str, right: str, do: Do) -> Route:
        async def endpoint(request: Request) -> Response:
            return await doors.answer(
                request, store=store, misbehaviour=contacts.misbehaviour, call=call, right=right, do=do
            )

        return Route(f"/{{world}}{path}", endpoint, methods=[method])

    return Starlette(
        routes=[
            route("GET", "/list", "list", "", contacts.describe),
            route("GET", "/people", "people.search", "read", contacts.people),
            route("POST", "/people", "people.create", "write", contacts.add_person),
            route("PUT", "/people/{id}", "people.amend", "write", contacts.change_person),
            route("GET", "/orders", "orders.search", "read", contacts.orders),
            route("GET", "/orders/{name}", "orders.read", "read", contacts.order),
            route("PUT", "/orders/{name}", "orders.put", "write", contacts.put_order),
            *control_routes(store, contacts.misbehaviour, contacts.load, contacts.look),
        ]
    )
