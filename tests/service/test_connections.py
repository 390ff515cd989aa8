"""Connections: checked at once, secrets never handed out, pasted addresses mended."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import psycopg
import pytest
from cryptography.fernet import Fernet

from inkwell_bridge.client import Conflict, Invalid, NotFound
from inkwell_bridge.demo.facts import facts
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, HTTP, World

SECRET = "MARKED-SECRET-7f3a91"


def test_a_connection_is_checked_when_it_is_made(world: World) -> None:
    """Reachable, which company, which currency."""
    books = world.calls.connection("uk-books").read()
    assert (books.state, books.side) == ("connected", "books")
    assert books.described is not None
    assert (books.described.company, books.described.currency) == ("Marrowby UK books", "GBP")
    assert all(permission.granted for permission in books.described.permissions)


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
        ({"kind": "abacus"}, "Expected one of contact-list, erp, ledger, tryton, vendure, web-shop, got 'abacus'."),
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
    assert calls.load_reference().checksum == first.checksum
    accounts = {account["code"]: account["type"] for account in first.content["accounts"]}
    assert (accounts["4000"], accounts["1200"]) == ("income", "bank")
    with pytest.raises(NotFound):
        world.calls.connection("web-shop").reference()


def test_books_that_are_down_cannot_be_loaded(world: World) -> None:
    """A conflict that says so; what was loaded before stays."""
    calls = world.calls.connection("uk-books")
    calls.change(address="http://127.0.0.1:9")
    with pytest.raises(Conflict, match="could not be reached"):
        calls.load_reference()
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


def test_a_key_file_that_exists_is_not_written_over(stack: Stack, tmp_path: Path) -> None:
    """The first start makes it; every other start reads it."""
    before = (stack.home / "keys").read_bytes()
    stack.administer("check")
    assert (stack.home / "keys").read_bytes() == before


def test_the_dialects_tell_their_forms(world: World) -> None:
    """A JSON Schema for each, with what is secret marked."""
    forms = {kind.name: kind.credentials_schema for kind in world.client.kinds()}
    assert forms["erp"]["properties"]["password"]["writeOnly"] is True
    assert sorted(forms) == ["contact-list", "erp", "ledger", "tryton", "vendure", "web-shop"]


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
