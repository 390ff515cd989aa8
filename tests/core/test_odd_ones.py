"""A few orders that stand for all: one of each kind that the rules treat differently."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.planner import plan_order
from inkwell_bridge.core.rehearsal import OddOnes
from inkwell_bridge.core.rehearsal.odd_ones import _traits
from tests.support.orders import context, order, orders, rulebook

BY_COUNTRY = {
    "accounts": {"sales": {"default": "4000", "by_country": {"US": "4020"}}, "shipping": "4100", "rounding": "8200"}
}


def test_the_rarest_come_first_and_what_is_covered_does_not_come_again() -> None:
    """By hand: three plain ones, one to the United States; the plain one is chosen for what the other has not."""
    rules, odd = rulebook(**BY_COUNTRY), OddOnes()
    for number, country in (("A", "GB"), ("B", "GB"), ("C", "US"), ("D", "GB")):
        odd.add(number, plan_order(order(id=number, number=number, country=country), context(rules)))
    chosen = [(one.number, one.orders, one.why) for one in odd.chosen()]
    assert chosen == [
        ("C", 1, "The account for sales is 4020 for country 'US'."),
        ("A", 3, "The account for sales is 4000."),
    ]
    assert len(odd.chosen(most=1)) == 1


@settings(max_examples=25, deadline=None)
@given(st.lists(orders(), min_size=1, max_size=15))
def test_whatever_a_rule_decides_is_on_one_of_them(many: list) -> None:  # type: ignore[type-arg]
    """And none is chosen for nothing: each has something that those before it have not."""
    rules, odd, by_number = rulebook(**BY_COUNTRY), OddOnes(), {}
    for place, one in enumerate(many):
        plan = plan_order(one.model_copy(update={"number": f"N{place}"}), context(rules))
        odd.add(f"N{place}", plan)
        by_number[f"N{place}"] = {trait.key for trait in _traits(plan)}
    covered: set[str] = set()
    for one in odd.chosen(most=10_000):
        assert by_number[one.number] - covered
        covered |= by_number[one.number]
    assert covered == set().union(*by_number.values())
