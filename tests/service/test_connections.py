"""Connections: checked at once, secrets never handed out, pasted addresses mended."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import psycopg
import pytest
from cryptography.fernet import Fernet

from inkwell_bridge.client import Conflict, Invalid, NotFound
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch import demo_client
from inkwell_bridge.launch.stack import Stack
from inkwell_bridge.service.connections.pasted import mended_address
from tests.support.ends import PRODUCT, STOCKED
from tests.support.hostile import hostile_end
from tests.support.world import BRIDGE, HTTP, World, few_orders, wait_for

SECRET = "MARKED-SECRET-7f3a91"


def test_a_connection_is_checked_when_it_is_made(world: World) -> None:
    """Reachable, which company, which currency."""
    books = world.calls.connection("uk-books").read()
    assert (books.state, books.side) == ("connected", "books")
    assert books.described is not None
    assert (books.described.company, books.described.currency) == ("Marrowby UK books", "GBP")
    assert all(permission.granted for permission in books.described.permissions)


def test_every_change_answers_with_the_state_that_its_own_check_found(world: World) -> None:
    """However quick the worker is: never *done* beside what was found before."""
    books, right = world.calls.connection("uk-books"), facts()["books"]["password"]
    wanted = [("wrong", "refused"), (right, "connected")] * 8
    states = [books.change(credentials={"password": password}).state for password, _ in wanted]
    assert states == [state for _, state in wanted]


def test_of_two_who_change_a_connection_at_once_both_are_kept(world: World) -> None:
    """A name and how often it is checked, at the same moment, several times."""
    books = world.calls.connection("uk-books")
    with ThreadPoolExecutor(max_workers=2) as pool:
        for number in range(1, 9):
            changes: list[dict[str, Any]] = [{"name": f"Books {number}"}, {"check_every_minutes": number}]
            list(pool.map(lambda fields: books.change(**fields), changes))
            now = books.read()
            assert (now.name, now.check_every_minutes) == (f"Books {number}", number)


def test_pasted_addresses_are_mended_and_it_is_said(world: World) -> None:
    """A space, a slash; and a newline behind the key."""
    shop = facts()["web_shop"]
    made = world.calls.create_connection(
        slug="pasted", name="Pasted", kind="web-shop", address=f" {world.stack.shop}/{world.slug}/api/ ",
        credentials={"key": f"{shop['key']}\n", "secret": f" {shop['secret']}"},
    )  # fmt: skip
    assert made.address == f"{world.stack.shop}/{world.slug}/api"
    assert made.mended == [
        "spaces and line breaks were taken out",
        "the slash at its end was taken away",
        "spaces and line breaks around “Key” were taken away",
        "spaces and line breaks around “Secret” were taken away",
    ]
    assert made.state == "connected"


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"address": "ftp://shop.example"}, "expected an address such as https://shop.example/api"),
        ({"address": "https://me:pw@shop.example"}, "without user and password"),
        (
            {"kind": "abacus"},
            "Expected one of contact-list, erp, ledger, marketplace, payment-provider, tryton, vendure, web-shop, got "
            "'abacus'.",
        ),
        ({"credentials": {"key": "k"}}, "Expected secret."),
        ({"credentials": {"key": "k", "secret": SECRET, "more": "x"}}, "Expected only key, secret, signing_secret."),
        ({"slug": "web-shop"}, "A connection 'web-shop' is here already."),
        ({"company": "nobody"}, "nobody"),
    ],
)
def test_what_is_wrong_is_said_and_nothing_is_kept(world: World, fields: dict[str, object], said: str) -> None:
    """A clear error, and no connection."""
    good = {"slug": "new", "name": "New", "kind": "web-shop", "address": world.stack.shop,
            "credentials": {"key": "k", "secret": "s"}}  # fmt: skip
    with pytest.raises(Invalid) as caught:
        world.calls.create_connection(**{**good, **fields})  # type: ignore[arg-type]
    assert said in str(caught.value.problem.errors)
    assert SECRET not in str(caught.value.problem)
    with pytest.raises(NotFound):
        world.calls.connection("new").read()


def test_wrong_credentials_and_an_end_that_is_down(world: World) -> None:
    """Refused is not unreachable, and both say why."""
    calls = world.calls.connection("web-shop")
    refused = calls.change(credentials={"key": "mwshop_demo_key", "secret": SECRET})
    assert (refused.state, "unknown key or wrong secret" in refused.state_text) == ("refused", True)
    down = calls.change(address="http://127.0.0.1:9")
    assert (down.state, "could not be reached" in down.state_text) == ("unreachable", True)
    assert [end.slug for end in world.calls.today().troubled] == ["web-shop"]


def test_a_missing_right_is_named_with_its_remedy(world: World) -> None:
    """The state says so until it is given."""
    world.change_books(permissions=["read accounts", "read contacts", "write contacts", "write invoices"])
    found = world.calls.connection("uk-books").check()
    assert found.state == "limited"
    assert "post invoices: In the ERP, give this right" in found.state_text


def test_a_secret_is_found_nowhere(world: World) -> None:
    """Not in answers, the trail, the logs, the queue, nor readable in the database."""
    world.calls.connection("web-shop").change(credentials={"key": "mwshop_demo_key", "secret": SECRET})
    run = world.run()
    assert run.state == "failed"
    said = [run.model_dump_json(), world.calls.connection("web-shop").read().model_dump_json()]
    said += [entry.model_dump_json() for entry in world.calls.trail()]
    said += [path.read_text("utf-8", errors="replace") for path in world.stack.logs.iterdir()]
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        for table in ("connections_connection", "procrastinate_jobs", "people_trailentry", "carriage_run"):
            said += [str(row) for row in db.execute(f"SELECT * FROM {table}").fetchall()]
    assert not [text for text in said if SECRET in text]


def test_reference_data_is_loaded_and_the_same_is_kept_once(world: World) -> None:
    """Accounts with types, tax codes with rates, contact codes."""
    calls = world.calls.connection("uk-books")
    first = calls.reference()
    assert calls.load_master_data().checksum == first.checksum
    accounts = {account["code"]: account["type"] for account in first.content["accounts"]}
    assert (accounts["4000"], accounts["1200"]) == ("income", "bank")
    with pytest.raises(NotFound):
        world.calls.connection("web-shop").reference()


def test_books_that_are_down_cannot_be_loaded(world: World) -> None:
    """A conflict that says so; what was loaded before stays."""
    calls = world.calls.connection("uk-books")
    calls.change(address="http://127.0.0.1:9")
    with pytest.raises(Conflict, match="could not be reached"):
        calls.load_master_data()
    assert calls.reference().content["currency"] == "GBP"


def test_keys_can_be_changed_without_a_stop(world: World) -> None:
    """A new key in front, everything sealed anew, the old key gone: and it still runs."""
    keys = world.stack.home / "keys"
    old = keys.read_text("utf-8")
    assert oct(keys.stat().st_mode)[-3:] == "600"
    new = Fernet.generate_key().decode()
    both = {"INKWELL_KEYS": f"{new},{old}"}
    environment = {**world.stack.environment, **both, "PATH": ""}
    done = subprocess.run([sys.executable, "-m", "inkwell_bridge.service", "rotate_keys"], env=environment, text=True,
                          capture_output=True, check=True)  # fmt: skip
    assert "sealed under the newest key" in done.stdout
    sealed = _sealed(world)
    assert json.loads(Fernet(new).decrypt(sealed))["credentials"]["user"] == "inkwell"
    # Back again, for the service of these tests knows only the old key.
    environment["INKWELL_KEYS"] = f"{old},{new}"
    subprocess.run([sys.executable, "-m", "inkwell_bridge.service", "rotate_keys"], env=environment, check=True,
                   capture_output=True)  # fmt: skip
    assert world.run().counts.carried == 55


def _sealed(world: World) -> bytes:
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        row = db.execute(
            "SELECT c.credentials FROM connections_connection c JOIN people_workspace w ON w.id = c.workspace_id "
            "WHERE w.slug = %s AND c.slug = 'uk-books'", [world.slug]).fetchone()  # fmt: skip
    assert row is not None
    return bytes(row[0])


def test_credentials_moved_to_another_connection_are_refused(world: World) -> None:
    """They are bound to the one they were entered for."""
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        db.execute(
            "UPDATE connections_connection SET credentials = %s, version = version + 1 WHERE slug = 'web-shop' "
            "AND workspace_id = (SELECT id FROM people_workspace WHERE slug = %s)",
            [_sealed(world), world.slug],
        )
    found = world.calls.connection("web-shop").check()
    assert (found.state, found.state_text) == ("refused", "These credentials belong to another connection.")


def test_a_key_file_that_exists_is_not_written_over(world: World) -> None:
    """The first secret makes it; every other start reads it."""
    keys = world.stack.home / "keys"
    before = keys.read_bytes()
    world.stack.administer("check")
    assert keys.read_bytes() == before


def test_the_dialects_tell_their_forms(world: World) -> None:
    """A JSON Schema for each, with what is secret marked."""
    forms = {kind.name: kind.credentials_schema for kind in world.client.kinds()}
    assert forms["erp"]["properties"]["password"]["writeOnly"] is True
    assert sorted(forms) == ["contact-list", "erp", "ledger", "marketplace", "payment-provider", "tryton", "vendure",
                             "web-shop"]  # fmt: skip


def test_a_bridge_needs_one_end_of_each_side(world: World) -> None:
    """Books cannot be the source."""
    with pytest.raises(Invalid, match="source"):
        world.calls.create_bridge(slug="b", name="B", source="uk-books", books="uk-books", company="marrowby-uk")
    assert [bridge.slug for bridge in world.calls.bridges()] == [BRIDGE]


def test_an_address_that_leads_nowhere_is_a_problem_too(stack: Stack) -> None:
    """Problem Details, not a page of HTML."""
    response = HTTP.get(f"{stack.address}/api/v1/nothing")
    assert response.status_code == 404
    assert response.headers["Content-Type"] == "application/problem+json"
    assert response.json()["code"] == "not-found"


def test_a_key_about_to_expire_warns(world: World) -> None:
    """Where the end tells when; a fortnight before."""
    soon = (datetime.now(UTC) + timedelta(days=5)).isoformat()
    world.put("web-shop", shop={**facts()["web_shop"], "key_expires_at": soon})
    found = world.calls.connection("web-shop").check()
    assert found.state == "expiring"
    assert found.state_text.startswith("The key expires on ")
    later = (datetime.now(UTC) + timedelta(days=50)).isoformat()
    world.put("web-shop", shop={**facts()["web_shop"], "key_expires_at": later})
    assert world.calls.connection("web-shop").check().state == "connected"


def test_a_date_entered_by_hand_warns_as_well(world: World) -> None:
    """For an end that does not tell."""
    soon = (datetime.now(UTC) + timedelta(days=5)).isoformat()
    assert world.calls.connection("uk-books").change(key_expires_at=soon).state == "expiring"


def test_when_an_end_was_last_heard(world: World) -> None:
    """Whatever it answers; not when it does not."""
    before = datetime.now(UTC)
    books = world.calls.connection("uk-books")
    books.change(name="Books")
    on_answer = books.read().last_contact_at
    assert on_answer is not None
    assert on_answer > before - timedelta(seconds=30)


def test_one_secret_is_changed_and_the_others_stay(world: World) -> None:
    """Rotated without a stop: the next call goes out under the new one."""
    shop = world.calls.connection("web-shop")
    world.put("web-shop", shop={**facts()["web_shop"], "secret": "another-secret-of-the-shop"})
    assert shop.check().state == "refused"
    found = shop.change(credentials={"secret": "another-secret-of-the-shop"})
    assert (found.state, found.credentials_entered) == ("connected", ["key", "secret"])


def test_credentials_that_fail_are_in_the_trail_once(world: World) -> None:
    """Not each time they fail."""
    world.put("erp", company={**world_company(), "password": "another"})
    world.calls.connection("uk-books").change(name="Books")
    world.calls.connection("uk-books").check()
    told = [entry for entry in world.calls.trail() if entry.action == "connection.credentials-failed"]
    assert [(entry.about, entry.person) for entry in told] == [("uk-books", "")]


def test_who_changed_what_is_in_the_trail(world: World) -> None:
    """The fields with what they were before, and the names of the credentials that were entered, never these."""
    before = world.calls.connection("web-shop").read().name
    world.calls.connection("web-shop").change(name="Shop", credentials={"secret": SECRET})
    entry = next(one for one in world.calls.trail() if one.action == "connection.changed")
    assert entry.details == {"fields": {"name": "Shop"}, "was": {"name": before}, "credentials_entered": ["secret"]}
    assert SECRET not in str(entry)


@pytest.mark.parametrize(
    ("pasted", "address", "mended"),
    [
        ("shop.example/api", "https://shop.example/api", ["a missing https:// was added"]),
        ("<https://SHOP.example//api/>", "https://shop.example/api",
         ["the quotation marks around it were taken away", "doubled slashes were made one",
          "the slash at its end was taken away"]),
        ("\ufeffhttps://shop.example/api?page=2#top", "https://shop.example/api",
         ["spaces and line breaks were taken out", "what followed ? or # was taken away"]),
        ("https://shop.example:8443", "https://shop.example:8443", []),
        ("http://[2001:db8::1]:80/x", "http://[2001:db8::1]:80/x", []),
    ],
)  # fmt: skip
def test_what_can_be_mended_of_an_address(pasted: str, address: str, mended: list[str]) -> None:
    """And what was mended is said."""
    assert mended_address(pasted) == (address, mended)


@pytest.mark.parametrize("pasted", ["", "ftp://x.example", "https://", "http://[::1", "https://a:b@c.example",
                                    "https://x.example:99999", "javascript:alert(1)"])  # fmt: skip
def test_what_is_no_address(pasted: str) -> None:
    """Is refused, and not repeated: it may hold a secret."""
    with pytest.raises(ValueError, match="expected an address"):
        mended_address(pasted)


def test_another_companys_books_are_not_posted_to(world: World) -> None:
    """The end turns out to be another's: nothing runs until that is said to be meant, by typing its name."""
    world.put_orders(*few_orders()[:4], reset=True)
    world.run()
    world.change_books(name="Marrowby Ireland books")
    books = world.calls.connection("uk-books")
    found = books.check()
    assert (found.state, found.settled_company) == ("other company", "Marrowby UK books")
    with pytest.raises(Conflict, match="belongs to Marrowby Ireland books; what is linked and posted here belongs to"):
        world.calls.bridge(BRIDGE).run()
    with pytest.raises(Conflict, match="says that it belongs to Marrowby Ireland books"):
        books.switch("Marrowby UK books")
    switched = books.switch("Marrowby Ireland books", confirm=True)
    assert (switched.state, switched.settled_company) == ("connected", "Marrowby Ireland books")
    with pytest.raises(Conflict, match=r"Every lane of .* is off"):
        world.calls.bridge(BRIDGE).run()


