"""What stands between the sides of one document, day by day, and the sheet that its sums make; worked by hand."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.proof import (
    Amounts,
    Between,
    Gap,
    Grain,
    Key,
    Place,
    Reason,
    Section,
    Side,
    Summed,
    Totals,
    gaps,
    not_as_money,
    sheet_rows,
    with_both,
)

FIRST, SECOND, LATER = date(2026, 10, 30), date(2026, 10, 31), date(2026, 11, 2)
SALE = Amounts(1, Decimal("11.61"), Decimal("2.33"), Decimal("13.94"))


def key(side: Side, day: date, *, grain: Grain = Grain.DOCUMENT, section: Section = Section.SALES, **of: str) -> Key:
    """A figure of an order in GBP."""
    return Key(side, grain, section, of.pop("role", "x"), day, of.pop("currency", "GBP"), **of)


def said(found: list[Gap]) -> dict[tuple[str, str, date], str]:
    """Gross by tax code, tender or account, what it is, and day."""
    return {
        (at.tax_code or at.tender or at.account, gap.between.value, gap.date): f"{gap.amounts.gross}"
        for gap in found
        for at in [gap.meeting]
    }


def test_what_both_sides_have_on_one_day_leaves_nothing() -> None:
    """Whatever the number of documents that it became."""
    half = Amounts(0, Decimal("1.61"), Decimal("0.33"), Decimal("1.94"))
    rest = SALE.plus(half, -1)
    assert gaps({key(Side.SOURCE, FIRST): SALE, key(Side.BOOKS, FIRST, role="a"): half,
                 key(Side.BOOKS, FIRST, role="b"): rest}) == []  # fmt: skip


def test_what_the_books_lack_is_open_on_the_day_of_the_sale() -> None:
    """All of it, its count too."""
    (gap,) = gaps({key(Side.SOURCE, FIRST): SALE})
    assert (gap.between, gap.date, gap.amounts) == (Between.OPEN, FIRST, SALE)


def test_another_day_in_the_books_is_no_difference_of_what_there_is() -> None:
    """It is there on the one day and missing on the other."""
    found = gaps({key(Side.SOURCE, SECOND): SALE, key(Side.BOOKS, LATER): SALE})
    assert said(found) == {("", "cut-off", SECOND): "13.94", ("", "cut-off", LATER): "-13.94"}


def test_an_amount_and_a_day_that_differ_are_two_things() -> None:
    """13.94 on the 31st, 10.00 in November: 3.94 are open, and 10.00 are on another day."""
    there = Amounts(1, Decimal("8.33"), Decimal("1.67"), Decimal("10.00"))
    found = gaps({key(Side.SOURCE, SECOND): SALE, key(Side.BOOKS, LATER): there})
    assert said(found) == {("", "open", SECOND): "3.94", ("", "cut-off", SECOND): "10.00",
                           ("", "cut-off", LATER): "-10.00"}  # fmt: skip


def test_a_named_reason_is_taken_off_first() -> None:
    """The marketplace keeps 2.33 of tax: nobody misses it."""
    kept = Amounts(0, Decimal(0), Decimal("2.33"), Decimal("2.33"))
    figures = {key(Side.SOURCE, FIRST): SALE, key(Side.RECONCILING, FIRST, grain=Grain.LINE, role="withheld"): kept,
               key(Side.BOOKS, FIRST): SALE.plus(kept, -1)}  # fmt: skip
    assert gaps(figures) == []


def test_a_line_under_another_code_is_under_both_and_the_totals_agree() -> None:
    """By code the lines are held against what the rules made of them; a penny has its name under its own code."""
    line, penny = SALE._replace(count=1), Amounts(0, Decimal("-0.01"), Decimal(0), Decimal("-0.01"))
    figures = {
        key(Side.SOURCE, FIRST): SALE, key(Side.BOOKS, FIRST): SALE,
        key(Side.CODED, FIRST, grain=Grain.LINE, tax_code="S20"): line,
        key(Side.BOOKS, FIRST, grain=Grain.LINE, tax_code="Z00"): line,
    }  # fmt: skip
    assert said(gaps(figures)) == {("S20", "open", FIRST): "13.94", ("Z00", "open", FIRST): "-13.94"}
    figures |= {key(Side.RECONCILING, FIRST, grain=Grain.LINE, role="penny", tax_code="OUT"): penny}
    assert said(gaps(figures))["OUT", "open", FIRST] == "0.01"


def test_a_line_on_another_account_is_under_both_net_of_its_tax() -> None:
    """11.61 that the rules put on 4000 stand on 4100 under the same code; a penny on 8200 has its name there."""
    penny = Amounts(0, Decimal("-0.01"), Decimal(0), Decimal("-0.01"))
    figures = {
        key(Side.CODED, FIRST, grain=Grain.LINE, tax_code="S20", account="4000"): SALE,
        key(Side.BOOKS, FIRST, grain=Grain.LINE, tax_code="S20", account="4100"): SALE,
        key(Side.BOOKS, FIRST, grain=Grain.LINE, tax_code="OUT", account="8200"): penny.plus(penny, -2),
        key(Side.RECONCILING, FIRST, grain=Grain.LINE, role="penny", tax_code="OUT", account="8200"): penny,
    }
    by_account = {place: amount for place, amount in said(gaps(figures)).items() if place[0]}
    assert by_account == {("4000", "open", FIRST): "11.61", ("4100", "open", FIRST): "-11.61"}
    # Another code with another tax on the same account is no matter of the account.
    coded = key(Side.CODED, FIRST, grain=Grain.LINE, tax_code="S20", account="4000")
    other = key(Side.BOOKS, FIRST, grain=Grain.LINE, tax_code="R05", account="4000")
    found = gaps({coded: SALE, other: SALE._replace(tax=Decimal("0.58"), gross=Decimal("12.19"))})
    assert {gap.meeting.grain for gap in found} == {Grain.LINE}


def test_money_stands_on_an_account_whatever_paid() -> None:
    """10.00 by card that the rules put on 1250 were entered on 1200: by tender it ties, by account it does not."""
    paid = Amounts(1, net=Decimal("10.00"), gross=Decimal("10.00"))
    card = {"section": Section.MONEY, "tender": "card"}
    figures = {
        key(Side.SOURCE, FIRST, **card): paid, key(Side.BOOKS, FIRST, **card): paid,
        key(Side.CODED, FIRST, grain=Grain.LINE, account="1250", **card): paid,
        key(Side.BOOKS, FIRST, grain=Grain.LINE, account="1200", **card): paid,
    }  # fmt: skip
    assert said(gaps(figures)) == {("1250", "open", FIRST): "10.00", ("1200", "open", FIRST): "-10.00"}


def test_money_that_never_comes_as_money_is_named_once_all_has_crossed() -> None:
    """13.94 by voucher and 10.00 by card, of which the rules make a receipt of 10.00 on the day after."""
    figures = {
        key(Side.SOURCE, FIRST, section=Section.MONEY, tender="voucher"): SALE,
        key(Side.SOURCE, FIRST, section=Section.MONEY, tender="card"): Amounts(1, gross=Decimal("10.00")),
        key(Side.CODED, SECOND, section=Section.MONEY, tender="card"): Amounts(1, gross=Decimal("10.00")),
        key(Side.BOOKS, SECOND, section=Section.MONEY, tender="card"): Amounts(1, gross=Decimal("10.00")),
    }
    named = {(one.tender, one.role, one.date): f"{amounts.gross}" for one, amounts in not_as_money(figures).items()}
    assert named == {("voucher", "not as money", FIRST): "13.94", ("card", "not as money", FIRST): "0.00"}
    assert said(gaps(figures | not_as_money(figures))) == {
        ("card", "cut-off", FIRST): "10.00", ("card", "cut-off", SECOND): "-10.00",
    }  # fmt: skip


def test_money_of_an_order_that_was_converted_is_no_missing_money() -> None:
    """18.50 EUR came, and stand there as 16.17 GBP; in both currencies that is the reason."""
    came, there = Amounts(1, gross=Decimal("18.50")), Amounts(1, gross=Decimal("16.17"))
    figures = {
        key(Side.RECONCILING, FIRST, grain=Grain.LINE, role="converted", currency="EUR"): SALE,
        key(Side.SOURCE, FIRST, section=Section.MONEY, tender="card", currency="EUR"): came,
        key(Side.CODED, FIRST, section=Section.MONEY, tender="card"): there,
        key(Side.BOOKS, FIRST, section=Section.MONEY, tender="card"): there,
    }  # fmt: skip
    named = {(one.currency, one.role): f"{amounts.gross}" for one, amounts in not_as_money(figures).items()}
    assert named == {("EUR", "converted"): "18.50", ("GBP", "converted"): "-16.17"}
    money = [gap for gap in gaps(figures | not_as_money(figures)) if gap.meeting.section == Section.MONEY]
    assert money == []


def test_what_belongs_to_no_section_is_not_on_the_sheet() -> None:
    """A journal of the books, a stock level."""
    assert gaps({key(Side.BOOKS, FIRST, section=Section.NONE): SALE}) == []


_AMOUNTS = st.builds(
    lambda count, net, tax: Amounts(count, Decimal(net) / 100, Decimal(tax) / 100, Decimal(net + tax) / 100),
    st.integers(-2, 2), st.integers(-5000, 5000), st.integers(-5000, 5000),
)  # fmt: skip
_KEYS = st.builds(
    lambda side, days, role: key(side, FIRST + timedelta(days=days), role=role,
                                 grain=Grain.LINE if side is Side.RECONCILING else Grain.DOCUMENT),
    st.sampled_from([Side.SOURCE, Side.BOOKS, Side.RECONCILING]), st.integers(0, 5), st.sampled_from(["a", "b"]),
)  # fmt: skip


_ACCOUNTS = st.builds(
    lambda side, days, account, code: key(side, FIRST + timedelta(days=days), grain=Grain.LINE, role="x",
                                          account=account, tax_code=code),
    st.sampled_from([Side.CODED, Side.BOOKS]), st.integers(0, 5), st.sampled_from(["4000", "4100"]),
    st.sampled_from(["S20", "Z00"]),
)  # fmt: skip


@given(st.dictionaries(_ACCOUNTS, _AMOUNTS, max_size=8), st.integers(0, 5), st.integers(0, 5))
def test_for_any_days_the_parts_of_an_account_add_up(figures: dict[Key, Amounts], one: int, other: int) -> None:
    """Account by account, in net, and under whatever codes."""
    first, last = sorted((FIRST + timedelta(days=one), FIRST + timedelta(days=other)))
    left = {"4000": Decimal(0), "4100": Decimal(0)}
    for at, amounts in figures.items():
        if first <= at.date <= last:
            left[at.account] += amounts.net * (1 if at.side == Side.CODED else -1)
    for gap in gaps(figures):
        if first <= gap.date <= last and gap.meeting.grain == Grain.ACCOUNT:
            left[gap.meeting.account] -= gap.amounts.net
    assert not any(left.values())


@given(st.dictionaries(_KEYS, _AMOUNTS, max_size=8), st.integers(0, 5), st.integers(0, 5))
def test_for_any_days_the_parts_add_up_to_the_difference(figures: dict[Key, Amounts], one: int, other: int) -> None:
    """Whatever stands on either side, and wherever the period begins and ends."""
    first, last = sorted((FIRST + timedelta(days=one), FIRST + timedelta(days=other)))
    left = Amounts()
    for at, amounts in figures.items():
        if first <= at.date <= last:
            left = left.plus(amounts, 1 if at.side == Side.SOURCE else -1)
    for gap in gaps(figures):
        if first <= gap.date <= last:
            left = left.plus(gap.amounts, -1)
    assert not any(left)


def totals(gross: str, count: int = 1) -> Totals:
    """All of it net."""
    return Totals(count=count, net=Decimal(gross), gross=Decimal(gross))


SALES, REFUNDS = Place("sales", "GBP"), Place("refunds", "GBP")


def test_sales_refunds_and_both_together() -> None:
    """Of 100.00 that were sold 70.00 are there, 30.00 are held; 20.00 came back."""
    found = with_both(sheet_rows([
        Summed(REFUNDS, Side.SOURCE, None, "", None, totals("-20.00")),
        Summed(REFUNDS, Side.BOOKS, None, "", None, totals("-20.00")),
        Summed(SALES, Side.SOURCE, None, "", None, totals("100.00", 3)),
        Summed(SALES, Side.BOOKS, None, "", None, totals("70.00", 2)),
        Summed(SALES, "", Reason.HELD, "period-locked", 1, totals("30.00")),
    ]))  # fmt: skip
    assert [(row.place.section, f"{row.difference.gross}", row.ties) for row in found] == [
        ("sales", "30.00", False), ("refunds", "0.00", True), ("both", "30.00", False),
    ]  # fmt: skip
    assert [row.unexplained.nothing for row in found] == [True, True, True]
    assert (found[2].source.count, f"{found[2].source.gross}", found[2].parts[0].documents) == (4, "80.00", 1)


def test_two_errors_that_cancel_out_do_not_tie() -> None:
    """One is missing, and one stands there twice: the sums agree."""
    (row,) = sheet_rows([
        Summed(SALES, Side.SOURCE, None, "", None, totals("50.00")),
        Summed(SALES, Side.BOOKS, None, "", None, totals("50.00")),
        Summed(SALES, "", Reason.MISSING, "", 1, totals("5.00")),
        Summed(SALES, "", Reason.TWICE, "", 1, totals("-5.00", -1)),
    ])  # fmt: skip
    assert (row.difference.nothing, row.unexplained.nothing, row.ties) == (True, True, False)


def test_nothing_is_explained_by_being_left_over() -> None:
    """The parts come to 3.00 of 5.00: 2.00 are unexplained, whoever forgot them."""
    (row,) = sheet_rows([
        Summed(SALES, Side.SOURCE, None, "", None, totals("50.00")),
        Summed(SALES, Side.BOOKS, None, "", None, totals("45.00")),
        Summed(SALES, "", Reason.KEPT, "", 1, totals("3.00", 0)),
    ])  # fmt: skip
    assert (f"{row.unexplained.gross}", row.ties) == ("2.00", False)


@pytest.mark.parametrize(("reason", "ties"), [(Reason.LEFT_OUT, True), (Reason.CUT_OFF, True), (Reason.ACCEPTED, True),
                                              (Reason.HELD, False), (Reason.WAITING, False), (Reason.CHANGED, False),
                                              (Reason.UNEXPLAINED, False)])  # fmt: skip
def test_what_a_rule_the_calendar_or_a_person_accounts_for_ties(reason: Reason, ties: bool) -> None:
    """The rest is open."""
    (row,) = sheet_rows([
        Summed(SALES, Side.SOURCE, None, "", None, totals("50.00")),
        Summed(SALES, "", reason, "", 1, totals("50.00")),
    ])  # fmt: skip
    assert row.ties is ties


def test_a_move_within_the_period_is_no_part_of_its_difference() -> None:
    """From the one day to the other, both of the month."""
    (row,) = sheet_rows([
        Summed(SALES, Side.SOURCE, None, "", None, totals("50.00")),
        Summed(SALES, Side.BOOKS, None, "", None, totals("50.00")),
        Summed(SALES, "", Reason.CUT_OFF, "", 1, totals("0.00", 0)),
    ])  # fmt: skip
    assert (row.parts, row.ties) == ((), True)
