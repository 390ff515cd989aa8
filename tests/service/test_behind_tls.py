"""A service that stands behind HTTPS, as it does in earnest."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import httpx
import pytest

from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.tls import https_proxy
from tests.support.world import FAST, HTTP, OWNER, PASSWORD, running

HOST = "bridge.example"


@pytest.fixture(scope="module")
def secure(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """The service under ``INKWELL_SECURE``."""
    told = {"INKWELL_SECURE": "1", "INKWELL_PROXIES": "1", "INKWELL_HOSTS": f"{HOST},127.0.0.1"}
    made = Stack(database_url=new_database("tls"), home=tmp_path_factory.mktemp("tls"),
                 console=places.console(), extra={**FAST, **told})  # fmt: skip
    with running(made):
        made.administer("open_workspace", "first", "--name", "First", "--owner", OWNER, given=f"{PASSWORD}\n")
        yield made


@pytest.fixture(scope="module")
def https(secure: Stack, tmp_path_factory: pytest.TempPathFactory) -> Iterator[httpx.Client]:
    """A browser that comes through the proxy."""
    with https_proxy(secure.address, tmp_path_factory.mktemp("proxy"), HOST) as client:
        yield client


def test_browsers_are_held_to_https(https: httpx.Client) -> None:
    """For a year; the console and the API alike."""
    for path in ("/", "/api/v1/session"):
        answer = https.get(path)
        assert answer.status_code == 200
        assert answer.headers["Strict-Transport-Security"] == "max-age=31536000"


def test_cookies_go_over_https_alone(https: httpx.Client) -> None:
    """The session's is out of reach of scripts besides; signing in works, and other sites cannot call with it."""
    https.get("/api/v1/session")
    given = {"email": OWNER, "password": PASSWORD}
    headers = {"X-CSRFToken": https.cookies["inkwell_csrf"], "Referer": f"https://{HOST}/"}
    entered = https.post("/api/v1/session", json=given, headers=headers)
    assert entered.status_code == 200, entered.text
    cookies = {line.partition("=")[0]: line.lower() for line in entered.headers.get_list("set-cookie")}
    assert set(cookies) == {"inkwell_session", "inkwell_csrf"}
    assert all("; secure" in line and "samesite=lax" in line for line in cookies.values())
    assert "; httponly" in cookies["inkwell_session"]
    elsewhere = {**headers, "Origin": "https://elsewhere.example"}
    assert https.post("/api/v1/session", json=given, headers=elsewhere).status_code == 403


def test_another_host_is_not_answered_to(https: httpx.Client) -> None:
    """So that no link in a mail leads to a host that somebody made up."""
    assert https.get("/api/v1/session", headers={"Host": "elsewhere.example"}).status_code == 400


def test_who_comes_around_the_proxy_is_sent_to_it(secure: Stack) -> None:
    """Without an answer; only whether the service lives is said in the clear."""
    answer = HTTP.get(f"{secure.address}/api/v1/session", headers={"Host": HOST})
    assert (answer.status_code, answer.headers["Location"]) == (301, f"https://{HOST}/api/v1/session")
    assert HTTP.get(f"{secure.address}/alive").text == "ok"


def test_links_in_mails_are_https(https: httpx.Client) -> None:
    """Under the name that people know the service by."""
    given = {"email": OWNER, "password": PASSWORD, "name": "x"}
    https.cookies.clear()
    token = https.post("/api/v1/tokens", json=given).json()["token"]
    invited = https.post("/api/v1/workspaces/first/people/invitations", json={"email": "a@b.example", "role": "see"},
                         headers={"Authorization": f"Bearer {token}"})  # fmt: skip
    assert invited.json()["link"].startswith(f"https://{HOST}/invitation#")
