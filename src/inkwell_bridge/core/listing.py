"""What an end calls things, as lists to be looked through: every entry under its kind, code and name."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from inkwell_bridge.core.books import Named, Reference
from inkwell_bridge.core.commerce import SalesReference
from inkwell_bridge.core.values import Code, Text, Value


class Listed(Value):
    """One entry of a list; ``details`` are what is worth showing besides."""

    kind: Code
    code: Code
    name: Text = ""
    details: dict[str, str] = {}


def listed(reference: Reference | SalesReference) -> Iterator[Listed]:
    """Every entry of everything that was loaded; a code stands once in its list."""
    found = _of_books(reference) if isinstance(reference, Reference) else _of_sales(reference)
    seen: set[tuple[str, str]] = set()
    for entry in found:
        if (entry.kind, entry.code) not in seen:
            seen.add((entry.kind, entry.code))
            yield entry


def _of_books(reference: Reference) -> Iterator[Listed]:
    for account in reference.accounts:
        yield Listed(kind="accounts", code=account.code, name=account.name, details={"type": account.type.value})
    for tax in reference.tax_codes:
        details = {"rate_percent": f"{tax.rate_percent:f}", "outside": "yes" if tax.outside else "no"}
        yield Listed(kind="tax-codes", code=tax.code, name=tax.name, details=details)
    yield from _named("warehouses", reference.warehouses)
    yield from _named("terms", reference.terms)
    yield from _named("price-lists", reference.price_lists)
    yield from _named("units", reference.units)
    for dimension in reference.dimensions:
        values = ", ".join(value.code for value in dimension.values)
        yield Listed(kind="dimensions", code=dimension.name, name=dimension.name, details={"values": values[:2000]})
    yield from _codes("currencies", reference.currencies)
    for period in reference.periods:
        details = {"first": period.first.isoformat(), "last": period.last.isoformat(),
                   "state": "open" if period.open else "closed"}  # fmt: skip
        yield Listed(kind="periods", code=period.name[:120], name=period.name, details=details)


def _of_sales(reference: SalesReference) -> Iterator[Listed]:
    for tax_class in reference.tax_classes:
        rates = "; ".join(
            f"{rate.name} {rate.rate_percent:f} %{f' ({rate.region or rate.country})' if rate.country else ''}"
            for rate in tax_class.rates
        )
        yield Listed(kind="tax-classes", code=tax_class.name, name=tax_class.name, details={"rates": rates[:2000]})
    for kind, codes in (
        ("payment-methods", reference.payment_methods),
        ("card-brands", reference.card_brands),
        ("shipping-methods", reference.shipping_methods),
        ("order-statuses", reference.order_statuses),
        ("payment-statuses", reference.payment_statuses),
        ("locations", reference.locations),
        ("product-types", reference.product_types),
        ("attributes", reference.attributes),
        ("customer-groups", reference.customer_groups),
        ("languages", reference.languages),
        ("discount-codes", reference.discount_codes),
    ):
        yield from _codes(kind, codes)


def _named(kind: str, entries: Iterable[Named]) -> Iterator[Listed]:
    return (Listed(kind=kind, code=entry.code, name=entry.name) for entry in entries)


def _codes(kind: str, codes: Iterable[str]) -> Iterator[Listed]:
    return (Listed(kind=kind, code=code, name=code) for code in codes)
