"""The ledger's doors."""

from __future__ import annotations

import json
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins import doors
from inkwell_bridge.standins.control import Table, control_routes
from inkwell_bridge.standins.doors import Do, Turned
from inkwell_bridge.standins.keys import once
from inkwell_bridge.standins.ledger.documents import PREFIXES, Documents
from inkwell_bridge.standins.ledger.entries import Entries
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

LISTS = {"accounts": "account", "taxes": "tax", "terms": "term", "dimensions": "dimension"}


class Ledger:
    """The ledger's state, besides its documents."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Fill a world; ``reset`` empties it first, and a list that is given takes the place of the old one."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for name, kind in LISTS.items():
            if name in contents:
                self.store.forget(world, kind)
            for number, entry in enumerate(contents.get(name, []), start=1):
                self.store.put(world, kind, number, entry, find=entry.get("code", entry["name"]))
        for contact in contents.get("contacts", []):
            self.store.add(world, "contact", contact, find=_email(contact))
        for item in contents.get("items", []):
            self.store.add(world, "item", item, find=item["code"])

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Its documents, for the page."""
        title = (self.store.get(world, "company", 1) or {"name": "No such ledger"})["name"]
        heads = ["Id", "Number", "State", "Day", "Reference", "Net", "Tax", "Gross"]
        tables = []
        for kind in PREFIXES:
            rows = [
                [str(one["id"]), one["number"], one["state"], one["day"], one["reference"],
                 *(one.get(name, "") for name in ("net", "tax", "gross"))]
                for one in self.store.all(world, kind)
            ]  # fmt: skip
            if rows or kind == "invoices":
                tables.append(Table(title=kind.replace("-", " ").capitalize(), heads=heads, rows=rows))
        return title, tables

    def describe(self, request: Request, world: str, _: bytes) -> Response:
        """The company, without its token."""
        company = self.store.get(world, "company", 1) or {}
        return JSONResponse({name: value for name, value in company.items() if name != "token"})

    def names(self, request: Request, world: str, _: bytes) -> Response:
        """Everything that has a code."""
        company = self.store.get(world, "company", 1) or {}
        lists = {name: self.store.all(world, kind) for name, kind in LISTS.items()}
        return JSONResponse(
            {
                **lists,
                "name": company["name"],
                "currency": company["currency"],
                "currencies": company["currencies"],
                "closed_until": company.get("closed_until", ""),
            }
        )

    def contacts(self, request: Request, world: str, _: bytes) -> Response:
        """Contacts with an e-mail, whatever its case, a code, tax number or postcode, or all of them page by page."""
        given = request.query_params
        if "after" in given:
            return JSONResponse(doors.listed(self.store, request, "contact"))
        if "email" in given:
            found = self.store.search(world, "contact", given["email"].strip().lower())
        else:
            (name,) = given.keys()
            every = self.store.all(world, "contact")
            found = [one for one in every if _plain(given[name]) in {_plain(value) for value in _values(one, name)}]
        return JSONResponse({"contacts": found})

    def add_contact(self, request: Request, world: str, body: bytes) -> Response:
        """A new contact, once under each key."""
        contact = json.loads(body)
        if not contact["name"]:
            raise Turned(422, "a contact needs a name")

        def do() -> Response:
            return JSONResponse({"id": self.store.add(world, "contact", contact, find=_email(contact))}, 201)

        return once(self.store, world, request, body, do)

    def change_contact(self, request: Request, world: str, body: bytes) -> Response:
        """Other particulars for a contact."""
        number = int(request.path_params["id"])
        known = self.store.get(world, "contact", number)
        if known is None:
            raise Turned(404, f"no contact {number}")
        contact = {**known, **json.loads(body)}
        self.store.put(world, "contact", number, contact, find=_email(contact))
        return JSONResponse(contact)

    def items(self, request: Request, world: str, _: bytes) -> Response:
        """Items with a code, or all of them page by page."""
        if "after" in request.query_params:
            return JSONResponse(doors.listed(self.store, request, "item"))
        return JSONResponse({"items": self.store.search(world, "item", request.query_params["code"])})

    def add_item(self, request: Request, world: str, body: bytes) -> Response:
        """A new item, once under each key."""
        item = json.loads(body)

        def do() -> Response:
            return JSONResponse({"id": self.store.add(world, "item", item, find=item["code"])}, 201)

        return once(self.store, world, request, body, do)


def _email(contact: dict[str, Any]) -> str:
    return str(contact.get("email", "")).strip().lower()


def application(store: Store) -> Starlette:
    """The ledger as an ASGI application; each first part of a path is a company of its own."""
    ledger, entries = Ledger(store), Entries(store)

    def route(method: str, path: str, call: str, right: str, do: Do) -> Route:
        async def endpoint(request: Request) -> Response:
            return await doors.answer(
                request, store=store, misbehaviour=ledger.misbehaviour, call=call, right=right, do=do
            )

        return Route(f"/{{world}}{path}", endpoint, methods=[method])

    def documents(kind: str) -> list[Route]:
        of = Documents(store, kind)
        return [
            route("GET", f"/{kind}", f"{kind}.search", "read", of.search),
            route("POST", f"/{kind}", f"{kind}.create", "documents", of.create),
            route("GET", f"/{kind}/{{id}}", f"{kind}.read", "read", of.read),
            route("PUT", f"/{kind}/{{id}}", f"{kind}.amend", "documents", of.replace),
            route("POST", f"/{kind}/{{id}}/release", f"{kind}.post", "release", of.release),
            route("POST", f"/{kind}/{{id}}/void", f"{kind}.void", "documents", of.void),
        ]

    return Starlette(
        routes=[
            route("GET", "/company", "company", "", ledger.describe),
            route("GET", "/names", "names", "read", ledger.names),
            route("GET", "/contacts", "contacts.search", "read", ledger.contacts),
            route("POST", "/contacts", "contacts.create", "contacts", ledger.add_contact),
            route("PUT", "/contacts/{id}", "contacts.amend", "contacts", ledger.change_contact),
            route("GET", "/items", "items.search", "read", ledger.items),
            route("POST", "/items", "items.create", "documents", ledger.add_item),
            route("GET", "/accounts/{code}/balance", "accounts.balance", "read", entries.balance),
            route("GET", "/accounts/{code}/entries", "accounts.entries", "read", entries.entries),
            *(one for kind in PREFIXES for one in documents(kind)),
            *control_routes(store, ledger.misbehaviour, ledger.load, ledger.look),
        ]
    )


def _values(contact: dict[str, Any], name: str) -> list[Any]:
    if name != "postcode":
        return [contact.get(name)]
    return [address.get(name) for address in (contact.get("invoice_to"), contact.get("deliver_to")) if address]


def _plain(text: Any) -> str:
    return "".join(letter for letter in str(text or "") if letter.isalnum() or letter == "-").upper()
