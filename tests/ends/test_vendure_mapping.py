"""Vendure's words, without Vendure: whole numbers as money, taxes by rate, refunds of less than their lines."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.ends.vendure import refunds_and_dispatches
from inkwell_bridge.ends.vendure.lists import fetched
from inkwell_bridge.ends.vendure.mapping import Money, carriage_class, rate_between, tax_class, tax_lines
from inkwell_bridge.ends.vendure.orders import Orders, changed_at

D = Decimal
PENNY = D("0.01")
READ = Orders(2, with_tax=True)
T1, T2, T3 = (f"2026-10-05T1{hour}:00:00.000Z" for hour in (1, 2, 3))
VARIANT = {"id": "1", "sku": "YRN-MER4-HEA", "name": "Merino", "productId": "1"}
LINE = {
    "id": "30", "quantity": 2, "orderPlacedQuantity": 2, "unitPrice": 1542, "unitPriceWithTax": 1850, "linePrice": 3083,
    "linePriceWithTax": 3700, "proratedLinePrice": 3083, "proratedLinePriceWithTax": 3700, "proratedUnitPrice": 1542,
    "proratedUnitPriceWithTax": 1850, "taxLines": [{"description": "VAT standard", "taxRate": 20}],
    "productVariant": VARIANT,
}  # fmt: skip
CARRIAGE = {"id": "5", "price": D("329.1666667"), "priceWithTax": 395, "discountedPrice": D("329.1666667"),
            "discountedPriceWithTax": 395, "shippingMethod": {"code": "parcel", "name": "Parcel"}}  # fmt: skip


def order(**fields: Any) -> dict[str, Any]:
    """An order of two skeins with carriage, in Vendure's words."""
    payment = {"id": "9", "createdAt": T1, "updatedAt": T1, "method": "card", "amount": 4095, "state": "Settled",
               "transactionId": "wg_1", "refunds": []}  # fmt: skip
    return {
        "id": "21", "code": "ABC", "state": "PaymentSettled", "active": False, "createdAt": T1, "updatedAt": T1,
        "orderPlacedAt": T1, "currencyCode": "GBP", "couponCodes": [], "total": 3412, "totalWithTax": 4095,
        "customer": None, "billingAddress": None, "shippingAddress": None, "lines": [LINE], "surcharges": [],
        "shippingLines": [CARRIAGE], "taxSummary": [{"taxRate": 20}], "payments": [payment], "fulfillments": [],
        "history": {"items": []}, **fields,
    }  # fmt: skip


def refund(total: int, **fields: Any) -> dict[str, Any]:
    """A refund, in Vendure's words."""
    return {"id": "4", "createdAt": T2, "updatedAt": T3, "shipping": 0, "total": total, "state": "Settled",
            "transactionId": None, "reason": None, "lines": [], **fields}  # fmt: skip


def with_refund(said: dict[str, Any]) -> dict[str, Any]:
    """The order with that refund of its payment."""
    return order(payments=[{**order()["payments"][0], "refunds": [said]}])


def test_another_order_of_the_lines_is_no_change() -> None:
    """Vendure hands them out in any; by their ids they stand as they were put into the basket."""
    first, second, third = ({**LINE, "id": identity} for identity in ("9", "30", "101"))
    read = READ.order(order(lines=[third, first, second]))
    assert [line["id"] for line in read["lines"]] == ["9", "30", "101"]
    assert read == READ.order(order(lines=[second, third, first]))


def test_money_is_exact_in_the_shops_digits() -> None:
    """Whole units, and carriage with parts of one, rounded as Vendure adds it up; nothing else is a number."""
    assert (Money(2)(1850), Money(0)(3600), Money(3)(7250)) == (D("18.50"), D("3600"), D("7.250"))
    assert (Money(2)(D("329.1666667")), Money(2)(D("329.5"))) == (D("3.29"), D("3.30"))
    for odd in ("18.50", None, True, [1]):
        with pytest.raises(ValueError, match="minor units"):
            Money(2)(odd)


@given(st.integers(0, 99_999), st.lists(st.sampled_from([D(5), D("2.9"), D("3.86"), D(20)]), min_size=1, max_size=4))
def test_taxes_by_rate_make_the_whole(pence: int, rates: list[Decimal]) -> None:
    """However many share a charge."""
    said = [{"description": f"Tax {place}", "taxRate": rate} for place, rate in enumerate(rates)]
    total = D(pence).scaleb(-2)
    assert sum((one["amount"] for one in tax_lines(said, total, PENNY)), D(0)) == total
    assert tax_class(said) == " + ".join(f"Tax {place}" for place in range(len(rates)))


