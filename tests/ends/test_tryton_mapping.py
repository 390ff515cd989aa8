"""Tryton's words, without Tryton: notes, typed values, taxes by line, refusals told by their text."""

from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inkwell_bridge.ends.errors import Away, Refused
from inkwell_bridge.ends.opening import Opening
from inkwell_bridge.ends.reading import Unreadable
from inkwell_bridge.ends.tryton import notes, trade, typed
from inkwell_bridge.ends.tryton.names import _account_type, _locked_until
from inkwell_bridge.ends.tryton.rpc import TrytonRpc
from inkwell_bridge.launch.places import LOOPBACK

D = Decimal
PENNY = D("0.01")
TEXTS = st.text(st.characters(exclude_categories=["Cs"]), max_size=40)


@given(order=TEXTS, reason=TEXTS, between=st.sampled_from([notes.BELOW, notes.BESIDE]))
def test_notes_come_back_as_they_went(order: str, reason: str, between: str) -> None:
    """Whatever the text: line breaks, bars and backslashes among it."""
    parts = {"Order": order, "Reason": reason}
    written = notes.written(parts, between=between)
    assert notes.read(written, between=between) == {name: text for name, text in parts.items() if text}
    if between == notes.BESIDE:
        assert "\n" not in written


def test_what_people_write_besides_is_left_out() -> None:
    """A line of theirs without a name is no part."""
    assert notes.read("Order: MW-1\nPlease ring first\nLink: https://x.example") == {
        "Order": "MW-1", "Link": "https://x.example",
    }  # fmt: skip
    assert notes.read(None) == {}


def test_typed_values_there_and_back() -> None:
    """Decimals exact, dates as dates; the same object comes back."""
    said = {"price": D("2.7733"), "on": datetime.date(2026, 10, 5), "lines": [["add", [D("-0.10")]]], "name": "結衣"}
    assert typed.read(typed.written(said)) == said
    assert typed.read(b'{"at": {"__class__": "datetime", "year": 2026, "month": 10, "day": 5, "hour": 1, "minute": 2, '
                      b'"second": 3, "microsecond": 4}}') == {
        "at": datetime.datetime(2026, 10, 5, 1, 2, 3, 4, tzinfo=datetime.UTC)
    }  # fmt: skip


@pytest.mark.parametrize("body", [
    b'{"__class__": "Decimal"}', b'{"__class__": "Decimal", "decimal": "lots"}',
    b'{"__class__": "date", "year": 2026, "month": 13, "day": 1}', b'{"__class__": "date", "year": "x"}',
])  # fmt: skip
def test_a_typed_value_that_lacks_its_parts_is_unreadable(body: bytes) -> None:
    """A clear error, never a guess."""
    with pytest.raises(Unreadable, match="typed value"):
        typed.read(body)


def test_what_has_no_type_in_a_call_is_not_sent() -> None:
    """A programming error is told at once."""
    with pytest.raises(TypeError, match="set has no place"):
        typed.written({"x": {1}})


def _line(amount: str, rate: str | None = "0.2") -> dict[str, Any]:
    return {"amount": D(amount), "taxes.": [{"rate": D(rate), "name": "S20"}] if rate is not None else []}


def test_the_taxes_of_lines_add_up_to_trytons_own() -> None:
    """8.32, 8.32 and -1.00 at a fifth: 1.66, 1.66 and -0.20; a penny more or less goes to the largest."""
    lines = [_line("8.32"), _line("8.32"), _line("-1.00")]
    assert trade._shared_tax(lines, D("3.12"), PENNY) == [D("1.66"), D("1.66"), D("-0.20")]
    assert trade._shared_tax([_line("1.00"), _line("30.00")], D("6.21"), PENNY) == [D("0.20"), D("6.01")]
    assert trade._shared_tax([_line("5.00", None)], D("0.00"), PENNY) == [D("0.00")]
    assert trade._shared_tax([], D("0.00"), PENNY) == []


@given(st.lists(st.integers(-99_999, 99_999), min_size=1, max_size=12), st.integers(-5, 5))
def test_no_penny_of_tax_is_lost_over_lines(pence: list[int], off: int) -> None:
    """Whatever Tryton's total, the lines make it."""
    lines = [_line(str(D(amount).scaleb(-2))) for amount in pence]
    plain = sum(trade._shared_tax(lines, D(0), PENNY), D(0))
    assert plain == 0
    total = sum(((line["amount"] * D("0.2")).quantize(PENNY) for line in lines), D(off).scaleb(-2))
    assert sum(trade._shared_tax(lines, total, PENNY), D(0)) == total


@pytest.mark.parametrize(("kind", "bank", "expected"), [
    ({"statement": "income", "revenue": True, "assets": False}, False, "income"),
    ({"statement": "income", "revenue": False, "assets": False}, False, "expense"),
    ({"statement": "balance", "revenue": False, "assets": True}, False, "asset"),
    ({"statement": "balance", "revenue": False, "assets": True}, True, "bank"),
    ({"statement": "balance", "revenue": False, "assets": False}, True, "liability"),
])  # fmt: skip
def test_what_an_account_counts_as(kind: dict[str, Any], bank: bool, expected: str) -> None:
    """By what its type has ticked."""
    assert _account_type(kind, bank) == expected


def test_the_day_up_to_which_all_is_closed() -> None:
    """An open period in between ends it; none at all, and nothing is locked."""
    days = [datetime.date(2026, 1, 31), datetime.date(2026, 2, 28), datetime.date(2026, 3, 31)]
    states = ("closed", "locked", "open")
    periods = [{"state": state, "end_date": day} for state, day in zip(states, days, strict=True)]
    assert _locked_until(periods) == days[1]
    assert _locked_until(periods[2:]) is None
    assert _locked_until([periods[0], periods[2], periods[1]]) == days[0]


@pytest.mark.parametrize(("error", "why"), [
    (["UserError", ["You are not allowed to access \"Tax\".", "", None]], "permission"),
    (["UserError", ["Calling button \"post on \"account.invoice\" is not allowed.", "", None]], "permission"),
    (["UserError", ["To find a period on 10/01/2026, you must create one.", "", None]], "locked"),
    (["UserError", ["The period \"2026-10\" is closed.", "", None]], "locked"),
    (["UserError", ["The record \"7\" no longer exists.", "", None]], "not found"),
    (["UserError", ["A value is required for field \"Account\".", "Invoice", None]], "document"),
    (["ConcurrencyException", "This record has been modified"], "changed"),
])  # fmt: skip
def test_a_refusal_is_known_by_its_words(error: list[Any], why: str) -> None:
    """Tryton names no kind, and answers 200."""
    failure = _rpc()._failure("model.x.y", error)
    assert isinstance(failure, Refused)
    assert failure.why == why


@pytest.mark.parametrize(("error", "said"), [
    (["0", "Traceback\n  File x\nKeyError: 0\n"], "0"),
    (["", "Traceback\n  File x\nAssertionError\n"], "AssertionError"),
    (["", ""], "no reason given"), ([], "no reason given"), ("odd", "odd"), ({}, "no reason given"),
])  # fmt: skip
def test_a_failure_of_trytons_own_is_away(error: Any, said: str) -> None:
    """It undid the call; the end of its trace is told."""
    failure = _rpc()._failure("model.x.y", error)
    assert isinstance(failure, Away)
    assert str(failure).endswith(said)


def _rpc() -> TrytonRpc:
    credentials = {"user": "inkwell", "password": "x"}
    return TrytonRpc(Opening(address="http://127.0.0.1:9/db/", credentials=credentials, guard=LOOPBACK))
