"""Accounts of money proved: columns, days, differences and what stands there, worked out by hand."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.books import Journal, Role
from inkwell_bridge.core.clearing import (
    CLEARED,
    AccountRead,
    Column,
    Compared,
    Difference,
    Item,
    OfDay,
    Part,
    StandingItem,
    WhyDiffers,
    WhyStands,
    beside_bank,
    beside_provider,
    by_column,
    differences_of,
    in_columns,
    prove_account,
    standing_of,
    why_standing,
)
from inkwell_bridge.core.clearing.proof import added
from inkwell_bridge.core.commerce import EntryKind
from inkwell_bridge.core.planner import plan_payout
from tests.core.test_payouts import ACCOUNTS, context, payout

ZERO = Decimal(0)
CLEARING = ACCOUNTS["clearing"]
# A charge with fee and tax on it, a refund, a dispute lost and one won, a reserve, and what is carried over: entry by
# entry as a provider tells them; 40.00 - 0.80 - 0.16 + 60.00 - 1.20 - 0.24 - 10.00 - 25.00 - 15.00 + 12.00 - 20.00
# - 9.60 = 30.00 are paid out.
ENTRIES = [
    "w1 charge 40.00 -0.80 -0.16 wg1",
    "w2 charge 60.00 -1.20 -0.24 wg2",
    "w3 refund -10.00 0 0 wg3",
    "w4 chargeback -25.00 -15.00 0 wg4",
    "w5 chargeback-reversed 12.00 0 0 wg5",
    "w6 reserve-kept -20.00 0 0 -",
    "w7 carried-over -9.60 0 0 -",
]


def d(text: str) -> Decimal:
    """An amount."""
    return Decimal(text)


def parts_of(journal: Journal, account: str) -> Iterator[Part]:
    """The lines of a payout's journal, as seen from an account."""
    clears = any(line.account == account and line.text in CLEARED for line in journal.lines)
    for line in journal.lines:
        yield Part(role=Role.JOURNAL, kind="payouts", text=line.text, own=line.account == account, clears=clears,
                   amount=line.base)  # fmt: skip


def journal_of(entries: list[str], total: str) -> Journal:
    """What a payout of these entries becomes."""
    said = {"entries": entries, "total": total, "known": [one.split()[-1] for one in entries]}
    plan = plan_payout(payout(said), context(said))
    assert plan.findings == ()
    (journal,) = plan.documents
    assert isinstance(journal, Journal)
    return journal


def test_a_payout_by_column() -> None:
    """On clearing by where the money went; 100.00 less 10.00 less 9.60 that were kept back leave it."""
    journal = journal_of(ENTRIES, "30.00")
    assert added(in_columns(parts_of(journal, CLEARING))) == {
        Column.CHARGEBACKS: d("-25.00"),
        Column.CHARGEBACKS_REVERSED: d("12.00"),
        Column.FEES: d("-17.00"),
        Column.FEE_TAX: d("-0.40"),
        Column.RESERVES_KEPT: d("-20.00"),
        Column.PAID_OUT: d("-30.00"),
    }
    assert sum(line.base for line in journal.lines if line.account == CLEARING) == d("-80.40")
    assert added(in_columns(parts_of(journal, ACCOUNTS["reserves"]))) == {Column.RESERVES_KEPT: d("20.00")}
    assert added(in_columns(parts_of(journal, ACCOUNTS["bank"]))) == {Column.PAID_OUT: d("30.00")}


def test_other_documents_by_column() -> None:
    """Money in and out by its role; a journal of something else by itself, an arrival as such."""
    parts = [
        Part(role=Role.PAYMENT, amount=d("5.00")),
        Part(role=Role.CASH_SALE, amount=d("6.00")),
        Part(role=Role.REFUND_PAYMENT, amount=d("-2.00")),
        Part(role=Role.JOURNAL, kind="arrivals", text="Payout WP-1", amount=d("-3.00")),
        Part(role=Role.JOURNAL, kind="gathered", text="Fees", amount=d("1.00")),
        Part(role=Role.JOURNAL, kind="payouts", text="typed by somebody", amount=d("0.50")),
    ]
    assert added(in_columns(parts)) == {
        Column.CHARGES: d("11.00"), Column.REFUNDS: d("-2.00"), Column.ARRIVED: d("-3.00"), Column.OTHER: d("1.50"),
    }  # fmt: skip


_KINDS = [str(kind).replace(" ", "-") for kind in EntryKind if kind is not EntryKind.UNKNOWN]


@given(st.lists(st.tuples(st.sampled_from(_KINDS), st.integers(-9999, 9999), st.integers(-99, 0)), min_size=1))
def test_columns_come_to_what_a_payout_puts_on_each_account(told: list[tuple[str, int, int]]) -> None:
    """Whatever is in it: seen from any account, its columns are what its lines there come to."""
    entries = [f"e{place} {kind} {d(str(pence)) / 100} {d(str(fee)) / 100} 0 wg{place}"
               for place, (kind, pence, fee) in enumerate(told)]  # fmt: skip
    total = sum((d(str(pence + fee)) for _, pence, fee in told), ZERO) / 100
    if not any(pence or fee for _, pence, fee in told):
        return
    journal = journal_of(entries, str(total))
    for account in {line.account for line in journal.lines}:
        amounts = [amount for _, amount in in_columns(parts_of(journal, account))]
        assert sum(amounts) == sum(line.base for line in journal.lines if line.account == account)


