"""What rules can ask of an order and of its lines: every name there is, by what it comes to for one order."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

import pytest

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.expressions import (
    LINE,
    ORDER,
    Condition,
    EvaluationContext,
    NotEvaluated,
    NotUsable,
    evaluation_of_line,
    evaluation_of_order,
)
from inkwell_bridge.core.expressions.expression import Allowance, compiled

LONDON = ZoneInfo("Europe/London")
# 23:30 in UTC is half past midnight of the next day in London, in summer.
LATE = datetime(2026, 6, 30, 23, 30, tzinfo=UTC)
# Two skeins at 18.50 less 2.00, carriage of 3.95 less 0.95; 1.50 off all of it; 5.75 of tax inside 36.50.
EVERYTHING: dict[str, Any] = {
    "id": "501", "number": "MW-501", "channel": "web", "location": "Mill", "status": "paid", "placed_at": LATE,
    "changed_at": LATE, "currency": "GBP", "prices_include_tax": True, "treatment": "domestic", "country": "GB",
    "customer_group": "trade", "payment_terms": "30 days", "link": "https://shop.example/501",
    "tags": ["gift", "rush"], "attributes": [{"name": "colour", "value": "fen"}],
    "buyer": {
        "account_id": "9", "email": " Wren@Loom.example ", "name": "Wren Dalby", "company": "Dalby Looms",
        "tax_number": "GB980780684", "language": "en-GB",
        "billing": {"town": "Leeds", "region": "Yorkshire", "postcode": "LS1 4AP", "country": "GB"},
        "delivery": {"town": "York", "region": "North Yorkshire", "postcode": "YO1 7HH", "country": "GB"},
    },
    "lines": [{
        "id": "1", "title": "Merino", "quantity": "2", "unit_price": "18.50", "amount": "37.00", "discount": "2.00",
        "tax_class": "standard", "taxes": [{"rate_percent": "20", "amount": "5.58"}], "sku": "YRN", "unit": "C62",
        "barcode": "5012345678900", "product_type": "yarn", "location": "Dyehouse",
        "properties": [{"name": "dye lot", "value": "7"}],
    }],
    "shipping": [{"id": "s", "title": "Parcel", "amount": "3.95", "discount": "0.95", "tax_class": "standard",
                  "taxes": [{"rate_percent": "20", "amount": "0.17"}]}],
    "discounts": [{"title": "Spring", "amount": "1.50"}],
    "payments": [
        {"transaction": "wg_1", "method": "card", "tender": "card", "brand": "Kestrel", "gateway": "weirgate",
         "amount": "30.00", "state": "received", "paid_at": datetime(2026, 7, 1, 9, 0, tzinfo=UTC)},
        {"transaction": "wg_2", "method": "card", "tender": "card", "amount": "6.50", "state": "failed"},
    ],
    "history": [{"id": "1", "kind": "dispatched", "at": datetime(2026, 7, 2, 23, 15, tzinfo=UTC)}],
    "tax_total": "5.75", "total": "36.50",
}  # fmt: skip


def everything(**fields: Any) -> Order:
    """An order that has something for every name."""
    return Order.read({**EVERYTHING, **fields})


def seen(order: Order) -> EvaluationContext:
    """What is seen of it in London."""
    return evaluation_of_order(order, lambda moment: moment.astimezone(LONDON).date())


OF_ORDER: list[tuple[str, bool | str | int]] = [
    ("order.number", "MW-501"),
    ("order.channel", "web"),
    ("order.location", "Mill"),
    ("order.status", "paid"),
    ("order.currency", "GBP"),
    ("order.country", "GB"),
    ("order.customer_group", "trade"),
    ("order.payment_terms", "30 days"),
    ("order.treatment", "domestic"),
    ("order.placed_on", "2026-07-01"),
    ("order.paid_on", "2026-07-01"),
    ("order.dispatched_on", "2026-07-03"),
    ("order.link", "https://shop.example/501"),
    ("order.total", 3650),
    ("order.tax_total", 575),
    ("order.shipping_total", 300),
    ("order.shipping_method", ""),
    ("order.discount_total", 445),
    ("order.paid_total", 3000),
    ("order.prices_include_tax", True),
    ("'rush' in order.tags", True),
    ("order.attributes['colour']", "fen"),
    ("order.lines[0].amount", 3500),
    ("order.lines[0].properties['dye lot']", "7"),
    ("order.lines.exists(line, line.sku == 'YRN' && line.product_type == 'yarn')", True),
    ("order.payments[0].brand + ' ' + order.payments[0].gateway", "Kestrel weirgate"),
    ("order.payments.all(money, money.state == 'received')", False),
    ("buyer.email", "wren@loom.example"),
    ("buyer.company", "Dalby Looms"),
    ("buyer.tax_number", "GB980780684"),
    ("buyer.language", "en-GB"),
    ("buyer.town", "York"),
    ("buyer.region", "North Yorkshire"),
    ("buyer.postcode", "YO1 7HH"),
    ("buyer.is_guest", False),
]
OF_LINE: list[tuple[str, bool | str | int]] = [
    ("line.sku", "YRN"),
    ("line.barcode", "5012345678900"),
    ("line.title", "Merino"),
    ("line.product_type", "yarn"),
    ("line.nature", "goods"),
    ("line.tax_class", "standard"),
    ("line.location", "Dyehouse"),
    ("line.unit", "C62"),
    ("line.amount", 3500),
    ("line.properties['dye lot']", "7"),
    ("line.amount < order.total", True),
]


@pytest.mark.parametrize(("expression", "worth"), OF_ORDER)
def test_what_is_asked_of_an_order(expression: str, worth: bool | str | int) -> None:
    """Amounts as whole pence, days on the company's clocks."""
    assert compiled(expression, ORDER).of(seen(everything())) == worth


