"""The same orders under two versions of the rules: what changes, and that nothing which changes is missed."""

from __future__ import annotations

from copy import deepcopy
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import Outcome, plan_order
from inkwell_bridge.core.rehearsal import Rehearsal, plan_changes, reach_of
from inkwell_bridge.core.rulebook import OrderRulebook
from tests.support.orders import context, line, order, orders, rulebook

US = {"accounts": {"sales": {"default": "4000", "by_country": {"US": "4020"}}, "shipping": "4100", "rounding": "8200"}}


def planned(of: Order, rules: OrderRulebook) -> Any:
    """The plan of an order under rules."""
    return plan_order(of, context(rules))


def test_the_values_that_are_others_are_named_with_both() -> None:
    """A skein for 18.50 and its carriage; sold to the United States it goes to an account of its own."""
    sold = order(country="US")
    changes = plan_changes(planned(sold, rulebook()), planned(sold, rulebook(**US)))
    assert [(one.at, one.before, one.after) for one in changes] == [
        ("/documents/INK:web-shop:501:invoice:1/lines/0/account", "4000", "4020")
    ]
    assert plan_changes(planned(sold, rulebook()), planned(sold, rulebook())) == ()


def test_what_is_held_now_says_so() -> None:
    """Without the code of its class the order has no documents any more."""
    rules = rulebook(tax_codes={"by_class": {"zero": "Z00"}, "outside": "OUT"})
    changes = plan_changes(planned(order(), rulebook()), planned(order(), rules))
    assert (changes[0].at, changes[0].before, changes[0].after) == ("/outcome", "carry", "hold")
    (gone,) = [one for one in changes if one.at.startswith("/documents/")]
    assert gone.before is not None
    assert gone.before.startswith("invoice")
    assert gone.after is None


def test_the_totals_of_both_stand_beside_each_other() -> None:
    """Two orders to GB, one to US: 18.50 less 3.08 of tax is 15.42 each, carriage 3.95 less 0.66 is 3.29."""
    before, after, rehearsal = rulebook(), rulebook(**US), Rehearsal()
    for number, country in (("A", "GB"), ("B", "US"), ("C", "GB")):
        sold = order(id=number, number=number, country=country)
        rehearsal.add(planned(sold, before), planned(sold, after))
    assert (rehearsal.documents, rehearsal.changed) == (3, 1)
    found = {(one.of, one.code): one for one in rehearsal.totals}
    assert (found["account", "4000"].before, found["account", "4000"].after) == (Decimal("46.26"), Decimal("30.84"))
    assert (found["account", "4020"].before, found["account", "4020"].after) == (Decimal(0), Decimal("15.42"))
    assert found["account", "4100"].before == found["account", "4100"].after == Decimal("9.87")
    assert not found["account", "4100"].differs
    code = found["tax code", "S20"]
    assert (code.before, code.tax_before, code.tax_after) == (Decimal("56.13"), Decimal("11.22"), Decimal("11.22"))
    assert [(one.before, one.after, one.count) for one in rehearsal.outcomes] == [("carry", "carry", 3)]


def test_findings_that_come_and_go_and_what_crosses_now() -> None:
    """One order is left out by the new rules, one is held by them; of each the money goes."""
    before = rulebook(orders={"statuses": ["paid", "sent"]})
    after = rulebook(tax_codes={"by_class": {"zero": "Z00"}, "outside": "OUT"})
    rehearsal = Rehearsal()
    for status in ("sent", "paid"):
        sold = order(status=status)
        rehearsal.add(planned(sold, before), planned(sold, after))
    assert [(one.before, one.after, one.count) for one in rehearsal.outcomes] == [
        ("carry", "hold", 1), ("carry", "left out", 1),
    ]  # fmt: skip
    # The skein and its carriage are both of the class that has no code any more, and say so in the same words or not:
    # a finding counts once a document.
    (found,) = rehearsal.findings
    assert (found.id, found.level, found.came, found.went) == ("TAX-E001", "error", 1, 0)
    assert all(one.after == 0 for one in rehearsal.totals)


