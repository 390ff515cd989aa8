"""Notices: by e-mail through a real mail server, and by signed calls to a receiver that checks them."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from decimal import Decimal
from email.message import EmailMessage
from typing import Any

import psycopg
import pytest

from inkwell_bridge.client import Client, Invalid
from inkwell_bridge.client.models import Trouble
from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.stack import Stack
from tests.support.formats import published
from tests.support.mail import MailServer, mail_server
from tests.support.receiver import Receiver, receiver
from tests.support.world import (
    BRIDGE,
    FAST,
    HTTP,
    OWNER,
    PASSWORD,
    World,
    first_owner,
    invoices_alone,
    new_world,
    running,
    wait_for,
    with_few_orders,
)

# Nothing is told again within a test unless it grew.
NOTICES = {"INKWELL_NOTICE_LASTS_SECONDS": "86400"}
NOTICE = published("notice-1")


@pytest.fixture(scope="module")
def mail() -> Iterator[MailServer]:
    """Where mail goes."""
    with mail_server() as server:
        yield server


@pytest.fixture(scope="module")
def mailing(
    mail: MailServer, new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Stack]:
    """A service that is told of the mail server."""
    made = Stack(
        database_url=new_database("notices"),
        home=tmp_path_factory.mktemp("notices"),
        console=places.console(),
        extra={**FAST, **NOTICES, "INKWELL_SMTP": mail.address, "INKWELL_MAIL_FROM": "bridge@inkwell.example"},
    )
    demo_client.set_clock(made)
    with running(made):
        yield made


@pytest.fixture(scope="module")
def token(mailing: Stack) -> str:
    """Of somebody who may open workspaces."""
    return first_owner(mailing)


@pytest.fixture
def told(mailing: Stack, token: str, mail: MailServer) -> World:
    """A world of one's own, with nobody told of anything."""
    made = new_world(mailing, token)
    mail.messages.clear()
    mail.refuses = False
    return made


@pytest.fixture
def hook() -> Iterator[Receiver]:
    """Somebody who is called; whatever it was told is as the published schema has it."""
    with receiver() as server:
        yield server
    for event in server.events:
        NOTICE.validate(event)


def of(mail: MailServer, world: World) -> list[EmailMessage]:
    """The mails about a world."""
    return [one for one in mail.read() if world.slug in str(one["Subject"])]


def mails(mail: MailServer, world: World, number: int) -> list[EmailMessage]:
    """The same, once there are so many."""

    def look() -> list[EmailMessage] | None:
        found = of(mail, world)
        return found if len(found) >= number else None

    return wait_for(look, seconds=30, what="the mail")


def troubles(world: World, number: int) -> list[Trouble]:
    """What needs somebody, once it is so many things."""

    def look() -> list[Trouble] | None:
        found = world.calls.troubles().troubles
        return found if len(found) == number else None

    return wait_for(look, seconds=30, what="the troubles")


def come(world: World, mail: MailServer, email: str) -> None:
    """Invite somebody, who comes by the link in the mail."""
    world.calls.invite(email=email, role="see", name="Wren")
    text = wait_for(lambda: next((one for one in mail.messages if email in one), None), seconds=10, what="the mail")
    link = re.search(r"http://\S+/invitation#\S+", text.replace("=\r\n", ""))
    assert link
    Client(world.stack.address).accept_invitation(link[0], password=PASSWORD)


def token_of(world: World, email: str) -> str:
    """A token of somebody's."""
    path = f"{world.stack.address}/api/v1/tokens"
    answer = HTTP.post(path, json={"email": email, "password": PASSWORD, "name": "test"})
    return str(answer.raise_for_status().json()["token"])


# -- what is told ------------------------------------------------------------------------------------------------------


