"""One's own account: password, browsers, second factor, tokens' use and end."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import psycopg
import pyotp
import pytest

from inkwell_bridge.client import ApiError, Client, Forbidden, Invalid, NotFound, NotSignedIn
from inkwell_bridge.launch.stack import Stack
from tests.support.browser import Visitor
from tests.support.world import PASSWORD, World, joined

ANOTHER = "another-long-password"


@pytest.fixture
def email(world: World) -> str:
    """Somebody with an account."""
    address = f"wren@{world.slug}.example"
    joined(world.calls, email=address, role="own", name="Wren")
    return address


@pytest.fixture
def wren(stack: Stack, email: str) -> Client:
    """Them, under a token without limits."""
    return Client(stack.address, token=Client(stack.address).make_token(email=email, password=PASSWORD, name="all"))


def database(stack: Stack) -> psycopg.Connection:
    """The service's own."""
    return psycopg.connect(stack.environment["DATABASE_URL"])


def test_a_password_is_changed_by_whoever_knows_it(stack: Stack, wren: Client, email: str) -> None:
    """The session that asks stays, every other ends; a token stays."""
    here, there = Visitor(stack.address), Visitor(stack.address)
    for visitor in (here, there):
        assert visitor.sign_in(email).status_code == 200
    wrong = here.send("POST", "password", password="not-the-password", new_password=ANOTHER)
    assert (wrong.status_code, wrong.json()["detail"]) == (401, "This is not your password.")
    short = here.send("POST", "password", password=PASSWORD, new_password="short")
    assert (short.status_code, short.json()["errors"][0]["pointer"]) == (400, "/new_password")
    assert here.send("POST", "password", password=PASSWORD, new_password=ANOTHER).status_code == 204
    assert (here.is_in, there.is_in) == (True, False)
    assert Visitor(stack.address).sign_in(email).status_code == 401
    assert Visitor(stack.address).sign_in(email, ANOTHER).status_code == 200
    assert wren.session().email == email
    wren.account.change_password(password=ANOTHER, new_password=PASSWORD, withdraw_tokens=True)
    with pytest.raises(NotSignedIn):
        wren.session()


def test_passwords_are_kept_by_argon2id(stack: Stack, email: str) -> None:
    """One of an earlier version is kept anew at the next sign-in."""
    with database(stack) as db:
        (kept,) = db.execute("SELECT password FROM people_person WHERE email = %s", [email]).fetchone() or ("",)
        assert kept.startswith("argon2$argon2id$v=19$m=47104,t=1,p=1$")
        earlier = stack.administer("shell", "-c", "from django.contrib.auth.hashers import make_password as m; "
                                   f"print(m({PASSWORD!r}, hasher='scrypt'))").strip().splitlines()[-1]  # fmt: skip
        assert earlier.startswith("scrypt$")
        db.execute("UPDATE people_person SET password = %s WHERE email = %s", [earlier, email])
    assert Visitor(stack.address).sign_in(email).status_code == 200
    with database(stack) as db:
        (kept,) = db.execute("SELECT password FROM people_person WHERE email = %s", [email]).fetchone() or ("",)
    assert kept.startswith("argon2$argon2id$")


def test_one_sees_and_ends_ones_browsers(stack: Stack, wren: Client, email: str) -> None:
    """From where, with what, since when; nobody else's, and no key of a session stands in the database."""
    here, there = Visitor(stack.address, agent="Loom/1.0"), Visitor(stack.address, agent="Spindle/2.0 " + "x" * 500)
    spindle = ("Spindle/2.0 " + "x" * 500)[:200]
    for visitor in (here, there):
        visitor.sign_in(email)
    found = {row["browser"]: row for row in here.get("sessions").json()["items"]}
    assert set(found) == {"Loom/1.0", spindle}
    assert (found["Loom/1.0"]["current"], found[spindle]["current"]) == (True, False)
    assert found["Loom/1.0"]["address"] == "127.0.0.1"
    with database(stack) as db:
        keys = {key for (key,) in db.execute("SELECT session_key FROM people_browsersession")}
    assert len(keys) >= 2
    assert not keys & {visitor.http.cookies["inkwell_session"] for visitor in (here, there)}
    other = Client(stack.address, token=Client(stack.address).make_token(email=email, password=PASSWORD, name="x"))
    other.account.end_browser(found[spindle]["number"])
    assert (here.is_in, there.is_in) == (True, False)
    there.sign_in(email)
    assert here.send("DELETE", "sessions").status_code == 204
    assert (here.is_in, there.is_in) == (True, False)
    assert [row.current for row in wren.account.browsers()] == [False]
    wren.account.end_browsers()
    assert not here.is_in


