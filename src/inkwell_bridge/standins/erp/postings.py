"""What the ERP's posted documents put on one account, and what that comes to."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.erp.computing import DIGITS, in_own, require_account
from inkwell_bridge.standins.erp.documents import FAMILIES, LARGEST_PAGE
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
ZERO = Decimal(0)
# Documents of a sale credit income, those that take one back debit it; a bill debits cost.
_SIGNS = {"invoices": -1, "cash_sales": -1, "credit_notes": 1, "bills": 1}


class Postings:
    """The general ledger, seen by account; debits are positive, amounts in the company's own currency."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def methods(self) -> dict[str, Callable[[str, Json], Any]]:
        """The methods by their names."""
        return {"accounts.balance": self.balance, "accounts.entries": self.entries}

    def balance(self, world: str, params: Json) -> Json:
        """What an account comes to at the end of a day."""
        found = self._entries(world, params["account"], "", params["day"])
        return {"balance": str(sum((Decimal(one["debit"]) - Decimal(one["credit"]) for one in found), ZERO))}

    def entries(self, world: str, params: Json) -> Json:
        """The entries of an account from day to day, a page at a time, in the order of their days."""
        found = self._entries(world, params["account"], params["from"], params["to"])
        begins, limit = int(params["after"]), min(int(params["limit"]), LARGEST_PAGE)
        ends = begins + limit
        return {"entries": found[begins:ends], "onward": ends if ends < len(found) else None}

    def _entries(self, world: str, account: str, first: str, last: str) -> list[Json]:
        require_account(self.store, world, account)
        found = [
            {**entry, "family": name}
            for name, family in FAMILIES.items()
            for document in self.store.all(world, family.kind)
            if document["state"] == "posted" and first <= document["date"] <= last
            for entry in self._of_document(world, name, document, account)
        ]
        return sorted(found, key=lambda one: (one["date"], one["family"], one["id"]))

    def _of_document(self, world: str, family: str, document: Json, account: str) -> Iterator[Json]:
        base = sum((amount for code, amount in self._lines(world, family, document) if code == account), ZERO)
        if base:
            yield {
                **{name: document[name] for name in ("id", "number", "date", "reference")},
                "memo": document.get("memo") or "",
                "debit": str(max(base, ZERO)), "credit": str(max(-base, ZERO)),
            }  # fmt: skip

    def _lines(self, world: str, family: str, document: Json) -> Iterator[tuple[str, Decimal]]:
        """Account and amount of whatever the document puts into the ledger, but for the customer's own account."""
        if family == "journals":
            yield from ((line["account"], Decimal(line["debit"]) - Decimal(line["credit"]))
                        for line in document["lines"])  # fmt: skip
        elif family in {"receipts", "repayments"}:
            sign = 1 if family == "receipts" else -1
            yield document["account"], sign * self._own(world, document, Decimal(document["amount"]))
            if document.get("exchange"):
                yield document["exchange"]["account"], -Decimal(document["exchange"]["amount"])
        elif family == "write_offs":
            sign = 1 if document["owed_by"] == "customer" else -1
            yield document["account"], sign * self._own(world, document, Decimal(document["amount"]))
        elif family in _SIGNS:
            for taken in document.get("takings", []):
                yield taken["account"], self._own(world, document, Decimal(taken["amount"]))
            for line in document["lines"]:
                yield line["account"], _SIGNS[family] * self._own(world, document, Decimal(line["net"]))

    def _own(self, world: str, document: Json, amount: Decimal) -> Decimal:
        """An amount of a document in the company's own currency."""
        if document.get("base") and "amount" in document:
            return Decimal(document["base"])
        company = self.store.get(world, "company", 1) or {}
        own, said = company.get("currency", ""), document["currency"]
        if said == own:
            return amount
        rate = document.get("rate") or document.get("base_rate") or company.get("rates", {}).get(said, "1")
        return in_own(amount, Decimal(rate), Decimal(1).scaleb(-DIGITS.get(own, 2)))
