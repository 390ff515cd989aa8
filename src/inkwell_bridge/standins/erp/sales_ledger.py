"""The ERP's sales ledger: posted invoices with what is open on them, and fields that are written on them after."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.control import page_of
from inkwell_bridge.standins.erp.refusal import refused
from inkwell_bridge.standins.erp.settling import open_of
from inkwell_bridge.standins.erp.stock import listed
from inkwell_bridge.standins.store import Store

Json = dict[str, Any]
MOST_IDS = 200
_TOLD = ("id", "number", "reference", "order", "state", "date", "due", "currency", "gross", "changed", "contact")


class SalesLedger:
    """What is asked about invoices once they are posted."""

    def __init__(self, store: Store) -> None:
        self.store = store

    def methods(self) -> dict[str, Callable[[str, Json], Any]]:
        """The methods by their names."""
        return {"sales_ledger.changed": self.changed, "sales_ledger.some": self.some,
                "sales_ledger.note": self.note}  # fmt: skip

    def changed(self, world: str, params: Json) -> Json:
        """What was posted, or changed since, at or after a moment, oldest first; of ``open`` ones alone, where that is
        asked."""
        page = listed(self.store, world, "invoice", params)
        told = [self._told(world, one) for one in page["entries"]]
        return {**page, "entries": [one for one in told if Decimal(one["open"]) or not params.get("open")]}

    def some(self, world: str, params: Json) -> list[Json]:
        """Some by their ids, or the one of a number."""
        if "number" in params:
            wanted = str(params["number"])
            found = [one for one in self.store.all(world, "invoice") if one["number"] == wanted]
        else:
            ids = [int(one) for one in params["ids"][:MOST_IDS] if str(one).isdecimal()]
            found = [one for number in ids if (one := self.store.get(world, "invoice", number))]
        return [self._told(world, one) for one in found if one["number"]]

    def note(self, world: str, params: Json) -> Json:
        """Fields on an invoice beside its own; all else on it stays as it was posted."""
        invoice = self.store.get(world, "invoice", int(params["id"]))
        if invoice is None:
            raise refused(f"no invoice {params['id']}", missing="invoice")
        further = {**invoice.get("further", {}), **params["further"]}
        if further != invoice.get("further", {}):
            changed = datetime.now(UTC).isoformat()
            kept = {**invoice, "further": further, "changed": changed}
            self.store.put(world, "invoice", invoice["id"], kept, find=invoice["reference"], sort=changed)
        return {"id": invoice["id"]}

    def _told(self, world: str, invoice: Json) -> Json:
        contact = self.store.get(world, "contact", invoice["contact"]) or {}
        return {
            **{name: invoice.get(name) for name in _TOLD},
            "open": str(max(open_of(invoice), 0)),
            "further": invoice.get("further", {}),
            "settled_by": [{"reference": one["reference"], "amount": one["amount"]}
                           for one in invoice.get("settled_by", [])],
            "name": contact.get("name", ""),
            "email": contact.get("email", ""),
            "page": page_of(world, "invoice", invoice["id"]),
        }  # fmt: skip