def test_two_orders_held_by_one_cause_are_one_mail_and_well_again_another(told: World, mail: MailServer) -> None:
    """With the money, the oldest and a link to where it is mended; once mended it is said once."""
    made = told.calls.add_notice_rule(channel="mail")
    assert (made.person, made.secret, made.time_zone) == (OWNER, "", "Europe/London")
    told.run()
    (first,) = mails(mail, told, 1)
    held = "2 orders held, 71.37 GBP: a tax class has no tax code (Web shop to UK books)"
    assert first["Subject"] == f"Marrowby of {told.slug}: {held}"
    assert (first["To"], first["From"]) == (OWNER, "bridge@inkwell.example")
    text = first.get_content()
    assert f"New: {held}" in text
    assert "the oldest is MW-10031" in text
    link = f"{told.stack.address}/{told.slug}/holds?cause=tax-class-unmapped&bridge={BRIDGE}&kind=orders"
    assert link in text.replace("=\n", "")
    (trouble,) = told.calls.troubles().troubles
    assert (trouble.count, trouble.amounts, trouble.lane) == (2, {"GBP": Decimal("71.37")}, "orders")
    # Nothing more is said of it, however often it is looked at.
    time.sleep(4)
    assert len(of(mail, told)) == 1
    reduced = invoices_alone().replace("    zero: Z00\n", "    zero: Z00\n    reduced: R05\n", 1)
    calls = told.calls.bridge(BRIDGE)
    calls.publish_rulebook(calls.write_rulebook(reduced).number)
    told.calls.release(cause="tax-class-unmapped")
    over = mails(mail, told, 2)[1]
    assert over["Subject"] == (
        f"Marrowby of {told.slug}: No orders held any more: a tax class has no tax code (Web shop to UK books)"
    )
    assert told.calls.troubles().troubles == []
    (past,) = told.calls.past_troubles()
    assert past.ended_at is not None
    assert [one.state for one in told.calls.notices()] == ["sent", "sent"]


def test_what_grows_is_told_again_and_what_is_meant_for_others_is_not(told: World, mail: MailServer) -> None:
    """Only failed runs, only refunds: no mail. Held orders: two, for they have doubled."""
    told.calls.add_notice_rule(channel="mail", kinds=["run failed"])
    told.calls.add_notice_rule(channel="mail", lanes=["refunds"])
    told.calls.add_notice_rule(channel="mail", bridges=[BRIDGE], lanes=["orders"], kinds=["held"])
    order = next(one for one in told.held_by("web-shop")["order"] if one["reference"] == "MW-10031")
    told.put_orders(order, reset=True)
    told.run()
    mails(mail, told, 1)
    told.put_orders(*[{**order, "id": 90_000 + n, "reference": f"MW-9000{n}"} for n in range(3)])
    told.run()
    second = mails(mail, told, 2)[1]
    assert "Grew: 4 orders held" in second.get_content()
    time.sleep(2)
    assert len(of(mail, told)) == 2


def test_a_silent_end_is_one_incident_and_an_answer_clears_it(told: World, mail: MailServer, hook: Receiver) -> None:
    """With the documents and the money that wait behind it, when it is asked again, and a call when it is well."""
    with_few_orders(told)
    made = told.calls.add_notice_rule(channel="call", address=hook.address, kinds=["end"])
    hook.secret = made.secret
    told.misbehave("erp", {"call": "invoices.create", "kind": "busy", "times": 100_000})
    told.calls.bridge(BRIDGE).run()
    (trouble,) = troubles(told, 1)
    assert (trouble.kind, trouble.connection, trouble.page) == ("end", "uk-books", "connections/uk-books")
    event = wait_for(lambda: next(iter(hook.events), None), seconds=30, what="the call")
    assert (event["type"], event["specversion"], event["content-type"]) == (
        "inkwell.troubles", "1.0", "application/cloudevents+json",
    )  # fmt: skip
    (said,) = event["data"]["troubles"]
    assert (said["kind"], said["reason"], said["about"]) == ("end", "new", "Marrowby UK books")
    assert said["link"] == f"{told.stack.address}/{told.slug}/connections/uk-books"
    assert wait_for(lambda: told.calls.troubles().troubles[0].count or None, seconds=30, what="what waits") > 0
    told.misbehave("erp")
    told.settled()
    over = wait_for(lambda: next((one for one in hook.events if "Answers again" in one["data"]["subject"]), None),
                    seconds=30, what="the call that it is well")  # fmt: skip
    assert over["data"]["troubles"][0]["reason"] == "over"
    assert told.calls.troubles().troubles == []
    assert hook.badly_signed == 0