def test_nobody_ends_the_browser_of_another(stack: Stack, world: World, wren: Client, email: str) -> None:
    """Its number opens nothing to them."""
    here = Visitor(stack.address)
    here.sign_in(email)
    (number,) = [row.number for row in wren.account.browsers()]
    with pytest.raises(NotFound):
        world.client.account.end_browser(number)
    assert here.is_in


def test_signing_out_ends_the_session(stack: Stack, email: str) -> None:
    """The cookie that was kept aside opens nothing afterwards."""
    here = Visitor(stack.address)
    here.sign_in(email)
    kept = here.http.cookies["inkwell_session"]
    assert here.send("DELETE", "session").status_code == 204
    here.http.cookies.set("inkwell_session", kept, domain="127.0.0.1")
    assert not here.is_in


def turned_on(wren: Client) -> tuple[pyotp.TOTP, list[str]]:
    """The second factor, on, as the app of its owner knows it; and the recovery codes."""
    offered = wren.account.begin_second_factor(password=PASSWORD)
    assert offered.address.startswith("otpauth://totp/")
    assert offered.picture.startswith("data:image/svg+xml")
    app = pyotp.parse_uri(offered.address)
    assert isinstance(app, pyotp.TOTP)
    # Of the step before: the code that is shown now stays good for the test.
    return app, wren.account.confirm_second_factor(app.at(int(time.time()) - 30))


def test_the_second_factor(stack: Stack, wren: Client, email: str) -> None:
    """From the first code on signing in takes one, everywhere, and each is good once."""
    app, codes = turned_on(wren)
    assert len(set(codes)) == 10
    assert (wren.account.second_factor().on, wren.account.second_factor().recovery_codes) == (True, 10)
    here = Visitor(stack.address)
    asked = here.sign_in(email)
    assert (asked.status_code, asked.json()["code"]) == (401, "code-needed")
    assert here.sign_in(email, "not-the-password").json()["code"] != "code-needed", "the password comes first"
    assert here.sign_in(email, code="000000").json()["detail"].startswith("This code is wrong")
    code = app.now()
    assert here.sign_in(email, code=code).status_code == 200
    assert Visitor(stack.address).sign_in(email, code=code).status_code == 401, "a code is good once"
    with pytest.raises(NotSignedIn, match="authenticator app"):
        Client(stack.address).make_token(email=email, password=PASSWORD, name="x")
    with pytest.raises(NotSignedIn, match="authenticator app"):
        wren.account.change_password(password=PASSWORD, new_password=ANOTHER)
    assert Client(stack.address).make_token(email=email, password=PASSWORD, name="x", code=codes[0])
    with pytest.raises(NotSignedIn, match="wrong, or was used"):
        Client(stack.address).make_token(email=email, password=PASSWORD, name="x", code=codes[0])
    fresh = wren.account.renew_recovery_codes(password=PASSWORD, code=codes[1].upper().replace("-", " "))
    assert not set(fresh) & set(codes)
    with pytest.raises(NotSignedIn, match="authenticator app"):
        wren.account.begin_second_factor(password=PASSWORD)
    wren.account.turn_off_second_factor(password=PASSWORD, code=fresh[0])
    assert Visitor(stack.address).sign_in(email).status_code == 200


def test_a_wrong_first_code_turns_nothing_on(wren: Client) -> None:
    """Or its owner would be kept out."""
    wren.account.begin_second_factor(password=PASSWORD)
    for code in ("000000", "", "٣٣٣٣٣٣"):
        with pytest.raises(Invalid):
            wren.account.confirm_second_factor(code)
    assert not wren.account.second_factor().on
    with pytest.raises(NotSignedIn, match="not your password"):
        wren.account.begin_second_factor(password="not-the-password")


