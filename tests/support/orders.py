"""Builders of canonical orders, and Hypothesis strategies for them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any

from hypothesis import strategies as st

from inkwell_bridge.core.books import BooksCapabilities, MasterData
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.money import allocate, digits, minor_unit, tax_inside, tax_on_top
from inkwell_bridge.core.planner import PlanningContext
from inkwell_bridge.core.rulebook import OrderRulebook

PLACED = datetime(2026, 10, 5, 13, 20, tzinfo=UTC)
RATES = {"standard": "20", "reduced": "5", "zero": "0"}


def line(number: int = 1, amount: str = "18.50", tax: str = "3.08", **fields: Any) -> dict[str, Any]:
    """An order line of one piece at 20 %."""
    return {
        "id": str(number),
        "title": f"Skein {number}",
        "quantity": "1",
        "unit_price": amount,
        "amount": amount,
        "tax_class": "standard",
        "taxes": [{"rate_percent": "20", "amount": tax}],
        **fields,
    }


def order(**fields: Any) -> Order:
    """An order of one skein with carriage, tax included."""
    base: dict[str, Any] = {
        "id": "501",
        "number": "MW-501",
        "status": "paid",
        "placed_at": PLACED,
        "changed_at": PLACED,
        "currency": "GBP",
        "prices_include_tax": True,
        "buyer": {"email": " Wren@Loom.example", "name": "Wren Dalby"},
        "lines": [line()],
        "shipping": [
            {
                "id": "carriage",
                "title": "Parcel",
                "amount": "3.95",
                "tax_class": "standard",
                "taxes": [{"rate_percent": "20", "amount": "0.66"}],
            }
        ],
        "tax_total": "3.74",
        "total": "22.45",
    }
    return Order.read({**base, **fields})


def rulebook(**fields: Any) -> OrderRulebook:
    """The rules of a bridge that posts invoices."""
    base: dict[str, Any] = {
        "orders": {"statuses": ["paid"]},
        "accounts": {"sales": "4000", "shipping": "4100", "rounding": "8200"},
        "tax_codes": {"by_class": {"standard": "S20", "reduced": "R05", "zero": "Z00"}, "outside": "OUT"},
        "penny": {"allowance": "0.05"},
    }
    return OrderRulebook.read({**base, **fields})


def master_data(currency: str = "GBP") -> MasterData:
    """Books with four accounts and four tax codes."""
    return MasterData.read(
        {
            "company": "Marrowby Yarn & Dye Works Ltd",
            "currency": currency,
            "accounts": [
                {"code": "4000", "name": "Sales", "type": "income"},
                {"code": "4100", "name": "Carriage", "type": "income"},
                {"code": "8200", "name": "Rounding", "type": "expense"},
                {"code": "1200", "name": "Current account", "type": "bank"},
            ],
            "tax_codes": [
                {"code": "S20", "name": "Standard", "rate_percent": "20"},
                {"code": "R05", "name": "Reduced", "rate_percent": "5"},
                {"code": "Z00", "name": "Zero", "rate_percent": "0"},
                {"code": "OUT", "name": "Outside", "rate_percent": "0", "outside": True},
            ],
            "contacts": ["WEB-GUEST"],
        }
    )


def context(rules: OrderRulebook | None = None, currency: str = "GBP", zone: str = "Europe/London") -> PlanningContext:
    """All that a plan depends on besides the order."""
    return PlanningContext(
        source="web-shop",
        rulebook=rules or rulebook(),
        master_data=master_data(currency),
        capabilities=BooksCapabilities(),
        time_zone=zone,
    )


@st.composite
def orders(
    draw: st.DrawFn, currencies: Sequence[str] = ("JPY", "GBP", "KWD"), *, inclusive: bool | None = None
) -> Order:
    """Orders that add up: one to six lines, discounts, carriage, in currencies of 0, 2 and 3 digits."""
    currency = draw(st.sampled_from(currencies))
    inclusive = draw(st.booleans()) if inclusive is None else inclusive
    prices = draw(st.lists(st.integers(0, 500_000), min_size=1, max_size=6))
    unit = minor_unit(currency)
    amounts = [unit * price for price in prices]
    off = unit * draw(st.integers(0, sum(prices)))
    shares = allocate(off, amounts, currency)
    classes = [draw(st.sampled_from(sorted(RATES))) for _ in prices]
    lines, taxes = [], []
    for number, (amount, share, tax_class) in enumerate(zip(amounts, shares, classes, strict=True), start=1):
        tax = _tax(amount - share, RATES[tax_class], currency, inclusive)
        taxes.append(tax)
        quantity = draw(st.integers(1, 400))
        lines.append(
            {
                **line(number, str(amount), str(tax)),
                "quantity": str(quantity),
                "tax_class": tax_class,
                "taxes": [{"rate_percent": RATES[tax_class], "amount": str(tax)}],
            }
        )
    total = sum(amounts, Decimal(0)) - off + (Decimal(0) if inclusive else sum(taxes, Decimal(0)))
    return order(
        currency=currency,
        prices_include_tax=inclusive,
        lines=lines,
        shipping=[],
        discounts=[{"code": "X", "amount": str(off)}] if off else [],
        tax_total=str(sum(taxes, Decimal(0))),
        total=str(total),
    )


def _tax(amount: Decimal, rate: str, currency: str, inclusive: bool) -> Decimal:
    assert digits(currency) in {0, 2, 3}
    if inclusive:
        return tax_inside(amount, Decimal(rate), currency)[1]
    return tax_on_top(amount, Decimal(rate), currency)
