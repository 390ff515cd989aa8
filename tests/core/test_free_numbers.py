"""Legal numbers of further documents: never one that is taken, never one twice; and books that mix no signs."""

from __future__ import annotations

from typing import Any

from inkwell_bridge.core.books import CreditNote, LedgerDocument
from inkwell_bridge.core.planner import Plan, with_free_numbers
from tests.core.test_cases import context, order
from tests.support.lives import Life


def grown(*sums: str) -> Life:
    """An order numbered by the shop that became dearer, and cheaper, again and again."""
    first, *later = [{"lines": [{"sum": one, "class": "zero"}]} for one in sums]
    life = Life(order(first), context({"order": first, "rules": {"orders": {"numbered": "shop"}}}))
    for place, said in enumerate(later):
        life.change(order({**said, "changed": f"2026-10-{20 + place}T09:00:00+00:00"}))
    return life


def numbers(plan: Plan) -> list[str]:
    """The numbers of its invoices and credit notes."""
    return [one.number for one in plan.documents if isinstance(one, LedgerDocument)]


def freed(life: Life, *taken: str, posted: int) -> list[str]:
    """The same once the books have given these to others; so many of its documents are posted."""
    keep = [one.external_reference for one in life.documents[:posted]]
    rules = life.context.rulebook.orders
    return numbers(with_free_numbers(life.plan, life.order.number, rules, taken, keep=keep))


def test_what_is_free_stays_as_it_is() -> None:
    """The order's own, then with a 2 and a 3 behind it."""
    life = grown("24.00", "30.00", "20.00")
    assert numbers(life.plan) == ["MW-501", "MW-501-2", "MW-501-3"]
    assert freed(life, posted=1) == ["MW-501", "MW-501-2", "MW-501-3"]


def test_the_next_free_one_takes_the_place_of_one_that_is_taken() -> None:
    """Never one of another document of the same order; what is posted keeps its own."""
    life = grown("24.00", "30.00", "20.00")
    assert freed(life, "MW-501-2", posted=1) == ["MW-501", "MW-501-4", "MW-501-3"]
    assert freed(life, "MW-501-3", "MW-501-4", posted=2) == ["MW-501", "MW-501-2", "MW-501-5"]
    assert freed(life, "MW-501-2", posted=3) == ["MW-501", "MW-501-2", "MW-501-3"]


def test_the_orders_own_number_is_nobodys_to_change() -> None:
    """A person looks."""
    assert freed(grown("24.00"), "MW-501", posted=0) == ["MW-501"]


def test_books_that_mix_no_signs_have_two_documents() -> None:
    """6.00 more of one line and 2.00 less of another, though the rules want one document of a difference."""
    said: dict[str, Any] = {
        "lines": [{"id": "a", "sum": "24.00", "class": "zero"}, {"id": "b", "sum": "10.00", "class": "zero"}]
    }
    given = context({"order": said, "rules": {"orders": {"differences": "one document"}}})
    later = {"lines": [{"id": "a", "sum": "30.00", "class": "zero"}, {"id": "b", "sum": "8.00", "class": "zero"}]}
    found = {}
    for mixes in (True, False):
        able = given.capabilities.model_copy(update={"mixes_signs": mixes})
        life = Life(order(said), given.model_copy(update={"capabilities": able}))
        life.change(order({**later, "changed": "2026-10-20T09:00:00+00:00"}))
        found[mixes] = [(one.role, str(one.gross)) for one in life.documents[1:] if isinstance(one, LedgerDocument)]
        notes = [line for one in life.documents if isinstance(one, CreditNote) for line in one.lines]
        assert all(line.net > 0 for line in notes)
    assert found == {True: [("invoice", "4.00")], False: [("invoice", "6.00"), ("credit note", "2.00")]}
