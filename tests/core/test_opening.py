"""Opening balances as a journal, worked out by hand."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.core.books import Journal
from inkwell_bridge.core.commerce import OpeningBalances
from inkwell_bridge.core.errors import DocumentInvalid
from inkwell_bridge.core.planner import Outcome, Plan, plan_opening
from tests.core.test_cases import context

OWED = {"of": "gift cards", "amount": "120.00"}
PAID_AHEAD = {"of": "deposits", "amount": "85.00"}
TO_COME = {"of": "clearing", "amount": "40.00", "account": "1250"}


def opening(*balances: dict[str, str], **fields: Any) -> OpeningBalances:
    """The balances of a cut-over on 1 October, against an account of the cases' books."""
    said = {"id": "opening", "number": "Opening balances", "opened_on": "2026-10-01", "currency": "GBP",
            "changed_at": "2026-10-01T09:00:00Z", "against": "1200", "balances": balances}  # fmt: skip
    return OpeningBalances.read({**said, **fields})


def planned(*balances: dict[str, str], rules: dict[str, Any] | None = None, **fields: Any) -> Plan:
    """The plan of these balances under the rules of the cases."""
    made = context({"rules": rules} if rules else {})
    able = made.capabilities.model_copy(update={"documents": ("journal",)})
    return plan_opening(opening(*balances, **fields), made.model_copy(update={"capabilities": able}))


def postings(plan: Plan) -> list[str]:
    """Account and base of each posting: a debit is positive."""
    (journal,) = plan.documents
    assert isinstance(journal, Journal)
    return [f"{line.account} {line.base}" for line in journal.lines]


def test_what_is_owed_is_credited_and_what_is_to_come_debited() -> None:
    """120.00 and 85.00 are owed, 40.00 is to come: 165.00 more is owed, which the other account bears."""
    plan = planned(OWED, PAID_AHEAD, TO_COME)
    assert plan.outcome is Outcome.CARRY
    assert postings(plan) == ["2310 -120.00", "2300 -85.00", "1250 40.00", "1200 165.00"]
    (journal,) = plan.documents
    assert (journal.external_reference, str(journal.date)) == ("INK:web-shop:opening:journal:1", "2026-10-01")
    reasons = {reason.target: reason.text for reason in plan.reasons}
    assert reasons["/documents/0/lines/0/base"] == (
        "The opening balance of gift cards, 120.00, is credited, for it is owed."
    )
    assert reasons["/documents/0/lines/3/base"].endswith("that the balances come out of, 1200.")


def test_a_provider_that_is_owed_turns_the_sides() -> None:
    """-15.00 on a clearing account is a credit; nothing is left where both sides agree."""
    assert postings(planned({**TO_COME, "amount": "-15.00"})) == ["1250 -15.00", "1200 15.00"]
    assert postings(planned({**OWED, "amount": "40.00"}, TO_COME)) == ["2310 -40.00", "1250 40.00"]


@pytest.mark.parametrize(
    ("balances", "fields", "code"),
    [
        ([OWED], {"against": "9999"}, "OPEN-E002"),
        ([OWED], {"currency": "EUR"}, "OPEN-E001"),
        ([{**OWED, "amount": "0.00"}], {}, "OPEN-E001"),
        ([{**TO_COME, "account": "4000"}], {}, "OPEN-E003"),
        ([OWED], {"rules": {"accounts": {"gift_cards": None}}}, "OPEN-E003"),
    ],
)
def test_what_cannot_be_posted_is_told(balances: list[dict[str, str]], fields: dict[str, Any], code: str) -> None:
    """Nothing is made, and there is a way out."""
    plan = planned(*balances, **fields)
    assert (plan.outcome, plan.documents) == (Outcome.HOLD, ())
    assert code in {finding.id for finding in plan.findings if finding.hint}


@pytest.mark.parametrize("wrong", [{**OWED, "account": "2310"}, {"of": "clearing", "amount": "1.00"}, {"of": "fish"}])
def test_a_balance_says_what_it_is_of(wrong: dict[str, str]) -> None:
    """A clearing balance names its account, and no other does."""
    with pytest.raises(DocumentInvalid):
        opening(wrong)
