"""The marketplace's settlements: a list, and reports parted by tabs; several currencies, and what may be wrong."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Any

import pytest

from inkwell_bridge.core.commerce import EntryKind, Payout, SourceKind
from inkwell_bridge.ends.marketplace.settlements import COLUMNS, KINDS, Report, read_report, settlement
from inkwell_bridge.ends.shapes import Fetched
from tests.support.ends import BENCHES
from tests.support.world import World

BENCH = BENCHES["marketplace"]
PAYOUTS = SourceKind.PAYOUTS
Json = dict[str, Any]


def row(what: str, amount: str, ref: str = "", *, tax: str = "", number: int = 1, **said: str) -> Json:
    """A row of a report."""
    return {"row": f"{number}-{what}-{ref}", "on": "2026-10-03T10:00:00+01:00", "what": what, "amount": amount,
            "ref": ref, "tax": tax, **said}  # fmt: skip


def settled(*rows: Json, key: int = 1, money: str = "EUR", report: str = "RP-2610A", **fields: Any) -> Json:
    """A settlement of the first two weeks, with these rows."""
    due = sum(Decimal(one["amount"]) + Decimal(one["tax"] or 0) for one in rows)
    return {"settlement": f"LS-2610A-{money}", "key": key, "report": report, "money": money, "due": int(due * 100),
            "since": "2026-10-01T00:00:00+01:00", "until": "2026-10-15T00:00:00+01:00",
            "made": "2026-10-15T06:00:00+01:00", "moved": "2026-10-15T06:00:00+01:00", "lands": "2026-10-17",
            "bank_words": "LANTERNFAIR LS-2610A", "rows": list(rows), **fields}  # fmt: skip


def told(world: World) -> list[Fetched]:
    """What its list has."""
    return list(BENCH.sales(world).documents(PAYOUTS, changed_since=None).documents)


def test_two_currencies_of_one_report_are_two_payouts(world: World) -> None:
    """12.00 less 1.44 of commission and 0.33 of tax on it in EUR, 20.00 in USD; the report is fetched once."""
    eur = settled(row("sale", "12.00", "lfp-1", sale="LF-1"), row("commission", "-1.44", "lfp-1", tax="-0.33"))
    usd = settled(row("sale", "20.00", "lfp-2"), key=2, money="USD")
    BENCH.put(world, settlements=[eur, usd])
    # A second call for the report would be answered with nonsense.
    world.misbehave("marketplace", {"call": "report", "kind": "said", "skip": 1, "times": 9, "body": "nonsense"})
    first, second = (one.document for one in told(world))
    assert isinstance(first, Payout)
    assert isinstance(second, Payout)
    assert (first.number, first.currency, first.total) == ("LS-2610A-EUR", "EUR", Decimal("10.23"))
    assert (second.number, second.currency, second.total) == ("LS-2610A-USD", "USD", Decimal("20.00"))
    assert [(one.kind, one.transaction, one.amount, one.fee_tax, one.net) for one in first.entries] == [
        (EntryKind.CHARGE, "lfp-1", Decimal("12.00"), 0, Decimal("12.00")),
        (EntryKind.REFERRAL_FEE, "lfp-1", Decimal("-1.44"), Decimal("-0.33"), Decimal("-1.77")),
    ]
    assert (str(first.arrives_on), first.bank_reference, first.entries[0].order_number) == (
        "2026-10-17", "LANTERNFAIR LS-2610A", "LF-1")  # fmt: skip
    world.misbehave("marketplace")
    found = BENCH.sales(world).document(PAYOUTS, "LS-2610A-USD").document
    assert found == second


def test_its_words_are_ours(world: World) -> None:
    """Every kind of row, and one that nobody knows by the marketplace's own name."""
    rows = [row(word, "1.00", f"r{number}", number=number) for number, word in enumerate([*KINDS, "fair spirit"])]
    BENCH.put(world, settlements=[settled(*rows)])
    (found,) = told(world)
    assert isinstance(found.document, Payout)
    assert [one.kind for one in found.document.entries] == [*KINDS.values(), EntryKind.UNKNOWN]
    assert found.document.entries[-1].called == "fair spirit"


GOOD = "\t".join(COLUMNS) + "\nLS-1\t1\t2026-10-03T10:00:00+01:00\tsale\tLF-1\tlfp-1\t12.00\t\t\n"
WRONG: dict[str, tuple[Callable[[str], bytes], str]] = {
    "cut off": (lambda text: text[:-3].encode(), "line 2 of the report has no end: it is cut off"),
    "another encoding": (lambda text: text.replace("sale", "Verkäufe", 1).encode("latin-1"), "is no UTF-8"),
    "a column too few": (lambda text: text.replace("amount", "sum").encode(), "expected the column 'amount'"),
    "a value too few": (lambda text: text.replace("\t\t\n", "\n").encode(), "line 2 of the report: expected 9 values"),
    "nothing": (lambda text: b"", "expected the column 'settlement'"),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_a_report_that_is_wrong_is_used_in_no_part(name: str) -> None:
    """It says which line, and none of its rows is taken."""
    spoilt, said = WRONG[name]
    found = read_report(spoilt(GOOD))
    assert (found.rows, said in found.problem) == ({}, True), found.problem


def test_a_report_may_begin_with_a_mark_and_end_its_lines_in_two_signs() -> None:
    """As programs for spreadsheets write it, its columns in any order, more of them than we know."""
    turned = GOOD.replace("settlement\trow", "row\tsettlement").replace("LS-1\t1\t", "1\tLS-1\t")
    wider = "".join(f"{line}\tmore\r\n" for line in turned.splitlines())
    found = read_report(b"\xef\xbb\xbf" + wider.encode())
    assert found.problem == ""
    assert [(one["row"], one["amount"]) for one in found.rows["LS-1"]] == [("1", "12.00")]


def test_a_settlement_whose_report_cannot_be_read_stops_no_other(world: World) -> None:
    """Nonsense in one file, an amount that is none in another, a report that is too large: each by itself."""
    later = "2026-10-{}T06:00:00+01:00"
    BENCH.put(world, settlements=[
        settled(row("sale", "1.00", "lfp-1")),
        settled(row("sale", "1.00", "lfp-2"), key=2, settlement="LS-2", report="RP-2", moved=later.format(16)),
        settled(row("sale", "2.00", "lfp-3"), key=3, settlement="LS-3", report="RP-3", moved=later.format(17)),
    ])  # fmt: skip
    world.misbehave("marketplace", {"call": "report", "kind": "said", "body": "nonsense\n",
                                    "content_type": "text/tab-separated-values"},
                    {"call": "report", "kind": "huge"})  # fmt: skip
    first, second, third = told(world)
    assert (first.document, first.number, "expected the column" in first.problem) == (None, "LS-2610A-EUR", True)
    assert (second.document, second.number, bool(second.problem)) == (None, "LS-2", True)
    assert isinstance(third.document, Payout)
    assert third.document.total == Decimal("2.00")
    world.misbehave("marketplace")


@pytest.mark.parametrize("amount", ["much", "1,00", "1e9", "", "9" * 60, "٣.00"])
def test_what_is_no_amount_names_its_row(amount: str) -> None:
    """However it is written."""
    head = settled(row("sale", "1.00", "lfp-1"))
    rows = {head["settlement"]: [{**dict.fromkeys(COLUMNS, ""), **head["rows"][0], "amount": amount}]}
    with pytest.raises(ValueError, match="row 1-sale-lfp-1: expected an amount with a decimal point, got"):
        settlement({**head, "rows": Report(rows=rows)})