def test_after_a_switch_a_buyer_is_found_anew(world: World) -> None:
    """The contact that was theirs in the old company's books is nobody in the new one's."""
    first, second = few_orders()[1:3]
    second = {**second, "shopper": first["shopper"]}
    world.put_orders(first, reset=True)
    world.run()
    world.put("erp", reset=True)
    world.change_books(name="Marrowby Ireland books")
    lists = {name: value for name, value in facts()["books"].items() if name in demo_client.LISTS}
    world.put(
        "erp", **{**lists, "contacts": [{"code": f"C-{number}", "name": "Other", "email": ""} for number in range(9)]}
    )
    books = world.calls.connection("uk-books")
    books.check()
    books.switch("Marrowby Ireland books", confirm=True)
    world.put_orders(second)
    world.calls.bridge(BRIDGE).switch_lane("orders", on=True)
    assert world.run().counts.carried == 1
    (invoice,) = world.invoices()
    (contact,) = [one for one in world.books()["contact"] if one["id"] == invoice["contact"]]
    assert contact["email"] == first["shopper"]["email"]


def test_a_switch_ends_the_links_and_keeps_them_as_history(world: World) -> None:
    """What is linked next is linked anew."""
    world.put("erp", articles=STOCKED["articles"])
    world.put("web-shop", products=[PRODUCT])
    assert world.matched("products").linked == 1
    world.change_books(name="Marrowby Ireland books")
    world.calls.connection("uk-books").check()
    world.calls.connection("uk-books").switch("Marrowby Ireland books", confirm=True)
    links = world.calls.bridge(BRIDGE).links("products")
    assert (links.counts().linked, links.counts().open) == (0, 1)
    change = next(iter(links.changes()))
    assert (change.what, change.text) == (
        "switched", "Marrowby UK books went from Marrowby UK books to Marrowby Ireland books",
    )  # fmt: skip


