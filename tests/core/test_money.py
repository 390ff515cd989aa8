"""Exact amounts: figures worked out by hand, and laws that hold for all."""

from __future__ import annotations

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.errors import NotExact
from inkwell_bridge.core.money import allocate, digits, exact, minor_unit, rounded, tax_inside, tax_on_top

CURRENCIES = st.sampled_from(["JPY", "GBP", "KWD"])
RATES = st.sampled_from([Decimal(rate) for rate in ("0", "5", "8.25", "20", "25")])


@pytest.mark.parametrize(
    ("gross", "rate", "currency", "net", "tax"),
    [
        ("9.99", "20", "GBP", "8.32", "1.67"),
        ("3.95", "20", "GBP", "3.29", "0.66"),
        ("0.01", "20", "GBP", "0.01", "0.00"),
        ("0.03", "20", "GBP", "0.02", "0.01"),
        ("1000", "10", "JPY", "909", "91"),
        ("1.234", "5", "KWD", "1.175", "0.059"),
        ("21.50", "0", "GBP", "21.50", "0.00"),
    ],
)
def test_tax_inside_a_price(gross: str, rate: str, currency: str, net: str, tax: str) -> None:
    """The tax is rounded, halves up; the net is what remains."""
    assert tax_inside(Decimal(gross), Decimal(rate), currency) == (Decimal(net), Decimal(tax))


@given(st.integers(0, 10**9), RATES, CURRENCIES)
def test_one_figure_is_rounded_and_the_other_is_the_remainder(units: int, rate: Decimal, currency: str) -> None:
    """Net and tax always make the gross, and the tax is never more than half a unit off."""
    gross = minor_unit(currency) * units
    net, tax = tax_inside(gross, rate, currency)
    assert net + tax == gross
    assert abs(tax - gross * rate / (100 + rate)) <= minor_unit(currency) / 2


@given(st.integers(-(10**9), 10**9), st.lists(st.integers(0, 10**6), min_size=1, max_size=12), CURRENCIES)
def test_shares_add_up_and_are_fair(units: int, weights: list[int], currency: str) -> None:
    """The shares make the amount exactly, and none is a whole unit away from its ideal."""
    unit = minor_unit(currency)
    amount = unit * units
    shares = allocate(amount, [Decimal(weight) for weight in weights], currency)
    assert sum(shares, Decimal(0)) == amount
    total = sum(weights) or len(weights)
    for share, weight in zip(shares, weights if sum(weights) else [1] * len(weights), strict=True):
        assert abs(share - amount * weight / total) < unit


@given(st.lists(st.integers(1, 1000), min_size=2, max_size=6), st.integers(0, 10**5))
def test_equal_weights_get_equal_shares_but_for_one_unit(weights: list[int], units: int) -> None:
    """Earlier shares get the odd units."""
    shares = allocate(Decimal(units).scaleb(-2), [Decimal(7)] * len(weights), "GBP")
    assert sorted(shares, reverse=True) == list(shares)
    assert max(shares) - min(shares) <= Decimal("0.01")


def test_ten_pounds_over_three_equal_lines() -> None:
    """3.34, 3.33, 3.33."""
    assert allocate(Decimal("10.00"), [Decimal("18.50")] * 3, "GBP") == (
        Decimal("3.34"),
        Decimal("3.33"),
        Decimal("3.33"),
    )


@pytest.mark.parametrize("weights", [[], [Decimal(1), Decimal(-1)]])
def test_weights_that_cannot_be_shared_over(weights: list[Decimal]) -> None:
    """None at all, or a negative one, is refused."""
    with pytest.raises(NotExact, match="cannot be shared"):
        allocate(Decimal("1.00"), weights, "GBP")


def test_an_amount_finer_than_its_currency_is_refused_not_rounded() -> None:
    """Rounding is somebody's decision, never an accident."""
    assert exact("9.9", "GBP") == Decimal("9.90")
    assert exact("5", "JPY") == Decimal("5")
    for value, currency in (("9.999", "GBP"), ("1.5", "JPY"), ("1.2345", "KWD"), ("NaN", "GBP")):
        with pytest.raises(NotExact):
            exact(value, currency)


@pytest.mark.parametrize("code", ["gbp", "GB", "POUND", "", "£££"])
def test_what_is_no_currency_code(code: str) -> None:
    """ISO 4217 codes are three capital letters."""
    with pytest.raises(NotExact, match="ISO 4217"):
        digits(code)


def test_halves_go_away_from_zero_on_both_sides() -> None:
    """So that a credit undoes a charge to the penny."""
    assert rounded(Decimal("2.345"), "GBP") == -rounded(Decimal("-2.345"), "GBP") == Decimal("2.35")
    assert tax_on_top(Decimal("8.32"), Decimal(20), "GBP") == Decimal("1.66")
