"""The life of an order after it was posted: worked out by hand in files (``lives``), and in whatever order it comes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import BooksDocument, CreditNote, LedgerDocument, Payment
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.money import exact
from inkwell_bridge.core.planner import Outcome, Plan, PlanningContext
from tests.core.test_cases import OF_LINES, _Exact, as_written, context, order, refund
from tests.core.test_returns import rules, sold
from tests.support.lives import Life, sums

LIVES = Path(__file__).parent / "lives"
LATER = datetime(2026, 10, 20, 9, tzinfo=UTC)
ZERO = Decimal(0)
Json = dict[str, Any]


def lives() -> Iterator[Any]:
    """Every life of every file."""
    for file in sorted(LIVES.glob("*.yaml")):
        for life in yaml.load(file.read_text("utf-8"), Loader=_Exact):  # noqa: S506 a safe loader that rounds nothing
            yield pytest.param(life, id=f"{file.stem}: {life['life']}")


EVERY = list(lives())


def life_of(said: Json) -> Life:
    """The order as it was posted first; ``lives`` that ask for other documents than invoices have books that take
    them."""
    # What is known of every article that the order ever has.
    lines = [line for state in (said, *said["then"]) if "order" in state for line in state["order"]["lines"]]
    return Life(order(said["order"]), context({**said, "order": {**said["order"], "less": [], "lines": lines}}))


def lived(life: Life, said: Json, state: Json) -> Plan:
    """What comes of one state: the order as it is by then, called off, or given back in part."""
    if "back" in state:
        back = refund(state["back"], life.order)
        return life.refund(back.model_copy(update={"id": state["back"].get("id", f"80{len(life.refunds) + 1}")}))
    if "cancelled" in state:
        return life.change(life.order.model_copy(update={"status": "cancelled", "changed_at": LATER}))
    return life.change(order({"changed": LATER.isoformat(), **state["order"]}))


def made(documents: Sequence[BooksDocument], currency: str) -> Json:
    """The documents of a sale with their lines, as the files write them."""
    return {
        one.role: [f"{line.kind} {line.account} {line.tax_code} {exact(line.net, currency)} {exact(line.tax, currency)}"
                   for line in one.lines]
        for one in documents if isinstance(one, LedgerDocument)
    }  # fmt: skip


def moved(documents: Sequence[BooksDocument]) -> list[str]:
    """The money, with what it is set against by the last word of its reference."""
    return [
        f"{one.role} {one.account} {one.amount}"
        + (" on " if one.applied else "")
        + ", ".join(f"{part.external_reference.split(':')[-1]} {part.amount}" for part in one.applied)
        for one in documents
        if isinstance(one, Payment)
    ]


@pytest.mark.parametrize("said", EVERY)
def test_a_life_comes_out_as_worked_out_by_hand(said: Json) -> None:
    """Each state with its documents, what the books hold after it, and the money."""
    assert said["work"], "each life says how it was worked out"
    life, currency = life_of(said), said["order"].get("currency", "GBP")
    for state in said["then"]:
        before = len(life.documents)
        plan = lived(life, said, state)
        told = [one.id for one in plan.findings if not one.id.startswith("PENNY-N")]
        further = life.documents[before:]
        if "held" in state:
            assert (plan.outcome, state["held"] in told, further) == (Outcome.HOLD, True, []), plan.findings
        else:
            assert plan.outcome is Outcome.CARRY, plan.findings
        lines = [line for one in further if isinstance(one, LedgerDocument) for line in one.lines]
        if "makes" in state:
            wanted = {role: as_written(texts, currency) for role, texts in state["makes"].items()}
            assert made(further, currency) == wanted
        for name in ("counts", "items", "dimensions"):
            if name in state:
                assert [OF_LINES[name](line) for line in lines] == state[name]
        if "numbers" in state:
            assert [one.number for one in life.documents if isinstance(one, LedgerDocument)] == state["numbers"]
        if "money" in state:
            assert moved(further) == state["money"]
        if "refunds" in state:
            notes = [f"{one.role} {one.gross}" for one in plan.documents if isinstance(one, CreditNote)]
            assert [*notes, *moved(plan.documents)] == state["refunds"]
        if "open" in state:
            assert plan.open_balance == Decimal(state["open"])
        assert set(state.get("says", [])) <= set(told)
        assert shown(life) == {place: tuple(map(Decimal, text.split())) for place, text in state["books"].items()}


def shown(life: Life) -> dict[str, tuple[Decimal, ...]]:
    """What the books hold, by account and code."""
    return {f"{account} {code}": amounts for (account, code), amounts in life.books.items()}


def test_there_are_enough_lives() -> None:
    """Each told once, with its working."""
    names = [param.values[0]["life"] for param in EVERY]
    assert len(names) == len(set(names)) >= 60


@st.composite
def edited(draw: st.DrawFn) -> list[Order]:
    """An order, and what it is after each of some edits; now and then it is cancelled, and an order again."""
    first = draw(sold())
    later = [draw(sold(like=first)) for _ in range(draw(st.integers(1, 4)))]
    return [first, *(one.model_copy(update={"status": draw(st.sampled_from(["paid", "paid", "cancelled"]))})
                     for one in later)]  # fmt: skip


@settings(max_examples=300, deadline=None)
@given(edited(), rules(), st.sampled_from(["one each way", "one document"]))
def test_after_every_edit_the_books_hold_the_order_as_it_is(
    states: list[Order], given_: PlanningContext, differences: str
) -> None:
    """Under each account and code, whatever changed; and no document of it is below nothing."""
    own = given_.rulebook.orders.model_copy(update={"differences": differences})
    given_ = given_.model_copy(update={"rulebook": given_.rulebook.model_copy(update={"orders": own})})
    life = Life(states[0], given_)
    for state in states[1:]:
        before = len(life.documents)
        plan = life.change(state)
        assert plan.outcome is Outcome.CARRY, plan.findings
        wanted = {} if state.cancelled else sums(life.wanted.documents)
        assert life.books == wanted
        assert sum((net + tax for net, tax in wanted.values()), ZERO) == (ZERO if state.cancelled else state.total)
        further = [one for one in life.documents[before:] if isinstance(one, LedgerDocument)]
        assert all(one.gross >= 0 for one in further)
        assert len({one.external_reference for one in life.documents}) == len(life.documents)
        # Asked once more, there is nothing to be done.
        assert list(life.change(state).documents) == life.documents
