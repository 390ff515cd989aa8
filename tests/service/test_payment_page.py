"""The page that a payment link leads to: what it says, what it never says, and how often it may be opened."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from html import unescape

import httpx
import psycopg
import pytest

from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch import demo_client, places
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service import clock
from tests.carriage.test_requests import (
    BRIDGE,
    FIRST,
    ON_FILE,
    asking_world,
    at_provider,
    come_in,
    open_there,
    opened,
    pay,
    receipts,
    request,
    run,
    says,
    with_rules,
)
from tests.support.world import FAST, HTTP, World, first_owner, running

CLIENTS_HOST = "pay.marrowby.example"
FEW = 12


@pytest.fixture
def asked(stack: Stack, owner: str) -> World:
    """A client whose three invoices are asked for."""
    world = asking_world(stack, owner)
    run(world)
    return world


def provider_clock(world: World, moment: str) -> None:
    """Let the provider's time go on from a moment."""
    world.put("payment-provider", clock=moment)


@pytest.fixture
def at(stack: Stack) -> Iterator[Callable[[str], None]]:
    """Sets the program's own time, and puts it back."""
    yield lambda moment: clock.set_file(stack.home / "clock", datetime.fromisoformat(moment))
    demo_client.set_clock(stack)


def test_it_shows_payee_number_amount_and_how_it_stands(asked: World) -> None:
    """And nothing else: not who is to pay, not what for; in one page without a script, kept by nobody."""
    page = opened(asked)
    text = re.sub(r"<[^>]+>", " ", page.text.partition("<body>")[2])
    assert unescape(" ".join(text.split())) == (
        "Pay this invoice This invoice is open. To Marrowby Yarn & Dye Works Ltd Invoice SI-09001 Amount 480.00 GBP "
        "Pay 480.00 GBP")  # fmt: skip
    assert "Pugh" not in page.text
    assert "<script" not in page.text
    assert page.headers["Cache-Control"] == "no-store"
    assert page.headers["Referrer-Policy"] == "no-referrer"
    assert page.headers["X-Robots-Tag"] == "noindex, nofollow"
    assert "set-cookie" not in page.headers
    assert "default-src 'none'" in page.headers["Content-Security-Policy"]
    style = HTTP.get(f"{asked.stack.address}/pay/page.css")
    assert (style.status_code, style.headers["Content-Type"]) == (200, "text/css; charset=utf-8")


def test_opening_it_is_counted_and_nothing_else_of_who_did(asked: World) -> None:
    """How often, and when last."""
    for _ in range(3):
        opened(asked)
    HTTP.head(request(asked).link).raise_for_status()
    found = request(asked)
    assert found.opened == 4
    assert found.last_opened_at is not None
    assert HTTP.post(found.link).status_code == 405
    assert request(asked).opened == 4


def test_a_page_that_has_run_out_is_made_anew(asked: World, at: Callable[[str], None]) -> None:
    """After forty days the provider's page is gone, and the same link leads to one that can be paid on."""
    before = at_provider(asked)
    link = request(asked).link
    old = re.search(r'class="pay" href="([^"]+)"', opened(asked).text)
    assert old is not None
    later = (datetime.fromisoformat(before["page_until"]) + timedelta(days=10)).astimezone(UTC).isoformat()
    provider_clock(asked, later)
    at(later)
    assert "run out" in HTTP.get(unescape(old[1])).text
    assert says(asked) == "Pay this invoice"
    assert at_provider(asked)["key"] != before["key"]
    # However often it is opened, one page is made of it; and the request is the same one.
    key = at_provider(asked)["key"]
    opened(asked)
    assert (at_provider(asked)["key"], at_provider(asked)["request"]) == (key, before["request"])
    pay(asked)
    assert (says(asked), request(asked).link) == ("Paid", link)
    run(asked)
    assert open_there(asked) == 0


