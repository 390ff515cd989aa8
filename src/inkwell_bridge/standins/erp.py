"""A simulated ERP: JSON-RPC 2.0 with a session; computes tax itself, by line; no idempotency keys."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from inkwell_bridge.standins.control import control_routes
from inkwell_bridge.standins.misbehaviour import Misbehaviour
from inkwell_bridge.standins.store import Store

PENNY = Decimal("0.01")
SIGN_IN, NO_SUCH_METHOD, BAD_CALL, REFUSED = -32001, -32601, -32602, -32010

NEEDED = {
    "accounts.list": "read accounts",
    "tax_codes.list": "read accounts",
    "contacts.search": "read contacts",
    "contacts.list_codes": "read contacts",
    "contacts.create": "write contacts",
    "invoices.create": "write invoices",
    "invoices.replace_lines": "write invoices",
    "invoices.void": "write invoices",
    "invoices.post": "post invoices",
}


class Refusal(Exception):
    """A call that the ERP will not do."""

    def __init__(self, code: int, message: str, **data: Any) -> None:
        self.answer = {"code": code, "message": message, "data": data}
        super().__init__(message)


class Erp:
    """The ERP's state and its methods."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.misbehaviour = Misbehaviour()
        self.methods: dict[str, Callable[[str, dict[str, Any]], Any]] = {
            "company.describe": self.describe,
            "accounts.list": lambda world, _: self.store.all(world, "account"),
            "tax_codes.list": lambda world, _: self.store.all(world, "tax_code"),
            "contacts.list_codes": self.contact_codes,
            "contacts.search": self.search_contacts,
            "contacts.create": self.create_contact,
            "invoices.search": lambda world, params: self.store.search(world, "invoice", params["reference"]),
            "invoices.create": self.create_invoice,
            "invoices.replace_lines": self.replace_lines,
            "invoices.post": self.post_invoice,
            "invoices.void": self.void_invoice,
            "invoices.read": lambda world, params: self._invoice(world, params["id"]),
        }

    def load(self, world: str, contents: dict[str, Any]) -> None:
        """Fill a world with a company, its accounts, tax codes and contacts; ``reset`` empties it first."""
        if contents.get("reset"):
            self.store.clear(world)
        if "company" in contents:
            self.store.put(world, "company", 1, contents["company"])
        for kind in ("account", "tax_code"):
            for number, entry in enumerate(contents.get(f"{kind}s", []), start=1):
                self.store.put(world, kind, number, entry, find=entry["code"])
        for contact in contents.get("contacts", []):
            self.store.add(world, "contact", contact, find=_email(contact))

    def look(self, world: str) -> tuple[str, list[str], list[list[str]]]:
        """All invoices, for the page."""
        company = self.store.get(world, "company", 1) or {"name": "No such company"}
        rows = [
            [
                str(invoice["id"]),
                invoice["number"],
                invoice["state"],
                invoice["date"],
                invoice["reference"],
                invoice["net"],
                invoice["tax"],
                invoice["gross"],
            ]
            for invoice in self.store.all(world, "invoice")
        ]
        return company["name"], ["Id", "Number", "State", "Date", "Reference", "Net", "Tax", "Gross"], rows

    async def call(self, request: Request) -> Response:
        """Answer one JSON-RPC request; errors come with status 200, as the protocol has it."""
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
        company = self.store.get(world, "company", 1)
        if company is None:
            raise Refusal(SIGN_IN, "no such company")
        if method == "session.open":
            return self._open(world, company, params)
        session = request.headers.get("authorization", "").removeprefix("Session ")
        if not self.store.search(world, "session", session):
            raise Refusal(SIGN_IN, "the session is not open or has ended")
        if method not in self.methods:
            raise Refusal(NO_SUCH_METHOD, f"no such method: {method}")
        need = NEEDED.get(method)
        if need and need not in company["permissions"]:
            raise Refusal(REFUSED, f"user {company['user']} may not: {need}", permission=need)
        return self.methods[method](world, params)

    def _open(self, world: str, company: dict[str, Any], params: dict[str, Any]) -> dict[str, str]:
        if (params["user"], params["password"]) != (company["user"], company["password"]):
            raise Refusal(SIGN_IN, "unknown user or wrong password")
        token = secrets.token_urlsafe(24)
        self.store.add(world, "session", {}, find=token)
        return {"session": token}

    def describe(self, world: str, _: dict[str, Any]) -> dict[str, Any]:
        """The company, without its secrets."""
        company = self.store.get(world, "company", 1) or {}
        return {name: value for name, value in company.items() if name not in {"user", "password"}}

    def contact_codes(self, world: str, _: dict[str, Any]) -> list[str]:
        """The codes of all contacts that have one."""
        return [contact["code"] for contact in self.store.all(world, "contact") if contact.get("code")]

    def search_contacts(self, world: str, params: dict[str, Any]) -> list[dict[str, Any]]:
        """Contacts with that e-mail, whatever its case, or with that code."""
        if "email" in params:
            return self.store.search(world, "contact", params["email"].strip().lower())
        return [contact for contact in self.store.all(world, "contact") if contact.get("code") == params["code"]]

    def create_contact(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A new contact; the ERP does not mind a second with the same e-mail."""
        if not params["name"]:
            raise Refusal(REFUSED, "a contact needs a name", field="name")
        number = self.store.add(world, "contact", params, find=_email(params))
        return {"id": number}

    def create_invoice(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A draft; net and tax are computed by line and rounded there, halves up."""
        if self.store.get(world, "contact", params["contact"]) is None:
            raise Refusal(REFUSED, f"no contact {params['contact']}", field="contact")
        locked = (self.store.get(world, "company", 1) or {}).get("locked_until", "")
        if params["date"] <= locked:
            raise Refusal(REFUSED, f"the books are locked up to {locked}", field="date")
        invoice = {
            **{name: params[name] for name in ("contact", "date", "currency", "reference", "order", "link")},
            "number": "",
            "state": "draft",
            **self._computed(world, params["lines"]),
        }
        number = self.store.add(world, "invoice", invoice, find=params["reference"])
        return self._invoice(world, number)

    def replace_lines(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Other lines for a draft."""
        invoice = self._invoice(world, params["id"])
        if invoice["state"] != "draft":
            raise Refusal(REFUSED, f"invoice {invoice['id']} is {invoice['state']}, not a draft", field="state")
        return self._keep(world, {**invoice, **self._computed(world, params["lines"])})

    def post_invoice(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Post a draft under the next number; posting again changes nothing."""
        invoice = self._invoice(world, params["id"])
        if invoice["state"] == "void":
            raise Refusal(REFUSED, f"invoice {invoice['id']} is void", field="state")
        if invoice["state"] == "draft":
            number = (self.store.get(world, "sequence", 1) or {"last": 0})["last"] + 1
            self.store.put(world, "sequence", 1, {"last": number})
            invoice = {**invoice, "state": "posted", "number": f"SI-{number:05d}"}
        return self._keep(world, invoice)

    def void_invoice(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Throw a draft away."""
        invoice = self._invoice(world, params["id"])
        if invoice["state"] == "posted":
            raise Refusal(REFUSED, f"invoice {invoice['number']} is posted", field="state")
        return self._keep(world, {**invoice, "state": "void"})

    def _invoice(self, world: str, number: int) -> dict[str, Any]:
        invoice = self.store.get(world, "invoice", number)
        if invoice is None:
            raise Refusal(REFUSED, f"no invoice {number}", field="id")
        return invoice

    def _keep(self, world: str, invoice: dict[str, Any]) -> dict[str, Any]:
        self.store.put(world, "invoice", invoice["id"], invoice, find=invoice["reference"])
        return invoice

    def _computed(self, world: str, lines: list[dict[str, Any]]) -> dict[str, Any]:
        done = [self._line(world, line) for line in lines]
        net = sum((Decimal(line["net"]) for line in done), Decimal(0)).quantize(PENNY)
        tax = sum((Decimal(line["tax"]) for line in done), Decimal(0)).quantize(PENNY)
        return {"lines": done, "net": str(net), "tax": str(tax), "gross": str(net + tax)}

    def _line(self, world: str, line: dict[str, Any]) -> dict[str, Any]:
        tax_code = self.store.search(world, "tax_code", line["tax_code"])
        if not tax_code:
            raise Refusal(REFUSED, f"no tax code {line['tax_code']}", field="tax_code")
        if not self.store.search(world, "account", line["account"]):
            raise Refusal(REFUSED, f"no account {line['account']}", field="account")
        price = Decimal(line["unit_price"])
        if price != price.quantize(Decimal("0.0001")):
            raise Refusal(REFUSED, "a unit price has at most four digits", field="unit_price")
        net = (Decimal(line["quantity"]) * price).quantize(PENNY, ROUND_HALF_UP)
        tax = (net * Decimal(tax_code[0]["rate"]) / 100).quantize(PENNY, ROUND_HALF_UP)
        return {
            **{name: line[name] for name in ("text", "note", "account", "quantity", "unit_price", "tax_code")},
            "net": str(net),
            "tax": str(tax),
        }


def _email(contact: dict[str, Any]) -> str:
    return str(contact.get("email", "")).strip().lower()


def application(store: Store) -> Starlette:
    """The ERP as an ASGI application; each first part of a path is a company of its own."""
    erp = Erp(store)
    return Starlette(
        routes=[
            Route("/{world}/rpc", erp.call, methods=["POST"]),
            *control_routes(store, erp.misbehaviour, erp.load, erp.look),
        ]
    )