def read(**told: Any) -> AccountRead:
    """What books told of October."""
    said = {"account": CLEARING, "currency": "GBP", "first": date(2026, 10, 1), "last": date(2026, 10, 31)}
    return AccountRead(**said, **told)


def test_a_month_that_proves() -> None:
    """100.00 stood there; 40.00 and 60.00 came, 10.00 went back, 80.40 left by a payout: 109.60 is left."""
    fifth, sixth = date(2026, 10, 5), date(2026, 10, 6)
    moved = {
        fifth: [(Column.CHARGES, d("40.00")), (Column.CHARGES, d("60.00")), (Column.REFUNDS, d("-10.00"))],
        sixth: list(in_columns(parts_of(journal_of(ENTRIES, "30.00"), CLEARING))),
    }
    there = read(opening=d("100.00"), closing=d("109.60"), moved={fifth: d("90.00"), sixth: d("-80.40")})
    proof = prove_account(there, moved, [])
    assert [(one.day, one.opening, one.closing, one.books) for one in proof.days] == [
        (fifth, d("100.00"), d("190.00"), d("190.00")), (sixth, d("190.00"), d("109.60"), d("109.60")),
    ]  # fmt: skip
    assert list(proof.amounts) == [Column.CHARGES, Column.REFUNDS, Column.CHARGEBACKS, Column.CHARGEBACKS_REVERSED,
                                   Column.FEES, Column.FEE_TAX, Column.RESERVES_KEPT, Column.PAID_OUT]  # fmt: skip
    assert (proof.amounts[Column.CHARGES], proof.closing, proof.books) == (d("100.00"), d("109.60"), d("109.60"))
    assert (proof.proves, proof.unexplained) == (True, ZERO)


def test_a_month_without_a_movement() -> None:
    """It closes as it opened."""
    proof = prove_account(read(opening=d("3.10"), closing=d("3.10"), moved={}), {}, [])
    assert (proof.days, proof.closing, proof.proves) == ((), d("3.10"), True)


def test_what_no_item_explains_is_said_to_be_unexplained() -> None:
    """The books say 7.00 more, an item of 5.00 is known: 2.00 have no name, and get none."""
    day = date(2026, 10, 9)
    by_hand = Difference(why=WhyDiffers.ENTERED_THERE, count=1, amount=d("5.00"))
    proof = prove_account(read(opening=ZERO, closing=d("7.00"), moved={day: d("5.00")}), {}, [by_hand])
    assert (proof.closing, proof.books, proof.unexplained, proof.proves) == (ZERO, d("7.00"), d("2.00"), False)
    assert proof.days[0].difference == d("5.00")


def test_two_items_that_cancel_prove_nothing() -> None:
    """5.00 too much and 5.00 too little: the sums are the same, and the account is not proved."""
    items = [Item(our_amount=d("5.00"), our_day=date(2026, 10, 1)),
             Item(books_amount=d("5.00"), books_day=date(2026, 10, 1), entered_there=True)]  # fmt: skip
    proof = prove_account(read(opening=ZERO, closing=ZERO, moved={}), {}, differences_of(items))
    assert [(one.why, one.count, one.amount) for one in proof.differences] == [
        (WhyDiffers.ENTERED_THERE, 1, d("5.00")), (WhyDiffers.MISSING, 1, d("-5.00")),
    ]  # fmt: skip
    assert (proof.unexplained, proof.proves) == (ZERO, False)


OURS = {"our_day": date(2026, 10, 5), "our_amount": "12.00"}
THEIRS = {"books_day": date(2026, 10, 5), "books_amount": "12.00"}


@pytest.mark.parametrize(("said", "why", "amount"), [
    ({**OURS, **THEIRS}, None, "0"),
    ({**OURS, **THEIRS, "books_amount": "11.00"}, WhyDiffers.OTHER_AMOUNT, "-1.00"),
    ({**OURS, **THEIRS, "books_day": date(2026, 10, 6)}, WhyDiffers.OTHER_DAY, "0"),
    ({**OURS, **THEIRS, "books_amount": "24.00", "documents": 2}, WhyDiffers.TWICE, "12.00"),
    ({**OURS}, WhyDiffers.MISSING, "-12.00"),
    ({**THEIRS, "entered_there": True}, WhyDiffers.ENTERED_THERE, "12.00"),
    ({**THEIRS}, WhyDiffers.NOT_KNOWN, "12.00"),
    ({**THEIRS, "known_elsewhere": True}, WhyDiffers.KNOWN_ELSEWHERE, "12.00"),
])  # fmt: skip
def test_why_an_item_differs(said: dict[str, Any], why: WhyDiffers | None, amount: str) -> None:
    """By what is on each side."""
    item = Item.read(said)
    assert (item.why, item.amount) == (why, d(amount))


