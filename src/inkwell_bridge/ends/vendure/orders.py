"""From Vendure's orders to ours."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from inkwell_bridge.ends.vendure.mapping import (
    PAYMENT_STATES,
    Json,
    Money,
    carriage_class,
    latest,
    moment,
    rate_between,
    tax_class,
    tax_lines,
)
from inkwell_bridge.ends.vendure.people import buyer, group


class Orders:
    """Reads orders of a shop: how many digits its money has, and whether its prices include tax."""

    def __init__(self, digits: int, *, with_tax: bool) -> None:
        self.money = Money(digits)
        self.step = Decimal(1).scaleb(-digits)
        self.with_tax = with_tax

    def order(self, said: Json) -> dict[str, Any]:
        """An order in canonical shape."""
        ship_to = said["shippingAddress"] or {}
        return {
            "id": said["id"],
            "number": said["code"],
            "channel": "web shop",
            "status": said["state"],
            "placed_at": moment(said["orderPlacedAt"]),
            "changed_at": changed_at(said),
            "currency": said["currencyCode"],
            "prices_include_tax": self.with_tax,
            "country": ship_to.get("countryCode") or "",
            "customer_group": group(said["customer"]),
            "buyer": buyer(said["customer"], said["billingAddress"], said["shippingAddress"]),
            # A line that was cancelled whole is charged for no more; the history tells of it.
            "lines": [self._line(line) for line in _by_id(said["lines"]) if line["quantity"]]
            + [self._surcharge(part) for part in _by_id(said["surcharges"])],
            "shipping": [self._carriage(part, said) for part in _by_id(said["shippingLines"])],
            "payments": [self.payment(money) for money in _by_id(said["payments"] or [])],
            "tax_total": self.money(said["totalWithTax"]) - self.money(said["total"]),
            "total": self.money(said["totalWithTax"]),
            "history": [*(event for entry in _in_order(said) for event in self._event(entry, said)), *_sent(said)],
            "notes": [{"text": entry["data"]["note"], "at": moment(entry["createdAt"])}
                      for entry in _in_order(said) if entry["type"] == "ORDER_NOTE"],
            "attributes": [{"name": "coupon", "value": code} for code in said["couponCodes"]],
        }  # fmt: skip

    def payment(self, money: Json) -> dict[str, Any]:
        """Money towards an order. A handler that gives no number of its own is known by Vendure's."""
        return {
            "transaction": money["transactionId"] or f"payment {money['id']}",
            "method": money["method"],
            "amount": self.money(money["amount"]),
            "state": PAYMENT_STATES.get(money["state"], "promised"),
            "paid_at": moment(money["createdAt"]),
        }

    def _line(self, line: Json) -> dict[str, Any]:
        """A line. Vendure shares an order's discounts over its lines itself: that is the line's own discount here."""
        variant = line["productVariant"]
        charge = self._charge(
            "linePrice", "proratedLinePrice", line, line["taxLines"], title=variant["name"], identity=line["id"]
        )
        return charge | {
            "sku": variant["sku"],
            "product_id": variant["productId"],
            "quantity": line["quantity"],
            "quantity_placed": line["orderPlacedQuantity"],
            "unit_price": self.money(line["unitPriceWithTax" if self.with_tax else "unitPrice"]),
        }

    def _surcharge(self, part: Json) -> dict[str, Any]:
        """What a person added to an order: a line without stock."""
        price = self.money(part["priceWithTax" if self.with_tax else "price"])
        charge = self._charge("price", "price", part, part["taxLines"], title=part["description"],
                              identity=f"surcharge {part['id']}")  # fmt: skip
        own = {"sku": part["sku"] or "", "nature": "service", "quantity": 1, "unit_price": price}
        return charge | own

    def _carriage(self, part: Json, order: Json) -> dict[str, Any]:
        net, gross = self.money(part["price"]), self.money(part["priceWithTax"])
        rates = [Decimal(str(one["taxRate"])) for one in order["taxSummary"]]
        name = carriage_class(rate := rate_between(net, gross, [*rates, Decimal(0)]))
        taxes = [{"description": name, "taxRate": rate}]
        method = part["shippingMethod"]
        charge = self._charge(
            "price", "discountedPrice", part, taxes, title=method["name"], identity=f"carriage {part['id']}"
        )
        return charge | {"method": method["code"]}

    def _charge(
        self, full: str, reduced: str, said: Json, taxes: list[Any], *, title: str, identity: str
    ) -> dict[str, Any]:
        """What every charge has in common; ``full`` and ``reduced`` name its amounts before and after discounts."""
        ending = "WithTax" if self.with_tax else ""
        amount = self.money(said[f"{full}{ending}"])
        tax = self.money(said[f"{reduced}WithTax"]) - self.money(said[reduced])
        return {
            "id": identity,
            "title": title,
            "amount": amount,
            "discount": amount - self.money(said[f"{reduced}{ending}"]),
            "tax_class": tax_class(taxes),
            "taxes": tax_lines(taxes, tax, self.step),
        }

    def _event(self, entry: Json, order: Json) -> list[dict[str, Any]]:
        """A cancellation or an edit. Vendure keeps no totals of before; only what a line was placed with remains."""
        if entry["type"] not in {"ORDER_CANCELLATION", "ORDER_MODIFIED"}:
            return []
        placed = {line["id"]: line for line in order["lines"]}
        lines = [
            {"line": line_id, "before": placed[line_id]["orderPlacedQuantity"], "after": placed[line_id]["quantity"]}
            for line_id in (str(one.get("orderLineId")) for one in entry["data"].get("lines") or [])
            if line_id in placed
        ]
        kind = "cancelled" if entry["type"] == "ORDER_CANCELLATION" else "edited"
        return [{"id": entry["id"], "kind": kind, "at": moment(entry["createdAt"]),
                 "text": entry["data"].get("reason") or "", "lines": lines}]  # fmt: skip


def _sent(order: Json) -> list[dict[str, Any]]:
    """The parcels that have left, by when they were made up: a later change of their state moves no date."""
    return [
        {"id": f"fulfilment {parcel['id']}", "kind": "dispatched", "at": moment(parcel["createdAt"]),
         "text": parcel["trackingCode"] or parcel["method"] or ""}
        for parcel in order["fulfillments"] or []
        if parcel["state"] in {"Shipped", "Delivered"}
    ]  # fmt: skip


def _by_id(rows: Iterable[Json]) -> list[Json]:
    """In the order that they were made: Vendure hands them out in any, and another order is no change."""
    return sorted(rows, key=lambda row: (len(row["id"]), row["id"]))


def _in_order(order: Json) -> list[Any]:
    """What happened, oldest first; the newest is asked for first, so that it is never what is cut off."""
    return list(reversed(order["history"]["items"]))


def changed_at(said: Json) -> Any:
    """When anything last happened to an order: its own time of change stays where it is through most of it."""
    payments = said["payments"] or []
    parts = [*payments, *(refund for money in payments for refund in money["refunds"]), *(said["fulfillments"] or [])]
    happened = [entry["createdAt"] for entry in said["history"]["items"]]
    return latest(said["updatedAt"], *happened, *(part["updatedAt"] for part in parts))
