"""Signing in through a provider of identities."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from inkwell_bridge.client import Client, WorkspaceCalls
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.browser import Visitor
from tests.support.openid import CLIENT, SECRET, Provider, openid_provider
from tests.support.world import FAST, HTTP, OWNER, first_owner, running

WREN = {"sub": "248289761001", "email": "wren@loom.example", "email_verified": True, "name": "Wren Dalby"}


@pytest.fixture(scope="module")
def provider() -> Iterator[Provider]:
    """Who says who people are."""
    with openid_provider() as server:
        yield server


@pytest.fixture(scope="module")
def trusting(
    provider: Provider, new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Stack]:
    """A service that trusts it."""
    told = {"INKWELL_OPENID_ISSUER": provider.issuer, "INKWELL_OPENID_CLIENT": CLIENT, "INKWELL_OPENID_NAME": "Loom",
            "INKWELL_OPENID_SECRET": SECRET}  # fmt: skip
    made = Stack(database_url=new_database("openid"), home=tmp_path_factory.mktemp("openid"),
                 console=places.console(), extra={**FAST, **told})  # fmt: skip
    with running(made):
        yield made


@pytest.fixture
def calls(trusting: Stack, provider: Provider) -> WorkspaceCalls:
    """The first owner's workspace; the provider behaves, and Wren is who comes."""
    provider.person, provider.changed = dict(WREN), {}
    provider.signs_with_another_key = provider.says_no = provider.floods = False
    return Client(trusting.address, token=first_owner(trusting)).workspace("first")


def through(provider: Provider, visitor: Visitor, **given: Any) -> str:
    """Where somebody stands who went to the provider and came back."""
    begun = visitor.send("POST", "session/openid", **given)
    assert begun.status_code == 200, begun.text
    there = HTTP.get(begun.json()["page"])
    assert there.status_code == 302
    back = visitor.http.get(there.headers["Location"])
    assert back.status_code == 302
    return back.headers["Location"]


def test_who_was_invited_comes_in(trusting: Stack, provider: Provider, calls: WorkspaceCalls) -> None:
    """By the link and the provider together; afterwards by the provider alone, under whatever address."""
    assert Client(trusting.address).session().provider == "Loom"
    stranger = Visitor(trusting.address)
    assert through(provider, stranger) == "/?refused=openid-not-invited"
    assert not stranger.is_in
    invited = calls.invite(email=WREN["email"], role="operate")
    secret = invited.link.partition("#")[2]
    wren = Visitor(trusting.address)
    assert through(provider, wren, invitation=secret) == "/"
    session = wren.get("session").json()
    assert (session["email"], session["name"]) == ("wren@loom.example", "Wren Dalby")
    assert [(one["slug"], one["role"]) for one in session["workspaces"]] == [("first", "operate")]
    again = calls.invite(email="other@loom.example", role="own").link.partition("#")[2]
    assert through(provider, Visitor(trusting.address), invitation=again) == "/?refused=invitation-ended"
    provider.changed = {"email": "moved@loom.example"}
    later = Visitor(trusting.address)
    assert (through(provider, later), later.get("session").json()["email"]) == ("/", "wren@loom.example")
    # Somebody else with a link to that address chooses no password for the account.
    second = Client(trusting.address, token=first_owner(trusting)).open_workspace(slug="second", name="Second")
    more = Client(trusting.address, token=first_owner(trusting)).workspace(second.slug)
    link = more.invite(email=WREN["email"], role="see").link
    assert Client(trusting.address).invited_to(link).has_account


def test_an_account_is_found_by_an_address_that_is_proved(
    trusting: Stack, provider: Provider, calls: WorkspaceCalls
) -> None:
    """One that the provider does not answer for is nobody's."""
    provider.changed = {"sub": "owner", "email": OWNER.upper(), "email_verified": False}
    assert through(provider, Visitor(trusting.address)) == "/?refused=openid-not-invited"
    provider.changed["email_verified"] = "true"
    assert through(provider, Visitor(trusting.address)) == "/?refused=openid-not-invited", "true, and no text"
    provider.changed["email_verified"] = True
    visitor = Visitor(trusting.address)
    assert (through(provider, visitor), visitor.get("session").json()["email"]) == ("/", OWNER)


@pytest.mark.parametrize("lie", [
    {"iss": "https://elsewhere.example"}, {"aud": "another-client"}, {"exp": 1_000_000_000}, {"nonce": "another"},
    {"nonce": None}, {"sub": None}, {"iss": None}, {"issuer": "https://elsewhere.example"}, {"iat": 4_000_000_000},
])  # fmt: skip
def test_a_word_that_is_not_for_us_is_not_believed(
    trusting: Stack, provider: Provider, calls: WorkspaceCalls, lie: dict[str, Any]
) -> None:
    """Of another issuer, for another client, over, not yet, for another sign-in, about nobody."""
    visitor = Visitor(trusting.address)
    if "issuer" in lie:
        provider.changed = lie
        refused = visitor.send("POST", "session/openid")
        assert (refused.status_code, refused.json()["code"]) == (502, "openid-provider")
        return
    provider.changed = {"email": OWNER, "email_verified": True, **lie}
    assert through(provider, visitor) == "/?refused=openid-provider"
    assert not visitor.is_in


def test_a_provider_that_fails_keeps_nobody_waiting(trusting: Stack, provider: Provider, calls: WorkspaceCalls) -> None:
    """Signed by another key, saying no, or answering without end."""
    visitor = Visitor(trusting.address)
    provider.signs_with_another_key = True
    assert through(provider, visitor) == "/?refused=openid-provider"
    provider.says_no = True
    assert through(provider, visitor) == "/?refused=openid-refused"
    provider.floods = True
    refused = visitor.send("POST", "session/openid")
    assert (refused.status_code, refused.json()["code"]) == (502, "openid-provider")


def test_coming_back_is_good_once_and_in_ones_own_browser(
    trusting: Stack, provider: Provider, calls: WorkspaceCalls
) -> None:
    """Nobody is signed in as another by a link that they were sent."""
    mine, theirs = Visitor(trusting.address), Visitor(trusting.address)
    page = mine.send("POST", "session/openid").json()["page"]
    back = HTTP.get(page).headers["Location"]
    assert theirs.http.get(back).headers["Location"] == "/?refused=openid-refused"
    assert mine.http.get(f"{back}x").headers["Location"] == "/?refused=openid-refused"
    assert mine.http.get(back).headers["Location"] == "/?refused=openid-refused", "one try"


def test_without_a_provider_there_is_no_such_way(stack: Stack) -> None:
    """As it is told."""
    refused = Visitor(stack.address).send("POST", "session/openid")
    assert (refused.status_code, refused.json()["code"]) == (404, "openid-not-set")
    assert Client(stack.address).session().provider == ""
