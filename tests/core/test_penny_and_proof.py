"""The penny: settled by rule or held; and the proof of what the books hold."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.books import BooksRecord, Invoice, Standing
from inkwell_bridge.core.findings import Cause
from inkwell_bridge.core.planner import plan_order, settle
from inkwell_bridge.core.proof import Totals, prove
from tests.support.orders import context, line, order, rulebook


def planned() -> Invoice:
    """A sock skein of 9.99: net 8.32, tax 1.67."""
    given = order(lines=[line(amount="9.99", tax="1.67")], shipping=[], tax_total="1.67", total="9.99")
    return plan_order(given, context()).documents[0]


def record(invoice: Invoice, *, tax: str = "1.66", standing: str = "posted", **fields: Any) -> BooksRecord:
    """The books' answer, with their own tax on the first line."""
    first, *others = invoice.lines
    theirs = invoice.model_copy(update={"lines": (first.model_copy(update={"tax": Decimal(tax)}), *others)})
    base = {"id": "7", "number": "SI-7", "standing": standing, "contact_id": "3", "document": theirs.as_json(),
            "net": str(theirs.net), "tax": str(theirs.tax), "gross": str(theirs.gross)}  # fmt: skip
    return BooksRecord.read({**base, **fields})


def test_the_penny_goes_to_the_rounding_account_outside_tax() -> None:
    """8.32 at 20 % is 1.66: the books are a penny short of what the buyer paid."""
    settlement = settle(planned(), record(planned()), rulebook(), context().master_data, own="GBP")
    *_, rounding = settlement.document.lines
    assert settlement.difference == Decimal("0.01")
    assert (rounding.account, rounding.tax_code, rounding.net, rounding.tax) == (
        "8200", "OUT", Decimal("0.01"), Decimal(0),
    )  # fmt: skip
    assert settlement.document.gross == Decimal("9.99")
    assert [(reason.target, reason.text) for reason in settlement.reasons] == [
        ("/documents/0/lines/0/tax", "The books computed 1.66 of tax on 8.32 where the shop charged 1.67."),
        (
            "/documents/0/lines/1/net",
            "The books computed 9.98, the shop charged 9.99: +0.01 goes to the rounding account 8200.",
        ),
    ]


def test_no_difference_no_line() -> None:
    """Where the books agree, nothing is added."""
    settlement = settle(planned(), record(planned(), tax="1.67"), rulebook(), context().master_data, own="GBP")
    assert (settlement.difference, len(settlement.document.lines), settlement.finding) == (Decimal(0), 1, None)


def test_a_line_that_an_earlier_attempt_left_is_not_added_twice() -> None:
    """Settling what is settled already gives the same invoice."""
    once = settle(planned(), record(planned()), rulebook(), context().master_data, own="GBP").document
    again = settle(planned(), record(once), rulebook(), context().master_data, own="GBP")
    assert (again.document, again.difference) == (once, Decimal("0.01"))


@pytest.mark.parametrize(
    ("penny", "words"),
    [
        ({"allowance": "0.05", "goes_to": "hold"}, "the rulebook holds any difference"),
        ({"allowance": "0.00"}, "over the allowance of 0.00"),
    ],
)
def test_a_difference_that_is_not_settled_by_rule_is_held(penny: dict[str, str], words: str) -> None:
    """By the rule's choice, or over its allowance."""
    finding = settle(planned(), record(planned()), rulebook(penny=penny), context().master_data, own="GBP").finding
    assert finding is not None
    assert finding.cause is Cause.PENNY
    assert words in finding.text


@pytest.mark.parametrize(("computed", "held"), [("1.66", False), ("1.65", False), ("1.75", True), ("1.70", True),
                                                ("0.42", True), ("0.00", True)])  # fmt: skip
def test_a_tax_at_another_rate_is_no_penny(computed: str, held: bool) -> None:
    """8.32 at 20 % are 1.66, and a penny and a half may be rounding; at 21 % they are 1.75, at 5 % 0.42, and that is
    held though the allowance is 5.00, and though somebody accepted a difference."""
    rules = rulebook(penny={"allowance": "5.00"})
    found = settle(planned(), record(planned(), tax=computed), rules, context().master_data, own="GBP", accepted=True)
    assert (found.finding is not None) == held
    if found.finding is not None:
        assert (found.finding.id, found.finding.cause) == ("PENNY-E005", Cause.CODE_RATE)
        assert f"computed {computed} of tax on 8.32 GBP" in found.finding.text
        assert "under code S20. That code had 20 %" in found.finding.text


def test_a_draft_whose_net_was_changed_is_held() -> None:
    """That is no rounding: somebody edited it."""
    invoice = planned()
    first = invoice.lines[0].model_copy(update={"net": Decimal("8.00")})
    edited = invoice.model_copy(update={"lines": (first,)})
    finding = settle(invoice, record(edited), rulebook(), context().master_data, own="GBP").finding
    assert finding is not None
    assert finding.id == "PENNY-E003"


def test_what_the_books_hold_is_proved() -> None:
    """Nothing differs."""
    invoice = settle(planned(), record(planned(), tax="1.67"), rulebook(), context().master_data, own="GBP").document
    assert prove(invoice, [record(invoice, tax="1.67")], contact_id="3", standing=Standing.POSTED) == ()


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"standing": "draft"}, "standing: planned posted, found draft"),
        ({"contact_id": "4"}, "contact: planned 3, found 4"),
        ({"gross": "9.98"}, "gross: planned 9.99, found 9.98"),
        ({"tax": "1.68"}, "tax: planned 1.67, found 1.68"),
    ],
)
def test_each_difference_is_named(change: dict[str, str], text: str) -> None:
    """With what was planned and what was found."""
    invoice = planned()
    good = record(invoice, tax="1.67")
    other = BooksRecord.read({**good.as_json(), **change})
    findings = prove(invoice, [other], contact_id="3", standing=Standing.POSTED)
    assert [finding.text for finding in findings] == [text]


def test_a_line_on_another_account_is_named() -> None:
    """Also where all totals agree."""
    invoice = planned()
    moved = invoice.model_copy(update={"lines": (invoice.lines[0].model_copy(update={"account": "1200"}),)})
    findings = prove(invoice, [record(moved, tax="1.67")], contact_id="3", standing=Standing.POSTED)
    assert [finding.text for finding in findings] == ["lines/0/account: planned 4000, found 1200"]


@pytest.mark.parametrize("standings", [[], ["posted", "posted"], ["void"], ["posted", "draft"]])
def test_there_must_be_exactly_one(standings: list[str]) -> None:
    """None, or two, is no proof; what is void does not count."""
    found = [record(planned(), tax="1.67", standing=standing) for standing in standings]
    (finding,) = prove(planned(), found, contact_id="3", standing=Standing.POSTED)
    assert finding.id == "PROOF-E001"


def test_a_void_one_beside_the_right_one_does_no_harm() -> None:
    """A surplus draft that was voided is history."""
    found = [record(planned(), tax="1.67", standing="void"), record(planned(), tax="1.67")]
    assert prove(planned(), found, contact_id="3", standing=Standing.POSTED) == ()


def test_totals_tie_where_count_and_gross_agree() -> None:
    """Net and tax may shift by a rounding."""
    shop = Totals(count=2, net=Decimal("11.61"), tax=Decimal("2.33"), gross=Decimal("13.94"))
    books = Totals(count=2, net=Decimal("11.62"), tax=Decimal("2.32"), gross=Decimal("13.94"))
    assert shop.less(books).gross == shop.less(books).count == 0
    assert not shop.less(Totals(count=2, gross=Decimal("13.93"))).nothing