def test_a_run_that_fails_is_told_until_one_ends(told: World) -> None:
    """A key that is refused."""
    told.calls.connection("web-shop").change(credentials={"key": "wrong", "secret": "wrong"})
    told.run()
    kinds = {one.kind: one for one in troubles(told, 2)}
    assert set(kinds) == {"run failed", "end"}
    assert "web-shop" in kinds["end"].connection
    assert "refused" in kinds["run failed"].text


# -- how it is sent ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("how", "said"), [
    ("500", "failed with status 500"), ("redirect", "answered with status 302"), ("slowly", "did not answer in full"),
])  # fmt: skip
def test_the_test_button_says_what_happened(told: World, hook: Receiver, how: str, said: str) -> None:
    """No redirect is followed; nobody waits for ever."""
    made = told.calls.add_notice_rule(channel="call", address=hook.address)
    hook.secret = made.secret
    fine = told.calls.test_notice_rule(made.id)
    assert (fine.sent, fine.text) == (True, "It was taken with status 204.")
    assert hook.events[0]["type"] == "inkwell.test"
    hook.how = how
    found = told.calls.test_notice_rule(made.id)
    assert (found.sent, said in found.text) == (False, True), found.text
    assert hook.led_on == 0
    hook.how = "well"
    told.calls.new_notice_secret(made.id)
    assert not told.calls.test_notice_rule(made.id).sent
    assert hook.badly_signed == 1


def test_a_receiver_that_fails_is_called_again_with_the_same_id(told: World, hook: Receiver) -> None:
    """So that it can tell that it is one; the rule says what went wrong meanwhile."""
    made = told.calls.add_notice_rule(channel="call", address=hook.address, kinds=["held"])
    hook.secret, hook.how = made.secret, "500"
    told.run()
    failure = wait_for(lambda: told.calls.notice_rule(made.id).last_failure or None, seconds=30, what="the failure")
    assert "status 500" in failure
    wait_for(lambda: hook.calls > 1 or None, seconds=30, what="another try")
    hook.how = "well"
    event = wait_for(lambda: next(iter(hook.events), None), seconds=30, what="the call")
    (notice,) = told.calls.notices()
    assert event["data"]["subject"] == notice.subject
    sent = wait_for(lambda: next((one for one in told.calls.notices() if one.state == "sent"), None),
                    seconds=10, what="the note that it was sent")  # fmt: skip
    assert sent.tries > 1
    assert told.calls.notice_rule(made.id).last_failure == ""


def test_a_mail_server_that_refuses_is_tried_again(told: World, mail: MailServer) -> None:
    """The message waits; no address stands in what is said of it."""
    mail.refuses = True
    made = told.calls.add_notice_rule(channel="mail")
    tried = told.calls.test_notice_rule(made.id)
    assert (tried.sent, tried.text) == (False, "The mail server did not take it (SMTPRecipientsRefused).")
    told.run()
    wait_for(lambda: told.calls.notice_rule(made.id).last_failure or None, seconds=30, what="the failure")
    mail.refuses = False
    assert len(mails(mail, told, 1)) == 1


def test_the_link_in_a_mail_ends_these_messages(told: World, mail: MailServer) -> None:
    """It asks first, for readers of mail follow links; one click of RFC 8058 does it at once."""
    made = told.calls.add_notice_rule(channel="mail")
    assert told.calls.test_notice_rule(made.id).sent
    (message,) = mails(mail, told, 1)
    (link,) = re.findall(r"<(http[^>]+)>", str(message["List-Unsubscribe"]))
    assert message["List-Unsubscribe-Post"] == "List-Unsubscribe=One-Click"
    asked = HTTP.get(link)
    assert (asked.status_code, "End these messages?" in asked.text) == (200, True)
    assert "script-src" in asked.headers["content-security-policy"]
    assert told.calls.notice_rule(made.id).on
    done = HTTP.post(link, data={"List-Unsubscribe": "One-Click"})
    assert (done.status_code, "They are ended" in done.text) == (200, True)
    assert not told.calls.notice_rule(made.id).on
    assert HTTP.post(link[:-2] + "xx").status_code == 404
    told.run()
    time.sleep(3)
    assert len(of(mail, told)) == 1
    assert "notice rule.stopped" in {entry.action for entry in told.calls.trail()}