def test_after_the_last_day_by_rule_it_says_until_when(stack: Stack, owner: str, at: Callable[[str], None]) -> None:
    """Ten days after the invoice is due; on the day itself it can still be paid."""
    world = asking_world(stack, owner, rules=with_rules("open_for_days: 90", "open_for_days: 10"))
    run(world)
    for moment, said in (("2026-11-14T20:00:00+00:00", "Pay this invoice"),
                         ("2026-11-15T09:00:00+00:00", "This can no longer be paid here")):  # fmt: skip
        provider_clock(world, moment)
        at(moment)
        assert says(world) == said
    page = opened(world)
    assert "until 14 November 2026" in page.text
    assert 'class="pay"' not in page.text


@pytest.mark.parametrize("kind", ["broken", "silent", "revoked", "said"])
def test_while_the_provider_is_away_it_says_so(asked: World, kind: str) -> None:
    """With the invoice's number, no amount that may be wrong, and when to come back; and then it is right again."""
    rule = {"call": "requests.search", "kind": kind, "times": 1, "body": "[]"}
    asked.misbehave("payment-provider", rule)
    page = opened(asked)
    assert (page.status_code, page.headers["Retry-After"]) == (503, "60")
    assert "Please come back soon" in page.text
    assert FIRST in page.text
    assert "480.00" not in page.text
    asked.misbehave("payment-provider")
    assert says(asked) == "Pay this invoice"


def test_a_provider_that_is_paused_is_asked_nothing(asked: World) -> None:
    """Until it goes on."""
    asked.calls.connection("weirgate").pause()
    asked.misbehave("payment-provider", {"call": "requests.search", "kind": "broken", "times": 9})
    assert opened(asked).status_code == 503
    assert [one["struck"] for one in asked.misbehaved("payment-provider")] == [0]
    asked.misbehave("payment-provider")
    asked.calls.connection("weirgate").go_on()
    assert says(asked) == "Pay this invoice"


def test_paid_is_said_before_the_books_hear_of_it(asked: World) -> None:
    """The provider is asked, whatever the lanes do."""
    come_in(asked, 48_000)
    assert (says(asked), open_there(asked)) == ("Paid", 480)
    come_in(asked, 1_000)
    assert says(asked) == "Paid"


def test_what_the_books_cancelled_is_refused_politely(asked: World) -> None:
    """As soon as it was read there."""
    there = next(one for one in asked.books()["invoice"] if one["number"] == FIRST)
    asked.put("erp", edited={"invoice": {str(there["id"]): {"state": "void"}}})
    asked.calls.requests.make(bridge=BRIDGE, invoice=FIRST)
    asked.settled()
    page = opened(asked)
    assert (page.status_code, says(asked)) == (200, "There is nothing to pay")
    assert 'class="pay"' not in page.text
    assert at_provider(asked)["dropped"] is True


def test_links_that_lead_nowhere_are_all_alike(asked: World) -> None:
    """A letter off, far too long, or not what a link is made of at all: the same page."""
    token = request(asked).link.rpartition("/")[2]
    assert re.fullmatch(r"[A-Za-z0-9_-]{22}", token)
    wrong = [token[:-1], token + "A", token.swapcase(), "x" * 5000, "%00", "..%2f..%2fapi", "😀", "'--"]
    answers = [HTTP.get(f"{asked.stack.address}/pay/{one}") for one in wrong]
    known = [one for one in answers if one.status_code == 404 and "leads nowhere" in one.text]
    assert len({one.text for one in known}) == 1
    # Only what no address may be as long as is refused before it is looked at.
    assert [one.status_code for one in answers if one not in known] in ([], [414])


def test_each_link_has_a_token_of_its_own(asked: World) -> None:
    """Nothing of the invoice is in it."""
    links = [one.link for one in asked.calls.requests.all()]
    assert len(set(links)) == 3
    assert not any(part in link for link in links for part in (FIRST, ON_FILE, "09001"))


def test_a_removed_bridge_takes_its_links_along(asked: World) -> None:
    """They lead nowhere any more."""
    link = request(asked).link
    asked.calls.bridge(BRIDGE).pause()
    assert HTTP.get(link).status_code == 200
    asked.calls.bridge(BRIDGE).remove(confirm=True)
    assert HTTP.get(link).status_code == 404


