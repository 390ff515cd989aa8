"""The ledger's documents: drafts that can be replaced while their ETag is right, released under a number, or void."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.changed import changed_since
from inkwell_bridge.standins.control import page_of
from inkwell_bridge.standins.doors import Turned
from inkwell_bridge.standins.keys import once
from inkwell_bridge.standins.ledger import ubl
from inkwell_bridge.standins.store import Store

PREFIXES = {
    "invoices": "INV",
    "credit-notes": "CN",
    "payments-in": "PIN",
    "payments-out": "POUT",
    "write-offs": "WOF",
    "journals": "JRN",
}
LARGEST_PAGE = 500
_IN_BRIEF = ("id", "number", "state", "day", "reference", "order", "currency", "net", "tax", "gross")
_CARD = ("id", "number", "state")
UBL = ("invoices", "credit-notes")


class Documents:
    """One list of documents."""

    def __init__(self, store: Store, kind: str) -> None:
        self.store = store
        self.kind = kind

    def search(self, request: Request, world: str, _: bytes) -> Response:
        """The ids of all with one of these references; or a line each for those of some
        orders, or whose reference begins so; or in full what was released at or after a moment."""
        given = request.query_params
        if "changed_since" in given:
            return JSONResponse(self._released_since(world, given["changed_since"], given.get("onward", "")))
        if "orders" in given:
            found = self.store.bearing(world, self.kind, given["orders"].split(",")[:LARGEST_PAGE])
            return JSONResponse({"entries": [_brief(one) for one in found], "onward": None})
        if "prefix" in given:
            limit = min(int(given["limit"]), LARGEST_PAGE)
            page = self.store.found_behind(world, self.kind, given["prefix"], after=int(given["after"]), limit=limit)
            return JSONResponse({**page, "entries": [_brief(one) for one in page["entries"]]})
        found = self.store.search(world, self.kind, *given.getlist("reference")[:LARGEST_PAGE])
        return JSONResponse({"ids": [one["id"] for one in found]})

    def _released_since(self, world: str, since: str, onward: str) -> dict[str, Any]:
        """A page in the order of release; ``onward`` leads to the next."""
        if self.kind in UBL:
            raise Turned(404, f"{self.kind} are not listed by their release")
        page = changed_since(self.store, world, self.kind, since=since, onward=onward)
        entries = [{**one["said"], **{name: one[name] for name in _CARD}, "changed": one["changed"]}
                   for one in page["entries"]]  # fmt: skip
        return {**page, "entries": entries}

    def read(self, request: Request, world: str, _: bytes) -> Response:
        """One document."""
        return self._answer(world, self._one(request, world))

    def create(self, request: Request, world: str, body: bytes) -> Response:
        """A draft, once under each key."""

        def do() -> Response:
            kept = {
                **self._checked(world, body),
                "state": "draft",
                "number": "",
                "version": 1,
                "body": self._text(world, body),
            }
            number = self.store.add(world, self.kind, kept, find=kept["reference"])
            return self._answer(world, {**kept, "id": number}, 201)

        return once(self.store, world, request, body, do)

    def replace(self, request: Request, world: str, body: bytes) -> Response:
        """Other contents for a draft, if nobody changed it since (RFC 9110, If-Match)."""
        document = self._one(request, world)
        if request.headers.get("if-match") != _etag(document):
            raise Turned(412, f"{self.kind} {document['id']} is at {_etag(document)} by now")
        if document["state"] != "draft":
            raise Turned(409, f"{self.kind} {document['id']} is {document['state']}, not a draft")
        kept = {
            **document,
            **self._checked(world, body),
            "body": self._text(world, body),
            "version": document["version"] + 1,
        }
        return self._answer(world, self._keep(world, kept))

    def release(self, request: Request, world: str, _: bytes) -> Response:
        """Release a draft under the number it asks for, else the next one; releasing again changes nothing."""
        document = self._one(request, world)
        if document["state"] == "void":
            raise Turned(409, f"{self.kind} {document['id']} is void")
        if document["state"] == "draft":
            self._check_day(world, document["day"])
            self._check_balance(document)
            number = self._number(world, document)
            version = document["version"] + 1
            released = {
                "state": "released",
                "number": number,
                "version": version,
                "changed": datetime.now(UTC).isoformat(),
            }
            document = self._keep(world, {**document, **released})
        return self._answer(world, document)

    def _number(self, world: str, document: dict[str, Any]) -> str:
        wanted = str(document.get("wanted", ""))
        if not wanted:
            return f"{PREFIXES[self.kind]}-{self._next(world)}"
        if any(one["number"] == wanted for one in self.store.all(world, self.kind)):
            raise Turned(422, f"number-taken: {wanted} is the number of another document")
        return wanted

    def void(self, request: Request, world: str, _: bytes) -> Response:
        """Throw a draft away."""
        document = self._one(request, world)
        if document["state"] == "released":
            raise Turned(409, f"{self.kind} {document['number']} is released")
        return self._answer(world, self._keep(world, {**document, "state": "void", "version": document["version"] + 1}))

    def _checked(self, world: str, body: bytes) -> dict[str, Any]:
        check: Callable[[str, bytes], dict[str, Any]] = self._ubl if self.kind in UBL else self._json
        kept = check(world, body)
        self._check_day(world, kept["day"])
        return kept

    def _ubl(self, world: str, body: bytes) -> dict[str, Any]:
        root = ubl.read(body)
        kept = {**ubl.particulars(root, self.kind), "wanted": ubl.wanted_number(root)}
        self._known(world, "contact", [kept["contact"]])
        self._coded(world, "account", kept.pop("accounts"))
        self._coded(world, "tax", kept.pop("taxes"))
        self._dimensions(world, kept.pop("dimensions"))
        return kept

    def _json(self, world: str, body: bytes) -> dict[str, Any]:
        said = json.loads(body)
        rows = [*said.get("rows", [said]), *([said["exchange"]] if said.get("exchange") else [])]
        self._coded(world, "account", [row["account"] for row in rows])
        self._dimensions(world, [pair for row in rows for pair in row.get("dimensions", {}).items()])
        if self.kind != "journals":
            self._known(world, "contact", [said["contact"]])
        return {"reference": said["reference"], "day": said["day"], "said": said}

    def _check_balance(self, document: dict[str, Any]) -> None:
        rows = document.get("said", {}).get("rows", [])
        left = sum((Decimal(row["own"]) for row in rows), Decimal(0))
        if left:
            raise Turned(422, f"the journal is out of balance by {left}")

    def _check_day(self, world: str, day: str) -> None:
        closed = (self.store.get(world, "company", 1) or {}).get("closed_until") or ""
        if day <= closed:
            raise Turned(423, f"the books are closed up to {closed}")

    def _text(self, world: str, body: bytes) -> str:
        """What is kept of a call: UBL in another currency with what it comes to in the ledger's own."""
        company = self.store.get(world, "company", 1) or {}
        if self.kind in UBL and company.get("currency"):
            body = ubl.with_base(body, company["currency"], company.get("rates", {}))
        return body.decode()

    def _known(self, world: str, kind: str, numbers: list[int]) -> None:
        for number in numbers:
            if self.store.get(world, kind, number) is None:
                raise Turned(422, f"no {kind} {number}")

    def _coded(self, world: str, kind: str, codes: list[str]) -> None:
        for code in codes:
            if not self.store.has(world, kind, code):
                raise Turned(422, f"no {kind} {code}")

    def _dimensions(self, world: str, pairs: list[tuple[str, str]]) -> None:
        for name, value in pairs:
            found = self.store.search(world, "dimension", name)
            if not found or value not in found[0]["values"]:
                raise Turned(422, f"no {name} called {value}")

    def _one(self, request: Request, world: str) -> dict[str, Any]:
        document = self.store.get(world, self.kind, int(request.path_params["id"]))
        if document is None:
            raise Turned(404, f"nothing called {request.path_params['id']} among the {self.kind}")
        return document

    def _next(self, world: str) -> int:
        counters = self.store.get(world, "sequence", 1) or {}
        number = int(counters.get(self.kind, 1000)) + 1
        self.store.put(world, "sequence", 1, {**counters, self.kind: number})
        return number

    def _keep(self, world: str, document: dict[str, Any]) -> dict[str, Any]:
        self.store.put(world, self.kind, document["id"], document, find=document["reference"],
                       sort=document.get("changed", ""))  # fmt: skip
        return document

    def _answer(self, world: str, document: dict[str, Any], status: int = 200) -> Response:
        headers = {"ETag": _etag(document), "Document-Page": page_of(world, self.kind, document["id"])}
        if self.kind not in UBL:
            card = {name: document[name] for name in _CARD}
            return JSONResponse({**document["said"], **card}, status, headers)
        content = document["body"].encode()
        headers |= {"Document-Id": str(document["id"]), "Document-State": document["state"]}
        if document["number"]:
            content = ubl.numbered(content, document["number"])
        return Response(content, status, headers, media_type="application/xml")


def _etag(document: dict[str, Any]) -> str:
    return f'"{document["id"]}-{document["version"]}"'


def _brief(document: dict[str, Any]) -> dict[str, Any]:
    return {name: document.get(name) for name in _IN_BRIEF}