def test_whoever_has_no_role_any_more_is_told_no_more(told: World, mail: MailServer) -> None:
    """Their rule stands, and says why nothing comes of it."""
    come(told, mail, "wren@loom.example")
    made = told.calls.add_notice_rule(channel="mail", person="WREN@loom.example")
    told.calls.remove_person(next(one.id for one in told.calls.people() if one.email == "wren@loom.example"))
    found = told.calls.test_notice_rule(made.id)
    assert (found.sent, found.text) == (False, "Whoever it is for has no role here any more.")


# -- when it is sent ---------------------------------------------------------------------------------------------------


def at_its_time(world: World, rule: int, column: str) -> None:
    """Let the time of a digest or a summary have come."""
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        db.execute(f"UPDATE notices_noticerule SET {column} = {column} - interval '1 day' WHERE id = %s", [rule])


def next_time(world: World, rule: int, column: str) -> datetime:
    """When a digest or summary is next, once that was looked at."""

    def look() -> datetime | None:
        with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
            row = db.execute(f"SELECT {column} FROM notices_noticerule WHERE id = %s", [rule]).fetchone()
        return row[0] if row else None

    return wait_for(look, seconds=30, what="the next time")


def test_a_digest_gathers_until_its_time(told: World, mail: MailServer) -> None:
    """By the clocks of its reader: 17:00 in Berlin on 1 November is 16:00 by UTC."""
    made = told.calls.add_notice_rule(channel="mail", at_once=False, digest_at="17:00", time_zone="Europe/Berlin")
    assert next_time(told, made.id, "next_digest_at") == datetime(2026, 11, 1, 16, tzinfo=UTC)
    told.run()
    troubles(told, 1)
    time.sleep(2.5)
    assert of(mail, told) == []
    at_its_time(told, made.id, "next_digest_at")
    (digest,) = mails(mail, told, 1)
    assert "2 orders held" in str(digest["Subject"])


def test_the_summary_of_the_day_before(told: World, mail: MailServer, hook: Receiver) -> None:
    """30 October, as it stands on the 31st: what crossed, by bridge, and what waits for somebody; as a call too."""
    told.run()
    made = told.calls.add_notice_rule(channel="mail", at_once=False, summary_at="08:00")
    assert next_time(told, made.id, "next_summary_at") == datetime(2026, 11, 1, 8, tzinfo=UTC)
    at_its_time(told, made.id, "next_summary_at")
    (mailed,) = mails(mail, told, 1)
    days = list(told.calls.crossings(placed_from="2026-10-30", placed_to="2026-10-30"))
    carried = [one for one in days if one.state == "carried"]
    money = sum((one.gross or Decimal(0) for one in carried), Decimal(0))
    text = mailed.get_content().replace("=\n", "")
    assert f"30 October 2026: {len(carried)} document" in str(mailed["Subject"])
    assert f"carried {money:,.2f} GBP" in text
    assert "2 orders held, 71.37 GBP" in text
    called = told.calls.add_notice_rule(channel="call", address=hook.address, at_once=False, summary_at="08:00")
    hook.secret = called.secret
    next_time(told, called.id, "next_summary_at")
    at_its_time(told, called.id, "next_summary_at")
    event = wait_for(lambda: next(iter(hook.events), None), seconds=30, what="the call")
    assert (event["type"], event["data"]["day"]) == ("inkwell.summary", "2026-10-30")
    (day,) = event["data"]["bridges"]
    assert (day["documents"]["carried"], Decimal(day["carried"]["GBP"])) == (len(carried), money)
    (waiting,) = event["data"]["waiting"]
    assert (waiting["count"], Decimal(waiting["amounts"]["GBP"])) == (2, Decimal("71.37"))


