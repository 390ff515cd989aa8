"""Bank statements: read out of files as banks write them, joined to one another, and their lines matched."""

from __future__ import annotations

import io
from collections.abc import Iterable
from datetime import date, timedelta
from decimal import Decimal
from itertools import chain, repeat
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.core.bank import (
    Awaited,
    Fit,
    OpenLine,
    StatementHead,
    StatementInvalid,
    StatementLine,
    Stretch,
    TableLayout,
    fits,
    gaps_beside,
    join,
    read_camt,
    read_table,
)
from tests.support.statements import IBAN, camt, camt_entry

D = Decimal


def parts(text: str | bytes) -> tuple[list[StatementHead], list[StatementLine]]:
    """What a camt file holds."""
    found = list(read_camt(io.BytesIO(text.encode() if isinstance(text, str) else text)))
    heads = [one for one in found if isinstance(one, StatementHead)]
    return heads, [one for one in found if isinstance(one, StatementLine)]


def test_a_statement_as_iso_20022_writes_it() -> None:
    """Credits come in, debits go out; a card fee without a counterparty is a line like any other."""
    heads, lines = parts(
        camt(
            [
                camt_entry(
                    "2026-10-02",
                    "46.52",
                    reference="B1",
                    text="WEIRGATE WP-261001",
                    name="Weirgate Ltd",
                    end_to_end="E1",
                ),
                camt_entry("2026-10-05", "-12.00", reference="B2", text="Account fee"),
            ],
            opening="100.00",
            closing="134.52",
        )
    )
    assert heads == [
        StatementHead(
            account=IBAN,
            currency="GBP",
            number="10",
            first_day=date(2026, 10, 1),
            last_day=date(2026, 10, 31),
            opening=D("100.00"),
            closing=D("134.52"),
            complete=True,
        )
    ]
    first, second = lines
    assert (first.booked_on, first.amount, first.reference) == (date(2026, 10, 2), D("46.52"), "B1")
    assert (first.end_to_end, first.name, first.text) == ("E1", "Weirgate Ltd", "WEIRGATE WP-261001")
    assert (second.amount, second.text, second.name) == (D("-12.00"), "Account fee", "")


@pytest.mark.parametrize("version", ["02", "04", "08", "13"])
def test_any_version_of_the_message_and_what_is_not_booked_yet_is_left(version: str) -> None:
    """From version 8 on the state and the names stand a step deeper; what is pending comes again once it is booked."""
    heads, lines = parts(
        camt(
            [
                camt_entry("2026-10-02", "5.00", name="Weirgate", version=version),
                camt_entry("2026-10-03", "7.00", state="PDNG", version=version),
            ],
            version=version,
            closing="105.00",
        )
    )
    assert [(one.amount, one.name) for one in lines] == [(D("5.00"), "Weirgate")]
    assert heads[0].closing == D("105.00")


def test_a_number_that_is_counted_anew_in_every_statement_is_no_reference() -> None:
    """The bank's own for the line is, at the entry or at its one payment; of several payments none speaks for all."""
    plain = camt_entry("2026-10-02", "5.00")
    counted = plain.replace("<NtryDtls>", "<NtryRef>1</NtryRef><NtryDtls>")
    of_payment = plain.replace("<EndToEndId>", "<AcctSvcrRef>B7</AcctSvcrRef><EndToEndId>")
    single = of_payment.partition("<NtryDtls>")[2].partition("</NtryDtls>")[0]
    of_two = of_payment.replace(single, single + single)
    _, lines = parts(camt([counted, of_payment, of_two]))
    assert [one.reference for one in lines] == ["", "B7", ""]


def test_notifications_have_no_balances_and_not_every_line() -> None:
    """camt.054 tells of single entries, before the statement does."""
    (head,), lines = parts(camt([camt_entry("2026-10-02", "5.00")], message="054"))
    assert (head.complete, head.opening, head.closing, len(lines)) == (False, None, None, 1)


