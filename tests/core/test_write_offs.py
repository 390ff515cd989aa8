"""Small balances that are given up: what is open, when it is due, and on what it stands; worked by hand."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.amendments import open_balance, with_write_off
from inkwell_bridge.core.books import WriteOff
from inkwell_bridge.core.planner import Plan, PlanningContext
from inkwell_bridge.core.rulebook import read
from inkwell_bridge.core.rulebook.invalid import RulebookInvalid
from tests.core.test_cases import BASE, context, order, refund, rules
from tests.support.lives import Life

Json = dict[str, Any]
WRITE_OFFS: Json = {"up_to": 0.5, "by_currency": {"EUR": 0.4}, "after_days": 30}
PAID = "2026-10-05T13:20:00+00:00"


def given(said: Json, write_offs: Json | None = None) -> PlanningContext:
    """Rules by which 0.50 are given up after thirty days, on 8400."""
    own = {
        "orders": {"currencies": "kept"},
        "payments": {"accounts": {"default": "1250"}},
        "refunds": {"money_differs": "leave open"},
        "accounts": {"write_offs": "8400", "goodwill": "4900"},
        "write_offs": write_offs or WRITE_OFFS,
    }
    found = context({"order": said, "rules": own})
    return found.model_copy(update={"master_data": found.master_data.model_copy(update={"currencies": ("EUR", "JPY")})})


def life(*paid: str, total: str = "24.00", currency: str = "GBP", **more: Any) -> Life:
    """An order of one line without tax, with these payments of the day on which it was placed."""
    said = {"currency": currency, "lines": [{"sum": total, "class": "zero"}],
            "paid": [{"sum": one, "tender": "card", "at": PAID} for one in paid]}  # fmt: skip
    return Life(order(said), given(said, **more))


def given_up(one: Life, day: str = "2026-11-04") -> Plan:
    """The plan of what stands there, with what is given up by that day."""
    return with_write_off(one.plan, "501", "MW-501", one.documents, one.refunded, one.context, date.fromisoformat(day))


def written(plan: Plan) -> str:
    """The one document that gives something up."""
    (made,) = [one for one in plan.documents if isinstance(one, WriteOff)]
    parts = ", ".join(f"{one.external_reference.split(':')[-2]} {one.amount}" for one in made.applied)
    return f"{made.owed_by} {made.amount} {made.currency} on {made.account}: {parts}"


@pytest.mark.parametrize(("paid", "said"), [
    (("23.60",), "customer 0.40 GBP on 8400: invoice 0.40"),
    (("23.50",), "customer 0.50 GBP on 8400: invoice 0.50"),
    (("20.00", "3.97"), "customer 0.03 GBP on 8400: invoice 0.03"),
    # What was paid too much stands on no document: it is open on the contact.
    (("24.05",), "company 0.05 GBP on 8400: "),
])  # fmt: skip
def test_what_is_small_and_old_is_given_up(paid: tuple[str, ...], said: str) -> None:
    """Both ways, against what is open; thirty days after the fifth of October."""
    assert written(given_up(life(*paid))) == said


@pytest.mark.parametrize(("paid", "day"), [
    (("23.60",), "2026-11-03"),
    (("23.49",), "2026-12-31"),
    (("24.00",), "2026-12-31"),
    ((), "2026-12-31"),
    (("24.51",), "2026-12-31"),
])  # fmt: skip
def test_what_is_younger_or_larger_or_nothing_stays(paid: tuple[str, ...], day: str) -> None:
    """A day short of thirty; a penny over the limit, both ways; paid in full; not paid at all."""
    one = life(*paid)
    assert given_up(one, day) is one.plan


def test_each_currency_has_a_limit_of_its_own() -> None:
    """0.40 in EUR by name; in JPY none, so nothing is given up."""
    assert written(given_up(life("23.60", currency="EUR"))) == "customer 0.40 EUR on 8400: invoice 0.40"
    euro, yen = life("23.59", currency="EUR"), life("2399", total="2400", currency="JPY")
    assert given_up(euro) is euro.plan
    assert given_up(yen) is yen.plan


def test_after_a_refund_that_was_rounded() -> None:
    """12.00 of 24.00 come back and 11.97 are paid: 0.03 are owed, on the credit note of the refund."""
    one = life("24.00")
    back = refund({"lines": [{"line": "1", "sum": "12.00", "count": "0.5", "class": "zero"}],
                   "paid": [{"sum": "11.97", "tender": "card", "at": PAID}]}, one.order)  # fmt: skip
    one.refund(back)
    balance = open_balance(one.documents, one.refunded)
    assert balance is not None
    assert (balance.amount, balance.since) == (Decimal("-0.03"), date(2026, 10, 5))
    assert written(given_up(one)) == "company 0.03 GBP on 8400: credit note 0.03"


def test_it_is_given_up_once() -> None:
    """Under way it is not doubled, and posted nothing is open any more; money that comes all the same is a credit."""
    one = life("23.60")
    plan = given_up(one)
    assert with_write_off(plan, "501", "MW-501", one.documents, (), one.context, date(2027, 1, 1)) is plan
    one.plan, one.documents = plan, list(plan.documents)
    balance = open_balance(one.documents, ())
    assert (balance.amount if balance else None, plan.open_balance) == (0, 0)
    assert given_up(one, "2027-01-01") is plan
    later = order({"lines": [{"sum": "24.00", "class": "zero"}], "changed": "2026-12-01T09:00:00+00:00",
                   "paid": [{"sum": "23.60", "tender": "card", "at": PAID},
                            {"sum": "0.40", "tender": "card", "at": "2026-12-01T09:00:00+00:00"}]})  # fmt: skip
    change = one.change(later)
    (money,) = [document for document in change.documents if getattr(document, "transaction", "") == "wg_2"]
    assert getattr(money, "applied", None) == ()
    after = open_balance(one.documents, ())
    assert after is not None
    assert after.amount == Decimal("-0.40")
    # What came too much is given up in its turn: by a document of its own.
    again = given_up(one, "2027-01-01")
    references = [document.external_reference for document in again.documents if isinstance(document, WriteOff)]
    assert len(set(references)) == 2


@pytest.mark.parametrize(("own", "wrong"), [
    ({"write_offs": {"up_to": 0.5}, "payments": {"accounts": {"default": "1250"}}}, "accounts names none"),
    ({"write_offs": {"up_to": 0.5}, "accounts": {"write_offs": "8400"}, "payments": "later"}, "nobody knows"),
    ({"write_offs": {"after_days": 3}, "accounts": {"write_offs": "8400"}}, "up_to"),
])  # fmt: skip
def test_rules_that_lack_a_part_are_refused(own: Json, wrong: str) -> None:
    """An account, payments, and a limit."""
    with pytest.raises(RulebookInvalid, match=wrong):
        rules({"rules": own})


def test_an_account_is_income_or_expense() -> None:
    """Anything else is found when the rules are held against the books; the base of the cases gives nothing up."""
    assert read(BASE)[0].write_offs is None
