"""Payouts as journals: worked out by hand in a file, and whatever a provider may put into one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.amendments import PostedJournals, plan_journal_amendment
from inkwell_bridge.core.books import Account, AccountType, Journal, MasterData
from inkwell_bridge.core.commerce import EntryKind, Payout
from inkwell_bridge.core.planner import Outcome, PayoutContext, Plan, plan_payout
from inkwell_bridge.core.rulebook import check, read
from inkwell_bridge.core.rulebook.payouts import PAYOUT_ACCOUNT_TYPES, PayoutRules
from inkwell_bridge.core.rulebook.periods import PeriodRules
from tests.core.test_cases import _Exact

CASES = Path(__file__).parent / "payouts" / "journals.yaml"
ZERO = Decimal(0)
ACCOUNTS = {"bank": "1200", "clearing": "1250", "fees": "7500", "fee_tax": "2200", "chargebacks": "7510",
            "reserves": "1270", "conversions": "8300", "taxes_kept": "2210", "corrections": "7520",
            "subscriptions": "7530", "referral_fees": "7540", "fulfilment_fees": "7550", "advertising": "7560",
            "shipping_labels": "7570"}  # fmt: skip
KINDS = {str(kind).replace(" ", "-"): kind for kind in EntryKind}
Json = dict[str, Any]


def cases() -> Iterator[Any]:
    """Every case of the file."""
    for case in yaml.load(CASES.read_text("utf-8"), Loader=_Exact):  # noqa: S506 a safe loader that rounds nothing
        yield pytest.param(case, id=case["case"])


EVERY = list(cases())


def entry(text: str, paid_at: str) -> Json:
    """An entry such as ``w1 charge 40.00 -0.80 -0.16 wg1``; a last amount is what it says remains."""
    identity, kind, *rest = text.split()
    amount, fee, tax, about = rest[:4]
    net = rest[4] if len(rest) > 4 else str(Decimal(amount) + Decimal(fee) + Decimal(tax))
    known = KINDS.get(kind)
    return {"id": identity, "kind": str(known or EntryKind.UNKNOWN), "called": "" if known else kind,
            "transaction": "" if about == "-" else about, "occurred_at": paid_at, "amount": amount, "fee": fee,
            "fee_tax": tax, "net": net}  # fmt: skip


def payout(case: Json) -> Payout:
    """The payout of a case."""
    paid_at = case.get("paid_at", "2026-10-05T09:00:00+00:00")
    arrives = {"arrives_on": str(case["arrives_on"])} if "arrives_on" in case else {}
    return Payout.read({
        "id": "p1", "number": "WP-1", "provider": "Weirgate", "paid_at": paid_at, "changed_at": paid_at,
        "currency": case.get("currency", "GBP"), "total": str(case["total"]),
        "entries": [entry(one, paid_at) for one in case["entries"]], **arrives,
    })  # fmt: skip


def context(case: Json) -> PayoutContext:
    """The rules and the books of a case."""
    named = {role: code for role, code in (ACCOUNTS | case.get("accounts", {})).items() if code is not None}
    own = case.get("own", case.get("currency", "GBP"))
    books = MasterData(company="Marrowby", currency=own, tax_codes=(), accounts=())
    locked_until = date.fromisoformat(case["locked_until"]) if "locked_until" in case else None
    return PayoutContext(
        source="weirgate", rules=PayoutRules.model_validate(named), periods=PeriodRules(locked="first open day"),
        master_data=books, time_zone="Europe/London", known=frozenset(case.get("known", ())), locked_until=locked_until,
    )  # fmt: skip


def journal_of(plan: Plan) -> Journal:
    """The one document of a plan."""
    assert plan.outcome is Outcome.CARRY, plan.findings
    (journal,) = plan.documents
    assert isinstance(journal, Journal)
    return journal


@pytest.mark.parametrize("case", EVERY)
def test_it_comes_out_as_worked_out_by_hand(case: Json) -> None:
    """The lines of the journal, in order; or what holds it."""
    assert case["work"], "each case says how it was worked out"
    plan = plan_payout(payout(case), context(case))
    if "left_out" in case:
        assert (plan.outcome, plan.left_out_by) == (Outcome.LEFT_OUT, case["left_out"])
        return
    if "held" in case:
        assert (plan.outcome, [one.id for one in plan.findings]) == (Outcome.HOLD, case["held"])
        assert case.get("names", "") in plan.findings[0].text
        assert all(one.hint and one.cause for one in plan.findings)
        return
    journal = journal_of(plan)
    assert [f"{one.account} {one.text} {one.base}" for one in journal.lines] == case["lines"]
    assert str(journal.date) == case.get("dated", "2026-10-05")
    assert [one.id for one in plan.findings] == case.get("says", [])


ONE_CHARGE = {"entries": ["w1 charge 40.00 -0.80 -0.16 wg1"], "total": "39.04", "known": ["wg1", "wg2"]}
# By hand: 0.80 and 0.16 kept of 40.00; corrected, a further charge of 20.00 without a fee; 1.00 and 0.20 are kept.
CORRECTED = {"entries": ["w1 charge 40.00 -1.00 -0.20 wg1", "w2 charge 20.00 0 0 wg2"], "total": "58.80",
             "known": ["wg1", "wg2"]}  # fmt: skip


def amended(first: Json, *later: Json, day: date = date(2026, 10, 9)) -> Plan:
    """The plan of a payout that was corrected once or several times after it was posted."""
    plan = plan_payout(payout(first), context(first))
    for number, case in enumerate(later, start=2):
        posted = [one for one in plan.documents if isinstance(one, Journal)]
        there = PostedJournals(documents=posted, plan=plan, amendments=plan.amendment)
        plan = plan_journal_amendment(plan_payout(payout(case), context(case)), there, day=day, periods=context(case),
                                      external_reference=f"INK:weirgate:p1:journal:{number}")  # fmt: skip
    return plan


def lines_of(journal: Journal) -> list[str]:
    """The lines of a journal, in order."""
    return [f"{one.account} {one.text} {one.base}" for one in journal.lines]


def test_a_corrected_payout_is_a_journal_of_the_difference() -> None:
    """What was posted stays; 20.00 more of charges, 0.20 and 0.04 more kept, 19.76 more arrive."""
    plan = amended(ONE_CHARGE, CORRECTED)
    first, second = (one for one in plan.documents if isinstance(one, Journal))
    assert lines_of(first) == ["1250 Charges -40.00", "7500 Fees 0.80", "2200 Tax on fees 0.16", "1200 Paid out 39.04"]
    assert lines_of(second) == ["1250 Charges -20.00", "7500 Fees 0.20", "2200 Tax on fees 0.04", "1200 Paid out 19.76"]
    assert (str(second.date), plan.amendment, [one.id for one in plan.findings]) == ("2026-10-09", 1, ["AMEND-N006"])
    said = {one.target: (one.rule, one.text) for one in plan.reasons}
    assert said["/documents/1/lines/0/base"][1] == "Charges: -60.00 by now, -40.00 stood in the books."
    assert said["/documents/1/lines/1/account"] == ("/payouts/fees", "Fees stand on 7500.")


def test_a_correction_that_is_corrected_makes_a_further_one_and_an_equal_report_none() -> None:
    """There and back again: the third takes back the second."""
    again = amended(ONE_CHARGE, CORRECTED, ONE_CHARGE)
    assert lines_of(again.documents[2]) == [  # type: ignore[arg-type]
        "1250 Charges 20.00", "7500 Fees -0.20", "2200 Tax on fees -0.04", "1200 Paid out -19.76"]  # fmt: skip
    assert again.amendment == 2
    assert len(amended(ONE_CHARGE, ONE_CHARGE).documents) == 1


def test_a_correction_in_a_locked_month_takes_the_first_open_day() -> None:
    """Told of in a month that was locked since."""
    plan = amended(ONE_CHARGE, {**CORRECTED, "locked_until": "2026-10-31"})
    assert str(plan.documents[1].date) == "2026-11-01"  # type: ignore[union-attr]
    assert [one.id for one in plan.findings] == ["DATE-N002", "AMEND-N006", "DATE-N002"]


def test_what_the_correction_lacks_a_place_for_holds_it() -> None:
    """And nothing is posted beside what stands there."""
    plan = amended(ONE_CHARGE, {"entries": ["w1 mystery 39.04 0 0 -"], "total": "39.04"})
    assert (plan.outcome, plan.documents, [one.id for one in plan.findings]) == (Outcome.HOLD, (), ["PAYOUT-E004"])


AMOUNTS = st.integers(-50_000, 50_000).map(lambda pence: Decimal(pence) / 100)
ENTRIES = st.lists(st.tuples(st.sampled_from([kind for kind in EntryKind if kind is not EntryKind.UNKNOWN]), AMOUNTS,
                             AMOUNTS, AMOUNTS, st.booleans()), max_size=30)  # fmt: skip


@given(ENTRIES)
def test_every_amount_has_one_place_and_the_journal_balances(
    said: list[tuple[EntryKind, Decimal, Decimal, Decimal, bool]],
) -> None:
    """Whatever the provider puts together: what arrives is what it paid, every part of every entry stands on one line
    with the opposite sign, and clearing moves by the money of known orders and what was carried over, alone."""
    entries = [{"id": f"w{place}", "kind": str(kind), "transaction": f"t{place}", "amount": str(amount),
                "occurred_at": "2026-10-05T09:00:00+00:00", "fee": str(fee), "fee_tax": str(tax),
                "net": str(amount + fee + tax)} for place, (kind, amount, fee, tax, _) in enumerate(said)]  # fmt: skip
    total = sum((amount + fee + tax for _, amount, fee, tax, _ in said), ZERO)
    told = Payout.read({"id": "p1", "number": "WP-1", "paid_at": "2026-10-05T09:00:00+00:00", "currency": "GBP",
                        "changed_at": "2026-10-05T09:00:00+00:00", "total": str(total),
                        "entries": entries})  # fmt: skip
    known = [f"t{place}" for place, one in enumerate(said) if one[4]]
    plan = plan_payout(told, context({"known": known, "accounts": {"suspense": "2390"}}))
    if not said:
        assert plan.outcome is Outcome.LEFT_OUT
        return
    placed: Counter[str] = Counter()
    for reason in plan.reasons:
        for part in reason.allocated:
            assert part.amount == amount_at(told, part.source)
            placed[part.source] += 1
    wanted = {f"/entries/{place}/{name}" for place, one in enumerate(entries) for name in ("amount", "fee", "fee_tax")
              if Decimal(one[name])} | ({"/total"} if total else set())  # fmt: skip
    assert placed == Counter(wanted)
    if not plan.documents:
        return
    moved: Counter[str] = Counter()
    for line in journal_of(plan).lines:
        moved[line.account] += line.base  # type: ignore[assignment]
    assert moved["1200"] == total
    of_orders = {EntryKind.CHARGE, EntryKind.REFUND}
    cleared = sum((amount for kind, amount, _, _, is_known in said
                   if (kind in of_orders and is_known) or kind is EntryKind.CARRIED_OVER), ZERO)  # fmt: skip
    assert moved["1250"] == -cleared


@given(st.lists(ENTRIES.filter(bool), min_size=2, max_size=4))
def test_however_often_it_is_corrected_the_journals_come_to_what_it_says_last(
    reports: list[list[tuple[EntryKind, Decimal, Decimal, Decimal, bool]]],
) -> None:
    """Account by account, and each journal balances by itself."""
    cases = [_case(said) for said in reports]
    plan = amended(cases[0], *cases[1:])
    wanted = plan_payout(payout(cases[-1]), context(cases[-1]))
    if plan.documents and wanted.documents:
        assert _by_account(plan.documents) == _by_account(wanted.documents)


def _case(said: list[tuple[EntryKind, Decimal, Decimal, Decimal, bool]]) -> Json:
    entries = [f"w{place} {str(kind).replace(' ', '-')} {amount} {fee} {tax} t{place}"
               for place, (kind, amount, fee, tax, _) in enumerate(said)]  # fmt: skip
    total = sum((amount + fee + tax for _, amount, fee, tax, _ in said), ZERO)
    known = [f"t{place}" for place, one in enumerate(said) if one[4]]
    return {"entries": entries, "total": str(total), "known": known, "accounts": {"suspense": "2390"}}


def _by_account(documents: Any) -> dict[str, Decimal]:
    moved: dict[str, Decimal] = {}
    for journal in documents:
        for line in journal.lines:
            moved[line.account] = moved.get(line.account, ZERO) + line.base
    return {account: amount for account, amount in moved.items() if amount}


def amount_at(told: Payout, source: str) -> Decimal:
    """The amount that a pointer into a payout leads to."""
    if source == "/total":
        return told.total
    _, _, place, name = source.split("/")
    return Decimal(getattr(told.entries[int(place)], name))


def test_accounts_are_held_against_the_books() -> None:
    """Each role by the types that it may use."""
    text = "rulebook: 1\npayouts:\n" + "".join(f'  {role}: "{role}"\n' for role in PAYOUT_ACCOUNT_TYPES)
    book, source_map = read(text)
    right = [Account(code=role, name=role, type=min(types)) for role, types in PAYOUT_ACCOUNT_TYPES.items()]
    books = MasterData(company="Marrowby", currency="GBP", tax_codes=(), accounts=tuple(right))
    assert check(book, books, source_map=source_map) == ()
    wrong = [one.model_copy(update={"type": AccountType.EQUITY}) for one in right]
    found = check(book, books.model_copy(update={"accounts": tuple(wrong)}), source_map=source_map)
    assert [(one.id, one.at) for one in found] == [("REF-E002", f"/payouts/{role}") for role in PAYOUT_ACCOUNT_TYPES]
    missing = check(book, books.model_copy(update={"accounts": ()}), source_map=source_map)
    assert {one.id for one in missing} == {"REF-E001"}
