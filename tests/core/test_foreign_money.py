"""Orders in other currencies than the company's own: worked out by hand in files, and whatever comes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import BooksDocument, CreditNote, LedgerDocument, Payment, RefundPayment
from inkwell_bridge.core.commerce import Conversion, Order, Refund
from inkwell_bridge.core.exchange_rates import ExchangeRate, RateFileInvalid, converted_to, read_rates
from inkwell_bridge.core.money import exact, minor_unit
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext, plan_order
from inkwell_bridge.core.planner.charges import charges_of
from inkwell_bridge.core.planner.own_currency import RefundsInOwnCurrency, order_in_own_currency
from tests.core.test_amendments import lived, shown
from tests.core.test_cases import _Exact, context, order
from tests.core.test_returns import sold
from tests.support.lives import Life
from tests.support.orders import orders

CASES = Path(__file__).parent / "foreign_money"
ZERO = Decimal(0)
Json = dict[str, Any]


def cases() -> Iterator[Any]:
    """Every case of both files, with what becomes of the currency."""
    for file in sorted(CASES.glob("*.yaml")):
        for case in yaml.load(file.read_text("utf-8"), Loader=_Exact):  # noqa: S506 a safe loader that rounds nothing
            yield pytest.param(file.stem, case, id=f"{file.stem}: {case['case']}")


EVERY = list(cases())


def given_for(mode: str, case: Json) -> PlanningContext:
    """The rules of a case: rates from wherever there is one, differences on 8300."""
    said = case.get("rules", {})
    rules = {
        "orders": {"currencies": mode},
        "exchange_rates": {},
        "payments": {"accounts": {"default": "1250"}},
        "refunds": {"money_differs": "leave open"},
        **said,
        "accounts": {"exchange_differences": "8300", "goodwill": "4900", **said.get("accounts", {})},
    }
    if rules["exchange_rates"] is None:
        del rules["exchange_rates"]
    accounts = {role: code for role, code in rules["accounts"].items() if code is not None}
    found = context({"order": dated(case["order"]), "rules": {**rules, "accounts": accounts}})
    books = found.master_data.model_copy(update={"currencies": ("EUR", "JPY", "KWD", "CLF", "USD")})
    return found.model_copy(update={"master_data": books, "daily_rates": table(case.get("table", ()))})


def table(rows: Sequence[str]) -> tuple[ExchangeRate, ...]:
    """Rows such as ``2026-10-01 EUR 0.8550``."""
    parts = (row.split() for row in rows)
    return tuple(ExchangeRate(day=date.fromisoformat(day), currency=currency, own="GBP", rate=Decimal(rate))
                 for day, currency, rate in parts)  # fmt: skip


def foreign(said: Json) -> Order:
    """The order of a case, with what it and its money were settled at: ``20.60 GBP 0.8583``."""
    said = dated(said)
    made = order(said)
    paid = tuple(
        one.model_copy(update={"settled": settled(told["settled"])}) if "settled" in told else one
        for one, told in zip(made.payments, said.get("paid", ()), strict=True)
    )
    settlement = settled(said["settlement"]) if "settlement" in said else None
    return made.model_copy(update={"payments": paid, "settlement": settlement})


def dated(said: Json) -> Json:
    """An order of the first of October, paid by card then, where it says nothing else."""
    placed = said.get("placed", "2026-10-01T10:00:00+00:00")
    paid = [{"tender": "card", "at": placed, **one} for one in said.get("paid", ())]
    return {**said, "placed": placed, "paid": paid}


def settled(text: str) -> Conversion:
    """What the same money was in another currency."""
    amount, currency, rate = text.split()
    return Conversion(amount=Decimal(amount), currency=currency, rate=Decimal(rate))


def written(document: BooksDocument) -> str:
    """A document as the files have it."""
    if isinstance(document, LedgerDocument):
        base = document.base
        rated = f" at {document.rate} = {base.net} + {base.tax}" if base else ""
        return f"{document.role} {exact(document.gross, document.currency)} {document.currency}{rated}"  # type: ignore[attr-defined]
    assert isinstance(document, Payment)
    rated = f" at {document.rate} = {document.base}" if document.rate else ""
    gained = document.exchange_difference
    rated += f", {gained.amount} on {gained.account}" if gained else ""
    against = ", ".join(f"{one.external_reference.split(':')[-1]} {one.amount}" for one in document.applied)
    return f"{document.role} {document.amount} {document.currency}{rated}" + (f" on {against}" if against else "")


@pytest.mark.parametrize(("mode", "case"), EVERY)
def test_it_comes_out_as_worked_out_by_hand(mode: str, case: Json) -> None:
    """The first documents with their rates and differences; then what each change makes."""
    assert case["work"], "each case says how it was worked out"
    given_ = given_for(mode, case)
    if "held" in case:
        plan = plan_order(foreign(case["order"]), given_)
        assert (plan.outcome, [one.id for one in plan.findings if one.cause]) == (Outcome.HOLD, [case["held"]])
        return
    life = Life(foreign(case["order"]), given_)
    assert [written(one) for one in life.documents] == case["first"]
    if "lines" in case:
        sale = life.documents[0]
        assert isinstance(sale, LedgerDocument)
        shown_lines = [f"{one.kind} {one.account} {one.tax_code} {one.net} {one.tax}" for one in sale.lines]
        assert shown_lines == case["lines"]
    if "open" in case:
        assert life.plan.open_balance == Decimal(case["open"])
    for state in case.get("then", ()):
        before = len(life.documents)
        plan = changed(life, case, state)
        assert plan.outcome is Outcome.CARRY, plan.findings
        further = plan.documents if "back" in state else life.documents[before:]
        assert [written(one) for one in further] == state["makes"]
        if "books" in state:
            wanted = {place: tuple(map(Decimal, text.split())) for place, text in state["books"].items()}
            assert shown(life) == wanted


def changed(life: Life, case: Json, state: Json) -> Plan:
    """One state of a case."""
    if "order" in state:
        return life.change(foreign({"changed": "2026-10-20T09:00:00+00:00", **state["order"]}))
    paid = [{"tender": "card", **one} for one in state.get("back", {}).get("paid", ())]
    return lived(life, case, {**state, "back": {**state["back"], "paid": paid}} if "back" in state else state)


@pytest.mark.parametrize("rate", ["0", "-0.85", "999999999999", "0.0000000000001"])
@pytest.mark.parametrize("mode", ["kept", "converted"])
def test_what_can_be_no_rate_is_none_whoever_tells_it(mode: str, rate: str) -> None:
    """The order waits for one, and nothing breaks."""
    said = {"currency": "EUR", "lines": [{"sum": "24.00", "tax": "4.00"}], "settlement": f"20.88 GBP {rate}",
            "paid": [{"sum": "24.00", "settled": f"20.60 GBP {rate}"}]}  # fmt: skip
    plan = plan_order(foreign(said), given_for(mode, {"order": said}))
    assert [one.id for one in plan.findings if one.cause] == ["RATE-E001"]


def test_a_rate_of_more_digits_than_anybody_quotes_is_fitted() -> None:
    """24.00 at 0.869712345678 are 20.87 (20.873...)."""
    said = {"currency": "EUR", "lines": [{"sum": "24.00", "tax": "4.00"}],
            "settlement": "20.87 GBP 0.86971234567890123456789"}  # fmt: skip
    life = Life(foreign(said), given_for("kept", {"order": said}))
    assert [written(one) for one in life.documents] == ["invoice 24.00 EUR at 0.869712345679 = 17.39 + 3.48"]


def test_there_are_enough_of_them() -> None:
    """Each told once, in currencies of none, two, three and four digits."""
    told = [(param.values[0], param.values[1]["case"]) for param in EVERY]
    assert len(told) == len(set(told)) >= 30
    assert {param.values[1]["order"].get("currency") for param in EVERY} >= {"EUR", "JPY", "KWD", "CLF"}


RATES = st.decimals(min_value="0.0001", max_value="400", places=4)


@settings(max_examples=300, deadline=None)
@given(orders(("JPY", "EUR", "KWD")), RATES, st.sampled_from(["GBP", "JPY", "BHD"]))
def test_what_adds_up_goes_on_adding_up(source: Order, rate: Decimal, own: str) -> None:
    """Every part of a converted order, whatever digits both currencies have."""
    at = ExchangeRate(currency=source.currency, own=own, rate=rate)
    made = order_in_own_currency(source, at)
    if made.currency == source.currency:
        assert made == source
        return
    parts = sum((one.reduced for one in made.charges), made.cash_rounding)
    parts -= sum((one.amount for one in made.discounts), ZERO)
    taxes = sum((one.tax for one in made.charges), ZERO)
    assert parts + (ZERO if made.prices_include_tax else taxes) == made.total
    assert taxes == made.tax_total
    assert abs(made.total - source.total * rate) <= minor_unit(own) / 2
    # No part is further off than one minor unit of what it would be by itself.
    for here, there in zip(source.charges, made.charges, strict=True):
        assert abs(there.amount - here.amount * rate) < minor_unit(own)
    assert Order.read(made.as_json()) == made


@settings(max_examples=200, deadline=None)
@given(sold(), RATES, st.data())
def test_given_back_in_parts_it_comes_to_nothing(source: Order, rate: Decimal, data: st.DataObject) -> None:
    """Line by line and piece by piece, in whatever parts."""
    own = "BHD"
    at = ExchangeRate(currency=source.currency, own=own, rate=rate)
    made = order_in_own_currency(source, at)
    refunds = RefundsInOwnCurrency(source, made, at)
    back = ZERO
    for charge in charges_of(source, discounts_apart=False):
        if charge.at.startswith("/lines") and charge.reduced > 0:
            unit = minor_unit(source.currency)
            cut = unit * data.draw(st.integers(0, int(charge.reduced / unit)))
            for amount in (cut, charge.reduced - cut):
                said = {"id": "1", "number": "1", "order_id": source.id, "order_number": source.number,
                        "refunded_at": source.placed_at, "changed_at": source.placed_at, "currency": source.currency,
                        "prices_include_tax": True, "tax_total": "0", "total": str(amount),
                        "lines": [{"line": charge.charge.id, "quantity": "1", "amount": str(amount)}]}  # fmt: skip
                back += refunds.take(Refund.read(said)).total
    of_lines = [one.reduced for one in charges_of(made, discounts_apart=False) if one.at.startswith("/lines")]
    there = {one.at for one in charges_of(source, discounts_apart=False) if one.reduced > 0}
    wanted = sum((one.reduced for one in charges_of(made, discounts_apart=False)
                  if one.at.startswith("/lines") and one.at in there), ZERO)  # fmt: skip
    assert back == wanted
    assert of_lines


@settings(max_examples=300, deadline=None)
@given(st.lists(st.integers(-10_000, 10_000), min_size=1, max_size=9), RATES)
def test_parts_come_to_the_whole(units: list[int], rate: Decimal) -> None:
    """Those below zero as well; what was nothing stays nothing."""
    amounts = [Decimal(one) / 100 for one in units]
    total = (sum(amounts, ZERO) * rate).quantize(Decimal("0.01"))
    made = converted_to(total, amounts, rate, "GBP")
    assert sum(made, ZERO) == (total if any(amounts) else ZERO)
    assert all(there == 0 for here, there in zip(amounts, made, strict=True) if not here)


def test_a_file_of_rates_is_read() -> None:
    """In whatever order its columns stand, with others between."""
    text = "\ufeffcurrency,note,day,rate\neur,x,2026-10-01,0.8550\n\nUSD,,2026-10-01,0.7441\n"
    read = read_rates(text, own="GBP", source="Bank")
    assert [(one.currency, str(one.day), str(one.rate), one.source) for one in read] == [
        ("EUR", "2026-10-01", "0.8550", "Bank"), ("USD", "2026-10-01", "0.7441", "Bank")]  # fmt: skip


@pytest.mark.parametrize(("text", "said"), [
    ("", "line 1: expected the columns day, currency, rate; day is missing"),
    ("day,currency,rate\n", "line 2: expected a rate, and the file ends there"),
    ("day,rate\n2026-10-01,1\n", "currency is missing"),
    ("day,currency,rate\n1 Oct,EUR,1\n", "line 2: expected a day such as 2026-10-05, got '1 Oct'"),
    ("day,currency,rate\n2026-10-01,EURO,1\n", "line 2: 'EURO' is not a currency code"),
    ("day,currency,rate\n2026-10-01,EUR,0\n", "line 2: a rate above zero"),
    ("day,currency,rate\n2026-10-01,EUR,-1\n", "line 2: a rate above zero"),
    ("day,currency,rate\n2026-10-01,EUR,one\n", "line 2: "),
    ("day,currency,rate\n2026-10-01,EUR\n", "line 2: expected 3 cells, got 2"),
    ("day,currency,rate\n2026-10-01,EUR,1e99\n", "line 2: "),
    ("day,currency,rate\n2026-10-01,EUR,0.1234567890123\n", "line 2: a rate above zero with at most 12 digits"),
    ("day,currency,rate\n2026-10-01,EUR,1\n2026-10-01,EUR,2\n", "line 3: EUR on 2026-10-01 is 1 further up"),
])  # fmt: skip
def test_a_file_that_is_wrong_says_where(text: str, said: str) -> None:
    """By its line, and nothing of it is taken."""
    with pytest.raises(RateFileInvalid) as wrong:
        read_rates(text, own="GBP", source="")
    assert any(said in problem for problem in wrong.value.problems), wrong.value.problems


def bare(number: int, amount: Decimal) -> Refund:
    """Money that goes back without a line."""
    said = {"id": f"80{number}", "number": f"MW-R-{number}", "order_id": "501", "order_number": "MW-501",
            "refunded_at": "2026-10-20T10:00:00+00:00", "changed_at": "2026-10-20T10:00:00+00:00", "currency": "EUR",
            "prices_include_tax": True, "total": str(amount), "tax_total": "0",
            "goodwill": [{"id": "goodwill", "title": "Paid back", "amount": str(amount)}],
            "payments": [{"transaction": f"r{number}", "method": "card", "tender": "card", "state": "received",
                          "amount": str(amount), "paid_at": "2026-10-20T10:00:00+00:00"}]}  # fmt: skip
    return Refund.read(said)


def paid_back_of(total: str, *parts: str) -> list[Decimal]:
    """What is paid back in GBP of an order in EUR that was called off, in so many parts, at 0.7421."""
    case: Json = {"order": {"currency": "EUR", "lines": [{"sum": total, "tax": "0.00", "rate": "0", "class": "zero"}],
                            "paid": [{"sum": total}]},
                  "table": ["2026-10-01 EUR 0.7421"],
                  "rules": {"exchange_rates": {"taken_from": ["table"]}}}  # fmt: skip
    life = Life(foreign(case["order"]), given_for("converted", case))
    life.change(life.order.model_copy(update={"status": "cancelled", "called_off": True}))
    for number, part in enumerate(parts):
        plan = life.refund(bare(number, Decimal(part)))
        assert plan.outcome is Outcome.CARRY, plan.findings
    return [one.amount for one in life.refunded if isinstance(one, Payment)]


def test_what_is_paid_back_in_parts_leaves_nothing_open() -> None:
    """78.53 were 58.28. 29.84 are 22.14; the other 48.69 are 36.13 by themselves, and 36.14 of what had stayed."""
    assert paid_back_of("78.53", "29.84", "48.69") == [Decimal("22.14"), Decimal("36.14")]


@settings(max_examples=60, deadline=None)
@given(st.integers(3, 999_999), st.integers(1, 99), st.integers(1, 99))
def test_whatever_the_parts_are_all_of_it_goes_back(cents: int, first: int, second: int) -> None:
    """Three of them, of any size."""
    whole = Decimal(cents) / 100
    one = max((whole * first / 200).quantize(Decimal("0.01")), Decimal("0.01"))
    two = max((whole * second / 200).quantize(Decimal("0.01")), Decimal("0.01"))
    parts = [part for part in (one, two, whole - one - two) if part > 0]
    if sum(parts, ZERO) == whole:
        due = (whole * Decimal("0.7421")).quantize(Decimal("0.01"), "ROUND_HALF_UP")
        assert sum(paid_back_of(str(whole), *map(str, parts)), ZERO) == due


@settings(max_examples=150, deadline=None)
@given(st.lists(st.integers(1, 99_999), min_size=2, max_size=6), st.sampled_from(["0.7421", "0.6667", "1.3333"]))
def test_whatever_order_money_comes_and_goes_in_nothing_stays_open(cents: list[int], rate: str) -> None:
    """An order in EUR of which another price is agreed again and again: what is more is paid, what is less is paid
    back, and each time the money in GBP is what stands invoiced in GBP."""
    paid: list[Json] = []
    life: Life | None = None
    told = ZERO
    for number, whole in enumerate(Decimal(one) / 100 for one in cents):
        # What comes to less than a penny in GBP is no money there.
        if abs(whole - told) < Decimal("0.05"):
            continue
        if whole > told:
            paid.append({"sum": str(whole - told)})
        case: Json = {"order": {"currency": "EUR", "paid": list(paid), "changed": "2026-10-20T09:00:00+00:00",
                                "lines": [{"sum": str(whole), "tax": "0.00", "rate": "0", "class": "zero"}]},
                      "table": [f"2026-10-01 EUR {rate}"],
                      "rules": {"exchange_rates": {"taken_from": ["table"]}}}  # fmt: skip
        if life is None:
            life = Life(foreign(case["order"]), given_for("converted", case))
        else:
            plan = life.change(foreign(case["order"]))
            assert plan.outcome is Outcome.CARRY, plan.findings
        if whole < told:
            plan = life.refund(bare(number, told - whole))
            assert plan.outcome is Outcome.CARRY, plan.findings
        told = whole
        assert money_in(life) == sold_in(life)


def money_in(life: Life) -> Decimal:
    """What came in, less what went back."""
    money = [one for one in (*life.documents, *life.refunded) if isinstance(one, Payment)]
    return sum((-one.amount if isinstance(one, RefundPayment) else one.amount for one in money), ZERO)


def sold_in(life: Life) -> Decimal:
    """What was invoiced, less what was credited."""
    sale = [one for one in (*life.documents, *life.refunded) if isinstance(one, LedgerDocument)]
    return sum((-one.gross if isinstance(one, CreditNote) else one.gross for one in sale), ZERO)
