"""A service set as in earnest: invitations go by mail, and nobody else sees their links; guessing is slowed down."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

import httpx
import psycopg
import pytest

from inkwell_bridge.client import Client, Conflict, Invalid, NotFound
from inkwell_bridge.launch import places
from inkwell_bridge.launch.stack import Stack
from tests.support.browser import Visitor
from tests.support.mail import MailServer, mail_server
from tests.support.world import FAST, HTTP, OWNER, PASSWORD, first_owner, running, wait_for


@pytest.fixture(scope="module")
def mail() -> Iterator[MailServer]:
    """Where mail goes."""
    with mail_server() as server:
        yield server


@pytest.fixture(scope="module")
def mailing(
    mail: MailServer, new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Stack]:
    """A service that is told of it."""
    mailing = {"INKWELL_SMTP": mail.address, "INKWELL_MAIL_FROM": "bridge@inkwell.example",
               "INKWELL_FAILED_SIGN_INS": "10"}  # fmt: skip
    made = Stack(
        database_url=new_database("mail"),
        home=tmp_path_factory.mktemp("mail"),
        console=places.console(),
        extra={**FAST, **mailing},
    )
    with running(made):
        yield made


def test_an_invitation_is_mailed_to_whom_it_is_for(mailing: Stack, mail: MailServer) -> None:
    """The inviter sees no link; whoever reads the mail comes by it."""
    calls = Client(mailing.address, token=first_owner(mailing)).workspace("first")
    invited = calls.invite(email="wren@loom.example", role="operate", name="Wren")
    assert invited.link == ""
    (message,) = mail.messages
    assert "To: wren@loom.example" in message
    assert "From: bridge@inkwell.example" in message
    link = re.search(r"http://\S+/invitation#\S+", message)
    assert link
    assert Client(mailing.address).accept_invitation(link[0], password=PASSWORD).role == "operate"
    # A mail that could not be sent leaves nothing behind that somebody could wait for.
    mail.refuses = True
    with pytest.raises(Conflict, match=r"could not be mailed"):
        calls.invite(email="nobody@loom.example", role="see")
    assert list(calls.invitations()) == []


def test_a_forgotten_password_is_chosen_anew(mailing: Stack, mail: MailServer) -> None:
    """By a link that is mailed to its owner, works once and for an hour, and ends every session; whether there is such
    an account is told to nobody."""
    email = "forgetful@loom.example"
    mailing.administer("open_workspace", "loom", "--name", "Loom", "--owner", email, given=f"{PASSWORD}\n")
    mail.refuses, mail.messages[:] = False, []
    anonymous, before = Client(mailing.address), Visitor(mailing.address)
    assert Client(mailing.address).session().mails
    before.sign_in(email)
    for address in ("nobody@loom.example", email.upper()):
        anonymous.ask_for_reset(address)
    wait_for(lambda: mail.messages or None, seconds=20, what="the mail")
    (message,) = mail.messages
    assert f"To: {email}" in message
    link = re.search(r"http://\S+/password#\S+", message)
    assert link
    with pytest.raises(Invalid, match="at least 12"):
        anonymous.choose_password(link[0], new_password="short")
    anonymous.choose_password(link[0], new_password="a-password-chosen-anew")
    assert not before.is_in
    assert before.sign_in(email).status_code == 401
    assert before.sign_in(email, "a-password-chosen-anew").status_code == 200
    number, _, token = link[0].rpartition("#")[2].partition(".")
    for used in (link[0], f"{number}.x-{token}", f"{int(number) + 1}.{token}", "0.0", "9" * 100, "x.y"):
        with pytest.raises(NotFound, match=r"was used, or has ended"):
            anonymous.choose_password(used, new_password="yet-another-password")
    # Nobody's letter box is filled by somebody who keeps asking: three in a quarter of an hour.
    for _ in range(5):
        anonymous.ask_for_reset(email)
    wait_for(lambda: True if len(mail.messages) == 3 else None, seconds=20, what="the mails")
    with psycopg.connect(mailing.environment["DATABASE_URL"]) as database:
        waiting = "SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'mail_reset' AND status = 'todo'"
        wait_for(lambda: database.execute(waiting).fetchone() == (0,) or None, seconds=20, what="the jobs")
    assert len(mail.messages) == 3


def test_guessing_a_password_is_slowed_down(mailing: Stack) -> None:
    """After ten failures from one address not even the right one is looked at; a made-up address changes nothing, and
    others sign in as ever."""
    email, other = OWNER, "other@loom.example"
    mailing.administer("open_workspace", "others", "--name", "Others", "--owner", other, given=f"{PASSWORD}\n")
    first_owner(mailing)

    def sign_in(address: str, password: str, person: str = email) -> httpx.Response:
        given = {"email": person, "password": password, "name": "x"}
        return HTTP.post(f"{mailing.address}/api/v1/tokens", json=given, headers={"X-Forwarded-For": address})

    assert [sign_in(f"203.0.113.{number}", "not-the-password").status_code for number in range(10)] == [401] * 10
    refused = sign_in("203.0.113.99", PASSWORD)
    assert refused.status_code == 429
    assert refused.json()["detail"].startswith("Too many tries to sign in with this account have failed.")
    assert 800 < int(refused.headers["Retry-After"]) <= 901
    assert sign_in("203.0.113.99", PASSWORD, other).status_code == 201
    with psycopg.connect(mailing.environment["DATABASE_URL"]) as database:
        kept = database.execute("SELECT digest FROM people_signinfailure").fetchall()
        assert kept
        assert all(len(digest) == 64 and "@" not in digest for (digest,) in kept)
        database.execute("UPDATE people_signinfailure SET at = at - interval '16 minutes'")
    assert sign_in("203.0.113.99", PASSWORD).status_code == 201