def test_the_same_rules_change_nothing() -> None:
    """Whatever is planned."""
    rehearsal, sold = Rehearsal(), order()
    compared = rehearsal.add(planned(sold, rulebook()), planned(sold, rulebook()))
    assert not compared.differs
    assert (rehearsal.changed, rehearsal.findings) == (0, ())
    assert reach_of(rulebook(), rulebook()).is_nothing


@pytest.mark.parametrize(
    ("changed", "touched", "untouched"),
    [
        ({"accounts": {"sales": {"default": "4000", "by_country": {"US": "4020"}}}}, {"country": "US"}, {}),
        ({"accounts": {"sales": {"default": "4000", "by_product": {"A": "1"}}}}, {"lines": [line(sku="A")]}, {}),
        ({"accounts": {"shipping": "4200"}}, {}, {"shipping": []}),
        ({"accounts": {"tips": "4200"}}, {"extras": [{"id": "t", "title": "t", "kind": "tip", "amount": "1.00"}]}, {}),
        ({"tax_codes": {"by_class": {"dye": "S20"}}}, {"lines": [line(tax_class="dye")]}, {}),
        ({"customers": {"groups": {"trade": "T"}}}, {"customer_group": "trade"}, {}),
        (
            {"customers": {"languages": {"de": "de-DE"}}},
            {"buyer": {"language": "de-AT"}},
            {"buyer": {"language": "fr"}},
        ),
        ({"orders": {"arrive": {"by_language": {"de": "draft"}}}}, {"buyer": {"language": "de-AT"}}, {}),
        ({"warehouses": {"by_location": {"Mill": "M"}}}, {"lines": [line(location="Mill")]}, {}),
        ({"warehouses": {"by_product_type": {"book": "M"}}}, {"lines": [line(product_type="book")]}, {}),
        ({"accounts": {"sales": {"default": "4000", "by_tag": {"fair": "4020"}}}}, {"tags": ["fair"]}, {"tags": ["a"]}),
        (
            {"dimensions": {"channel": {"default": "shop", "by_attribute": {"use=farm": "farm"}}}},
            {"attributes": [{"name": "use", "value": "farm"}]},
            {},
        ),
        (
            {"fields": {"terms": {"default": "CASH", "by_customer": {"77": "NET30"}}}},
            {"buyer": {"account_id": "77", "email": "wren@loom.example"}},
            {},
        ),
        ({"orders": {"become": {"by_customer_group": {"trade": "cash sale"}}}}, {"customer_group": "trade"}, {}),
        ({"orders": {"arrive": {"by_location": {"Mill": "draft"}}}}, {"location": "Mill"}, {}),
    ],
)
def test_a_row_of_a_table_reaches_what_it_names(
    changed: dict[str, Any], touched: dict[str, Any], untouched: dict[str, Any]
) -> None:
    """And no other order."""
    # A setting that is there for the first time reaches everything, so that both have a default before.
    before = merged(
        rulebook(), {"dimensions": {"channel": {"default": "shop"}}, "fields": {"terms": {"default": "CASH"}}}
    )
    reach = reach_of(before, merged(before, changed))
    assert not reach.is_nothing
    assert reach.touches(order(**touched))
    assert not reach.touches(order(**untouched))


def test_what_people_call_the_rules_reaches_nothing() -> None:
    """A name changes no plan; the penny may change any."""
    assert reach_of(rulebook(), rulebook(name="Another")).is_nothing
    assert reach_of(rulebook(), rulebook(penny={"allowance": "0.10"})).touches(order())