def test_a_linked_connection_is_not_given_to_another_company_in_passing(world: World) -> None:
    """It is switched, on purpose."""
    world.put_orders(*few_orders()[:4], reset=True)
    world.run()
    world.calls.create_company(**facts()["irish_company"])
    with pytest.raises(Conflict, match="belongs to Marrowby UK books"):
        world.calls.connection("uk-books").change(company="marrowby-ireland")


def test_what_is_due_is_checked_and_loaded_by_itself(world: World) -> None:
    """By each connection's own timetable; never where that is nothing."""
    world.loaded("uk-books", "lists")
    books = world.calls.connection("uk-books")
    before = books.read().checked_at
    with psycopg.connect(world.stack.environment["DATABASE_URL"]) as db:
        for change in (
            "connections_connection SET checked_at = now() - interval '61 minutes'",
            "reference_loading SET asked_at = now() - interval '25 hours'",
        ):
            mine = "(SELECT id FROM people_workspace WHERE slug = %s)"
            db.execute(f"UPDATE {change} WHERE workspace_id = {mine}", [world.slug])

    def look() -> bool | None:
        loadings = list(books.loadings())
        checked = books.read().checked_at
        return True if len(loadings) == 4 and checked and before and checked > before else None

    wait_for(look, seconds=40, what="the timetable")
    assert {one.asked_by for one in list(books.loadings())[:3]} == {""}