BOMB = (
    '<?xml version="1.0"?><!DOCTYPE d [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>'
    '<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08">&b;</Document>'
)
WRONG: list[tuple[str, str, str]] = [
    ("cut off in the middle", camt([camt_entry("2026-10-02", "5.00")])[:-40], "not XML any more"),
    ("no XML at all", "day,amount\n2026-10-02,5.00\n", "line 1: this is not XML"),
    ("another message", camt([]).replace("camt.053", "camt.052"), "line 1: expected a bank statement by ISO 20022"),
    (
        "an invoice",
        '<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2"/>',
        "expected a bank statement by ISO 20022",
    ),
    ("with a document type", BOMB, "line 1: a document type"),
    ("nothing in it", camt([]).partition("<Stmt>")[0] + "</BkToCstmrStmt></Document>", "no statement by ISO 20022"),
    ("an amount of no decimals", camt([camt_entry("2026-10-02", "5,00")]), "expected an amount, got '5,00'"),
    ("an amount too fine", camt([camt_entry("2026-10-02", "5.001")]), "is no amount of GBP"),
    ("another currency", camt([camt_entry("2026-10-02", "5.00", currency="EUR")]), "expected an amount in GBP"),
    ("a day that is none", camt([camt_entry("2026-02-30", "5.00")]), "expected a day, got '2026-02-30'"),
    ("a day of another century", camt([camt_entry("0202-10-02", "5.00")]), "between 1900 and 2200"),
    (
        "no side",
        camt([camt_entry("2026-10-02", "5.00")]).replace("CRDT</CdtDbtInd><S", "</CdtDbtInd><S"),
        "CRDT or DBIT",
    ),
    ("no account", camt([]).replace(f"<IBAN>{IBAN}</IBAN>", ""), "number of an account"),
]


@pytest.mark.parametrize(("text", "said"), [pytest.param(text, said, id=name) for name, text, said in WRONG])
def test_what_is_wrong_is_refused_with_its_line(text: str, said: str) -> None:
    """At the first place."""
    with pytest.raises(StatementInvalid, match=said):
        parts(text)


@pytest.mark.parametrize("encoding", ["foo", "shift_jis"])
def test_an_encoding_that_is_not_read_is_told(encoding: str) -> None:
    """And one that is, is read: by its mark, or by its name."""
    text = camt([camt_entry("2026-10-02", "5.00", name="Müller")])
    with pytest.raises(StatementInvalid, match="line 1: the file is in an encoding that is not read"):
        parts(text.replace("UTF-8", encoding, 1).encode("ascii", "replace"))
    for known in ("iso-8859-1", "utf-16"):
        _, lines = parts(text.replace("UTF-8", known, 1).encode(known))
        assert lines[0].name == "Müller"


def test_a_file_of_endless_statements_is_refused() -> None:
    """Each is a few rows and questions, however empty."""
    head, _, rest = camt([]).partition("<Stmt>")
    one, _, tail = rest.partition("</Stmt>")
    with pytest.raises(StatementInvalid, match="more than 2,000 statements in one file"):
        parts(head + f"<Stmt>{one}</Stmt>" * 2_001 + tail)


def test_a_line_is_named_as_it_stands_in_the_file() -> None:
    """The third line of this one."""
    text = camt([camt_entry("2026-10-02", "5.00")]).replace("<Ntry>", "\n\n<Ntry>").replace("5.00<", "five<")
    with pytest.raises(StatementInvalid) as refused:
        parts(text)
    assert refused.value.line == 3


def test_a_long_statement_takes_no_more_memory_than_a_short_one() -> None:
    """As many entries as one likes: each is let go once it was read."""
    head, _, tail = camt([]).partition("</Stmt>")
    entry = camt_entry("2026-10-02", "5.00", text="A" * 200).encode()
    pieces = chain([head.encode()], repeat(entry, 60_000), [b"</Stmt>", tail.encode()])

    class Endless(io.RawIOBase):
        def read(self, size: int = -1) -> bytes:
            return next(pieces, b"")

    early = 0
    for number, _line in enumerate(read_camt(Endless())):  # type: ignore[arg-type]
        if number == 5_000:
            early = pages_in_memory()
    assert number == 60_000
    # Kept, the rest would take some hundred megabytes.
    assert pages_in_memory() - early < 2_500


