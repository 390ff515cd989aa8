"""The ERP's documents, family by family: made as drafts, amended, posted under the next number, voided."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.erp import computing, settling, stock
from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.store import Store

LARGEST_PAGE = 500
Compute = Callable[[Store, str, dict[str, Any]], dict[str, Any]]
Posted = Callable[[Store, str, dict[str, Any]], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Family:
    """One family of documents; ``posted`` is what happens besides when one is posted, ``cancelled`` tells one of which
    posted documents can be cancelled, for they take nothing into the ledger."""

    kind: str
    prefix: str
    compute: Compute
    needs_contact: bool = True
    cancelled: bool = False
    posted: Posted | None = None


def _must_balance(store: Store, world: str, journal: dict[str, Any]) -> None:
    left = sum((Decimal(line["debit"]) - Decimal(line["credit"]) for line in journal["lines"]), Decimal(0))
    if left:
        raise refused(f"the journal is out of balance by {left}", field="lines")


FAMILIES = {
    "sales_orders": Family(kind="sales_order", prefix="SO", compute=computing.trade_lines, cancelled=True),
    "invoices": Family(kind="invoice", prefix="SI", compute=computing.sales_lines),
    "cash_sales": Family(kind="cash_sale", prefix="CS", compute=computing.sales_lines),
    "credit_notes": Family(kind="credit_note", prefix="SC", compute=computing.sales_lines, posted=settling.credit),
    "bills": Family(kind="bill", prefix="PI", compute=computing.trade_lines),
    "receipts": Family(kind="receipt", prefix="RC", compute=computing.money_in, posted=settling.settle),
    "repayments": Family(kind="repayment", prefix="RP", compute=computing.money_out, posted=settling.take_back),
    "write_offs": Family(kind="write_off", prefix="WO", compute=computing.given_up, posted=settling.settle),
    "journals": Family(kind="journal", prefix="JN", compute=computing.journal_lines, needs_contact=False,
                       posted=_must_balance),
    "dispatches": Family(kind="dispatch", prefix="DN", compute=computing.goods_lines, needs_contact=False,
                         posted=stock.take),
    "stock_moves": Family(kind="stock_move", prefix="SM", compute=computing.goods_lines, needs_contact=False,
                          posted=stock.move),
}  # fmt: skip


class Documents:
    """What one family's methods do."""

    def __init__(self, store: Store, family: Family) -> None:
        self.store = store
        self.family = family

    def methods(self) -> dict[str, Callable[[str, dict[str, Any]], Any]]:
        """The family's methods by their last name."""
        return {
            "search": lambda world, params: self.store.search(
                world, self.family.kind, *map(str, params["references"][:LARGEST_PAGE])
            ),
            "list": self.listed,
            "read": lambda world, params: self._one(world, params["id"]),
            "create": self.create,
            "amend": self.amend,
            "post": self.post,
            "void": self.void,
        }

    def listed(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Those of some orders, or those whose reference begins so, a page at a time."""
        if "orders" in params:
            orders = [str(number) for number in params["orders"]]
            return {"entries": self.store.bearing(world, self.family.kind, orders), "onward": None}
        return self.store.found_behind(world, self.family.kind, str(params["prefix"]), after=int(params["after"]),
                                       limit=min(int(params["limit"]), LARGEST_PAGE))  # fmt: skip

    def create(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A draft."""
        self._check(world, params)
        computed = self.family.compute(self.store, world, params)
        document = {**params, "number": "", "state": "draft", **computed}
        number = self.store.add(world, self.family.kind, document, find=params["reference"])
        return self._one(world, number)

    def enter(self, world: str, words: dict[str, Any]) -> None:
        """One that somebody entered at a screen, posted at once under the number that they gave it."""
        made = self.create(world, words)
        changed = datetime.now(UTC).isoformat()
        self._keep(world, {**made, "state": "posted", "number": words["number"], "changed": changed})

    def amend(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """A draft made to say something else; whom it is for stays."""
        document = self._one(world, params["id"])
        if document["state"] != "draft":
            raise refused(f"{self.family.kind} {document['id']} is {document['state']}, not a draft", field="state")
        changed = {**document, **params}
        self._check(world, changed)
        return self._keep(world, {**changed, **self.family.compute(self.store, world, changed)})

    def post(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Post a draft under the next number; posting again changes nothing."""
        document = self._one(world, params["id"])
        if document["state"] == "void":
            raise refused(f"{self.family.kind} {document['id']} is void", field="state")
        if document["state"] == "posted":
            return document
        self._check_date(world, document["date"])
        if self.family.posted:
            self.family.posted(self.store, world, document)
        number = f"{self.family.prefix}-{self._next_number(world):05d}"
        changed = datetime.now(UTC).isoformat()
        return self._keep(world, {**document, "state": "posted", "number": number, "changed": changed})

    def void(self, world: str, params: dict[str, Any]) -> dict[str, Any]:
        """Throw a draft away, or cancel what takes nothing into the ledger."""
        document = self._one(world, params["id"])
        if document["state"] == "posted" and not self.family.cancelled:
            raise refused(f"{self.family.kind} {document['number']} is posted", field="state")
        return self._keep(world, {**document, "state": "void"})

    def _check(self, world: str, words: dict[str, Any]) -> None:
        if self.family.needs_contact and self.store.get(world, "contact", words["contact"]) is None:
            raise refused(f"no contact {words['contact']}", field="contact")
        for kind in ("price_list", "unit", "delivery_way", "seller", "print_language"):
            code = words.get(kind)
            if code and code not in {one["code"] for one in self.store.all(world, kind)}:
                raise refused(f"no {kind.replace('_', ' ')} {code}", field=kind)
        self._check_date(world, words["date"])

    def _check_date(self, world: str, day: str) -> None:
        locked = (self.store.get(world, "company", 1) or {}).get("locked_until") or ""
        if day <= locked:
            raise refused(f"the books are locked up to {locked}", field="date", locked_until=locked)

    def _next_number(self, world: str) -> int:
        counters = self.store.get(world, "sequence", 1) or {}
        number = int(counters.get(self.family.prefix, 0)) + 1
        self.store.put(world, "sequence", 1, {**counters, self.family.prefix: number})
        return number

    def _one(self, world: str, number: int) -> dict[str, Any]:
        document = self.store.get(world, self.family.kind, number)
        if document is None:
            raise refused(f"no {self.family.kind} {number}", missing=self.family.kind)
        return document

    def _keep(self, world: str, document: dict[str, Any]) -> dict[str, Any]:
        self.store.put(world, self.family.kind, document["id"], document, find=document["reference"],
                       sort=document.get("changed", ""))  # fmt: skip
        return document
