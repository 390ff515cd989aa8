"""Documents with money in them: every amount fits the document's currency, checked at birth."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from functools import cache
from typing import Annotated, Any, Final, get_args

from inkwell_bridge.core.money import exact, minor_unit
from inkwell_bridge.core.values import Code, Exact, Value


class _InDocumentCurrency:
    """Marks a field as money in the currency of the document around it."""


_MARK: Final = _InDocumentCurrency()
Amount = Annotated[Exact, _MARK]
ZERO = Decimal(0)


class Priced(Value):
    """A value whose amounts are all in ``currency`` (ISO 4217), with no more digits than it has.

    Raises:
        DocumentInvalid: through ``read``, for an unknown currency or an amount too fine for it.
    """

    currency: Code

    def model_post_init(self, _context: Any) -> None:
        """See that its amounts fit: once, when it is made, and not each time that it is put into something."""
        unit = minor_unit(self.currency)
        for amount in amounts_of(self):
            if amount.quantize(unit) != amount:
                exact(amount, self.currency)


def amounts_of(value: Value) -> list[Decimal]:
    """Every amount in a value and in what it holds, but for parts that name a currency of their own."""
    found: list[Decimal] = []
    _gather(value, found)
    return found


def _gather(value: Value, found: list[Decimal]) -> None:
    amounts, holders = _fields(type(value))
    for name in amounts:
        amount = getattr(value, name)
        if amount is not None:
            found.append(amount)
    for name in holders:
        met = getattr(value, name)
        for part in met if isinstance(met, tuple) else (met,):
            if isinstance(part, Value) and not isinstance(part, Priced):
                _gather(part, found)


@cache
def _fields(kind: type[Value]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The fields of a kind that are amounts, and those that hold values in which there are some."""
    amounts, holders = [], []
    for name, field in kind.model_fields.items():
        if _MARK in field.metadata or any(_marked(part) for part in get_args(field.annotation)):
            amounts.append(name)
        elif any(any(_fields(held)) for held in _values_in(field.annotation)):
            holders.append(name)
    return tuple(amounts), tuple(holders)


def _marked(annotation: Any) -> bool:
    return _MARK in getattr(annotation, "__metadata__", ())


def _values_in(annotation: Any) -> Iterator[type[Value]]:
    """The kinds of values that a field can hold, but for those with a currency of their own."""
    for part in (annotation, *_parts(annotation)):
        if isinstance(part, type) and issubclass(part, Value) and not issubclass(part, Priced):
            yield part


def _parts(annotation: Any) -> Iterator[Any]:
    for part in get_args(annotation):
        yield part
        yield from _parts(part)