def pages_in_memory() -> int:
    """Pages of four thousand bytes that this process has in memory."""
    return int(Path("/proc/self/statm").read_text("ascii").split()[1])


ENGLISH = TableLayout(
    booked_on="Date",
    days="dd/mm/yyyy",
    paid_in="In",
    paid_out="Out",
    balance="Balance",
    text=("Details",),
    reference="Ref",
)
GERMAN = TableLayout(
    separator=";",
    decimal=",",
    days="dd.mm.yyyy",
    encoding="iso-8859-1",
    skip=2,
    booked_on="Buchung",
    amount="Betrag",
    currency="Währung",
    name="Name",
    text=("Zweck", "Art"),
)


def table(text: str | bytes, layout: TableLayout = ENGLISH, currency: str = "GBP") -> list[StatementLine]:
    """The lines of a table."""
    stream = io.BytesIO(text.encode() if isinstance(text, str) else text)
    found = list(read_table(stream, layout, account="12-34-56 12345678", currency=currency))
    return [one for one in found if isinstance(one, StatementLine)]


def test_a_table_with_two_columns_of_money() -> None:
    """Thousands in groups, a mark at the beginning of the file, lines without anything."""
    lines = table(
        "\ufeffDate,Details,Ref,In,Out,Balance\n"
        '02/10/2026,"WEIRGATE, WP-1",R1,"1,046.52",,1146.52\n,,,,,\n'
        "05/10/2026,Fee,R2,,12.00,1134.52\n"
    )
    assert [(one.line, one.booked_on, one.amount, one.text, one.balance) for one in lines] == [
        (2, date(2026, 10, 2), D("1046.52"), "WEIRGATE, WP-1", D("1146.52")),
        (4, date(2026, 10, 5), D("-12.00"), "Fee", D("1134.52")),
    ]


def test_a_table_as_it_is_written_elsewhere() -> None:
    """Lines above the columns, semicolons, a decimal comma, an encoding of the last century."""
    text = "Konto;1\n\nBuchung;Name;Zweck;Art;Betrag;Währung\n02.10.2026;Müller;WP-1;Gutschrift;1.046,52;EUR\n"
    (line,) = table(text.encode("iso-8859-1"), GERMAN, "EUR")
    assert (line.line, line.amount, line.name, line.text) == (4, D("1046.52"), "Müller", "WP-1 Gutschrift")


def test_the_newest_line_may_stand_first() -> None:
    """Balances follow one another from below."""
    assert len(table("Date,Details,Ref,In,Out,Balance\n05/10/2026,,,,12.00,134.52\n02/10/2026,,,46.52,,146.52\n")) == 2


HEADS = "Date,Details,Ref,In,Out,Balance\n"
WRONG_TABLES: list[tuple[str, str | bytes, str]] = [
    ("a missing column", "Date,Details,Ref,In,Out\n", "line 1: expected the column 'Balance'"),
    ("cut off", f"{HEADS}02/10/2026,a,R1,46.", "line 2: expected 6 cells"),
    ("an open quotation mark", f'{HEADS}02/10/2026,"a,R1,46.52,,146.52\n', "no table any more"),
    ("another encoding", f"{HEADS}02/10/2026,Müller,R1,46.52,,146.52\n".encode("iso-8859-1"), "the file is not UTF-8"),
    ("a decimal comma", f'{HEADS}02/10/2026,a,R1,"46,52",,146.52\n', "line 2: expected an amount with a decimal point"),
    (
        "money on both sides",
        f"{HEADS}02/10/2026,a,R1,46.52,1.00,146.52\n",
        "line 2: expected an amount in 'In' or in 'Out'",
    ),
    (
        "another way to write days",
        f"{HEADS}2026-10-02,a,R1,46.52,,146.52\n",
        "line 2: expected a day written dd/mm/yyyy",
    ),
    (
        "a balance that does not follow",
        f"{HEADS}02/10/2026,a,,1.00,,101.00\n03/10/2026,b,,1.00,,103.00\n",
        "line 3: the balance 103.00 does not follow from 101.00",
    ),
    (
        "balances that turn round",
        f"{HEADS}02/10/2026,a,,1.00,,101.00\n03/10/2026,b,,2.00,,103.00\n01/10/2026,c,,5.00,,101.00\n",
        "line 4: the balance 101.00 does not follow",
    ),
    ("a NUL", f"{HEADS}02/10/2026,a\0,R1,46.52,,146.52\n", "line 2"),
    ("a line without an end", HEADS + "x" * 30_000, "a line of more than 20,000 characters"),
]


