"""The passage: what comes in goes on, unless it was told to misbehave."""

from __future__ import annotations

from collections.abc import Iterator

import httpx
import pytest

from inkwell_bridge.launch.stack import Stack
from tests.support.world import HTTP, World, new_world


@pytest.fixture
def world(stack: Stack) -> World:
    """A world whose ERP stands behind a passage."""
    made = new_world(stack, "no token", set_up=False)
    made.put("passage", leads_to=f"{stack.erp}/{made.slug}/")
    return made


@pytest.fixture
def passage(world: World) -> Iterator[str]:
    """Its address."""
    yield f"{world.stack.standin('passage')}/{world.slug}"
    world.misbehave("passage")


def call(passage: str, method: str = "session.open") -> httpx.Response:
    """A call to the ERP behind it."""
    params = {"user": "inkwell", "password": "uk-books-demo-password-77c2"}
    return HTTP.post(f"{passage}/rpc", json={"jsonrpc": "2.0", "id": 1, "method": method, "params": params})


def test_it_passes_calls_and_answers_on(passage: str, world: World) -> None:
    """As if the ERP had been asked itself; other paths too, and its page says where it leads to."""
    assert call(passage).json()["result"]["session"]
    assert HTTP.get(f"{passage}/nothing-there").status_code == HTTP.get(
        f"{world.stack.erp}/{world.slug}/nothing-there"
    ).status_code  # fmt: skip
    assert f"{world.stack.erp}/{world.slug}" in HTTP.get(f"{passage}/").text


def test_it_misbehaves_for_the_call_it_was_told_of(passage: str, world: World) -> None:
    """By the call's own name; once, then no more."""
    world.misbehave("passage", {"call": "session.open", "kind": "busy", "seconds": 7})
    assert call(passage, "company.describe").status_code == 200
    refused = call(passage)
    assert (refused.status_code, refused.headers["Retry-After"]) == (429, "7")
    assert call(passage).status_code == 200


def test_where_it_leads_nowhere_it_says_so(world: World, passage: str) -> None:
    """Nowhere told, or nobody there."""
    unknown = HTTP.post(f"{world.stack.standin('passage')}/nobody-{world.slug}/rpc", json={})
    assert (unknown.status_code, "leads nowhere" in unknown.text) == (404, True)
    world.put("passage", leads_to="http://127.0.0.1:9")
    gone = call(passage)
    assert (gone.status_code, "nobody answers" in gone.text) == (502, True)
