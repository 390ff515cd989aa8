"""Bad input gets a clear error and changes nothing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import httpx
import pytest

from tests.service.test_access import filled
from tests.support.world import BRIDGE, HTTP, World

GARBAGE: list[Any] = [
    {},
    [],
    "text",
    17,
    None,
    {"slug": None, "name": None, "kind": [], "credentials": "x", "address": 5, "text": {}, "on": "maybe"},
    {"slug": "x" * 500, "name": "\u0000", "role": "king", "email": "nobody", "crossings": ["a"], "every_minutes": -1},
    {"slug": "../etc", "text": "a: &x [*x]", "daily_at": "99:99", "credentials": {"key": {"deep": 1}}},
]


# Calls that need nothing said, so that nothing is not garbage.
OPTIONAL = ("/loadings", "/runs", "/undo")


@pytest.fixture
def carried(october: World) -> World:
    """A world whose October was carried."""
    return october


def writing_calls(world: World) -> Iterator[tuple[str, str]]:
    """Every call that takes a body, filled with names that exist."""
    paths = HTTP.get(f"{world.stack.address}/api/v1/openapi.json").json()["paths"]
    for path, methods in paths.items():
        for method, described in methods.items():
            if method in {"post", "put", "patch"} and "requestBody" in described:
                yield method.upper(), world.stack.address + filled(path.replace("{workspace}", world.slug), world)


def send(world: World, method: str, url: str, **options: Any) -> httpx.Response:
    """A call in the owner's name."""
    return HTTP.request(method, url, headers={"Authorization": f"Bearer {world.token}"}, timeout=30, **options)


def test_no_garbage_whatever_breaks_a_call(carried: World) -> None:
    """Each answers with a problem that says what was expected; none with a failure of ours."""
    calls = list(writing_calls(carried))
    assert len(calls) >= 11
    before = [bridge.model_dump() for bridge in carried.calls.bridges()]
    for method, url in calls:
        for body in GARBAGE:
            if url.endswith(OPTIONAL) and not body and body != []:
                continue
            response = send(carried, method, url, json=body)
            harmless = method == "PATCH" and body in ({}, None)
            assert 400 <= response.status_code < 500 or harmless, (method, url, body, response.text[:300])
            if not harmless:
                assert response.headers["Content-Type"] == "application/problem+json"
                assert response.json()["detail"]
    assert [bridge.model_dump() for bridge in carried.calls.bridges()] == before


@pytest.mark.parametrize(
    ("content", "kind", "status"),
    [
        (b"{not json", "application/json", 400),
        (b"\xff\xfe", "application/json", 400),
        (b"<a/>", "application/xml", 415),
        (b"a=1", "application/x-www-form-urlencoded", 415),
        (b'{"text": "' + b"x" * 3_000_000 + b'"}', "application/json", 413),
    ],
)
def test_what_is_no_json_is_refused(carried: World, content: bytes, kind: str, status: int) -> None:
    """Broken, of another kind, or too much."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/bridges/{BRIDGE}/rulebooks"
    headers = {"Authorization": f"Bearer {carried.token}", "Content-Type": kind}
    response = HTTP.post(url, content=content, headers=headers, timeout=30)
    assert response.status_code == status, response.text
    assert response.headers["Content-Type"] == "application/problem+json"


@pytest.mark.parametrize(
    "query",
    [
        "cursor=nonsense",
        "limit=-5",
        "limit=many",
        "state=asleep",
        "placed_from=yesterday",
        "run=one",
        "outcome=lost",
        "sort=;drop",
        "search=%00",
    ],
)
def test_odd_filters_do_no_harm(carried: World, query: str) -> None:
    """A clear error, or the list as if they were not there."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/crossings?{query}"
    response = send(carried, "GET", url)
    assert response.status_code in {200, 400, 404}
    if response.status_code != 200:
        assert response.json()["detail"]


@pytest.mark.parametrize("query", ["first=2026-10-31&last=2026-10-01", "first=soon", "bridge=not%20a%20name"])
def test_a_period_that_makes_no_sense(carried: World, query: str) -> None:
    """Said with the field that is wrong."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/tie-out?{query}"
    response = send(carried, "GET", url)
    assert response.status_code == 400
    assert response.json()["errors"][0]["pointer"] in {"/first", "/last", "/bridge"}


def test_releasing_takes_a_name(carried: World) -> None:
    """Not everything goes by accident."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/crossings/release"
    assert send(carried, "POST", url, json={}).json()["detail"] == "Expected crossings or a cause."
    assert send(carried, "POST", url, json={"crossings": list(range(10_001))}).status_code == 400


def test_a_method_that_is_not_there(carried: World) -> None:
    """405, as a problem."""
    response = send(carried, "DELETE", f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/runs")
    assert (response.status_code, response.json()["code"]) == (405, "method-not-allowed")
