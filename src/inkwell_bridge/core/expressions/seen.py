"""What an expression sees of a document: its fields under plain names, amounts as whole numbers of the minor unit."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime
from decimal import Decimal
from functools import partial
from typing import Any

from cel_expr_python import cel

from inkwell_bridge.core.commerce import Charge, Order, OrderLine, Payment
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


class Seen(dict[str, Any]):
    """What is seen of a document; each name is worked out when an expression first asks for it."""

    def __init__(self, makers: Mapping[str, Callable[[], Any]], around: Seen | None = None) -> None:
        super().__init__()
        self._makers, self._around = makers, around

    def __missing__(self, name: str) -> Any:
        maker = self._makers.get(name)
        if maker is None and self._around is None:
            raise KeyError(name)
        found = maker() if maker else self._around[name]  # type: ignore[index]
        self[name] = found
        return found


def seen_of_order(order: Order, day: Callable[[datetime], date]) -> Seen:
    """What is seen of an order; ``day`` tells the day of a moment in the company's time zone."""
    units = _Units(order.currency)
    buyer = order.buyer
    address = (buyer.delivery or buyer.billing) if buyer else None
    return Seen({
        **{f"order.{name}": partial(_text, order, name) for name in _TEXTS if name not in _DAYS},
        **{f"order.{name}": partial(_day, order, name, day) for name in _DAYS},
        "order.total": lambda: units(order.total),
        "order.tax_total": lambda: units(order.tax_total),
        "order.shipping_total": lambda: units(sum((part.reduced for part in order.shipping), Decimal(0))),
        "order.discount_total": lambda: units(
            sum((one.amount for one in order.discounts), Decimal(0))
            + sum((charge.discount for charge in order.charges), Decimal(0))
        ),
        "order.paid_total": lambda: units(order.received),
        "order.prices_include_tax": lambda: order.prices_include_tax,
        "order.tags": lambda: list(order.tags),
        "order.attributes": lambda: {one.name: one.value for one in order.attributes},
        "order.lines": lambda: [_line(line, units) for line in order.lines],
        "order.payments": lambda: [_payment(money, units) for money in order.payments],
        **{f"buyer.{name}": partial(_text, buyer, name) for name in ("tax_number", "company", "language")},
        "buyer.email": lambda: buyer.email_key if buyer else "",
        **{f"buyer.{name}": partial(_text, address, name) for name in ("town", "region", "postcode")},
        "buyer.is_guest": lambda: buyer is None or buyer.account_id is None,
    })  # fmt: skip


def seen_of_line(charge: Charge, currency: str, of_order: Seen) -> Seen:
    """What is seen of one charge besides: a line of goods, or carriage and the like."""
    properties = charge.properties if isinstance(charge, OrderLine) else ()
    return Seen(
        {
            **{f"line.{name}": partial(_text, charge, name) for name in _LINE},
            "line.amount": lambda: _Units(currency)(charge.reduced),
            "line.properties": lambda: {one.name: one.value for one in properties},
        },
        of_order,
    )


def _text(of: Any, name: str) -> str:
    return str(getattr(of, name, "") or "")


def _day(order: Order, name: str, day: Callable[[datetime], date]) -> str:
    moment = getattr(order, name.replace("_on", "_at"))
    return day(moment).isoformat() if moment else ""


def _line(line: OrderLine, units: _Units) -> dict[str, Any]:
    return {
        **{name: _text(line, name) for name in _LINE},
        "amount": units(line.reduced),
        "properties": {one.name: one.value for one in line.properties},
    }


def _payment(money: Payment, units: _Units) -> dict[str, Any]:
    return {"method": money.method, "tender": str(money.tender), "brand": money.brand, "gateway": money.gateway,
            "amount": units(money.amount), "state": str(money.state)}  # fmt: skip


class _Units:
    """Amounts of one currency as whole numbers of its minor unit."""

    def __init__(self, currency: str) -> None:
        self._unit = minor_unit(currency)

    def __call__(self, amount: Decimal) -> int:
        return int(amount / self._unit)