@pytest.mark.parametrize(("text", "said"), [pytest.param(text, said, id=name) for name, text, said in WRONG_TABLES])
def test_a_table_that_is_wrong_is_refused_with_its_line(text: str | bytes, said: str) -> None:
    """At the first place."""
    with pytest.raises(StatementInvalid, match=said):
        table(text)


def test_a_table_of_another_account_or_currency() -> None:
    """Compared without what numbers are only written with."""
    layout = TableLayout(booked_on="d", amount="a", account="no", currency="c")
    assert len(table("d,a,no,c\n2026-10-02,1,123456 12345678,GBP\n", layout)) == 1
    with pytest.raises(StatementInvalid, match="line 2: this is a line of another account, '99'"):
        table("d,a,no,c\n2026-10-02,1,99,GBP\n", layout)
    with pytest.raises(StatementInvalid, match="line 2: expected an amount in GBP, got one in 'EUR'"):
        table("d,a,no,c\n2026-10-02,1,12345612345678,EUR\n", layout)


def stretch(name: str, first: int, last: int, opening: str, closing: str) -> Stretch:
    """Some days of October."""
    days = date(2026, 10, first), date(2026, 10, last)
    return Stretch(name=name, first_day=days[0], last_day=days[1], opening=D(opening), closing=D(closing))


def moving(by_day: dict[int, str]) -> Any:
    """What moved on days of October."""

    def moved(first: date, last: date) -> Decimal:
        return sum((D(amount) for day, amount in by_day.items() if first <= date(2026, 10, day) <= last), D(0))

    return moved


def test_statements_that_overlap_and_follow_join() -> None:
    """A week in the month: 100.00 and 5.00 on the third are 105.00 in the evening, and on the eighth 103.00."""
    moved = moving({3: "5.00", 8: "-2.00"})
    month, week = stretch("10", 1, 31, "100.00", "103.00"), stretch("W2", 5, 11, "105.00", "103.00")
    join(week, [month], moved)
    join(month, [week], moved)
    join(stretch("W3", 12, 18, "103.00", "103.00"), [week, month], moved)


@pytest.mark.parametrize(
    "wrong",
    [
        (
            stretch("W2", 5, 11, "104.00", "102.00"),
            "leads to 105.00 on the morning of 2026-10-05, .* opens with 104.00",
        ),
        (stretch("W2", 5, 11, "105.00", "104.00"), "do not lead from .* 105.00 to its closing balance 104.00"),
    ],
)
def test_a_balance_that_does_not_follow_is_told(wrong: tuple[Stretch, str]) -> None:
    """By how much, and where."""
    with pytest.raises(StatementInvalid, match=wrong[1]):
        join(wrong[0], [stretch("10", 1, 31, "100.00", "103.00")], moving({3: "5.00", 8: "-2.00"}))


def test_days_that_no_statement_covers_are_told() -> None:
    """And none where nothing moved meanwhile, or another statement covers them."""
    first = stretch("W1", 1, 4, "100.00", "105.00")
    third = stretch("W3", 12, 18, "103.00", "103.00")
    (told,) = gaps_beside(third, [first])
    assert told.startswith("No statement covers 2026-10-05 to 2026-10-11, and -2.00 moved on these days")
    assert [told] == list(gaps_beside(first, [third]))
    assert list(gaps_beside(third, [first, stretch("W2", 5, 11, "105.00", "103.00")])) == []
    assert list(gaps_beside(stretch("W3", 12, 18, "105.00", "105.00"), [first])) == []


