"""The life of an order after it was posted: worked out by hand in files (``lives``), and in whatever order it comes."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from inkwell_bridge.core.books import LedgerDocument
from inkwell_bridge.core.commerce import Order
from inkwell_bridge.core.planner import Outcome, PlanningContext
from tests.core.test_cases import _Exact
from tests.core.test_returns import rules, sold
from tests.support.lives import Life, sums

LIVES = Path(__file__).parent / "lives"
LATER = "2026-10-20T09:00:00+00:00"
ZERO = Decimal(0)
Json = dict[str, Any]


def lives() -> Iterator[Any]:
    """Every life of every file."""
    for file in sorted(LIVES.glob("*.yaml")):
        for life in yaml.load(file.read_text("utf-8"), Loader=_Exact):  # noqa: S506 a safe loader that rounds nothing
            yield pytest.param(life, id=f"{file.stem}: {life['life']}")


EVERY = list(lives())


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