def merged(under: OrderRulebook, over: dict[str, Any]) -> OrderRulebook:
    """Rules with some said otherwise."""

    def both(one: Any, other: Any) -> Any:
        if not isinstance(one, dict) or not isinstance(other, dict):
            return other
        return {**one, **{name: both(one.get(name), value) for name, value in other.items()}}

    said = {name: value for name, value in under.as_json().items() if value is not None}
    return OrderRulebook.read(both(deepcopy(said), over))


CHANGES = st.sampled_from(
    [
        {"accounts": {"sales": {"by_country": {"US": "4020"}}}},
        {"accounts": {"sales": {"by_product_type": {"yarn": "4020"}}}},
        {"accounts": {"sales": {"by_channel": {"fair": "4020"}}}},
        {"accounts": {"sales": {"by_customer_group": {"trade": "4020"}}}},
        {"accounts": {"sales": {"by_treatment": {"export": "4020"}}}},
        {"accounts": {"sales": {"by_tag": {"fair": "4020"}}}},
        {"warehouses": {"by_attribute": {"use=farm": "MILL"}}},
        {"warehouses": {"by_product_type": {"yarn": "MILL"}}},
        {"dimensions": {"region": {"default": "UK", "by_country": {"US": "world"}}}},
        {"fields": {"terms": {"default": "CASH", "by_tag": {"fair": "NET30"}}}},
        {"orders": {"become": {"by_product_type": {"yarn": "cash sale"}}}},
        {"orders": {"arrive": {"by_tag": {"fair": "draft"}}}},
        {"accounts": {"shipping": {"default": "4000"}}},
        {"accounts": {"discounts": {"default": "4000"}}, "orders": {"discounts": "own lines"}},
        {"accounts": {"discounts": {"default": "4100"}}},
        {"tax_codes": {"by_class": {"reduced": "Z00"}}},
        {"tax_codes": {"by_class": {"zero": "OUT"}}},
        {"tax_codes": {"amounts": "worked out"}},
        {"payments": {"accounts": {"by_method": {"card": "1200"}}}},
        {"warehouses": {"by_location": {"Mill": "MILL"}}},
        {"customers": {"languages": {"en-IE": "en-GB"}}},
        {"penny": {"goes_to": "hold"}},
    ]
)


@settings(max_examples=300)
@given(orders(), CHANGES, st.data())
def test_what_a_change_does_not_reach_is_planned_the_same(
    sold: Order, change: dict[str, Any], data: st.DataObject
) -> None:
    """Whatever the order and the change: an order whose plan differs was reached."""
    facts = {
        "country": data.draw(st.sampled_from(["", "US", "GB"])),
        "channel": data.draw(st.sampled_from(["", "fair"])),
        "customer_group": data.draw(st.sampled_from(["", "trade"])),
        "treatment": data.draw(st.sampled_from([None, "export"])),
        "tags": data.draw(st.sampled_from([[], ["fair"], ["staff", "fair"]])),
        "attributes": data.draw(st.sampled_from([[], [{"name": "use", "value": "farm"}]])),
        "lines": tuple(
            one.model_copy(update={"product_type": data.draw(st.sampled_from(["", "yarn"])),
                                   "location": data.draw(st.sampled_from(["", "Mill"]))})
            for one in sold.lines
        ),
    }  # fmt: skip
    sold = Order.read({**sold.as_json(), **{name: value for name, value in facts.items() if name != "lines"},
                       "lines": [one.as_json() for one in facts["lines"]]})  # fmt: skip
    before = rulebook()
    after = merged(before, change)
    was, now = planned(sold, before), planned(sold, after)
    if not reach_of(before, after).touches(sold):
        assert plan_changes(was, now) == ()
        assert was == now
    if was.outcome is Outcome.CARRY and now.outcome is Outcome.CARRY:
        rehearsal = Rehearsal()
        rehearsal.add(was, now)
        # By whichever accounts, all of them together are what the documents come to.
        for side in ("before", "after"):
            assert sum(getattr(one, side) for one in rehearsal.totals if one.of == "account") == sum(
                document.net for document in (was if side == "before" else now).documents
            )