DUE = date(2026, 10, 6)


def awaited(number: int, amount: str, *, days: int = 0, name: str = "", alone: bool = False) -> Awaited:
    """A payout that should be there some days after the sixth."""
    due_on = DUE + timedelta(days=days)
    return Awaited(
        id=number,
        amount=D(amount),
        due_on=due_on,
        earliest=due_on - timedelta(days=5),
        latest=due_on + timedelta(days=5),
        alone=alone,
        names=(name or f"WP-26100{number}",),
    )


def line(number: int, amount: str, said: str = "", *, days: int = 0, is_not: Iterable[int] = ()) -> OpenLine:
    """A line of some days after the sixth."""
    booked_on = DUE + timedelta(days=days)
    return OpenLine(id=number, booked_on=booked_on, amount=D(amount), said=said, is_not=frozenset(is_not))


def told(found: list[Fit]) -> list[tuple[tuple[int, ...], tuple[int, ...], str, bool]]:
    """What was found, shortly."""
    return [(one.lines, one.awaited, one.by, one.is_sure) for one in found]


@pytest.mark.parametrize("said", ["WEIRGATE WP-261001", "ref: wp 261001/fx", "WP261001"])
def test_a_line_that_names_a_payout_is_that_payout(said: str) -> None:
    """However the bank parts the words, and however late it is."""
    assert told(fits([line(7, "46.52", said, days=40)], [awaited(1, "46.52"), awaited(2, "46.52")])) == [
        ((7,), (1,), "reference", True)
    ]


def test_a_name_inside_another_is_not_that_name() -> None:
    """WP-261001 stands neither in WP-2610012 nor in XWP-261001."""
    found = fits([line(7, "9.00", "WP-2610012 XWP-261001", days=40)], [awaited(1, "9.00")])
    assert found == []


def test_one_line_of_several_payouts_and_several_lines_of_one() -> None:
    """10.00 and 20.00 in one; 30.00 in two."""
    assert told(fits([line(7, "30.00", "WP-261001 WP-261002")], [awaited(1, "10.00"), awaited(2, "20.00")])) == [
        ((7,), (1, 2), "reference", True)
    ]
    assert told(fits([line(7, "10.00", "WP-261001"), line(8, "20.00", "WP-261001")], [awaited(1, "30.00")])) == [
        ((7, 8), (1,), "reference", True)
    ]


def test_what_names_a_payout_and_has_another_amount_is_only_told() -> None:
    """A penny too little, to be looked at."""
    (found,) = fits([line(7, "46.51", "WP-261001")], [awaited(1, "46.52")])
    assert (found.is_sure, found.difference) == (False, D("-0.01"))


def test_a_name_that_all_lines_bear_tells_nothing() -> None:
    """Then the amount does, and a person is asked."""
    payouts = [awaited(1, "10.00", name="WEIRGATE"), awaited(2, "20.00", name="WEIRGATE")]
    assert told(fits([line(7, "10.00", "WEIRGATE"), line(8, "20.00", "WEIRGATE")], payouts)) == [
        ((7,), (1,), "amount", False),
        ((8,), (2,), "amount", False),
    ]


def test_by_amount_alone_only_where_the_rules_allow_it_and_one_fits() -> None:
    """Near its day, and by no other line."""
    assert told(fits([line(7, "10.00")], [awaited(1, "10.00", alone=True)])) == [((7,), (1,), "amount", True)]
    assert told(fits([line(7, "10.00", days=6)], [awaited(1, "10.00", alone=True)])) == []
    two = fits([line(7, "10.00"), line(8, "10.00")], [awaited(1, "10.00", alone=True)])
    assert [one.is_sure for one in two] == [False, False]
    other = fits([line(7, "10.00")], [awaited(1, "10.00", alone=True), awaited(2, "10.00", alone=True)])
    assert [one.is_sure for one in other] == [False, False]