def of(day: int, count: int, amount: str, month: int = 10) -> OfDay:
    """Items of a day."""
    return OfDay(day=date(2026, month, day), count=count, amount=d(amount))


def test_what_stands_there_by_age() -> None:
    """On the 31st: of the 24th is seven days old, of the 23rd eight; of July more than ninety."""
    sums = [of(2, 1, "5.00", month=7), of(1, 1, "1.00"), of(23, 2, "2.00"), of(24, 1, "3.00"), of(31, 3, "0.40")]
    item = StandingItem(why=WhyStands.NOT_PAID_OUT, day=date(2026, 7, 2), received=d("6.00"), cleared=d("1.00"))
    found = standing_of(sums, [item], on=date(2026, 10, 31), closing=d("12.40"), from_elsewhere=d("1.00"),
                        other_journals=ZERO)  # fmt: skip
    assert [(one.up_to, one.count, one.amount) for one in found.ages] == [
        (7, 4, d("3.40")), (30, 3, d("3.00")), (90, 0, ZERO), (None, 1, d("5.00")),
    ]  # fmt: skip
    assert (found.count, found.amount, found.items, item.amount) == (8, d("11.40"), (item,), d("5.00"))
    assert found.not_accounted_for == ZERO
    short = standing_of(sums, [item], on=date(2026, 10, 31), closing=d("12.39"), from_elsewhere=d("0.50"),
                        other_journals=d("0.50"))  # fmt: skip
    assert short.not_accounted_for == d("-0.01")


@pytest.mark.parametrize(("received", "cleared", "payout_number", "why"), [
    ("5.00", None, "", WhyStands.NOT_PAID_OUT),
    ("5.00", None, "WP-1", WhyStands.NOT_POSTED),
    ("5.00", "4.00", "WP-1", WhyStands.PAID_OUT_OTHERWISE),
    (None, "5.00", "WP-1", WhyStands.NOT_RECEIVED),
])  # fmt: skip
def test_why_something_stands_there(
    received: str | None, cleared: str | None, payout_number: str, why: WhyStands
) -> None:
    """By what is known of both its sides."""
    sums = [None if one is None else d(one) for one in (received, cleared)]
    assert why_standing(received=sums[0], cleared=sums[1], payout=payout_number) is why


def test_what_was_received_elsewhere_is_told_from_what_never_was() -> None:
    """A receipt that stands on another account, or on a later day."""
    why = why_standing(received=None, cleared=d("5.00"), payout="WP-1", posted_elsewhere=True)
    assert why is WhyStands.RECEIVED_ELSEWHERE


def test_the_bank_beside_the_books() -> None:
    """The bank says 434.81; it began with 100.00 and the books with 10.00; 334.81 = 300.00 + 30.00 + 4.81 came, and the
    books have 299.00 of the 300.00 that are known: 1.00 is not accounted for."""
    found = beside_bank(day=date(2026, 10, 31), balance=d("434.81"), matched=d("300.00"), open_lines=d("30.00"),
                        excluded_lines=d("4.81"), books_opening=d("10.00"), books=d("309.00"))  # fmt: skip
    assert (found.opening_difference, found.not_accounted_for) == (d("90.00"), d("1.00"))
    parts = found.opening_difference + found.open_lines + found.excluded_lines + found.not_accounted_for
    assert found.balance - found.books == parts


def test_a_providers_ledger_by_column() -> None:
    """The same entries before any payout tells of them: what it owes is what it will pay out, 30.00."""
    sums = by_column(payout({"entries": ENTRIES, "total": "30.00"}).entries)
    assert {column: f"{amount}" for column, amount in sums.items()} == {
        Column.CHARGES: "100.00", Column.REFUNDS: "-10.00", Column.FEES: "-17.00", Column.FEE_TAX: "-0.40",
        Column.CHARGEBACKS: "-25.00", Column.CHARGEBACKS_REVERSED: "12.00", Column.RESERVES_KEPT: "-20.00",
        Column.OTHER: "-9.60"}  # fmt: skip
    # 90.00 of buyers' money there; here 95.00: 20.00 the provider does not know, 16.00 nobody here, 1.00 more of one.
    compared = Compared(here=d("95.00"), only_here=d("20.00"), only_there=d("16.00"), otherwise=d("1.00"), count=3)
    found = beside_provider("Weirgate", date(2026, 10, 7), sums, compared, [])
    assert found.balance == d("30.00")
    assert found.columns == tuple(column for column in Column if column in sums)
    assert found.here - (sums[Column.CHARGES] + sums[Column.REFUNDS]) == (
        found.only_here - found.only_there + found.otherwise)  # fmt: skip
    none = Compared(here=ZERO, only_here=ZERO, only_there=ZERO, otherwise=ZERO, count=0)
    nothing = beside_provider("Weirgate", date(2026, 10, 7), {}, none, [])
    assert (nothing.amounts, nothing.balance) == ({}, 0)