@pytest.mark.parametrize(
    "address", ["http://127.0.0.1:9/api", "http://localhost/api", "http://2130706433/", "http://[::1]/",
                "http://169.254.169.254/latest", "http://10.0.0.1/"],
)  # fmt: skip
def test_an_operator_who_allows_nothing_inside_is_obeyed(stack: Stack, tmp_path: Path, address: str) -> None:
    """The same call on a service without the allowance of the demo."""
    environment = {**os.environ, **stack.environment, "INKWELL_END_NETWORKS": ""}
    code = (
        "import django; django.setup()\n"
        "from inkwell_bridge.service.connections.actions import judge_address\n"
        f"judge_address({address!r})"
    )
    done = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=False)
    assert done.returncode != 0
    assert "which is no public address" in done.stderr


def world_company() -> dict[str, object]:
    """The company of the books as the demo has it."""
    return {name: value for name, value in facts()["books"].items() if name not in demo_client.LISTS}


def test_ends_that_do_not_answer_keep_nobody_else_waiting(world: World) -> None:
    """Checks are workers' work; of the calls that must ask an end themselves, some wait and the rest are told so."""
    with hostile_end() as end:
        calls = world.calls.connection("web-shop")
        shop = calls.read().address
        made = calls.change(address=end.address)
        assert made.state == "unreachable"
        address = f"{world.stack.address}/api/v1/workspaces/{world.slug}"
        headers = {"Authorization": f"Bearer {world.token}"}

        def check(_: int) -> tuple[int, float]:
            started = time.monotonic()
            answer = HTTP.post(f"{address}/connections/web-shop/check", headers=headers)
            assert answer.json()["checking"] is True
            return answer.status_code, time.monotonic() - started

        def ask(_: int) -> int:
            body = {"number": "MW-10003"}
            return HTTP.post(f"{address}/bridges/{BRIDGE}/try", json=body, headers=headers).status_code

        with ThreadPoolExecutor(40) as pool:
            checks = [pool.submit(check, number) for number in range(20)]
            asked = [pool.submit(ask, number) for number in range(12)]
            looks = [pool.submit(lambda: HTTP.get(f"{address}/bridges", headers=headers).status_code) for _ in range(8)]
            assert {look.result() for look in looks} == {200}
            assert {one.result()[0] for one in checks} == {202}
            said = [one.result() for one in asked]
        assert 503 in said
        assert set(said) - {503} != set(), "some were let through, and waited"
        # A change that is checked after those is what the state tells of in the end.
        mended = calls.change(address=shop)
        assert (mended.state, mended.checking) == ("connected", False)