@pytest.mark.parametrize(("net", "gross", "rates", "rate"), [
    ("3.29", "3.95", ["20", "0"], "20"), ("14.50", "14.50", ["20", "0"], "0"), ("0", "0", ["20"], "0"),
    ("10.00", "10.50", ["20", "5", "0"], "5"), ("10.00", "12.00", [], "0"),
])  # fmt: skip
def test_the_rate_of_carriage_is_the_nearest(net: str, gross: str, rates: list[str], rate: str) -> None:
    """Vendure tells both sums and not the rate."""
    assert rate_between(D(net), D(gross), [D(one) for one in rates]) == D(rate)
    assert carriage_class(D("20.0")) == "carriage at 20"


def test_a_shop_without_tax_in_its_prices() -> None:
    """The same order the other way round: net amounts, and tax on top."""
    (found,) = fetched(SourceKind.ORDERS, order(), Orders(2, with_tax=False))
    assert found.document is not None, found.problem
    said = found.document.as_json()
    assert (said["prices_include_tax"], said["lines"][0]["amount"], said["shipping"][0]["amount"]) == (
        False, "30.83", "3.29",
    )  # fmt: skip
    assert (said["total"], said["tax_total"]) == ("40.95", "6.83")


def test_what_a_person_added_is_a_line_of_service() -> None:
    """A surcharge, taxed like any."""
    extra = {"id": "3", "description": "Gift wrap", "sku": None, "price": 250, "priceWithTax": 300,
             "taxLines": [{"description": "VAT standard", "taxRate": 20}]}  # fmt: skip
    (found,) = fetched(SourceKind.ORDERS, order(surcharges=[extra], total=3662, totalWithTax=4395), READ)
    assert found.document is not None, found.problem
    line = found.document.as_json()["lines"][1]
    assert (line["title"], line["nature"], line["amount"], line["taxes"][0]["amount"]) == (
        "Gift wrap", "service", "3.00", "0.50",
    )  # fmt: skip


def test_when_an_order_last_changed_is_the_latest_of_all_its_parts() -> None:
    """Its own time of change, its history, payments, refunds and dispatches."""
    assert str(changed_at(order())) == "2026-10-05 11:00:00+00:00"
    noted = order(history={"items": [{"id": "1", "type": "ORDER_NOTE", "createdAt": T2, "data": {"note": "x"}}]})
    assert str(changed_at(noted)) == "2026-10-05 12:00:00+00:00"
    assert str(changed_at(with_refund(refund(100)))) == "2026-10-05 13:00:00+00:00"


def test_a_refund_of_less_than_its_lines_takes_from_each() -> None:
    """Two skeins and carriage, 40.95, of which 20.00 were given back: the parts make that."""
    said = refund(2000, shipping=395, lines=[{"orderLineId": "30", "quantity": 2}])
    (found,) = refunds_and_dispatches.refunds(with_refund(said), READ)
    parts = [*found["lines"], *found["shipping"]]
    assert [part["amount"] for part in parts] == [D("18.07"), D("1.93")]
    assert sum(part["amount"] for part in parts) == found["total"] == D("20.00")
    assert found["goodwill"] == []
    assert found["payments"][0]["transaction"] == "refund 4"


def test_a_refund_of_more_than_its_lines_is_goodwill_besides() -> None:
    """And one that failed gave nothing back."""
    more = refund(2000, lines=[{"orderLineId": "30", "quantity": 1}])
    (found,) = refunds_and_dispatches.refunds(with_refund(more), READ)
    assert (found["lines"][0]["amount"], found["goodwill"][0]["amount"]) == (D("18.50"), D("1.50"))
    assert refunds_and_dispatches.refunds(with_refund({**more, "state": "Failed"}), READ) == []


def test_what_is_packed_has_not_left() -> None:
    """Only what was shipped is a dispatch."""
    parcels = [{"id": str(place), "createdAt": T1, "updatedAt": T2, "state": state, "method": "Otter",
                "trackingCode": "OT1", "lines": [{"orderLineId": "30", "quantity": 1}]}
               for place, state in enumerate(("Pending", "Shipped", "Delivered", "Cancelled"))]  # fmt: skip
    found = refunds_and_dispatches.dispatches(order(fulfillments=parcels), READ)
    assert [one["number"] for one in found] == ["ABC-D1", "ABC-D2"]


@pytest.mark.parametrize(("change", "problem"), [
    ({"totalWithTax": "lots"}, "minor units"), ({"lines": None}, "lacks or misstates"),
    ({"orderPlacedAt": "yesterday"}, "lacks or misstates"), ({"currencyCode": "pounds"}, "currency code"),
    ({"history": {}}, "lacks or misstates"), ({"state": None}, "/status"),
])  # fmt: skip
def test_an_order_that_cannot_be_understood_is_not_lost(change: dict[str, Any], problem: str) -> None:
    """It comes back with its number and what is wrong."""
    (found,) = fetched(SourceKind.ORDERS, order(**change), READ)
    assert (found.id, found.number, found.document) == ("21", "ABC", None)
    assert problem in found.problem
