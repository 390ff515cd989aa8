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