def test_nothing_is_sent_in_quiet_hours(told: World, mail: MailServer) -> None:
    """The demo's clock stands at 20:00: from 19:00 on it is quiet; without that it comes."""
    made = told.calls.add_notice_rule(channel="mail", quiet_from="19:00", quiet_until="07:00")
    told.run()
    troubles(told, 1)
    time.sleep(2.5)
    assert of(mail, told) == []
    told.calls.change_notice_rule(made.id, quiet_from=None, quiet_until=None)
    assert len(mails(mail, told, 1)) == 1


# -- the bell, and what is refused -------------------------------------------------------------------------------------


def test_what_is_unread_is_ones_own(told: World, mail: MailServer) -> None:
    """Looked at by one, it is new to the other still; grown, it is new again."""
    email = f"wren-{told.slug}@loom.example"
    come(told, mail, email)
    other = Client(told.stack.address, token=token_of(told, email)).workspace(told.slug)
    order = next(one for one in told.held_by("web-shop")["order"] if one["reference"] == "MW-10031")
    told.put_orders(order, reset=True)
    told.run()
    troubles(told, 1)
    assert told.calls.troubles().unread == 1
    told.calls.read_troubles()
    assert [one.unread for one in told.calls.troubles().troubles] == [False]
    assert other.troubles().unread == 1
    told.put_orders({**order, "id": 90_001, "reference": "MW-90001"})
    told.run()
    wait_for(lambda: told.calls.troubles().unread or None, seconds=30, what="the bell")


@pytest.mark.parametrize(("fields", "said"), [
    ({"channel": "mail", "person": "nobody@loom.example"}, "Nobody here has the e-mail"),
    ({"channel": "call"}, "Expected the address to call"),
    ({"channel": "call", "address": "http://169.254.169.254/latest"}, "169.254.169.254"),
    ({"channel": "call", "address": "ftp://x.example/"}, "Enter a valid URL|address"),
    ({"channel": "mail", "kinds": ["storm"]}, "storm"),
    ({"channel": "mail", "bridges": ["nowhere"]}, "There is no bridge 'nowhere'"),
    ({"channel": "mail", "lanes": ["parcels"]}, "There is no lane 'parcels'"),
    ({"channel": "mail", "quiet_from": "22:00"}, "both ends of the quiet hours"),
    ({"channel": "mail", "at_once": False}, "at once, a digest or a summary"),
    ({"channel": "mail", "digest_at": "25:00"}, "Time has wrong format"),
    ({"channel": "mail", "time_zone": "Moon/Base"}, "a time zone such as"),
    ({"channel": "pigeon"}, "pigeon"),
    ({"channel": "mail", "loudly": True}, "Expected only"),
])  # fmt: skip
def test_a_rule_that_makes_no_sense_is_refused(told: World, fields: dict[str, Any], said: str) -> None:
    """With what was expected; nobody is told of anything by it."""
    with pytest.raises(Invalid) as caught:
        told.calls.add_notice_rule(**fields)
    assert re.search(said, str(caught.value.problem.model_dump())), caught.value.problem
    assert list(told.calls.notice_rules()) == []


def test_what_was_missed_while_nothing_ran_is_not_told_of_years_later(told: World, mail: MailServer) -> None:
    """A trouble that was over long ago, and of which somebody was told then."""
    made = told.calls.add_notice_rule(channel="mail")
    told.run()
    mails(mail, told, 1)
    with psycopg.connect(told.stack.environment["DATABASE_URL"]) as db:
        db.execute("UPDATE notices_trouble SET ended_at = now() - interval '60 days', key = key || ' of long ago' "
                   "WHERE workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)", [told.slug])  # fmt: skip
    second = mails(mail, told, 2)
    assert all("any more" not in str(one["Subject"]) for one in second)
    assert told.calls.notice_rule(made.id).last_sent_at is not None
