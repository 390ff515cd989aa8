"""Signing in at an end through its consent page, and what all workers share of it: the token and the pace."""

from __future__ import annotations

import os
import re
import subprocess
import sys

import psycopg
import pytest

from inkwell_bridge.client import Client, Conflict, NotFound
from inkwell_bridge.client.models import Connection
from tests.ends.test_marketplace import agreed_to
from tests.support.ends import BENCHES
from tests.support.world import HTTP, PASSWORD, World, joined

MARKET = BENCHES["marketplace"]
BACK = "http://127.0.0.1:50123/signed-in"
ALL = {"sales": "on", "handbacks": "on", "sales.write": "on"}
PROCESSES, CALLS = 3, 45


@pytest.fixture
def fair(world: World) -> Connection:
    """The marketplace, connected by its consent page; nobody has signed in yet."""
    return connected(world, grant="consent page")


def connected(world: World, **credentials: str) -> Connection:
    """A connection to the marketplace."""
    return world.calls.create_connection(
        slug="fair", name="Lanternfair", kind="marketplace", address=MARKET.address(world),
        credentials={**MARKET.credentials, **credentials},
    )  # fmt: skip


def signed_in(world: World, scopes: dict[str, str] = ALL) -> Connection:
    """The connection, once somebody went to the page and came back."""
    calls = world.calls.connection("fair")
    begun = calls.begin_sign_in(return_to=BACK)
    there = agreed_to(begun.page, **scopes)
    return calls.finish_sign_in(state=there.params["state"], code=there.params["code"])


def test_the_kind_says_that_it_has_a_page(world: World) -> None:
    """And its form offers both ways."""
    kinds = {kind.name: kind for kind in world.client.kinds()}
    assert [name for name, kind in kinds.items() if kind.has_consent_page] == ["marketplace"]
    grant = kinds["marketplace"].credentials_schema["properties"]["grant"]
    assert grant["enum"] == ["client credentials", "consent page"]


def test_with_its_own_key_the_application_needs_nobody(world: World) -> None:
    """Client credentials; there is nothing to sign in to."""
    made = connected(world)
    assert (made.state, made.signed_in) == ("connected", None)
    with pytest.raises(Conflict, match="no consent page that we sign in through"):
        world.calls.connection("fair").begin_sign_in(return_to=BACK)


def test_signing_in(world: World, fair: Connection) -> None:
    """Until then it says what to do; afterwards who did it, and the trail as well."""
    assert fair.state == "sign-in"
    assert "Sign in through its consent page" in fair.state_text
    found = signed_in(world)
    assert found.state == "connected"
    assert found.signed_in is not None
    assert (found.signed_in.by != "", found.signed_in.at is not None) == (True, True)
    assert next(one.action for one in world.calls.trail() if one.about == "fair") == "connection.signed-in"


def test_what_was_not_allowed_is_a_missing_right(world: World, fair: Connection) -> None:
    """With what to do about it."""
    found = signed_in(world, {"sales": "on"})
    assert found.state == "limited"
    assert "read money handed back: Sign in through the consent page again" in found.state_text


def test_a_sign_in_is_good_once_and_for_its_own_person(world: World, fair: Connection) -> None:
    """Nobody finishes what another began, or the same again; nothing is changed by trying."""
    calls = world.calls.connection("fair")
    joined(world.calls, email=f"other@{world.slug}.example", role="edit", password=PASSWORD)
    token = Client(world.stack.address).make_token(email=f"other@{world.slug}.example", password=PASSWORD, name="t")
    other = Client(world.stack.address, token=token).workspace(world.slug).connection("fair")
    begun = calls.begin_sign_in(return_to=BACK)
    there = agreed_to(begun.page, **ALL)
    for who, state in ((other, begun.state), (calls, f"{begun.state}x")):
        with pytest.raises(Conflict, match="No sign-in with this state is under way for you"):
            who.finish_sign_in(state=state, code=there.params["code"])
    assert calls.finish_sign_in(state=begun.state, code=there.params["code"]).state == "connected"
    with pytest.raises(Conflict):
        calls.finish_sign_in(state=begun.state, code=there.params["code"])


