"""Tryton's reference data, and the ids behind the codes and names that we use."""

from __future__ import annotations

import datetime
import threading
import time
from collections.abc import Iterable, Mapping
from decimal import Decimal
from typing import Any

from inkwell_bridge.core.books import MasterData
from inkwell_bridge.ends.errors import Refused
from inkwell_bridge.ends.tryton.rpc import Json, TrytonRpc

# An id is believed for so long: a code can be given to another account meanwhile.
BELIEVED_SECONDS = 60.0
# Where each kind of thing is, the field that we know it by, and what it is called in an error.
_MODELS = {
    "account": ("account.account", "code", "account"),
    "tax": ("account.tax", "name", "tax"),
    "item": ("product.product", "code", "product"),
    "unit": ("product.uom", "symbol", "unit of measure"),
    "warehouse": ("stock.location", "code", "warehouse"),
    "terms": ("account.invoice.payment_term", "name", "payment term"),
    "currency": ("currency.currency", "code", "currency"),
    "journal": ("account.journal", "type", "journal of type"),
    "country": ("country.country", "code", "country"),
}


class Names:
    """The names of one company in Tryton; ids are asked for many at a time, and kept for a while."""

    def __init__(self, rpc: TrytonRpc) -> None:
        self._rpc = rpc
        self._known: dict[tuple[str, str], tuple[int, float]] = {}
        self._fields: dict[tuple[str, str], bool] = {}
        self._lock = threading.Lock()
        self._company: dict[str, Any] | None = None

    def company(self) -> Json:
        """The company that the user works for: its name, currency and time zone; every later call is about it."""
        if self._company is None:
            chosen = self._rpc.read("model.res.user.get_preferences", True).get("company")
            if not chosen:
                raise Refused("the user belongs to no company in Tryton", why="permission")
            fields = ["party.name", "currency.code", "timezone"]
            (found,) = self._rpc.read("model.company.company.read", [chosen], fields)
            self._rpc.context["company"] = chosen
            self._company = {
                "id": chosen,
                "name": found["party."]["name"],
                "currency": found["currency."]["code"],
                "time_zone": found["timezone"] or "UTC",
            }
        return self._company

    def ids(self, kind: str, codes: Iterable[str]) -> dict[str, int]:
        """The ids behind these codes, by code; empty codes are left out.

        Raises:
            Refused: Tryton has no such thing; the first code that it lacks is named.
        """
        wanted = sorted({code for code in codes if code})
        fresh = time.monotonic() - BELIEVED_SECONDS
        with self._lock:
            known = {code: self._known.get((kind, code), (0, 0.0)) for code in wanted}
        unknown = [code for code, (_, seen) in known.items() if seen <= fresh]
        found = {code: number for code, (number, _) in known.items()}
        if unknown:
            found |= self._ask(kind, unknown)
        return found

    def one(self, kind: str, code: str) -> int:
        """The id behind one code."""
        return self.ids(kind, [code])[code]

    def maybe(self, kind: str, code: str) -> int | None:
        """The id behind a code, if Tryton has it."""
        try:
            return self.one(kind, code) if code else None
        except Refused:
            return None

    def has(self, model: str, field: str) -> bool:
        """Whether a model has a field here, which depends on Tryton's modules."""
        if (model, field) not in self._fields:
            self._fields[model, field] = bool(self._rpc.read(f"model.{model}.fields_get", [field]))
        return self._fields[model, field]

    def _ask(self, kind: str, codes: list[str]) -> dict[str, int]:
        model, field, title = _MODELS[kind]
        # The oldest stands where several bear one name.
        rows = self._rpc.search(model, [[field, "in", codes]], [field], order=[["id", "DESC"]])
        found = {row[field]: int(row["id"]) for row in rows}
        lacking = [code for code in codes if code not in found]
        if lacking:
            raise Refused(f"Tryton has no {title} {lacking[0]}", why="document")
        now = time.monotonic()
        with self._lock:
            self._known |= {(kind, code): (number, now) for code, number in found.items()}
        return found

    def invoiced(self, party: int) -> dict[str, int]:
        """What an invoice to a party needs besides its lines: nothing of it is filled in by itself."""
        return {"party": party, "invoice_address": self.address(party), "account": self.receivable(party),
                "journal": self.one("journal", "revenue")}  # fmt: skip

    def sold_to(self, party: int) -> dict[str, int]:
        """What a sale to a party needs besides its lines."""
        address = self.address(party)
        return {"party": party, "invoice_address": address, "shipment_address": address}

    def address(self, party: int) -> int:
        """The address that a party's documents are made out to."""
        order = [["invoice", "DESC NULLS LAST"], ["id", "ASC"]]
        found = self._rpc.read("model.party.address.search", [["party", "=", party]], 0, 1, order)
        if not found:
            raise Refused(f"Tryton has no party {party}, or it has no address", why="document")
        return int(found[0])

    def receivable(self, party: int) -> int:
        """The account that what a party owes stands on: its own, or the company's default."""
        (found,) = self._rpc.read("model.party.party.read", [party], ["account_receivable"])
        if found["account_receivable"]:
            return int(found["account_receivable"])
        (chosen,) = self._rpc.search("account.configuration", [], ["default_account_receivable"])
        if not chosen["default_account_receivable"]:
            raise Refused("Tryton's accounting has no default account for receivables", why="document")
        return int(chosen["default_account_receivable"])

    def open_period(self, day: datetime.date) -> int:
        """The id of the period that a day lies in.

        Raises:
            Refused: with ``why`` locked, where that period is closed, or there is none.
        """
        within = [["start_date", "<=", day], ["end_date", ">=", day], ["type", "=", "standard"]]
        found = self._rpc.search("account.period", within, ["state", "name"])
        if found and found[0]["state"] == "open":
            return int(found[0]["id"])
        what = f"period {found[0]['name']} is {found[0]['state']}" if found else "no period is open there"
        until = _locked_until(self._periods())
        raise Refused(f"Tryton takes nothing dated {day}: {what}"
                      + (f"; the books are locked up to {until}" if until else ""), why="locked")  # fmt: skip

    def master_data(self) -> MasterData:
        """Everything a rulebook may name."""
        company = self.company()
        periods = self._periods()
        return MasterData.read(
            {
                "company": company["name"],
                "currency": company["currency"],
                "accounts": self._accounts(),
                "tax_codes": self._taxes(),
                "warehouses": self._named("stock.location", [["type", "=", "warehouse"], ["code", "!=", None]],
                                          "code", "name"),
                "terms": self._named("account.invoice.payment_term", [], "name", "description"),
                "currencies": [row["code"] for row in self._rpc.search("currency.currency", [], ["code"])],
                "periods": [{"name": row["name"], "first": row["start_date"], "last": row["end_date"],
                             "open": row["state"] == "open"} for row in periods],
                "locked_until": _locked_until(periods),
            }
        )  # fmt: skip

    def _accounts(self) -> list[dict[str, Any]]:
        """Accounts with a code. Those that Tryton's payment methods pay from or to count as bank accounts."""
        fields = ["code", "name", "type.statement", "type.assets", "type.revenue"]
        rows = self._rpc.search("account.account", [["code", "!=", None], ["type", "!=", None]], fields)
        methods = self._rpc.search("account.invoice.payment.method", [], ["credit_account", "debit_account"])
        banks = {row[name] for row in methods for name in ("credit_account", "debit_account")}
        return [{"code": row["code"], "name": row["name"], "type": _account_type(row["type."], row["id"] in banks)}
                for row in rows if row["type."]["statement"] != "off-balance"]  # fmt: skip

    def _taxes(self) -> list[dict[str, Any]]:
        """Taxes by percentage that stand by themselves; a tax of several parts goes by the sum of their rates."""
        rows = self._rpc.search("account.tax", [["type", "in", ["percentage", "none"]]],
                                ["name", "description", "rate", "parent", "type", "childs"])  # fmt: skip
        parts: dict[int, Decimal] = {}
        for row in rows:
            if row["parent"]:
                parts[row["parent"]] = parts.get(row["parent"], Decimal(0)) + (row["rate"] or Decimal(0))
        return [
            {"code": row["name"], "name": row["description"] or row["name"],
             "rate_percent": f"{_percent(row['rate'] or parts.get(row['id'], Decimal(0))):f}",
             "outside": row["type"] == "none" and not row["childs"]}
            for row in rows if not row["parent"]
        ]  # fmt: skip

    def _named(self, model: str, domain: list[Any], code: str, name: str) -> list[dict[str, str]]:
        return [{"code": row[code], "name": row[name] or ""} for row in self._rpc.search(model, domain, [code, name])]

    def _periods(self) -> list[Any]:
        fields = ["name", "start_date", "end_date", "state"]
        standard = [["type", "=", "standard"]]
        return self._rpc.search("account.period", standard, fields, order=[["start_date", "ASC"]])


def _account_type(kind: Mapping[str, Any], bank: bool) -> str:
    """Only a type with Revenue ticked can stand on a sales invoice, so only that counts as income."""
    if kind["statement"] == "income":
        return "income" if kind["revenue"] else "expense"
    if not kind["assets"]:
        return "liability"
    return "bank" if bank else "asset"


def _percent(rate: Decimal) -> Decimal:
    return (rate * 100).normalize()


def _locked_until(periods: list[Any]) -> datetime.date | None:
    """The last day up to which every period is closed."""
    until = None
    for period in periods:
        if period["state"] == "open":
            break
        until = period["end_date"]
    return until
