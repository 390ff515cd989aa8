"""What changed between two readings of a source document, as a person compares it."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.commerce import Change, changes
from inkwell_bridge.core.commerce.changes import MOST_CHANGES
from tests.support.orders import orders

SOCKS = {"id": "1", "title": "Wool socks", "sku": "SOCK-1", "quantity": "2", "amount": "24.00", "tax_class": "standard"}
HAT = {"id": "2", "title": "Hat", "sku": "HAT-1", "quantity": "1", "amount": "18.50", "tax_class": "standard"}


@pytest.mark.parametrize(("before", "after", "said"), [
    ({"status": "paid"}, {"status": "cancelled", "cancelled": True},
     [("status", "paid", "cancelled"), ("cancelled", None, "yes")]),
    # In another order lines are the same lines.
    ({"lines": [SOCKS, HAT]}, {"lines": [HAT, SOCKS]}, []),
    ({"lines": [SOCKS]}, {"lines": [{**SOCKS, "quantity": "1", "amount": "12.00"}]},
     [("lines, Wool socks: quantity", "2", "1"), ("lines, Wool socks: amount", "24.00", "12.00")]),
    ({"lines": [SOCKS, HAT]}, {"lines": [SOCKS]}, [("lines", "1 × Hat, 18.50", None)]),
    ({"lines": [SOCKS]}, {"lines": [SOCKS, HAT]}, [("lines", None, "1 × Hat, 18.50")]),
    ({"total": "42.50"}, {"total": "42.50", "shipping": [{"id": "s", "title": "Post", "amount": "3.50"}]},
     [("shipping", None, "Post, 3.50")]),
    # Two of one name are compared by their place.
    ({"lines": [SOCKS, SOCKS]}, {"lines": [SOCKS, {**SOCKS, "amount": "20.00"}]},
     [("lines, Wool socks: amount", "24.00", "20.00")]),
    ({"tags": ["gift"]}, {"tags": ["gift", "by boat"]}, [("tags", "gift", "gift, by boat")]),
    ({"payments": [{"transaction": "t1", "method": "card", "amount": "5.00"}]},
     {"payments": [{"transaction": "t1", "method": "card", "amount": "6.00"}]},
     [("payments, card: amount", "5.00", "6.00")]),
    ({"changed_at": "2026-10-01T00:00:00Z"}, {"changed_at": "2026-10-02T00:00:00Z"}, []),
    ({"prices_include_tax": True}, {"prices_include_tax": False}, [("prices include tax", "yes", "no")]),
    ({"conversion": {"rate": "1.15", "of": "EUR"}}, {}, [("conversion", "rate 1.15; of EUR", None)]),
])  # fmt: skip
def test_each_value_that_is_another(before: dict[str, Any], after: dict[str, Any], said: list[tuple[Any, ...]]) -> None:
    """In words, before and after."""
    assert changes(before, after) == [Change(*one) for one in said]


def test_no_more_than_a_person_compares() -> None:
    """A thousand lines that all changed."""
    lines = [{**SOCKS, "id": str(number)} for number in range(1000)]
    assert len(changes({"lines": lines}, {"lines": [{**line, "amount": "1.00"} for line in lines]})) == MOST_CHANGES


@given(orders(), orders())
def test_whatever_an_order_is(one: Any, other: Any) -> None:
    """Nothing differs from itself; of two that differ something is named, and the other way round no less."""
    this, that = one.as_json(), other.as_json()
    assert changes(this, this) == []
    assert bool(changes(this, that)) == bool(changes(that, this)) == (
        {**this, "changed_at": ""} != {**that, "changed_at": ""}
    )  # fmt: skip


@given(orders(), st.text(min_size=1, max_size=20))
def test_one_change_is_one_row(one: Any, status: str) -> None:
    """What only is called otherwise."""
    this = one.as_json()
    found = changes(this, {**this, "status": f"now {status}"})
    assert [(row.what, row.after) for row in found] == [("status", f"now {status}")]
