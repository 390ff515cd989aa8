"""Bad input gets a clear error and changes nothing."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any

import httpx
import pytest

from tests.service.test_access import filled
from tests.support.world import BRIDGE, HTTP, World, invoices_alone

JSON: dict[str, Any] = {"headers": {"Content-Type": "application/json"}}
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
OPTIONAL = ("/loadings", "/runs", "/again", "/undo", "/rehearsals", "/proposals", "/publish", "/secrets")


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
    headers = {"Authorization": f"Bearer {world.token}", **options.pop("headers", {})}
    return HTTP.request(method, url, headers=headers, timeout=30, **options)


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


def test_who_does_the_same_at_once_is_told_so(world: World) -> None:
    """Publishing, naming and inviting: one does it, the others hear that it is done; never a failure of ours."""
    draft = world.calls.bridge(BRIDGE).write_rulebook(invoices_alone() + "\n# once more\n")
    address = f"{world.stack.address}/api/v1/workspaces/{world.slug}"
    headers = {"Authorization": f"Bearer {world.token}"}
    company = {"slug": "twin", "name": "Twin", "country": "GB", "currency": "GBP", "time_zone": "Europe/London"}
    invited = {"email": f"twin@{world.slug}.example", "role": "see"}
    for path, body, good in ((f"bridges/{BRIDGE}/rulebooks/{draft.number}/publish", {}, {200}),
                             ("companies", company, {201}), ("people/invitations", invited, {201})):  # fmt: skip
        with ThreadPoolExecutor(6) as pool:
            one = partial(HTTP.post, f"{address}/{path}", json=body, headers=headers)
            statuses = [answer.status_code for answer in pool.map(lambda _, one=one: one(), range(6))]
        assert set(statuses) <= {*good, 400, 409}, (path, statuses)
        assert statuses.count(min(good)) >= 1
    published = [entry for entry in world.calls.trail() if entry.action == "rulebook.published"]
    assert len([entry for entry in published if entry.about.endswith(f"version {draft.number}")]) == 1
    assert [one.slug for one in world.calls.companies()].count("twin") == 1


@pytest.mark.parametrize("path", [
    "base-rulebooks/%00", "base-rulebooks/%ED%A0%80", "bridges/x/lanes/%00", "crossings?q=%00", "crossings?cursor=%00",
    "crossings?cursor=bz05OTk5OTk5OTk5OTk5OTk5OTk5", "crossings?limit=-1", "crossings?limit=1e9",
    "crossings?placed_from=0001-01-01", "crossings?placed_from=9999-12-31", "tie-out?first=0001-01-01&last=9999-12-31",
    "trail?cursor=%FF%FE", "crossings/99999999999999999999999", "documents?q=" + "x" * 3000,
])  # fmt: skip
def test_odd_addresses_are_no_failure_of_ours(carried: World, path: str) -> None:
    """NUL, halves of signs, numbers beyond all, days before and after all."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/{path}"
    answer = HTTP.get(url, headers={"Authorization": f"Bearer {carried.token}"})
    assert answer.status_code < 500, answer.text


@pytest.mark.parametrize("slug", ["X\u0000G_Q", "\ud800", "x" * 5_000, "../etc", "", 7, ["uk-books"], None])
def test_what_can_be_no_name_is_not_looked_for(carried: World, slug: Any) -> None:
    """A database takes no U+0000, and whoever asks for it is told what a name that nobody has is told."""
    body = {"slug": "new", "name": "New", "source": slug, "books": "uk-books", "company": "marrowby-uk"}
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/bridges"
    said = send(carried, "POST", url, content=json.dumps(body), **JSON)
    assert said.status_code == 400, said.text
    assert [one["pointer"] for one in said.json()["errors"]] == ["/source"]


def test_an_address_that_is_too_long_is_told_so(carried: World) -> None:
    """As a problem like any other; one that is just short enough is answered."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/trail"
    length = len(url) - len(carried.stack.address) + len("?q=")
    assert send(carried, "GET", f"{url}?q={'x' * (4_000 - length)}").status_code in {200, 400}
    for more in (1, 3_000):
        said = send(carried, "GET", f"{url}?q={'x' * (4_000 - length + more)}")
        assert (said.status_code, said.headers["content-type"]) == (414, "application/problem+json")
        assert said.json()["detail"] == "An address with its filters may have 4,000 characters."


def test_json_that_is_nested_deep_is_refused(carried: World) -> None:
    """And leaves the service as it was."""
    url = f"{carried.stack.address}/api/v1/workspaces/{carried.slug}/companies"
    headers = {"Authorization": f"Bearer {carried.token}", "Content-Type": "application/json"}
    for body in (b"[" * 200_000, b'{"a":' * 100_000 + b"1" + b"}" * 100_000, b"9" * 300_000, b'{"slug": "\\ud800"}'):
        assert HTTP.post(url, content=body, headers=headers).status_code == 400
    assert carried.calls.today()
