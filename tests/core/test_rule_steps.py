"""The rules that were asked for a code, in their order: what each met, and which one answered."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.core.planner import rule_steps
from tests.core.test_cases import EVERY, Json, order, planned, rules


def of_case(case: Json) -> dict[str, list[tuple[str, str, str]]]:
    """The steps to each value of a case's plan: by what, what was met, what it gave."""
    found = rule_steps(planned(case), order(case["order"]), rules(case))
    return {one.target: [(step.by, step.met, step.gave) for step in one.steps] for one in found}


# Steps are told of orders.
ORDERS = [param for param in EVERY if "back" not in param.values[0]]


@pytest.mark.parametrize("case", ORDERS)
def test_each_account_and_code_that_a_table_gave_has_its_steps(case: Json) -> None:
    """And the last of them is the rule that the plan itself names."""
    plan = planned(case)
    steps = {one.target: one.steps for one in rule_steps(plan, order(case["order"]), rules(case))}
    coded = [reason for reason in plan.reasons if reason.target.endswith(("/account", "/tax_code"))
             and reason.rule.startswith(("/accounts/", "/tax_codes/by_class", "/tax_codes/exceptions",
                                         "/payments/accounts/"))
             and not reason.rule.startswith("/accounts/tax")]  # fmt: skip
    # Only what some sales have otherwise has such a reason at all.
    settings = [reason for reason in plan.reasons if reason.rule.startswith((
        "/warehouses", "/dimensions/", "/fields/", "/orders/become", "/orders/arrive"))]  # fmt: skip
    by_table = [*coded, *settings]
    for reason in by_table:
        told = steps.get(reason.target)
        assert told is not None, reason
        assert told[-1].rule == reason.rule
        assert told[-1].gave in reason.text
        assert not any(step.gave for step in told[:-1])


SOLD: dict[str, Any] = {
    "case": "yarn to Ireland",
    "order": {
        "country": "IE", "lines": [{"sum": "12.00", "tax": "2.00", "sku": "YRN-1"}],
        "paid": [{"tender": "card", "brand": "Meridian", "sum": "12.00"}],
    },
    "rules": {
        "accounts": {"sales": {"default": "4000", "by_product": {"YRN-2": "4100"}, "by_country": {"IE": "4200"},
                               "by_treatment": {"export": "4300"}}},
        "tax_codes": {"exceptions": [{"treatment": "export", "code": "Z00"}, {"country": "IE", "code": "S20"}]},
        "payments": {"accounts": {"default": "1250", "by_brand": {"Kestrel": "1200"}, "by_method": {"card": "1250"}}},
    },
}  # fmt: skip


def test_precedence_is_told_step_by_step() -> None:
    """By hand: the product has no row, the country has one, and the treatment is asked for no more."""
    found = of_case(SOLD)
    line = "/documents/0/lines/0"
    assert found[f"{line}/account"] == [("product", "YRN-1", ""), ("country", "IE", "4200")]
    assert found[f"{line}/tax_code"] == [("treatment 'export'", "", ""), ("country 'IE'", "", "S20")]
    assert found["/documents/1/account"] == [("brand", "Meridian", ""), ("method", "card", "1250")]


def test_the_levels_of_every_setting_are_told() -> None:
    """By hand: a tag decides the warehouse, the group the terms and the document, and nothing the dimension."""
    levels = {"by_tag": {"collect": "DYEHOUSE"}, "by_customer_group": {"trade": "MILL"}}
    case: Json = {
        "order": {"group": "trade", "tags": ["collect", "gift"], "lines": [{"sum": "12.00", "tax": "2.00"}]},
        "rules": {
            "orders": {"become": {"default": "cash sale", "by_product": {"LOOM": "sales order"},
                                  "by_customer_group": {"trade": "invoice"}}},
            "warehouses": {"default": "MILL", **levels},
            "dimensions": {"channel": {"default": "shop", "by_tag": {"fair": "fair"}}},
            "fields": {"terms": {"default": "CASH", "by_customer_group": {"trade": "NET30"}}},
        },
    }  # fmt: skip
    found = of_case(case)
    line = "/documents/0/lines/0"
    assert found[f"{line}/warehouse"] == [("tag", "collect", "DYEHOUSE")]
    assert found[f"{line}/dimensions/0/value"] == [("tag", "collect, gift", ""), ("default", "", "shop")]
    assert found["/documents/0/terms"] == [("customer group", "trade", "NET30")]
    assert found["/documents/0/role"] == [("product", "", ""), ("customer group", "trade", "invoice")]


def test_an_order_of_many_long_tags_has_its_steps() -> None:
    """A shop may put anything there; the steps say the first of it."""
    case: Json = {
        "order": {"tags": [f"{place} {'x' * 400}" for place in range(50)], "lines": [{"sum": "12.00", "tax": "2.00"}]},
        "rules": {"accounts": {"sales": {"default": "4000", "by_tag": {"fair": "4050"}}}},
    }
    (step, last) = of_case(case)["/documents/0/lines/0/account"]
    assert (step[0], len(step[1]), step[2], last[2]) == ("tag", 200, "", "4000")