def test_of_two_with_one_code_one_comes_in(stack: Stack, wren: Client, email: str) -> None:
    """Also at the same moment, with a recovery code as well."""
    app, codes = turned_on(wren)
    visitors = [Visitor(stack.address) for _ in range(4)]
    for code in (app.now(), codes[0]):
        with ThreadPoolExecutor(4) as pool:
            answers = list(pool.map(lambda one, given=code: one.sign_in(email, code=given).status_code, visitors))
        assert sorted(answers) == [200, 401, 401, 401]


def test_the_secret_is_sealed(stack: Stack, wren: Client, email: str) -> None:
    """And opens under the newest key after a rotation."""
    offered = wren.account.begin_second_factor(password=PASSWORD)
    with database(stack) as db:
        (sealed,) = db.execute(
            "SELECT sealed FROM people_secondfactor JOIN people_person p ON p.id = person_id WHERE email = %s", [email]
        ).fetchone() or (b"",)
    assert bytes(sealed).startswith(b"gAAAA")
    stack.administer("rotate_keys")
    assert wren.account.confirm_second_factor(pyotp.TOTP(offered.secret).now())


def test_an_invitation_takes_the_code_too(stack: Stack, world: World, wren: Client, email: str) -> None:
    """Password and link alone do not bring a role to an account with a second factor."""
    app, _ = turned_on(wren)
    second = world.client.open_workspace(slug=f"{world.slug}-z", name="Z")
    invited = world.client.workspace(second.slug).invite(email=email, role="see")
    with pytest.raises(NotSignedIn, match="authenticator app"):
        Client(stack.address).accept_invitation(invited.link, password=PASSWORD)
    assert Client(stack.address).accept_invitation(invited.link, password=PASSWORD, code=app.now()).role == "see"


def test_a_limited_token_does_not_reach_the_account(stack: Stack, world: World, email: str) -> None:
    """Neither password nor browsers nor second factor."""
    for limits in ({"role": "edit"}, {"workspace": world.slug}):
        token = Client(stack.address).make_token(email=email, password=PASSWORD, name="x", **limits)
        account = Client(stack.address, token=token).account
        for call in (
            lambda one=account: list(one.browsers()),
            account.end_browsers,
            account.second_factor,
            lambda one=account: one.begin_second_factor(password=PASSWORD),
            lambda one=account: one.change_password(password=PASSWORD, new_password=ANOTHER),
        ):
            with pytest.raises(Forbidden, match="limited to a role or a workspace"):
                call()


def test_a_token_says_when_it_was_used_and_that_it_ends(stack: Stack, email: str) -> None:
    """From two weeks before, with every answer."""
    for days, warned in ((13, True), (15, False)):
        ends_at = datetime.now(UTC) + timedelta(days=days)
        text = Client(stack.address).make_token(email=email, password=PASSWORD, name=f"{days}", expires_at=ends_at)
        client = Client(stack.address, token=text)
        before = datetime.now(UTC)
        rows = {token.name: token for token in client.tokens()}
        used = {token.name: token.last_used_at for token in client.tokens()}[f"{days}"]
        assert used is not None
        assert timedelta() <= used - before < timedelta(seconds=30)
        assert rows[f"{days}"].ends_soon is warned
        assert (client.token_ends_at is not None) is warned
        if warned:
            assert client.token_ends_at == ends_at


def test_without_a_mail_server_a_reset_says_so_and_the_machine_helps(stack: Stack, wren: Client, email: str) -> None:
    """Whoever runs the service sets a password there; a lost app is forgotten only where they say so."""
    with pytest.raises(ApiError, match="no mail server") as caught:
        Client(stack.address).ask_for_reset(email)
    assert caught.value.problem.code == "no-mail-server"
    turned_on(wren)
    stack.administer("set_password", email, given=f"{ANOTHER}\n")
    assert Visitor(stack.address).sign_in(email, ANOTHER).json()["code"] == "code-needed"
    stack.administer("set_password", email, "--without-second-factor", given=f"{ANOTHER}\n")
    assert Visitor(stack.address).sign_in(email, ANOTHER).status_code == 200
    with pytest.raises(ApiError, match=r"was used, or has ended"):
        Client(stack.address).choose_password("made-up", new_password=ANOTHER)
