"""What an expression sees of a document: its fields under plain names, amounts as whole numbers of the minor unit."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from cel_expr_python import cel

from inkwell_bridge.core.commerce import Charge, Order, OrderLine
from inkwell_bridge.core.expressions.expression import Names
from inkwell_bridge.core.money import minor_unit

_TYPE = cel.Type
_TEXTS = ("number", "channel", "location", "status", "currency", "country", "customer_group", "payment_terms",
          "treatment", "placed_on", "paid_on", "dispatched_on", "link")  # fmt: skip
_DAYS = ("placed_on", "paid_on", "dispatched_on")
_AMOUNTS = ("total", "tax_total", "shipping_total", "discount_total", "paid_total")
_BUYER = ("email", "tax_number", "company", "language", "town", "region", "postcode")
_LINE = ("sku", "barcode", "title", "product_type", "nature", "tax_class", "location", "unit")

_ORDER_TYPES: tuple[tuple[str, Any], ...] = (
    *((f"order.{name}", _TYPE.STRING) for name in _TEXTS),
    *((f"order.{name}", _TYPE.INT) for name in _AMOUNTS),
    ("order.prices_include_tax", _TYPE.BOOL),
    ("order.tags", _TYPE.List(_TYPE.STRING)),
    ("order.attributes", _TYPE.Map(_TYPE.STRING, _TYPE.STRING)),
    ("order.lines", _TYPE.List(_TYPE.Map(_TYPE.STRING, _TYPE.DYN))),
    ("order.payments", _TYPE.List(_TYPE.Map(_TYPE.STRING, _TYPE.DYN))),
    *((f"buyer.{name}", _TYPE.STRING) for name in _BUYER),
    ("buyer.is_guest", _TYPE.BOOL),
)
_LINE_TYPES: tuple[tuple[str, Any], ...] = (
    *((f"line.{name}", _TYPE.STRING) for name in _LINE),
    ("line.amount", _TYPE.INT),
    ("line.properties", _TYPE.Map(_TYPE.STRING, _TYPE.STRING)),
)
ORDER = Names(_ORDER_TYPES)
LINE = Names((*_ORDER_TYPES, *_LINE_TYPES))


def seen_of_order(order: Order, day: Callable[[datetime], date]) -> dict[str, Any]:
    """What is seen of an order; ``day`` tells the day of a moment in the company's time zone."""
    units = _Units(order.currency)
    buyer = order.buyer
    address = (buyer.delivery or buyer.billing) if buyer else None
    return {
        **{f"order.{name}": str(getattr(order, name) or "") for name in _TEXTS if name not in _DAYS},
        **{f"order.{name}": _day(getattr(order, name.replace("_on", "_at")), day) for name in _DAYS},
        "order.total": units(order.total),
        "order.tax_total": units(order.tax_total),
        "order.shipping_total": units(sum((part.reduced for part in order.shipping), Decimal(0))),
        "order.discount_total": units(
            sum((one.amount for one in order.discounts), Decimal(0))
            + sum((charge.discount for charge in order.charges), Decimal(0))
        ),
        "order.paid_total": units(order.received),
        "order.prices_include_tax": order.prices_include_tax,
        "order.tags": list(order.tags),
        "order.attributes": {one.name: one.value for one in order.attributes},
        "order.lines": [_line(line, units) for line in order.lines],
        "order.payments": [
            {"method": money.method, "tender": str(money.tender), "brand": money.brand, "gateway": money.gateway,
             "amount": units(money.amount), "state": str(money.state)}
            for money in order.payments
        ],
        **{f"buyer.{name}": str(getattr(buyer, name, "") or "") for name in ("tax_number", "company", "language")},
        "buyer.email": buyer.email_key if buyer else "",
        **{f"buyer.{name}": str(getattr(address, name, "") or "") for name in ("town", "region", "postcode")},
        "buyer.is_guest": buyer is None or buyer.account_id is None,
    }  # fmt: skip


def seen_of_line(charge: Charge, currency: str) -> dict[str, Any]:
    """What is seen of one line beside its order; of carriage and extras that is their title, class and amount."""
    line = charge if isinstance(charge, OrderLine) else None
    return {
        **{f"line.{name}": str(getattr(charge, name, "") or "") for name in _LINE},
        "line.amount": _Units(currency)(charge.reduced),
        "line.properties": {one.name: one.value for one in line.properties} if line else {},
    }


def _line(line: OrderLine, units: _Units) -> dict[str, Any]:
    return {
        **{name: str(getattr(line, name) or "") for name in _LINE},
        "amount": units(line.reduced),
        "quantity": int(line.quantity),
        "properties": {one.name: one.value for one in line.properties},
    }


def _day(moment: datetime | None, day: Callable[[datetime], date]) -> str:
    return day(moment).isoformat() if moment else ""


class _Units:
    """Amounts of one currency as whole numbers of its minor unit."""

    def __init__(self, currency: str) -> None:
        self._unit = minor_unit(currency)

    def __call__(self, amount: Decimal) -> int:
        return int(amount / self._unit)
