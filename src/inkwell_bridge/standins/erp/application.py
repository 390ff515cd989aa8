"""The ERP's one door: JSON-RPC 2.0 (specification of 2010), errors with status 200, as the protocol has it."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from decimal import InvalidOperation
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.control import Table, control_routes, page_of
from inkwell_bridge.standins.erp import stock
from inkwell_bridge.standins.erp.calls import signed
from inkwell_bridge.standins.erp.company import Company
from inkwell_bridge.standins.erp.documents import FAMILIES, Documents
from inkwell_bridge.standins.erp.postings import Postings
from inkwell_bridge.standins.erp.refusal import BAD_CALL, NO_SUCH_METHOD, SIGN_IN, Refusal, refused
from inkwell_bridge.standins.erp.sales_ledger import SalesLedger
from inkwell_bridge.standins.hooks import Hooks
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

READING = ("search", "read", "list")
NEEDED = {
    "company.names": "read accounts",
    "accounts.balance": "read accounts",
    "accounts.entries": "read accounts",
    "sales_ledger.note": "write invoices",
    "contacts.search": "read contacts",
    "contacts.list": "read contacts",
    "contacts.create": "write contacts",
    "contacts.amend": "write contacts",
    "articles.create": "write articles",
    "calls.set": "write invoices",
}


class Erp:
    """The ERP's state and its methods."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()
        self.hooks = Hooks(store, self.misbehaviour, signed)
        self.company = Company(store)
        self.methods: dict[str, Callable[[str, dict[str, Any]], Any]] = {
            "company.describe": self.company.describe,
            "company.names": self.company.names,
            "contacts.search": self.company.search_contacts,
            "contacts.list": lambda world, params: self.company.listed(world, "contact", params),
            "contacts.create": self.company.create_contact,
            "contacts.amend": self.company.amend_contact,
            "calls.read": lambda world, _: {"address": self.hooks.address(world)},
            "calls.set": self._set_calls,
            "articles.search": self.company.search_articles,
            "articles.list": lambda world, params: self.company.listed(world, "article", params),
            "articles.create": self.company.create_article,
            "stock.list": lambda world, params: stock.listed(store, world, "stock", params),
            "receipts.changed": lambda world, params: stock.listed(store, world, "receipt", params),
            "dispatches.list": lambda world, params: stock.listed(store, world, "dispatch", params),
            **Postings(store).methods(),
            **SalesLedger(store).methods(),
        }
        for name, family in FAMILIES.items():
            documents = Documents(store, family).methods()
            made = {f"{name}.{call}": _with_pages(family.kind, do) for call, do in documents.items()}
            self.methods = made | self.methods

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Fill a world; see ``Company.load``. ``invoices`` are such as somebody enters at a screen and posts, under a
        number of their own: made out to the contact with that ``code``, in the words of ``invoices.create`` else."""
        changed = self.company.load(world, contents)
        invoices = Documents(self.store, FAMILIES["invoices"])
        for entered in contents.get("invoices", []):
            (contact, *_) = self.company.search_contacts(world, {"code": entered["code"]})
            invoices.enter(world, {**entered, "contact": contact["id"]})
        for document in changed:
            self.hooks.tell(world, "document", document)

    def _set_calls(self, world: str, params: dict[str, Any]) -> dict[str, str]:
        self.hooks.register(world, str(params["address"]), str(params["secret"]))
        return {"address": self.hooks.address(world)}

    async def call(self, request: Request) -> Response:
        """Answer one JSON-RPC request."""
        world, body = request.path_params["world"], await request.json()
        method, params = str(body.get("method", "")), body.get("params") or {}

        async def work() -> Response:
            try:
                result = self._do(request, world, method, params)
            except Refusal as refusal:
                return JSONResponse({"jsonrpc": "2.0", "id": body.get("id"), "error": refusal.answer})
            except (KeyError, TypeError, InvalidOperation) as error:
                answer = {"code": BAD_CALL, "message": f"the parameters do not fit: {error!r}"}
                return JSONResponse({"jsonrpc": "2.0", "id": body.get("id"), "error": answer})
            return JSONResponse({"jsonrpc": "2.0", "id": body.get("id"), "result": result})

        return await self.misbehaviour.around(world, method, work)

    def _do(self, request: Request, world: str, method: str, params: dict[str, Any]) -> Any:
        company = self.company.facts(world)
        if not company:
            raise Refusal(SIGN_IN, "no such company")
        if method == "session.open":
            return self._open(world, company, params)
        session = request.headers.get("authorization", "").removeprefix("Session ")
        if not self.store.has(world, "session", session):
            raise Refusal(SIGN_IN, "the session is not open or has ended")
        if method not in self.methods:
            raise Refusal(NO_SUCH_METHOD, f"no such method: {method}")
        need = _needed(method)
        if need and need not in company["permissions"]:
            raise refused(f"user {company['user']} may not: {need}", permission=need)
        return self.methods[method](world, params)

    def _open(self, world: str, company: dict[str, Any], params: dict[str, Any]) -> dict[str, str]:
        if (params["user"], params["password"]) != (company["user"], company["password"]):
            raise Refusal(SIGN_IN, "unknown user or wrong password")
        token = secrets.token_urlsafe(24)
        self.store.add(world, "session", {}, find=token)
        return {"session": token}

    def look(self, world: str) -> tuple[str, list[Table]]:
        """Its documents, for the page."""
        tables = [_table(name, self.store.all(world, family.kind)) for name, family in FAMILIES.items()]
        stock_table = Table(
            title="Stock",
            heads=["Article", "Warehouse", "There", "Free"],
            rows=[[level[name] for name in ("article", "warehouse", "there", "free")]
                  for level in self.store.all(world, "stock")],
        )  # fmt: skip
        title = self.company.facts(world).get("name", "No such company")
        return title, [table for table in (*tables, stock_table) if table.rows or table.title == "Invoices"]


def _with_pages(kind: str, do: Callable[[str, dict[str, Any]], Any]) -> Callable[[str, dict[str, Any]], Any]:
    """The method, whose documents name the page that each has for people."""

    def method(world: str, params: dict[str, Any]) -> Any:
        def with_page(one: Any) -> Any:
            has_page = isinstance(one, dict) and "id" in one
            return {**one, "page": page_of(world, kind, one["id"])} if has_page else one

        result = do(world, params)
        return [with_page(one) for one in result] if isinstance(result, list) else with_page(result)

    return method


def _needed(method: str) -> str | None:
    family, _, call = method.partition(".")
    if family not in FAMILIES or call in READING:
        return NEEDED.get(method)
    return "post invoices" if call == "post" else "write invoices"


def _table(name: str, documents: list[dict[str, Any]]) -> Table:
    heads = ["Id", "Number", "State", "Date", "Reference", "Net", "Tax", "Gross"]
    rows = [
        [
            str(one["id"]),
            one["number"],
            one["state"],
            one["date"],
            one["reference"],
            one.get("net", ""),
            one.get("tax", ""),
            one.get("gross", one.get("amount", "")),
        ]
        for one in documents
    ]
    return Table(title=name.replace("_", " ").capitalize(), heads=heads, rows=rows)


def application(store: Store) -> Starlette:
    """The ERP as an ASGI application; each first part of a path is a company of its own."""
    erp = Erp(store)
    return Starlette(
        routes=[
            Route("/{world}/rpc", erp.call, methods=["POST"]),
            *control_routes(store, erp.misbehaviour, erp.load, erp.look),
        ]
    )