def test_refusing_on_the_page_is_told(world: World, fair: Connection) -> None:
    """The page's own word, and the connection as it was."""
    calls = world.calls.connection("fair")
    begun = calls.begin_sign_in(return_to=BACK)
    there = agreed_to(begun.page, answer="refuse")
    with pytest.raises(Conflict, match="did not let us in: access_denied"):
        calls.finish_sign_in(state=begun.state, error=there.params["error"])
    assert calls.read().state == "sign-in"


@pytest.mark.parametrize("elsewhere", [
    "https://elsewhere.example/signed-in", "http://10.0.0.1/signed-in", "javascript:alert(1)",
    "https://127.0.0.1/signed-in", "//elsewhere.example",
])  # fmt: skip
def test_the_page_sends_nobody_elsewhere(world: World, fair: Connection, elsewhere: str) -> None:
    """Only to the service itself, or to a listener on loopback."""
    with pytest.raises(Conflict, match="neither this service nor on loopback"):
        world.calls.connection("fair").begin_sign_in(return_to=elsewhere)


def test_what_is_over_must_be_signed_in_again(world: World, fair: Connection) -> None:
    """The other end took it all back: the state says so, the trail too; signing in mends it."""
    signed_in(world)
    MARKET.put(world, sign_out=True)
    found = world.calls.connection("fair").check()
    assert (found.state, "is over" in found.state_text) == ("sign-in", True)
    assert next(one.action for one in world.calls.trail() if one.about == "fair") == "connection.credentials-failed"
    assert signed_in(world).state == "connected"


def test_a_new_secret_is_tried_at_once_and_an_old_token_goes_to_no_other_address(
    world: World, fair: Connection
) -> None:
    """A wrong secret shows although the token still lasts; another address never sees the token."""
    signed_in(world)
    calls = world.calls.connection("fair")
    assert calls.change(credentials={"client_secret": "wrong"}).state == "refused"
    assert calls.change(credentials={"client_secret": MARKET.credentials["client_secret"]}).state == "connected"
    moved = calls.change(address=f"{world.stack.standin('marketplace')}/elsewhere")
    assert (moved.state, moved.signed_in and moved.signed_in.at) == ("sign-in", None)


def test_no_token_is_readable_in_the_database(world: World, fair: Connection) -> None:
    """Sealed, and under the newest key after a rotation, with which it still opens."""
    signed_in(world)
    contents = MARKET.contents(world)
    assert not {"token", "grant", "code"} & set(contents)
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        rows = db.execute("SELECT sealed FROM connections_grant WHERE length(sealed) > 0").fetchall()
    assert rows
    assert all(bytes(sealed).startswith(b"gAAAA") for (sealed,) in rows)
    world.stack.administer("rotate_keys")
    assert world.calls.connection("fair").check().state == "connected"


def test_an_unknown_connection_is_not_found(world: World) -> None:
    """As everywhere."""
    with pytest.raises(NotFound):
        world.calls.connection("nothing").begin_sign_in(return_to=BACK)


def test_workers_share_the_token_and_the_pace(world: World, fair: Connection) -> None:
    """Three processes over several lives of a token: the marketplace ends a sign-in whose spent token turns up
    again, and turns away whoever comes too fast; neither happens, though together they call all the time."""
    MARKET.change_company(world, token_seconds=2)
    signed_in(world)
    before = seen_at_the_market(world)
    found = [
        subprocess.Popen(
            [sys.executable, "-m", "tests.support.caller", world.slug, "fair", str(CALLS)],
            env={**os.environ, **world.stack.environment}, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )
        for _ in range(PROCESSES)
    ]  # fmt: skip
    said = [process.communicate(timeout=120) for process in found]
    assert [process.returncode for process in found] == [0] * PROCESSES, said
    assert [out for out, _ in said] == ["busy 0\n"] * PROCESSES
    answered, turned_away = seen_at_the_market(world)
    assert (answered - before[0], turned_away) == (PROCESSES * CALLS, 0)
    assert world.calls.connection("fair").check().state == "connected"


def seen_at_the_market(world: World) -> tuple[int, int]:
    """How many calls it answered, and how many came too fast."""
    page = HTTP.get(f"{world.stack.standin('marketplace')}/{world.slug}/").text
    answered, fast = re.findall(r"<tr><td>(\d+)</td><td>(\d+)</td></tr>", page)[-1]
    return int(answered), int(fast)