@pytest.mark.parametrize(("expression", "worth"), OF_LINE)
def test_what_is_asked_of_a_line(expression: str, worth: bool | str | int) -> None:
    """And of its order beside it."""
    order = everything()
    assert compiled(expression, LINE).of(evaluation_of_line(order.lines[0], "GBP", seen(order))) == worth


def test_each_name_is_asked_for_above() -> None:
    """Nothing that a rule can name goes untried."""
    asked = " ".join(expression for expression, _ in (*OF_ORDER, *OF_LINE))
    assert [name for name in (*ORDER.known, *LINE.known) if name not in asked] == []


@pytest.mark.parametrize(("expression", "worth"), [
    ("order.treatment", ""), ("order.paid_on", ""), ("order.dispatched_on", ""), ("buyer.email", ""),
    ("buyer.town", ""), ("buyer.tax_number", ""), ("buyer.is_guest", True), ("order.paid_total", 0),
    ("order.discount_total", 295), ("size(order.tags)", 0),
])  # fmt: skip
def test_what_an_order_lacks_is_empty(expression: str, worth: str | int) -> None:
    """Not an error: most orders lack something."""
    bare = everything(treatment=None, payments=[], history=[], buyer=None, tags=[], discounts=[],
                      total="38.00", attributes=[])  # fmt: skip
    assert compiled(expression, ORDER).of(seen(bare)) == worth


def test_a_guest_is_billed_where_nothing_is_sent() -> None:
    """The place of a buyer is where the goods go, else where the bill goes."""
    address = {"town": "Leeds", "postcode": "LS1 4AP"}
    order = everything(buyer={"email": "a@b.example", "billing": address})
    assert compiled("buyer.town", ORDER).of(seen(order)) == "Leeds"
    assert compiled("buyer.is_guest", ORDER).of(seen(order)) is True


@pytest.mark.parametrize(("currency", "total", "worth"), [("JPY", "4400", 4400), ("KWD", "1.250", 1250)])
def test_amounts_are_in_the_minor_unit_of_their_currency(currency: str, total: str, worth: int) -> None:
    """A yen has no smaller part, a dinar a thousand."""
    order = everything(currency=currency, total=total, tax_total="0", lines=[], shipping=[], discounts=[],
                       payments=[])  # fmt: skip
    assert compiled("order.total", ORDER).of(seen(order)) == worth


