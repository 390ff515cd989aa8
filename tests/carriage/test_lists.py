"""The lists of source documents and of documents in the books: searched, narrowed, and each row once."""

from __future__ import annotations

from typing import Any

import pytest

from inkwell_bridge.client import Invalid
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, FEW, HTTP, World, few_orders, new_world, shop_order, with_few_orders

# 1 October 2026 in London is an hour ahead of UTC, and 26 October is not: the clocks go back on the 25th.
LATE_ON_THE_20TH = "2026-10-20T22:59:59+00:00"
EARLY_ON_THE_21ST = "2026-10-20T23:00:00+00:00"
LATE_ON_THE_27TH = "2026-10-27T23:59:59+00:00"


@pytest.fixture(scope="module")
def listed(stack: Stack, owner: str) -> World:
    """Twenty-eight orders that are carried, and another workspace with orders of its own."""
    with_few_orders(new_world(stack, owner)).run()
    world = with_few_orders(new_world(stack, owner))
    world.run()
    return world


def numbers(world: World, **filters: Any) -> list[str]:
    """Of the source documents that are found, each as often as it comes."""
    return sorted(row.number for row in world.calls.crossings(**filters))


def all_numbers() -> list[str]:
    """Of the orders in the shop."""
    return sorted(order["reference"] for order in few_orders())


@pytest.mark.parametrize("said", ["MW-", "mw-1", "MW-100", "w-10", "MW", "m"])
def test_what_all_have_in_their_number_finds_all_once(listed: World, said: str) -> None:
    """In capitals or not; of one or two characters, those that begin with them."""
    assert numbers(listed, search=said) == all_numbers()


@pytest.mark.parametrize("limit", [1, 7, 28])
def test_a_search_is_paged_like_the_list(listed: World, limit: int) -> None:
    """In pages of any length, every row once and in the list's own order."""
    found = [row.number for row in listed.calls.crossings(search="MW-", limit=limit)]
    assert found == [row.number for row in listed.calls.crossings()]


def test_what_one_has_finds_that_one(listed: World) -> None:
    """By its own number, whole or in part, and by that of its invoice."""
    first = all_numbers()[0]
    assert numbers(listed, search=first) == [first]
    assert numbers(listed, search=first.lower()) == [first]
    part = first[-4:]
    either = {
        row.number: (row.number, *(one.books_number for one in row.documents)) for row in listed.calls.crossings()
    }
    assert numbers(listed, search=part) == sorted(one for one, both in either.items() if any(part in n for n in both))
    (document,) = listed.calls.documents(order_number=first)
    assert first in numbers(listed, search=document.books_number)
    assert numbers(listed, search=document.books_number.lower()) == numbers(listed, search=document.books_number)


@pytest.mark.parametrize("said", ["ZEBRA", "ZQ", "-", "%", "_W", "MW-1%", "\\", "'"])
def test_what_nobody_has_finds_nothing(listed: World, said: str) -> None:
    """Signs that mean something to the database mean themselves; a short text is for the beginning alone."""
    assert numbers(listed, search=said) == []


def test_the_books_numbers_are_found_by_their_beginning_too(listed: World) -> None:
    """Two characters with which all invoices begin, and none of the orders."""
    prefix = next(iter(listed.calls.documents())).books_number[:2]
    assert not any(number.startswith(prefix) for number in all_numbers())
    assert numbers(listed, search=prefix) == all_numbers()


def test_a_search_goes_with_other_filters(listed: World) -> None:
    """Narrowed by state and sorted otherwise."""
    assert numbers(listed, search="MW-", state=["held"]) == []
    assert numbers(listed, search="MW-", state=["carried"]) == all_numbers()
    by_amount = [row.gross for row in listed.calls.crossings(search="MW-", sort="gross")]
    assert by_amount == sorted(by_amount, key=lambda amount: amount or 0)


def test_documents_of_an_order_and_of_a_bridge_come_once(listed: World) -> None:
    """By the order's number, by the bridge; none of another workspace's orders of the same number."""
    assert len(list(listed.calls.documents())) == FEW
    assert len(list(listed.calls.documents(bridge=BRIDGE))) == FEW
    listed.calls.create_bridge(slug="another-bridge", name="Another", source="web-shop", books="uk-books",
                               company=listed.calls.bridge(BRIDGE).read().company)  # fmt: skip
    assert list(listed.calls.documents(bridge="another-bridge")) == []
    with pytest.raises(Invalid, match="Did you mean 'another-bridge'"):
        list(listed.calls.documents(bridge="another-brige"))
    for number in all_numbers()[:3]:
        (document,) = listed.calls.documents(order_number=number)
        assert document.order_number == number
    assert list(listed.calls.documents(order_number="MW-")) == []


@pytest.fixture(scope="module")
def around_midnight(stack: Stack, owner: str) -> World:
    """Three orders at the edges of days on the company's clocks."""
    world = new_world(stack, owner)
    moments = {"MW-10003": LATE_ON_THE_20TH, "MW-10004": EARLY_ON_THE_21ST, "MW-10005": LATE_ON_THE_27TH}
    orders = [{**shop_order(number), "placed": moment} for number, moment in moments.items()]
    world.put_orders(*orders, reset=True)
    world.run()
    return world


@pytest.mark.parametrize(
    ("first", "last", "found"),
    [
        ("2026-10-20", "2026-10-20", ["MW-10003"]),
        ("2026-10-21", "2026-10-21", ["MW-10004"]),
        ("2026-10-27", "2026-10-27", ["MW-10005"]),
        ("2026-10-28", "2026-10-31", []),
        ("2026-10-20", "2026-10-21", ["MW-10003", "MW-10004"]),
        ("2026-10-21", None, ["MW-10004", "MW-10005"]),
        (None, "2026-10-20", ["MW-10003"]),
        ("2026-10-22", "2026-10-21", []),
    ],
)
def test_a_day_is_the_companys_own(around_midnight: World, first: str | None, last: str | None,
                                   found: list[str]) -> None:  # fmt: skip
    """An hour before midnight UTC in summer it is the next day in London; in winter it is not."""
    days = {name: day for name, day in (("placed_from", first), ("placed_to", last)) if day}
    assert numbers(around_midnight, **days) == found


def test_a_list_shows_documents_as_they_are_shown_by_themselves(october: World) -> None:
    """They are written in two ways, for a page has hundreds of them; both say the same."""
    alone = {document.id: document for document in october.calls.documents()}
    listed = {document.id: document for crossing in october.calls.crossings() for document in crossing.documents}
    assert len(alone) > 50
    assert {number: document.model_dump() for number, document in listed.items()} == {
        number: document.model_dump() for number, document in alone.items()
    }


def test_a_list_shows_source_documents_as_they_are_shown_by_themselves(october: World) -> None:
    """To the letter of the answer: held, carried and left out, with and without amounts."""
    address = f"{october.stack.address}/api/v1/workspaces/{october.slug}/crossings"
    headers = {"Authorization": f"Bearer {october.token}"}
    listed = HTTP.get(address, params={"limit": 200}, headers=headers).json()["items"]
    by_state = {row["state"]: row for row in listed}
    assert set(by_state) >= {"carried", "held", "left out"}
    for row in [*by_state.values(), *listed[:5]]:
        alone = HTTP.get(f"{address}/{row['id']}", headers=headers).json()
        # Documents in full have more to them.
        documents = [{name: one[name] for name in row["documents"][0]} for one in alone["documents"]]
        assert {**{name: alone[name] for name in row}, "documents": documents} == row
