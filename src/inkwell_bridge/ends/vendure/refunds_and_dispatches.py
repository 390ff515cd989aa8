"""What follows an order in Vendure, where it is a part of the order: refunds and dispatches."""

from __future__ import annotations

from decimal import ROUND_HALF_UP, Decimal
from typing import Any

from inkwell_bridge.ends.vendure.mapping import (
    REFUND_STATES,
    ZERO,
    Json,
    carriage_class,
    moment,
    rate_between,
    tax_class,
    tax_lines,
)
from inkwell_bridge.ends.vendure.orders import Orders

SENT = frozenset({"Shipped", "Delivered"})


def identity_of(order: Json, part: Json) -> str:
    """A part's id, which tells its order's as well: Vendure has no way to ask for a part by its own."""
    return f"{order['id']}.{part['id']}"


def refunds(order: Json, read: Orders) -> list[dict[str, Any]]:
    """The refunds of an order; one that failed gave nothing back."""
    return [_refund(refund, order, read) for money in order["payments"] or [] for refund in money["refunds"]
            if refund["state"] != "Failed"]  # fmt: skip


def _refund(said: Json, order: Json, read: Orders) -> dict[str, Any]:
    total = read.money(said["total"])
    lines = _lines(said, order, read)
    shipping = _shipping(said, order, read)
    left = total - sum((part["amount"] for part in [*lines, *shipping]), ZERO)
    if left < 0:
        # Less was given back than its lines and carriage come to.
        lines, shipping = _scaled(lines, shipping, total, read)
        left = ZERO
    goodwill = [{"id": "goodwill", "title": said["reason"] or "Goodwill", "amount": left, "tax_class": "goodwill"}]
    taxed = [*lines, *shipping]
    return {
        "id": identity_of(order, said),
        "number": f"{order['code']}-R{said['id']}",
        "order_id": order["id"],
        "order_number": order["code"],
        "refunded_at": moment(said["createdAt"]),
        "changed_at": moment(said["updatedAt"]),
        "currency": order["currencyCode"],
        # What is given back is told with its tax, whatever the shop's prices are.
        "prices_include_tax": True,
        "reason": said["reason"] or "",
        "lines": lines,
        "shipping": shipping,
        "goodwill": goodwill if left else [],
        "payments": [_money(said, order, read)],
        "tax_total": sum((tax["amount"] for part in taxed for tax in part["taxes"]), ZERO),
        "total": total,
    }


def _lines(said: Json, order: Json, read: Orders) -> list[dict[str, Any]]:
    ordered = {line["id"]: line for line in order["lines"]}
    return [_line(part, ordered[part["orderLineId"]], read) for part in said["lines"] if part["orderLineId"] in ordered]


def _line(part: Json, line: Json, read: Orders) -> dict[str, Any]:
    quantity = part["quantity"]
    gross = read.money(line["proratedUnitPriceWithTax"]) * quantity
    tax = gross - read.money(line["proratedUnitPrice"]) * quantity
    return {
        "line": line["id"],
        "sku": line["productVariant"]["sku"],
        "title": line["productVariant"]["name"],
        "quantity": quantity,
        "amount": gross,
        "taxes": tax_lines(line["taxLines"], tax, read.step),
    }


def _shipping(said: Json, order: Json, read: Orders) -> list[dict[str, Any]]:
    gross = read.money(said["shipping"])
    if not gross:
        return []
    rates = [Decimal(str(one["taxRate"])) for one in order["taxSummary"]]
    (carriage, *_) = order["shippingLines"]
    rate = rate_between(read.money(carriage["price"]), read.money(carriage["priceWithTax"]), [*rates, ZERO])
    tax = (gross * rate / (100 + rate)).quantize(read.step, ROUND_HALF_UP)
    taxes = [{"description": carriage_class(rate), "taxRate": rate}]
    return [{"id": "carriage", "title": carriage["shippingMethod"]["name"], "amount": gross,
             "tax_class": tax_class(taxes), "taxes": tax_lines(taxes, tax, read.step)}]  # fmt: skip


def _scaled(
    lines: list[dict[str, Any]], shipping: list[dict[str, Any]], total: Decimal, read: Orders
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Parts that make ``total`` together, each less in the same measure; the last takes what is left by rounding."""
    parts = [*lines, *shipping]
    whole, left = sum((part["amount"] for part in parts), ZERO), total
    scaled = []
    for place, part in enumerate(parts, start=1):
        amount = left if place == len(parts) else (part["amount"] * total / whole).quantize(read.step, ROUND_HALF_UP)
        left -= amount
        taxes = [{**tax, "amount": (tax["amount"] * amount / part["amount"]).quantize(read.step, ROUND_HALF_UP)}
                 for tax in part["taxes"]]  # fmt: skip
        scaled.append({**part, "amount": amount, "taxes": taxes})
    return scaled[: len(lines)], scaled[len(lines) :]


def _money(said: Json, order: Json, read: Orders) -> dict[str, Any]:
    payment = next(money for money in order["payments"] if any(one["id"] == said["id"] for one in money["refunds"]))
    return {
        "transaction": said["transactionId"] or f"refund {said['id']}",
        "method": payment["method"],
        "amount": read.money(said["total"]),
        "state": REFUND_STATES.get(said["state"], "promised"),
        "paid_at": moment(said["updatedAt"]),
    }


def dispatches(order: Json, _: Orders) -> list[dict[str, Any]]:
    """What has left of an order; what is only packed has not."""
    skus = {line["id"]: line["productVariant"]["sku"] for line in order["lines"]}
    return [
        {
            "id": identity_of(order, said),
            "number": f"{order['code']}-D{said['id']}",
            "order_number": order["code"],
            "dispatched_at": moment(said["createdAt"]),
            "changed_at": moment(said["updatedAt"]),
            "carrier": said["method"],
            "tracking_number": said["trackingCode"] or "",
            "lines": [{"line": part["orderLineId"], "sku": skus[part["orderLineId"]], "quantity": part["quantity"]}
                      for part in said["lines"] if part["orderLineId"] in skus],
        }
        for said in order["fulfillments"] or []
        if said["state"] in SENT
    ]  # fmt: skip