@pytest.mark.parametrize(("condition", "holds"), [
    ("order.total > 3000", True),
    ({"all": ["order.total > 3000", "order.country == 'GB'"]}, True),
    ({"all": ["order.total > 3000", "order.country == 'FR'"]}, False),
    ({"any": ["order.total > 9000", "order.country == 'GB'"]}, True),
    ({"any": ["order.total > 9000", "order.country == 'FR'"]}, False),
    ({"none": ["order.total > 9000", "order.country == 'FR'"]}, True),
    ({"none": ["order.total > 3000"]}, False),
    ({"all": ["order.country == 'GB'", {"any": ["'gift' in order.tags", "buyer.is_guest"]}]}, True),
    ({"all": ["order.country == 'GB'", {"none": ["'gift' in order.tags", "buyer.is_guest"]}]}, False),
])  # fmt: skip
def test_conditions_are_joined_with_and_and_or(condition: Any, holds: bool) -> None:
    """As deep as people write them."""
    assert Condition.model_validate(condition).holds(ORDER, seen(everything())) is holds


@pytest.mark.parametrize("expression", ["order.attributes['size']", "order.lines[4].sku", "order.total / 0"])
def test_what_comes_to_nothing_says_so(expression: str) -> None:
    """With the expression, and why."""
    with pytest.raises(NotEvaluated, match="came to nothing"):
        compiled(expression, ORDER).of(seen(everything()))


def test_a_name_is_worked_out_once_and_only_when_it_is_asked_for() -> None:
    """An order of 400 lines is not gone through for a rule that asks for its country."""
    found = seen(everything())
    compiled("order.country == 'GB'", ORDER).of(found)
    assert dict(found) == {"order.country": "GB"}
    with pytest.raises(KeyError):
        found["order.shoe_size"]


def test_expressions_of_one_document_take_only_so_many_steps_together() -> None:
    """Each line of a long order asks for all the others: it ends with a plain error, not after minutes."""
    order, charge = seen(everything()), everything().lines[0]
    order.allowance = Allowance(steps=100_000)
    order["order.lines"] = [{"sku": f"SK-{number}" * 20} for number in range(60)]
    asked = compiled("order.lines.exists(a, a['sku'] + 'x' == line.sku)", LINE)
    with pytest.raises(NotEvaluated, match="ask for more than one document may take"):
        sum(bool(asked.of(evaluation_of_line(charge, "GBP", order))) for _ in range(10_000))
    assert asked.of(evaluation_of_line(charge, "GBP", seen(everything()))) is False


DOUBLED = ".map(a, a + a)"


@pytest.mark.parametrize(
    ("source", "said"),
    [
        (f'["x"]{DOUBLED * 60}[0] == "y"', "expected at most 3 of map, filter, all, exists and exists_one, got 60"),
        (f'["x"].map(a, {" + ".join(["a"] * 40)})[0] == "y"', "expected at most 6 of [+] beside"),
        (f'["x"]{".//a comment%smap(a, a + a)" * 9}[0] == "y"' % ((chr(10),) * 9), "got 9"),
        (f"""[r"\\"]{DOUBLED * 9}[0] == r"\\" """, "got 9"),
        ('order.tags.exists(t, order.tags.exists(u, order.tags . exists (v, order.tags.all(w, t == w))))', "got 4"),
    ],
)  # fmt: skip
def test_what_could_grow_without_bound_is_refused_when_it_is_written(source: str, said: str) -> None:
    """Sixty doublings of one letter are a million terabytes; the service must not even begin."""
    with pytest.raises(NotUsable, match=said):
        compiled(source, ORDER)


def test_what_is_allowed_stays_small() -> None:
    """The most that may be joined, three times over a text of ten thousand letters: 3 x 3 x 3 times as long."""
    joined = f".map(a, {' + '.join(['a'] * 3)})"
    grown = compiled(f"[order.number]{joined * 3}[0]", ORDER).of({"order.number": "n" * 10_000})
    assert len(str(grown)) == 270_000
    quoted = "'.map(' + \".map(\" + order.number + " + " + ".join(["'+'"] * 20)
    assert compiled(quoted, ORDER).of({"order.number": "n"}) == ".map(.map(n" + "+" * 20, (
        "what is quoted counts for nothing"
    )