@pytest.fixture(scope="module")
def strict(new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stack]:
    """A service that lets links be opened but a few times a minute, and has a host of the client's."""
    told = {"INKWELL_OPENINGS_PER_MINUTE": str(FEW), "INKWELL_PAYMENT_HOSTS": CLIENTS_HOST}
    made = Stack(database_url=new_database("links"), home=tmp_path_factory.mktemp("links"), console=places.console(),
                 extra={**FAST, **told})  # fmt: skip
    demo_client.set_clock(made)
    with running(made):
        yield made


def minute_begins(stack: Stack) -> None:
    """Let nothing have been opened so far."""
    with psycopg.connect(stack.environment["DATABASE_URL"], autocommit=True) as database:
        database.execute("DELETE FROM requests_openings")


def test_guessing_links_is_slowed_down(strict: Stack) -> None:
    """After a few of them nothing is looked up any more, a right one either; others are told nothing of it."""
    owner = first_owner(strict)
    rules = with_rules("  open_for_days: 90\n", f"  open_for_days: 90\n  address: https://{CLIENTS_HOST}\n")
    world = asking_world(strict, owner, rules=rules)
    run(world)
    link = request(world).link
    # The client's own host stands in the link; it leads to the same service.
    assert link.startswith(f"https://{CLIENTS_HOST}/pay/")
    token = link.rpartition("/")[2]
    with httpx.Client(base_url=strict.address, headers={"Host": CLIENTS_HOST}, trust_env=False) as buyer:
        minute_begins(strict)
        assert buyer.get(f"/pay/{token}").status_code == 200
        statuses = [buyer.get(f"/pay/guess-{number}").status_code for number in range(FEW)]
        assert statuses[0] == 404
        assert statuses[-1] == 429
        assert statuses.count(404) <= FEW // 3 + 1
        refused = buyer.get(f"/pay/{token}")
        assert (refused.status_code, refused.headers["Retry-After"]) == (429, "60")
        # What is kept is no address.
        with psycopg.connect(strict.environment["DATABASE_URL"]) as database:
            kept = database.execute("SELECT digest FROM requests_openings").fetchall()
        assert kept
        assert not any("127.0.0.1" in digest or token in digest for (digest,) in kept)
        # Opened more often than anybody does, at the same moment from one address.
        minute_begins(strict)
        with ThreadPoolExecutor(8) as many:
            often = list(many.map(lambda _: HTTP.get(f"{strict.address}/pay/{token}").status_code, range(3 * FEW)))
        # Should a minute have ended meanwhile, each of the two has its own.
        assert often.count(200) <= 2 * FEW
        assert 429 in often


def test_under_the_clients_host_there_is_nothing_else(strict: Stack) -> None:
    """Neither the console, nor the API, nor the door for calls."""
    with httpx.Client(base_url=strict.address, headers={"Host": CLIENTS_HOST}, trust_env=False) as buyer:
        for path in ("/", "/api/v1/session", "/api/v1/openapi.json", "/incoming/abc", "/alive", "/assets/x.js"):
            answer = buyer.get(path)
            assert (answer.status_code, answer.text) == (404, "There is nothing here."), path
        assert buyer.get("/pay/page.css").status_code == 200
    with httpx.Client(base_url=strict.address, headers={"Host": "elsewhere.example"}, trust_env=False) as stranger:
        assert stranger.get("/pay/page.css").status_code == 400


def test_money_for_a_bridge_without_a_payments_lane_waits_there(stack: Stack, owner: str) -> None:
    """Asked for and paid, and nothing is posted until somebody switches the lane on."""
    world = asking_world(stack, owner)
    world.calls.bridge(BRIDGE).switch_lane("request_payments", on=False)
    run(world)
    pay(world)
    run(world)
    assert receipts(world) == []
    world.calls.bridge(BRIDGE).switch_lane("request_payments", on=True)
    run(world)
    assert sorted(one[2] for one in receipts(world)) == ["480.00", "96.00"]


def test_the_demos_rules_name_what_the_books_have(stack: Stack, owner: str) -> None:
    """Their check finds nothing."""
    world = asking_world(stack, owner)
    written = world.calls.bridge(BRIDGE).write_rulebook(rulebook_text(BRIDGE))
    assert [one for one in written.findings if one.level != "note"] == []
    assert facts()["weirgate"]["slug"] == "weirgate"
