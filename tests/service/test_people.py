"""Workspaces, companies, people, tokens and the trail."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta

import pytest

from inkwell_bridge.client import Client, Forbidden, Invalid, NotSignedIn
from inkwell_bridge.launch.stack import Stack
from tests.support.world import OWNER, PASSWORD, World


def test_who_owns_a_workspace_may_open_another(world: World) -> None:
    """A specialist has several clients; a name is taken once."""
    client = world.client
    opened = client.open_workspace(slug=f"{world.slug}-two", name="A second client")
    assert (opened.role, opened.name) == ("own", "A second client")
    assert f"{world.slug}-two" in {entry.slug for entry in client.workspaces()}
    with pytest.raises(Invalid, match="is taken"):
        client.open_workspace(slug=world.slug, name="Again")


def test_who_owns_none_may_open_none(stack: Stack, world: World) -> None:
    """A role of less than own is not enough."""
    email = f"edit@{world.slug}.example"
    world.calls.give_role(email=email, role="edit", password=PASSWORD)
    client = Client(stack.address, token=Client(stack.address).make_token(email=email, password=PASSWORD, name="x"))
    with pytest.raises(Forbidden, match="Only who owns a workspace may open another"):
        client.open_workspace(slug="theirs", name="Theirs")


def test_a_company_is_made_once(world: World) -> None:
    """With an ISO currency and country."""
    fields = {
        "slug": "ireland",
        "name": "Marrowby Ireland DAC",
        "country": "IE",
        "currency": "EUR",
        "time_zone": "Europe/Dublin",
    }
    assert world.calls.create_company(**fields).currency == "EUR"
    with pytest.raises(Invalid, match="A company 'ireland' is here already"):
        world.calls.create_company(**fields)


@pytest.mark.parametrize("zone", ["Moon/Base", "", "../etc/passwd"])
def test_a_company_needs_a_time_zone_that_exists(world: World, zone: str) -> None:
    """Or no date of it could be told."""
    with pytest.raises(Invalid) as caught:
        world.calls.create_company(slug="x", name="X", country="GB", currency="GBP", time_zone=zone)
    assert caught.value.problem.errors[0].pointer == "/time_zone"


def test_a_role_is_given_changed_and_recorded(world: World) -> None:
    """One role a person; the newest counts, and the trail tells of both."""
    email = f"Wren@{world.slug}.example"
    world.calls.give_role(email=email, role="see", name="Wren Dalby", password=PASSWORD)
    world.calls.give_role(email=email, role="operate")
    roles = {member.email: member.role for member in world.calls.people()}
    assert roles[email.lower()] == "operate"
    given = [entry.details["role"] for entry in world.calls.trail() if entry.action == "role.given"]
    assert given == ["operate", "see"]


def test_somebody_new_needs_a_password_of_some_length(world: World) -> None:
    """And a role that exists."""
    email = f"new@{world.slug}.example"
    with pytest.raises(Invalid, match="needs a password"):
        world.calls.give_role(email=email, role="see")
    with pytest.raises(Invalid, match="at least 12"):
        world.calls.give_role(email=email, role="see", password="short")
    with pytest.raises(Invalid, match="king"):
        world.calls.give_role(email=email, role="king", password=PASSWORD)
    assert email not in {member.email for member in world.calls.people()}


def test_a_token_ends_when_it_was_to_end(stack: Stack, world: World) -> None:
    """To the second."""
    client = Client(stack.address)
    past = datetime.now(UTC) - timedelta(seconds=1)
    with pytest.raises(Invalid, match="Expected a moment to come"):
        client.make_token(email=OWNER, password=PASSWORD, name="ended", expires_at=past)
    soon = datetime.now(UTC) + timedelta(seconds=5)
    ended = client.make_token(email=OWNER, password=PASSWORD, name="ended", expires_at=soon)

    assert Client(stack.address, token=ended).session().email == OWNER
    time.sleep(max((soon - datetime.now(UTC)).total_seconds(), 0) + 0.2)
    with pytest.raises(NotSignedIn, match="has expired"):
        Client(stack.address, token=ended).session()
    future = datetime.now(UTC) + timedelta(hours=1)
    good = client.make_token(email=OWNER, password=PASSWORD, name="good", expires_at=future)
    assert Client(stack.address, token=good).session().email == OWNER
    assert world.slug in {entry.slug for entry in Client(stack.address, token=good).workspaces()}


def test_tokens_are_listed_without_their_text(stack: Stack, world: World) -> None:
    """One's own alone."""
    email = f"tokens@{world.slug}.example"
    world.calls.give_role(email=email, role="see", password=PASSWORD)
    text = Client(stack.address).make_token(email=email, password=PASSWORD, name="mine", role="see")
    (token,) = Client(stack.address, token=text).tokens()
    assert (token.name, token.role, token.workspace) == ("mine", "see", None)
    assert text not in token.model_dump_json()


def test_without_signing_in_nothing_is_told(stack: Stack, world: World) -> None:
    """401 with what to do, everywhere."""
    anonymous = Client(stack.address)
    for look in (anonymous.workspaces, anonymous.kinds, anonymous.workspace(world.slug).today):
        with pytest.raises(NotSignedIn) as caught:
            look()
        assert "Sign in" in caught.value.problem.hint
    assert anonymous.session().signed_in is False