def test_a_line_of_nothing_pays_nothing() -> None:
    """Banks tell of such: 0.00 that names an invoice of 1.00 is no part of it."""
    assert fits([line(7, "0.00", "MW-10002")], [invoice(2, "1.00", "MW-10002")]) == []


def test_what_somebody_said_it_is_not_is_found_no_more() -> None:
    """Neither by name nor by amount; another that it names is, and one that it does not name is only proposed."""
    there = [awaited(1, "10.00", alone=True)]
    assert fits([line(7, "10.00", "WP-261001", is_not=[1])], there) == []
    named = [*there, awaited(2, "10.00", alone=True)]
    assert told(fits([line(7, "10.00", "WP-261001 WP-261002", is_not=[1])], named)) == [((7,), (2,), "reference", True)]
    assert told(fits([line(7, "10.00", "WP-261001", is_not=[1])], named)) == [((7,), (2,), "amount", False)]


def test_payouts_of_a_long_weekend_in_one_line() -> None:
    """10.00, 20.00 and 30.00 one after the other are 60.00; a negative one takes part."""
    payouts = [
        awaited(1, "10.00", alone=True),
        awaited(2, "-5.00", days=1, alone=True),
        awaited(3, "30.00", days=2, alone=True),
    ]
    assert told(fits([line(7, "35.00", days=2)], payouts)) == [((7,), (1, 2, 3), "amount", True)]


def invoice(
    number: int, amount: str, *names: str, party: str = "", group: str = "orders 1", alone: bool = False
) -> Awaited:
    """Something that is open on a buyer's account since the sixth; below zero it is owed to the buyer."""
    return Awaited(id=number, amount=D(amount), due_on=DUE, earliest=DUE - timedelta(days=5), names=names, party=party,
                   group=group, alone=alone, in_part=True)  # fmt: skip


@pytest.mark.parametrize(
    ("lines", "found"),
    [
        # All of it, however late.
        ([line(7, "46.52", "order MW 10001", days=90)], [((7,), (1,), True, "0")]),
        # A part, and the rest.
        ([line(7, "40.00", "MW-10001")], [((7,), (1,), True, "-6.52")]),
        ([line(7, "40.00", "MW-10001"), line(8, "6.52", "MW-10001")], [((7, 8), (1,), True, "0")]),
        # Too much is asked about.
        ([line(7, "50.00", "MW-10001")], [((7,), (1,), False, "3.48")]),
        # Paid twice: the first is its payment, the second is asked about.
        ([line(7, "46.52", "MW-10001"), line(8, "46.52", "MW-10001")],
         [((7,), (1,), True, "0"), ((8,), (1,), False, "46.52")]),
        # A few digits alone are anybody's, unless the amount is right as well.
        ([line(7, "40.00", "ref 88213")], [((7,), (1,), False, "-6.52")]),
        ([line(7, "46.52", "ref 88213")], [((7,), (1,), True, "0")]),
        # Money that goes out pays no invoice.
        ([line(7, "-46.52", "MW-10001")], []),
    ],
)  # fmt: skip
def test_an_invoice_is_paid_by_what_names_it(
    lines: list[OpenLine], found: list[tuple[tuple[int, ...], tuple[int, ...], bool, str]]
) -> None:
    """46.52 are open; each line, and what it is."""
    open_there = [invoice(1, "46.52", "MW-10001", "88213")]
    got = [(one.lines, one.awaited, one.is_sure, one.difference) for one in fits(lines, open_there)]
    assert got == [(lines_of, of, sure, D(by)) for lines_of, of, sure, by in found]


def test_an_order_and_its_refund_have_one_number() -> None:
    """The sign says which of both is meant."""
    there = [invoice(1, "46.52", "MW-10001"), invoice(2, "-9.99", "MW-10001", group="refunds 1")]
    assert told(fits([line(7, "46.52", "MW-10001")], there)) == [((7,), (1,), "reference", True)]
    assert told(fits([line(7, "-9.99", "MW-10001")], there)) == [((7,), (2,), "reference", True)]


