"""Workspaces, companies, people, tokens and the trail."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import psycopg
import pytest

from inkwell_bridge.client import ApiError, Client, Conflict, Forbidden, Invalid, NotFound, NotSignedIn
from inkwell_bridge.launch.stack import Stack
from tests.support.world import HTTP, OWNER, PASSWORD, World, joined


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
    joined(world.calls, email=email, role="edit", password=PASSWORD)
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


def test_a_role_is_changed_and_recorded(world: World) -> None:
    """One role a person; the newest counts, and the trail tells of all of it."""
    email = f"Wren@{world.slug}.example"
    joined(world.calls, email=email, role="see", name="Wren Dalby")
    world.calls.give_role(email=email, role="operate")
    roles = {member.email: member.role for member in world.calls.people()}
    assert roles[email.lower()] == "operate"
    told = [entry for entry in world.calls.trail() if "role" in entry.details]
    assert [entry.details.get("was") for entry in told] == ["see", None, None]
    trail = [(entry.action, entry.details["role"]) for entry in told]
    assert trail == [("role.given", "operate"), ("invitation.accepted", "see"), ("person.invited", "see")]
    with pytest.raises(Invalid, match="king"):
        world.calls.give_role(email=email, role="king")
    with pytest.raises(Conflict, match="has no role in"):
        world.calls.give_role(email=f"nobody@{world.slug}.example", role="see")


def test_nobody_makes_an_account_for_somebody_elses_address(stack: Stack, world: World) -> None:
    """A role counts once they have come by the link, with a password of their own; the inviter sets none."""
    email = f"stranger@{world.slug}.example"
    invited = world.calls.invite(email=email, role="edit", name="A Stranger")
    assert email not in {member.email for member in world.calls.people()}
    assert [one.email for one in world.calls.invitations()] == [email]
    with pytest.raises(NotSignedIn):
        Client(stack.address).make_token(email=email, password=PASSWORD, name="x")
    told = Client(stack.address).invited_to(invited.link)
    assert (told.email, told.role, told.has_account) == (email, "edit", False)
    entered = Client(stack.address).accept_invitation(invited.link, password=PASSWORD)
    assert (entered.slug, entered.role) == (world.slug, "edit")
    assert Client(stack.address).make_token(email=email, password=PASSWORD, name="x")
    assert list(world.calls.invitations()) == []


def test_an_account_is_entered_by_its_own_password_alone(stack: Stack, world: World) -> None:
    """Whoever made it earlier does not come into a workspace that they were not invited to, nor the invited without
    the password."""
    email = f"twice@{world.slug}.example"
    joined(world.calls, email=email, role="see")
    second = world.client.open_workspace(slug=f"{world.slug}-b", name="B")
    calls = world.client.workspace(second.slug)
    invited = calls.invite(email=email, role="own")
    theirs = Client(stack.address, token=Client(stack.address).make_token(email=email, password=PASSWORD, name="x"))
    assert second.slug not in {entry.slug for entry in theirs.workspaces()}, "not before they have taken it up"
    with pytest.raises(NotSignedIn, match="this is not its password"):
        Client(stack.address).accept_invitation(invited.link, password="another-long-password")
    assert Client(stack.address).invited_to(invited.link).has_account
    Client(stack.address).accept_invitation(invited.link, password=PASSWORD)
    assert second.slug in {entry.slug for entry in theirs.workspaces()}


def test_a_link_works_once_and_for_a_day(stack: Stack, world: World) -> None:
    """One answer where it was used, withdrawn, replaced, has ended or was made up."""
    client = Client(stack.address)
    used, withdrawn, first, old = (world.calls.invite(email=f"{name}@{world.slug}.example", role="see")
                                   for name in ("used", "withdrawn", "replaced", "old"))  # fmt: skip
    client.accept_invitation(used.link, password=PASSWORD)
    world.calls.withdraw_invitation(withdrawn.id)
    assert world.calls.invite(email=first.email, role="operate").link != first.link
    assert (old.ends_at - old.invited_at) == timedelta(days=1)
    with psycopg.connect(stack.environment["DATABASE_URL"]) as database:
        database.execute("UPDATE people_invitation SET ends_at = now() WHERE id = %s", [old.id])
    for link in (used.link, withdrawn.link, first.link, old.link, "made-up"):
        for call in (client.invited_to, lambda one: client.accept_invitation(one, password=PASSWORD)):
            with pytest.raises(ApiError, match=r"was taken up, withdrawn or has ended") as caught:
                call(link)
            assert caught.value.problem.status == 410
    assert "#" in used.link, "behind a #, so that no log of a server has it"
    assert used.link.partition("#")[2] not in str([entry.model_dump() for entry in world.calls.trail()])


@pytest.mark.parametrize(
    ("password", "said"), [("short", "at least 12"), ("password1234", "too common"), ("Wren Dalby 12", "too similar")]
)
def test_a_password_is_a_good_one(stack: Stack, world: World, password: str, said: str) -> None:
    """Long, no common one, not like the name or the address; the invitation stays for another try."""
    email = f"wren.dalby@loom-{world.slug}.example"
    invited = world.calls.invite(email=email, role="see", name="Wren Dalby")
    with pytest.raises(Invalid, match=said):
        Client(stack.address).accept_invitation(invited.link, password=password)
    assert Client(stack.address).accept_invitation(invited.link, password=PASSWORD).role == "see"


def test_two_who_take_it_up_at_once_are_one(stack: Stack, world: World) -> None:
    """The second finds it gone."""
    invited = world.calls.invite(email=f"both@{world.slug}.example", role="see")

    def take(_: int) -> str:
        try:
            return Client(stack.address).accept_invitation(invited.link, password=PASSWORD).role
        except ApiError as error:
            return str(error.problem.status)

    with ThreadPoolExecutor(4) as pool:
        assert sorted(pool.map(take, range(4))) == ["410", "410", "410", "see"]


def test_who_has_a_role_is_not_invited_again(world: World) -> None:
    """Their role is changed."""
    email = f"here@{world.slug}.example"
    joined(world.calls, email=email, role="see")
    with pytest.raises(Conflict, match="has a role here already"):
        world.calls.invite(email=email.upper(), role="own")


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
    joined(world.calls, email=email, role="see", password=PASSWORD)
    text = Client(stack.address).make_token(email=email, password=PASSWORD, name="mine", role="see")
    (token,) = Client(stack.address, token=text).tokens()
    assert (token.name, token.role, token.workspace) == ("mine", "see", None)
    assert text not in token.model_dump_json()


def test_a_token_reaches_no_further_than_its_scope(stack: Stack, world: World) -> None:
    """Not to other workspaces, nor to tokens that may do more, nor to their names."""
    email = f"scope@{world.slug}.example"
    joined(world.calls, email=email, role="own")
    second = world.client.open_workspace(slug=f"{world.slug}-c", name="C")
    invited = world.client.workspace(second.slug).invite(email=email, role="own")
    client = Client(stack.address)
    client.accept_invitation(invited.link, password=PASSWORD)
    given = {"email": email, "password": PASSWORD}
    strong = client.make_token(**given, name="strong")
    other = client.make_token(**given, name="elsewhere", workspace=second.slug, role="see")
    weak = client.make_token(**given, name="weak", workspace=world.slug, role="operate")
    under = Client(stack.address, token=weak)
    assert [(entry.slug, entry.role) for entry in under.workspaces()] == [(world.slug, "operate")]
    assert [(entry.slug, entry.role) for entry in under.session().workspaces] == [(world.slug, "operate")]
    assert [token.name for token in under.tokens()] == ["weak"]
    numbers = {token.name: token.id for token in Client(stack.address, token=strong).tokens()}
    for name in ("strong", "elsewhere"):
        with pytest.raises(NotFound):
            under.withdraw_token(numbers[name])
    assert Client(stack.address, token=other).session().email == email
    under.withdraw_token(numbers["weak"])


def test_nothing_of_people_or_money_is_kept_on_the_way(stack: Stack, world: World) -> None:
    """No cache between keeps an answer, an error neither."""
    for path in (f"workspaces/{world.slug}/people", f"workspaces/{world.slug}/crossings", "session", "nowhere"):
        answer = HTTP.get(f"{stack.address}/api/v1/{path}", headers={"Authorization": f"Bearer {world.token}"})
        assert answer.headers["Cache-Control"] == "no-store", path


def test_without_signing_in_nothing_is_told(stack: Stack, world: World) -> None:
    """401 with what to do, everywhere."""
    anonymous = Client(stack.address)
    for look in (anonymous.workspaces, anonymous.kinds, anonymous.workspace(world.slug).today):
        with pytest.raises(NotSignedIn) as caught:
            look()
        assert "Sign in" in caught.value.problem.hint
    assert anonymous.session().signed_in is False
