"""What a key may change in the shop. Each change, made again, leaves everything as it was."""

from __future__ import annotations

from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from inkwell_bridge.standins.web_shop.shelves import Shelves

Json = dict[str, Any]


class NoSuchThing(Exception):
    """There is nothing with that id."""


class Changes:
    """The shop's writing side."""

    def __init__(self, shelves: Shelves) -> None:
        self.shelves = shelves

    def label(self, world: str, order_id: int, label: str) -> Json:
        """Put a label on an order."""
        order = self._order(world, order_id)
        if label in order.get("labels", []):
            return order
        return self._kept(world, {**order, "labels": [*order.get("labels", []), label]})

    def remark(self, world: str, order_id: int, text: str) -> Json:
        """Write a remark on an order, unless it stands there word for word."""
        order = self._order(world, order_id)
        remarks = order.get("remarks", [])
        if any(remark["text"] == text for remark in remarks):
            return order
        remark = {"text": text, "by": "interface", "when": datetime.now(UTC).isoformat()}
        return self._kept(world, {**order, "remarks": [*remarks, remark]})

    def dispatch(self, world: str, order_id: int, parcel: Json) -> Json:
        """Tell of a parcel; when all rows have gone, the order is completed."""
        order = self._order(world, order_id)
        if self.shelves.by_reference(world, "dispatch", parcel["reference"]) is None:
            number = self.shelves.store.add(world, "dispatch", {}, find=parcel["reference"])
            self.shelves.touched(
                world,
                "dispatch",
                {**parcel, "id": number, "order": order["reference"], "last_change": parcel["when"]},
            )
            event = {"event": f"parcel {parcel['reference']}", "did": "sent", "when": parcel["when"],
                     "why": parcel["reference"]}  # fmt: skip
            order = self._kept(world, {**order, "history": [*order.get("history", []), event]})
        return self._completed(world, order)

    def _completed(self, world: str, order: Json) -> Json:
        parcels = [one for one in self.shelves.store.all(world, "dispatch") if one["order"] == order["reference"]]
        sent: dict[str, Decimal] = {}
        for row in (row for parcel in parcels for row in parcel["rows"]):
            sent[str(row["row"])] = sent.get(str(row["row"]), Decimal(0)) + Decimal(str(row["count"]))
        if all(sent.get(str(row["row"]), Decimal(0)) >= Decimal(str(row["count"])) for row in order["basket"]):
            return self._kept(world, {**order, "state": "completed"})
        return order

    def money(self, world: str, order_id: int, money: Json) -> Json:
        """Take down money that came in elsewhere; with all of it the order is paid."""
        order = self._order(world, order_id)
        received = order.get("received", [])
        if any(one["transaction"] == money["transaction"] for one in received):
            return order
        order = {**order, "received": [*received, {**money, "with": "bank", "state": "in"}]}
        came = sum((Decimal(one["sum"]) for one in order["received"] if one.get("state", "in") == "in"), Decimal(0))
        if order["state"] == "awaiting payment" and came >= Decimal(order["total"]):
            order["state"] = "paid"
        return self._kept(world, order)

    def stock(self, world: str, levels: list[Json]) -> None:
        """Set stock levels by article and place."""
        for level in levels:
            reference = f"{level['article']} {level['at']}"
            known = self.shelves.by_reference(world, "stock", reference)
            number = known["id"] if known else self.shelves.store.add(world, "stock", {}, find=reference)
            changed = datetime.now(UTC).isoformat()
            self.shelves.keep(world, "stock", {**level, "id": number, "reference": reference, "last_change": changed})

    def _order(self, world: str, order_id: int) -> Json:
        order = self.shelves.store.get(world, "order", order_id)
        if order is None:
            raise NoSuchThing(f"no order {order_id}")
        return order

    def _kept(self, world: str, order: Json) -> Json:
        self.shelves.touched(world, "order", order)
        return order