def test_one_line_of_several_invoices_comes_to_all_of_them() -> None:
    """46.52 and 13.48 are 60.00; with a penny less a person is asked which of both is short."""
    there = [invoice(1, "46.52", "MW-10001"), invoice(2, "13.48", "MW-10002")]
    assert told(fits([line(7, "60.00", "MW-10001 MW-10002")], there)) == [((7,), (1, 2), "reference", True)]
    (short,) = fits([line(7, "59.99", "MW-10001 MW-10002")], there)
    assert (short.is_sure, short.difference) == (False, D("-0.01"))


def test_unnamed_only_what_is_of_one_buyer_is_added_up() -> None:
    """46.52 and 13.48 of one are 60.00; of two buyers they are nothing together."""
    one = [invoice(1, "46.52", party="7", alone=True), invoice(2, "13.48", party="7", alone=True)]
    assert told(fits([line(7, "60.00")], one)) == [((7,), (1, 2), "amount", True)]
    two = [invoice(1, "46.52", party="7", alone=True), invoice(2, "13.48", party="8", alone=True)]
    assert told(fits([line(7, "60.00")], two)) == []
    # A payout of the same amount is as likely.
    both = [*one, awaited(3, "60.00", alone=True)]
    assert [fit.is_sure for fit in fits([line(7, "60.00")], both)] == [False, False]


def test_what_names_a_payout_and_an_invoice_tells_nothing() -> None:
    """Nobody pays both at once."""
    there = [awaited(1, "10.00"), invoice(2, "10.00", "MW-10002")]
    assert [one.by for one in fits([line(7, "10.00", "WP-261001 MW-10002")], there)] == ["amount", "amount"]


LINES = st.lists(
    st.tuples(
        st.integers(-3, 6),
        st.integers(0, 8),
        st.sampled_from(["", "WP-261001", "WP-261002 WP-261003", "WEIRGATE"]),
        st.sets(st.integers(1, 4), max_size=2),
    ),
    max_size=8,
)
PAYOUTS = st.lists(st.tuples(st.integers(-3, 6), st.integers(0, 8), st.booleans()), max_size=6)


@given(LINES, PAYOUTS, st.randoms(use_true_random=False))
def test_whatever_there_is_nothing_is_matched_twice_and_every_match_comes_out(
    said: list[tuple[int, int, str, set[int]]], made: list[tuple[int, int, bool]], chance: Any
) -> None:
    """In any order the same; what is sure comes to the same sum on both sides, and meets nothing else that is sure."""
    lines = [
        line(place + 1, f"{amount}.00", text, days=days, is_not=is_not)
        for place, (amount, days, text, is_not) in enumerate(said)
    ]
    # Every third is an invoice, or what is owed on one.
    payouts = [
        invoice(place + 1, f"{amount}.00", f"WP-26100{place + 1}", alone=alone) if place % 3 == 2
        else awaited(place + 1, f"{amount}.00", days=days, alone=alone)
        for place, (amount, days, alone) in enumerate(made)
    ]  # fmt: skip
    in_part = {one.id for one in payouts if one.in_part}
    found = fits(lines, payouts)
    amounts = {one.id: one.amount for one in lines}, {one.id: one.amount for one in payouts}
    is_not = {one.id: one.is_not for one in lines}
    assert not [one for one in found if any(is_not[key] & set(one.awaited) for key in one.lines)]
    sure = [one for one in found if one.is_sure]
    for one in sure:
        came, wanted = (sum(amounts[side][key] for key in keys) for side, keys in ((0, one.lines), (1, one.awaited)))
        assert came == wanted or (set(one.awaited) <= in_part and abs(came) < abs(wanted) and came * wanted > 0)
        assert len(one.lines) == 1 or len(one.awaited) == 1
    for keys in ([key for one in sure for key in one.lines], [key for one in sure for key in one.awaited]):
        assert len(keys) == len(set(keys))
    chance.shuffle(lines)
    chance.shuffle(payouts)
    assert sorted(told(fits(lines, payouts))) == sorted(told(found))
