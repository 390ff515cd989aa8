"""What orders hold, value by value, and which rule answers for it; every count and sum by hand."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.coverage import Aspect, Coverage, MetValue, Standing, suggestion
from inkwell_bridge.core.coverage.coverage import MOST_VALUES
from inkwell_bridge.core.planner import PlanningContext
from inkwell_bridge.core.planner.articles import Article, Articles
from tests.support.orders import context, line, order, rulebook

CARD = {"transaction": "t-1", "method": "card", "tender": "card", "amount": "22.45"}


def one_skein(number: str, *, tax_class: str = "standard", **fields: Any) -> dict[str, Any]:
    """A skein at 18.50 with carriage of 3.95."""
    return {"id": number, "number": number, "lines": [line(tax_class=tax_class, sku="YRN-1")], **fields}


def covered(
    *orders: dict[str, Any], rules: Any = None, of: PlanningContext | None = None
) -> dict[tuple[str, str], MetValue]:
    """The values of these orders."""
    coverage = Coverage()
    for fields in orders:
        coverage.add(order(**fields), of or context(rules))
    assert coverage.orders == len(orders)
    return {(met.aspect.value, met.value): met for met in coverage.values()}


def test_each_value_has_its_orders_its_money_and_its_rule() -> None:
    """Two orders of a standard skein, one of a class that has no code."""
    found = covered(
        one_skein("A", country="GB"), one_skein("B", country="IE"), one_skein("C", tax_class="dye", country="GB")
    )
    standard = found["tax class", "standard"]
    # Two skeins of 18.50, and the carriage of all three at 3.95.
    assert (standard.orders, standard.amounts) == (3, {"GBP": Decimal("48.85")})
    assert [(use.rule, use.gave, use.orders) for use in standard.rules] == [("/tax_codes/by_class/standard", "S20", 3)]
    assert standard.standing is Standing.MAPPED
    dye = found["tax class", "dye"]
    assert (dye.standing, dye.orders, dye.unmapped, dye.amounts) == (Standing.UNMAPPED, 1, 1, {"GBP": Decimal("18.50")})
    assert dye.examples == ("C",)
    assert dye.rates == (Decimal(20),)
    # Of an order's own facts the money is its total: 22.45 each.
    assert found["country", "GB"].amounts == {"GBP": Decimal("44.90")}
    assert found["country", "GB"].standing is Standing.NOT_ASKED
    assert found["kind of charge", "shipping"].amounts == {"GBP": Decimal("11.85")}
    assert found["order status", "paid"].orders == 3


def test_prices_without_tax_count_with_it() -> None:
    """What was charged is what the buyer paid: 10.00 and 2.00 of tax."""
    sold = {"lines": [line(amount="10.00", tax="2.00")], "shipping": [], "prices_include_tax": False,
            "tax_total": "2.00", "total": "12.00"}  # fmt: skip
    assert covered(sold)["tax class", "standard"].amounts == {"GBP": Decimal("12.00")}


def test_what_does_not_cross_needs_no_rules() -> None:
    """Of an order that is left out its status counts, and the rule that leaves it out; its classes do not."""
    rules = rulebook(orders={"statuses": ["paid"], "leave_out": [{"name": "fair", "when": '"fair" in order.tags'}]})
    found = covered(
        one_skein("A", status="awaiting payment", tax_class="dye"), one_skein("B", tags=["fair"], tax_class="dye"),
        rules=rules,
    )  # fmt: skip
    assert found["order status", "awaiting payment"].standing is Standing.LEFT_OUT
    assert found["left out by", "/orders/statuses"].orders == 1
    assert found["left out by", "fair"].amounts == {"GBP": Decimal("22.45")}
    assert ("tax class", "dye") not in found
    assert ("tag", "fair") not in found


def test_every_rule_that_answers_for_a_value_is_named() -> None:
    """The account of a type of product: for one country another than for the rest."""
    rules = rulebook(
        accounts={"sales": {"default": "4000", "by_country": {"US": "4020"}}, "shipping": "4100", "rounding": "8200"}
    )
    sold = [line(product_type="yarn")]
    found = covered(
        {"number": "A", "lines": sold, "country": "US"}, {"number": "B", "lines": sold, "country": "GB"},
        {"number": "C", "lines": sold, "country": "GB"}, rules=rules,
    )  # fmt: skip
    assert [(use.rule, use.gave, use.orders) for use in found["product type", "yarn"].rules] == [
        ("/accounts/sales", "4000", 2), ("/accounts/sales/by_country/US", "4020", 1),
    ]  # fmt: skip


def test_money_is_asked_for_only_where_payments_are_carried() -> None:
    """Later: nothing is asked; carried: by tender, and cash has no account. Money that failed is no money."""
    sold = one_skein("A", payments=[CARD, {**CARD, "transaction": "t-2", "state": "failed", "method": "wire"}])
    cash = one_skein("B", payments=[{**CARD, "transaction": "t-3", "method": "till", "tender": "cash"}])
    assert covered(sold)["tender", "card"].standing is Standing.NOT_ASKED
    found = covered(sold, cash, rules=rulebook(payments={"accounts": {"by_tender": {"card": "1200"}}}))
    assert found["tender", "card"].rules[0].rule == "/payments/accounts/by_tender/card"
    assert found["payment method", "card"].amounts == {"GBP": Decimal("22.45")}
    assert ("payment method", "wire") not in found
    assert found["tender", "cash"].standing is Standing.UNMAPPED
    assert found["payment method", "till"].unmapped == 1


def test_an_article_without_an_item_is_named_where_it_would_hold() -> None:
    """By SKU: one is known, one is not."""
    rules = rulebook(items={"find_by": ["sku"], "not_found": "hold"})
    known = context(rules).model_copy(update={"articles": Articles(known={"YRN-1": Article(by_sku=("YARN",))})})
    found = covered(
        {"lines": [line(1, sku="YRN-1"), line(2, sku="YRN-2")], "total": "40.95", "tax_total": "6.82"}, of=known
    )
    assert found["product", "YRN-1"].rules[0].gave == "YARN"
    assert found["product", "YRN-2"].standing is Standing.UNMAPPED
    text_lines = rulebook(items={"find_by": ["sku"], "not_found": "text line"})
    assert covered(one_skein("A"), rules=text_lines)["product", "YRN-1"].standing is Standing.NOT_ASKED


def test_a_location_has_its_warehouse() -> None:
    """By its own row, or by the default."""
    rules = rulebook(warehouses={"default": "MAIN", "by_location": {"Mill": "MILL"}})
    sold = {"lines": [line(1, location="Mill"), line(2, location="Fair")], "total": "40.95", "tax_total": "6.82"}
    found = covered(sold, rules=rules)
    assert found["location", "Mill"].rules[0].rule == "/warehouses/by_location/Mill"
    assert found["location", "Fair"].rules[0].gave == "MAIN"


def test_what_some_sales_have_otherwise_is_mapped_by_its_rows() -> None:
    """A country that two settings name has both, and its money once; de-AT goes by the row of de; farm by none."""
    rules = rulebook(
        accounts={"sales": {"default": "4000", "by_country": {"US": "4020"}}, "shipping": "4100", "rounding": "8200"},
        warehouses={"default": "MAIN", "by_country": {"US": "MILL"}, "by_tag": {"collect": "MILL"}},
        orders={
            "statuses": ["paid"],
            "become": {"by_attribute": {"use=farm": "cash sale"}, "by_language": {"de": "sales order"}},
        },
    )
    said = [{"name": "use", "value": "home"}, {"name": "greeting", "value": "Dear Wren"},
            {"name": "use", "value": "x" * 1_990}]  # fmt: skip
    sold = one_skein("A", country="US", tags=["collect", "gift"], attributes=said,
                     buyer={"email": "wren@loom.example", "language": "de-AT"})  # fmt: skip
    found = covered(sold, rules=rules)
    us = found["country", "US"]
    assert [(use.rule, use.gave, use.orders) for use in us.rules] == [
        ("/accounts/sales/by_country/US", "4020", 1), ("/warehouses/by_country/US", "MILL", 1),
    ]  # fmt: skip
    assert (us.orders, us.amounts) == (1, {"GBP": Decimal("22.45")})
    assert found["tag", "collect"].rules[0].rule == "/warehouses/by_tag/collect"
    assert found["language", "de-AT"].rules[0].rule == "/orders/become/by_language/de"
    assert [found[one].standing for one in (("tag", "gift"), ("attribute", "use=home"))] == [Standing.NOT_ASKED] * 2
    assert [value for aspect, value in found if aspect == "attribute"] == ["use=home"]


def test_values_are_sorted_by_what_needs_a_person() -> None:
    """Those without a rule first, then the most met."""
    coverage = Coverage()
    for number, tax_class in enumerate(("standard", "standard", "dye", "zero")):
        coverage.add(order(**one_skein(str(number), tax_class=tax_class), shipping=[]), context())
    assert [met.value for met in coverage.values() if met.aspect is Aspect.TAX_CLASS] == ["dye", "standard", "zero"]


def test_values_without_end_are_counted_and_not_kept() -> None:
    """Each order has a tag of its own."""
    coverage = Coverage()
    for start in range(0, MOST_VALUES + 500, 250):
        coverage.add(order(tags=[f"tag {place}" for place in range(start, start + 250)]), context())
    assert sum(met.aspect is Aspect.TAG for met in coverage.values()) == MOST_VALUES
    assert coverage.further[Aspect.TAG] == 500


@pytest.mark.parametrize(
    ("aspect", "value", "rates", "at", "gives"),
    [
        (Aspect.TAX_CLASS, "dye", ["20"], "/tax_codes/by_class/dye", "S20"),
        (Aspect.TAX_CLASS, "a/b", ["5"], "/tax_codes/by_class/a~1b", "R05"),
        (Aspect.TAX_CLASS, "dye", ["7"], "", ""),
        (Aspect.TAX_CLASS, "us", ["4", "2"], "", ""),
        (Aspect.METHOD, "bank transfer", [], "/payments/accounts/by_method/bank transfer", "1200"),
        (Aspect.TENDER, "cash", [], "/payments/accounts/by_tender/cash", "1200"),
        (Aspect.CHARGE, "shipping", [], "/accounts/shipping", "4100"),
        (Aspect.CHARGE, "tips", [], "", ""),
        (Aspect.COUNTRY, "GB", [], "", ""),
    ],
)
def test_what_has_no_rule_has_a_suggestion_where_something_speaks_for_it(
    aspect: Aspect, value: str, rates: list[str], at: str, gives: str
) -> None:
    """By rate, by type, by name; else none."""
    met = MetValue(aspect=aspect, value=value, standing=Standing.UNMAPPED, orders=1, rates=tuple(map(Decimal, rates)))
    found = suggestion(met, context().master_data)
    assert (found.at, found.value) == (at, gives) if at else found is None
    mapped = met.model_copy(update={"standing": Standing.MAPPED})
    assert suggestion(mapped, context().master_data) is None
