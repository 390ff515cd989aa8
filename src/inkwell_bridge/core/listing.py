"""An end's reference data, as lists to be looked through: every entry under its kind, code and name."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from inkwell_bridge.core.books import MasterData, Named
from inkwell_bridge.core.commerce import SalesMasterData
from inkwell_bridge.core.values import Code, Text, Value


class Listed(Value):
    """One entry of a list; ``details`` are what is worth showing besides."""

    kind: Code
    code: Code
    name: Text = ""
    details: dict[str, str] = {}


def listed(master_data: MasterData | SalesMasterData) -> Iterator[Listed]:
    """Every entry of everything that was loaded; a code stands once in its list."""
    found = _of_books(master_data) if isinstance(master_data, MasterData) else _of_sales(master_data)
    seen: set[tuple[str, str]] = set()
    for entry in found:
        if (entry.kind, entry.code) not in seen:
            seen.add((entry.kind, entry.code))
            yield entry


def _of_books(master_data: MasterData) -> Iterator[Listed]:
    for account in master_data.accounts:
        yield Listed(kind="accounts", code=account.code, name=account.name, details={"type": account.type.value})
    for tax in master_data.tax_codes:
        details = {"rate_percent": f"{tax.whole_rate:f}", "outside": "yes" if tax.outside else "no"}
        yield Listed(kind="tax-codes", code=tax.code, name=tax.name, details=details)
    yield from _named("warehouses", master_data.warehouses)
    yield from _named("terms", master_data.terms)
    yield from _named("price-lists", master_data.price_lists)
    yield from _named("units", master_data.units)
    yield from _named("delivery-methods", master_data.delivery_methods)
    yield from _named("sales-people", master_data.sales_people)
    yield from _named("languages", master_data.languages)
    for dimension in master_data.dimensions:
        values = ", ".join(value.code for value in dimension.values)
        yield Listed(kind="dimensions", code=dimension.name, name=dimension.name, details={"values": values[:2000]})
    yield from _codes("currencies", master_data.currencies)
    for period in master_data.periods:
        details = {"first": period.first.isoformat(), "last": period.last.isoformat(),
                   "state": "open" if period.open else "closed"}  # fmt: skip
        yield Listed(kind="periods", code=period.name[:120], name=period.name, details=details)


def _of_sales(master_data: SalesMasterData) -> Iterator[Listed]:
    for tax_class in master_data.tax_classes:
        rates = "; ".join(
            f"{rate.name} {rate.rate_percent:f} %{f' ({rate.region or rate.country})' if rate.country else ''}"
            for rate in tax_class.rates
        )
        yield Listed(kind="tax-classes", code=tax_class.name, name=tax_class.name, details={"rates": rates[:2000]})
    for kind, codes in (
        ("payment-methods", master_data.payment_methods),
        ("card-brands", master_data.card_brands),
        ("shipping-methods", master_data.shipping_methods),
        ("order-statuses", master_data.order_statuses),
        ("payment-statuses", master_data.payment_statuses),
        ("locations", master_data.locations),
        ("product-types", master_data.product_types),
        ("attributes", master_data.attributes),
        ("customer-groups", master_data.customer_groups),
        ("languages", master_data.languages),
        ("discount-codes", master_data.discount_codes),
    ):
        yield from _codes(kind, codes)


def _named(kind: str, entries: Iterable[Named]) -> Iterator[Listed]:
    return (Listed(kind=kind, code=entry.code, name=entry.name) for entry in entries)


def _codes(kind: str, codes: Iterable[str]) -> Iterator[Listed]:
    return (Listed(kind=kind, code=code, name=code) for code in codes)
