"""The stand-ins: state that lasts, and misbehaviour as it was ordered."""

from __future__ import annotations

import time
from pathlib import Path

import httpx
import pytest

from inkwell_bridge.standins.misbehaviour import Rule
from inkwell_bridge.standins.store import Store
from tests.support.world import HTTP, World


def test_a_store_outlives_its_process(tmp_path: Path) -> None:
    """What was put there is there again."""
    Store(tmp_path / "store.sqlite").add("w", "invoice", {"x": 1}, find="mark")
    again = Store(tmp_path / "store.sqlite")
    assert again.search("w", "invoice", "mark") == [{"x": 1, "id": 1}]
    assert again.add("w", "invoice", {}) == 2
    assert again.all("other", "invoice") == []


def test_a_rule_passes_over_and_then_strikes() -> None:
    """Skip two, strike once, then never again; other calls are let be."""
    rule = Rule(call="post", kind="busy", skip=2)
    assert [rule.strikes(call) for call in ("post", "other", "post", "post", "post")] == [
        False, False, False, True, False,
    ]  # fmt: skip


def test_chance_comes_from_a_seed() -> None:
    """The same seed misbehaves in the same way."""
    rules = [Rule(call="x", kind="busy", times=99, chance=0.5, seed=4) for _ in range(2)]
    runs = [[rule.strikes("x") for _ in range(30)] for rule in rules]
    assert runs[0] == runs[1]
    assert 5 < sum(runs[0]) < 25


def test_a_rule_can_last_for_a_time() -> None:
    """After that the stand-in behaves."""
    over = Rule(call="x", kind="busy", times=99, lasts_seconds=0.0)
    still = Rule(call="x", kind="busy", times=99, lasts_seconds=60.0)
    time.sleep(0.01)
    assert (over.strikes("x"), still.strikes("x")) == (False, True)


def test_an_unknown_kind_of_misbehaviour_is_refused(world: World) -> None:
    """With the kinds there are."""
    response = HTTP.put(f"{world.stack.erp}/{world.slug}/control/misbehaviour",
                         json={"rules": [{"call": "x", "kind": "sulking"}]})  # fmt: skip
    assert response.status_code == 400
    assert "hold after" in response.json()["error"]


def test_late_work_is_done_though_the_connection_was_cut(world: World) -> None:
    """The contact appears seconds after the caller was told nothing."""
    url = f"{world.stack.erp}/{world.slug}/rpc"
    session = HTTP.post(url, json=_call("session.open", user="inkwell", password="uk-books-demo-password-77c2"))
    headers = {"Authorization": f"Session {session.json()['result']['session']}"}
    world.misbehave("erp", {"call": "contacts.create", "kind": "late", "seconds": 0.4})
    with pytest.raises(httpx.RemoteProtocolError):
        HTTP.post(url, json=_call("contacts.create", name="Late", email="late@loom.example"), headers=headers)
    assert not _has(world, "Late")
    time.sleep(0.8)
    assert _has(world, "Late")


def _call(method: str, **params: str) -> dict[str, object]:
    return {"jsonrpc": "2.0", "id": 1, "method": method, "params": params}


def _has(world: World, name: str) -> bool:
    return any(contact["name"] == name for contact in world.books()["contact"])


def test_a_page_to_look_at_escapes_what_it_shows(world: World) -> None:
    """Names come from outside, also here."""
    world.change_books(name="<b>Books</b>")
    page = HTTP.get(f"{world.stack.erp}/{world.slug}/").text
    assert "&lt;b&gt;Books&lt;/b&gt;" in page
    assert "<b>Books" not in page


def test_the_books_hand_out_no_secret(world: World) -> None:
    """Neither in their contents nor in what they say of themselves."""
    assert "uk-books-demo-password" not in HTTP.get(f"{world.stack.erp}/{world.slug}/control/contents").text
