"""What an expression sees of a document: its fields under plain names, amounts as whole numbers of the minor unit."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from cel_expr_python import cel

from inkwell_bridge.core.commerce import Address, Charge, Order, OrderLine, Payment, PostedInvoice
from inkwell_bridge.core.expressions.expression import Allowance, Names
from inkwell_bridge.core.money import minor_unit
from inkwell_bridge.core.record import record

ZERO = Decimal(0)
_TYPE = cel.Type
_TEXTS = ("number", "channel", "location", "status", "currency", "country", "customer_group", "payment_terms",
          "treatment", "placed_on", "paid_on", "dispatched_on", "link", "shipping_method")  # fmt: skip
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
_INVOICE_TEXTS = ("number", "order_number", "currency", "issued_on", "due_on")
ORDER = Names(_ORDER_TYPES)
LINE = Names((*_ORDER_TYPES, *_LINE_TYPES))
INVOICE = Names((
    *((f"invoice.{name}", _TYPE.STRING) for name in _INVOICE_TEXTS),
    ("invoice.total", _TYPE.INT),
    ("invoice.open", _TYPE.INT),
    ("invoice.fields", _TYPE.Map(_TYPE.STRING, _TYPE.STRING)),
))  # fmt: skip


class EvaluationContext(dict[str, Any]):
    """What is seen of a document; each name is worked out when an expression first asks for it.

    ``makers`` work a name out of the ``subject``; a name that they do not know is seen ``around`` it.
    """

    def __init__(
        self, subject: Any, makers: Mapping[str, Callable[[Any], Any]], around: EvaluationContext | None = None
    ) -> None:
        super().__init__()
        self._subject, self._makers, self._around = subject, makers, around
        # One for the document: what is seen of its lines takes from the same.
        self.allowance: Allowance = around.allowance if around else Allowance()

    def __missing__(self, name: str) -> Any:
        # A list of lines is dear to make, and most rules ask for a country or a status alone.
        maker = self._makers.get(name)
        if maker is None and self._around is None:
            raise KeyError(name)
        found = maker(self._subject) if maker else self._around[name]  # type: ignore[index]
        self[name] = found
        return found


def evaluation_of_order(order: Order, day: Callable[[datetime], date]) -> EvaluationContext:
    """What is seen of an order; ``day`` tells the day of a moment in the company's time zone."""
    return EvaluationContext(_OfOrder(order=order, day=day, units=_Units(order.currency)), _OF_ORDER)


def evaluation_of_line(charge: Charge, currency: str, of_order: EvaluationContext) -> EvaluationContext:
    """What is seen of one charge besides: a line of goods, or carriage and the like."""
    return EvaluationContext(_OfLine(charge=charge, units=_Units(currency)), _OF_LINE, of_order)


def evaluation_of_invoice(invoice: PostedInvoice) -> EvaluationContext:
    """What is seen of an invoice of the books; a field that it does not have is empty in ``invoice.fields``."""
    return EvaluationContext(invoice, _OF_INVOICE)


def _text(of: Any, name: str) -> str:
    return str(getattr(of, name, "") or "")


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

    # Whole numbers, for the expression language knows only binary fractions besides.
    def __call__(self, amount: Decimal) -> int:
        return int(amount / self._unit)


@record
class _OfOrder:
    """What the names of an order are worked out of."""

    order: Order
    day: Callable[[datetime], date]
    units: _Units

    @property
    def address(self) -> Address | None:
        """Where it goes."""
        buyer = self.order.buyer
        return (buyer.delivery or buyer.billing) if buyer else None

    def day_of(self, name: str) -> str:
        """The day of a moment of the order, or nothing."""
        moment = getattr(self.order, name.replace("_on", "_at"))
        return self.day(moment).isoformat() if moment else ""

    @property
    def discounts(self) -> Decimal:
        """All that was taken off it."""
        whole = sum((one.amount for one in self.order.discounts), ZERO)
        return whole + sum((charge.discount for charge in self.order.charges), ZERO)


@record
class _OfLine:
    """What the names of one charge are worked out of."""

    charge: Charge
    units: _Units

    @property
    def properties(self) -> dict[str, str]:
        """Those of a line of goods, by name."""
        given = self.charge.properties if isinstance(self.charge, OrderLine) else ()
        return {one.name: one.value for one in given}


def _order_text(name: str) -> Callable[[_OfOrder], str]:
    return lambda of: _text(of.order, name)


def _buyer_text(name: str) -> Callable[[_OfOrder], str]:
    return lambda of: _text(of.order.buyer, name)


def _address_text(name: str) -> Callable[[_OfOrder], str]:
    return lambda of: _text(of.address, name)


def _day(name: str) -> Callable[[_OfOrder], str]:
    return lambda of: of.day_of(name)


def _line_text(name: str) -> Callable[[_OfLine], str]:
    return lambda of: _text(of.charge, name)


_OF_ORDER: dict[str, Callable[[_OfOrder], Any]] = {
    **{f"order.{name}": _order_text(name) for name in _TEXTS if name not in _DAYS},
    **{f"order.{name}": _day(name) for name in _DAYS},
    "order.total": lambda of: of.units(of.order.total),
    "order.tax_total": lambda of: of.units(of.order.tax_total),
    # Of several ways the first: what goes by another is for the books to say.
    "order.shipping_method": lambda of: of.order.shipping[0].method if of.order.shipping else "",
    "order.shipping_total": lambda of: of.units(sum((part.reduced for part in of.order.shipping), ZERO)),
    "order.discount_total": lambda of: of.units(of.discounts),
    "order.paid_total": lambda of: of.units(of.order.received),
    "order.prices_include_tax": lambda of: of.order.prices_include_tax,
    "order.tags": lambda of: list(of.order.tags),
    "order.attributes": lambda of: {one.name: one.value for one in of.order.attributes},
    "order.lines": lambda of: [_line(line, of.units) for line in of.order.lines],
    "order.payments": lambda of: [_payment(money, of.units) for money in of.order.payments],
    **{f"buyer.{name}": _buyer_text(name) for name in ("tax_number", "company", "language")},
    "buyer.email": lambda of: of.order.buyer.email_key if of.order.buyer else "",
    **{f"buyer.{name}": _address_text(name) for name in ("town", "region", "postcode")},
    "buyer.is_guest": lambda of: of.order.buyer is None or of.order.buyer.account_id is None,
}
# A charge that is no line of goods (carriage, a fee) answers with empty text, so that one rule fits all charges.
_OF_LINE: dict[str, Callable[[_OfLine], Any]] = {
    **{f"line.{name}": _line_text(name) for name in _LINE},
    "line.amount": lambda of: of.units(of.charge.reduced),
    "line.properties": lambda of: of.properties,
}


def _invoice_text(name: str) -> Callable[[PostedInvoice], str]:
    return lambda invoice: _text(invoice, name)


_OF_INVOICE: dict[str, Callable[[PostedInvoice], Any]] = {
    **{f"invoice.{name}": _invoice_text(name) for name in _INVOICE_TEXTS},
    "invoice.total": lambda invoice: _Units(invoice.currency)(invoice.total),
    "invoice.open": lambda invoice: _Units(invoice.currency)(invoice.open),
    "invoice.fields": lambda invoice: {one.name: one.value for one in invoice.fields},
}
