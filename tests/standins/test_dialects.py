"""The stand-ins' doors, asked as any client would: who may come in, what is turned away, and how it is said."""

from __future__ import annotations

from typing import Any

import httpx
import pytest

from inkwell_bridge.core.commerce import SourceKind
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.demo.month import customers, products, refunds
from tests.support.ends import BENCHES, small
from tests.support.world import HTTP, World

LEDGER = {"Authorization": f"Bearer {facts()['irish_books']['token']}"}
SHOP = httpx.BasicAuth(facts()["web_shop"]["key"], facts()["web_shop"]["secret"])


def shop(world: World, path: str, method: str = "GET", **request: Any) -> httpx.Response:
    """A call to the shop, with its key."""
    return HTTP.request(method, f"{world.stack.shop}/{world.slug}/api{path}", **{"auth": SHOP, **request})


def ledger(world: World, path: str, method: str = "GET", **request: Any) -> httpx.Response:
    """A call to the ledger, with its token."""
    headers = {**LEDGER, **request.pop("headers", {})}
    return HTTP.request(method, f"{world.stack.standin('ledger')}/{world.slug}{path}", headers=headers, **request)


@pytest.mark.parametrize("auth", [None, httpx.BasicAuth("who", "knows"), httpx.BasicAuth("mwshop_demo_key", "")])
def test_the_shop_wants_its_key(world: World, auth: httpx.Auth | None) -> None:
    """And says so, with status 401."""
    answer = HTTP.get(f"{world.stack.shop}/{world.slug}/api/orders", auth=auth)
    assert (answer.status_code, answer.json()) == (401, {"error": "unknown key or wrong secret"})


def test_a_shop_that_is_not_there_is_not_found(world: World) -> None:
    """Each first part of a path is a shop of its own."""
    assert HTTP.get(f"{world.stack.shop}/nobody-{world.slug}/api/orders").status_code == 404


def test_the_shop_hands_out_no_secret(world: World) -> None:
    """Neither describing itself nor naming things."""
    for path in ("/shop", "/reference"):
        text = shop(world, path).text
        assert facts()["web_shop"]["secret"] not in text
        assert facts()["web_shop"]["key"] not in text


def test_lists_lead_on_by_link_until_the_last_page(world: World) -> None:
    """RFC 8288; no page is longer than asked for."""
    seen: list[str] = []
    path: str | None = "/orders?limit=25"
    while path:
        answer = shop(world, path)
        page = [order["reference"] for order in answer.json()["orders"]]
        assert len(page) <= 25
        seen += page
        link = answer.links.get("next", {}).get("url")
        path = link.partition("/api")[2] if link else None
    assert len(seen) == len(set(seen)) == 60


def test_what_was_asked_by_id_comes_and_nothing_else(world: World) -> None:
    """Ids that are none are passed over."""
    answer = shop(world, "/orders", params={"ids": "50002,50008,99,none"})
    assert [order["reference"] for order in answer.json()["orders"]] == ["MW-10003", "MW-10009"]


@pytest.mark.parametrize(("path", "method", "body", "status"), [
    ("/orders/NO-SUCH", "GET", None, 404),
    ("/orders/999/labels/x", "PUT", None, 404),
    ("/orders/50002/remarks", "PUT", {}, 422),
    ("/orders/50002/dispatches", "PUT", {"reference": "D"}, 422),
    ("/stock", "PUT", {"levels": [{}]}, 422),
    ("/orders?limit=many", "GET", None, 422),
])  # fmt: skip
def test_the_shop_turns_away_what_does_not_fit(world: World, path: str, method: str, body: Any, status: int) -> None:
    """With its reason."""
    answer = shop(world, path, method, json=body) if body is not None else shop(world, path, method)
    assert (answer.status_code, bool(answer.json()["error"])) == (status, True)


def test_the_ledger_wants_a_key_for_what_it_makes(world: World) -> None:
    """Under one key it does one thing, whoever asks how often."""
    person = {"name": "Wren", "email": "wren@loom.example"}
    assert ledger(world, "/contacts", "POST", json=person).status_code == 400
    answers = [ledger(world, "/contacts", "POST", json=person, headers={"Idempotency-Key": "k"}) for _ in range(3)]
    assert [answer.status_code for answer in answers] == [201, 201, 201]
    assert len({answer.text for answer in answers}) == 1
    other = ledger(world, "/contacts", "POST", json={**person, "name": "W"}, headers={"Idempotency-Key": "k"})
    assert (other.status_code, other.json()["error"]) == (422, "this key was used for something else")


@pytest.mark.parametrize(("body", "said"), [
    (b"no xml at all", "no XML"),
    (b"<a/>", "expected a UBL Invoice, got a"),
    (b"<Invoice/>", "without lines"),
])  # fmt: skip
def test_the_ledger_turns_away_what_is_no_invoice(world: World, body: bytes, said: str) -> None:
    """And says what was expected."""
    answer = ledger(world, "/invoices", "POST", content=body, headers={"Idempotency-Key": said})
    assert 400 <= answer.status_code < 500
    assert said in answer.json()["error"]


def test_the_ledgers_sums_must_agree(world: World) -> None:
    """An invoice whose total is not that of its parts is turned away by its path."""
    bench = BENCHES["ledger"]
    books = bench.books(world)
    made = books.create(small(bench), contact_id="1", key="a")
    text = ledger(world, f"/invoices/{made.id}").text.replace(">12.30<", ">12.31<")
    answer = ledger(world, "/invoices", "POST", content=text.encode(), headers={"Idempotency-Key": "b"})
    assert answer.status_code == 422
    assert "PayableAmount says 12.31, its parts come to 12.30" in answer.json()["error"]


@pytest.mark.parametrize("kind", sorted(BENCHES))
def test_each_has_a_page_to_look_at(world: World, kind: str) -> None:
    """Plain, with what it holds."""
    answer = HTTP.get(f"{world.stack.standin(kind)}/{world.slug}/")
    assert answer.status_code == 200
    assert "<h1>Marrowby" in answer.text
    assert "simulated system" in answer.text


@pytest.mark.parametrize("kind", sorted(BENCHES))
def test_no_page_and_no_contents_hold_a_secret(world: World, kind: str) -> None:
    """Tokens and passwords are not for looking at."""
    address = f"{world.stack.standin(kind)}/{world.slug}"
    text = HTTP.get(f"{address}/").text + HTTP.get(f"{address}/control/contents").text
    bench = BENCHES[kind]
    assert bench.credentials[bench.secret] not in text


def test_the_months_other_documents_are_in_the_shops_words(world: World) -> None:
    """Customers, products and refunds of October are read without a problem."""
    orders = {order["reference"]: order for order in BENCHES["web-shop"].contents(world)["order"]}
    world.put("web-shop", customers=customers(), products=products(), refunds=refunds(orders))
    end = BENCHES["web-shop"].sales(world)
    for kind in (SourceKind.CUSTOMERS, SourceKind.PRODUCTS, SourceKind.REFUNDS):
        documents = end.documents(kind, changed_since=None).documents
        assert len(documents) > 7
        assert [one.problem for one in documents if one.problem] == []
