"""The first hours of a set-up, on the command line alone."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest

from inkwell_bridge.client import Client
from inkwell_bridge.demo.facts import facts, rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.carriage.test_adoption import TYPED, type_in
from tests.cli.test_cli import INKWELL, Inkwell, command, environment
from tests.ends.test_marketplace import agreed_to
from tests.service.test_links import ARTICLES, SOLD
from tests.support.ends import BENCHES, CUSTOMER
from tests.support.world import BRIDGE, HTTP, OWNER, PASSWORD, World, new_world, shop_order


@pytest.fixture
def bare(stack: Stack, owner: str) -> World:
    """A client's workspace with nothing in it; the ends outside are there."""
    world = new_world(stack, owner, set_up=False)
    Client(stack.address, token=owner).open_workspace(slug=world.slug, name="Marrowby of the command line")
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD, customers=[CUSTOMER])
    return world


@pytest.fixture
def inkwell(bare: World, tmp_path: Path) -> Inkwell:
    """The command, signed in and working for that client."""
    call = command(tmp_path / "profile.json")
    signed_in = call("sign-in", "--address", bare.stack.address, "--email", OWNER, INKWELL_PASSWORD=PASSWORD)
    assert signed_in.returncode == 0, signed_in.stderr
    return lambda *arguments, **more: call("-w", bare.slug, *arguments, **more)


def told(inkwell: Inkwell, *arguments: str, given: str = "", status: int = 0) -> str:
    """What a command printed, on either stream."""
    done = inkwell(*arguments, given=given)
    assert done.returncode == status, (arguments, done.stdout, done.stderr)
    return done.stdout + done.stderr


def test_the_whole_set_up(inkwell: Inkwell, bare: World, tmp_path: Path) -> None:
    """From an empty workspace to the first order in the books, in the order of the work."""
    shop, books = facts()["web_shop"], facts()["books"]
    company = ("--name", "Marrowby Yarn & Dye Works Ltd", "--country", "GB", "--currency", "GBP")
    assert "was added" in told(inkwell, "companies", "add", "marrowby-uk", *company, "--time-zone", "Europe/London")
    assert "Europe/London" in told(inkwell, "companies", "list")
    connected = told(
        inkwell, "connections", "add", "web-shop", "--name", "Web shop", "--kind", "web-shop", "--company",
        "marrowby-uk", "--address", f"{bare.stack.shop}/{bare.slug}/api/", "--credential", "key", "--credential",
        "secret",
        given=f"{shop['key']} \n{shop['secret']}\n",
    )  # fmt: skip
    assert (
        "Mended: the slash at its end was taken away; spaces and line breaks around “Key” were taken away." in connected
    )
    assert "yes  read orders" in connected
    refused = told(
        inkwell, "connections", "add", "uk-books", "--name", "UK books", "--kind", "erp", "--address",
        f"{bare.stack.erp}/{bare.slug}", "--credential", "user", "--credential", "password", given="inkwell\nwrong\n",
    )  # fmt: skip
    assert "UK books: refused" in refused
    mended = told(
        inkwell, "connections", "change", "uk-books", "--credential", "password", given=f"{books['password']}\n"
    )
    assert "UK books: connected" in mended

    loaded = told(inkwell, "names", "load", "uk-books")
    assert [line.split()[:3] for line in loaded.splitlines()[1:4]] == [
        ["lists", "ended", "52"], ["items", "ended", "5"], ["contacts", "ended", "2"],
    ]  # fmt: skip
    told(inkwell, "names", "load", "web-shop", "--part", "products", "--part", "customers")
    assert "Oak yarn bowl" in told(inkwell, "names", "list", "uk-books", "items", "--search", "oak")
    assert "accounts" in told(inkwell, "names", "kinds", "uk-books")

    told(inkwell, "bridges", "add", BRIDGE, "--name", "Bridge", "--source", "web-shop", "--books", "uk-books",
         "--company", "marrowby-uk")  # fmt: skip
    assert "6. open  Write and publish the rules" in told(inkwell, "setup", BRIDGE, status=1)
    file = tmp_path / "rules.yaml"
    file.write_text(rulebook_text(BRIDGE), "utf-8")
    told(inkwell, "rulebooks", "write", BRIDGE, str(file), "--publish")
    tried = told(inkwell, "try", BRIDGE, "MW-10003")
    assert "MW-10003, 13.94 GBP: would be carried, by version 1 of the rules." in tried
    assert "The price of 9.99, less the tax of 1.67 inside it, is 8.32." in tried
    assert bare.invoices() == []
    assert "1 carried" in told(inkwell, "run", BRIDGE, "--order", "MW-10003")
    assert "from 2026-10-01 on" in told(inkwell, "start-date", BRIDGE, "2026-10-01")
    told(inkwell, "bridges", "lane", BRIDGE, "orders", "on")
    steps = json.loads(told(inkwell, "setup", BRIDGE, "--json"))
    left = [step["id"] for step in steps if step["state"] != "done"]
    assert left == ["load", "link-products", "link-customers", "opening"]
    assert "connection.changed" in told(inkwell, "trail")


@pytest.fixture
def linking(inkwell: Inkwell, world: World, tmp_path: Path) -> tuple[Inkwell, World]:
    """A world whose products wait to be linked."""
    world.put("erp", articles=ARTICLES)
    world.put("web-shop", products=SOLD)
    world.matched("products")
    return (lambda *arguments, **more: inkwell("-w", world.slug, *arguments, **more)), world


def test_products_are_linked(linking: tuple[Inkwell, World], tmp_path: Path) -> None:
    """Questions, answers, undo, and the table."""
    inkwell, _ = linking
    at = (BRIDGE, "products")
    assert "2 linked, 0 without a counterpart, 4 open" in told(inkwell, "links", "counts", *at, status=1)
    asked = told(inkwell, "links", "questions", *at)
    assert "STARTER  Starter box\n" in asked
    assert "1. 100  2 × YRN-MER4-HEA Merino 4-ply skein, Heather, NDL-BAM-40 Bamboo needles, 4.0 mm" in asked
    told(inkwell, "links", "answer", *at, "34", "--to", "1:2", "--to", "2")
    told(inkwell, "links", "answer", *at, "36", "--none")
    assert "2 × YRN-MER4-HEA, NDL-BAM-40" in told(inkwell, "links", "list", *at, "--search", "starter")
    told(inkwell, "links", "undo", *at)
    assert "1 open" not in told(inkwell, "links", "counts", *at, status=1)
    told(inkwell, "links", "answer", *at, "36", "--create")
    file = tmp_path / "links.xlsx"
    told(inkwell, "links", "export", *at, str(file))
    assert "7 rows. Would change: 0 new" in told(inkwell, "links", "import", *at, str(file))
    table = tmp_path / "links.csv"
    table.write_text("product_id,item_code\n33,BWL-ASH\n35,NO-SUCH\n", "utf-8")
    done = told(inkwell, "links", "import", *at, str(table), "--apply", status=1)
    assert "Changed: 1 new" in done
    assert "there is no item with the code 'NO-SUCH'" in done
    assert "Give one of --to, --none and --create." in told(inkwell, "links", "answer", *at, "35", status=2)
    assert "The rules are looking." in told(inkwell, "links", "match", *at)


def test_people_and_tokens(inkwell: Inkwell, bare: World) -> None:
    """Somebody invited, come and given another role; a token made and withdrawn."""
    email = f"bram@{bare.slug}.example"
    invited = inkwell("people", "invite", email, "operate", "--name", "Bram")
    assert "Hand this link on to" in invited.stderr
    assert email in told(inkwell, "people", "list")
    short = inkwell("join", invited.stdout.strip(), INKWELL_PASSWORD="short")
    assert (short.returncode, "at least 12 characters" in short.stderr) == (5, True)
    came = inkwell("join", invited.stdout.strip(), INKWELL_PASSWORD=PASSWORD)
    assert f"You may operate in {bare.calls.read().name}." in came.stderr
    assert inkwell("join", invited.stdout.strip(), INKWELL_PASSWORD=PASSWORD).returncode == 4
    assert f"{email} may edit." in told(inkwell, "people", "give", email, "edit")
    assert "has no role here any more" in told(inkwell, "people", "remove", email)
    inkwell("people", "invite", email, "see")
    assert f"The invitation of {email} is withdrawn." in told(inkwell, "people", "remove", email)
    assert "has no role here. People here:" in told(inkwell, "people", "remove", email, status=4)
    made = inkwell("tokens", "make", "nightly", "--email", OWNER, "--role", "see", "--ends", "2030-01-01",
                   INKWELL_PASSWORD=PASSWORD)  # fmt: skip
    assert made.stdout.startswith("ibt_")
    listed = json.loads(told(inkwell, "tokens", "list", "--json"))
    (nightly,) = [one for one in listed if one["name"] == "nightly"]
    assert nightly["expires_at"].startswith("2030-01-01")
    told(inkwell, "tokens", "withdraw", str(nightly["id"]))
    assert "nightly" not in told(inkwell, "tokens", "list")


def test_a_company_is_switched_by_its_name(inkwell: Inkwell, world: World) -> None:
    """As the end says it; anything else is refused."""
    world.run()
    world.change_books(name="Marrowby Ireland books")
    at = ("-w", world.slug)
    assert "other company" in told(inkwell, *at, "connections", "check", "uk-books", status=1)
    assert "says that it belongs to" in told(inkwell, *at, "connections", "switch", "uk-books", "Ireland", status=6)
    switch = ("connections", "switch", "uk-books", "Marrowby Ireland books")
    asked = told(inkwell, *at, *switch, status=6)
    assert f"These lanes will be switched off: orders over {BRIDGE}." in asked
    assert "Give --yes, if this is meant." in asked
    assert "connected" in told(inkwell, *at, *switch, "--yes")
    world.change_books(name="Marrowby UK books")
    told(inkwell, *at, "connections", "check", "uk-books", status=1)
    assert "connected" in told(inkwell, *at, "connections", "switch-back", "uk-books")


def test_what_the_books_hold_is_adopted(inkwell: Inkwell, world: World) -> None:
    """All of it in a run; one order by hand needs both its numbers."""
    at = ("-w", world.slug)
    assert "0 documents of this bridge stand in the books: 0 adopted, 0 known already." in told(
        inkwell, *at, "adopt", BRIDGE
    )
    assert "--order and --books-id go together." in told(inkwell, *at, "adopt", BRIDGE, "--order", "MW-10003", status=2)
    missing = told(inkwell, *at, "adopt", BRIDGE, "--order", "MW-10003", "--books-id", "1", status=4)
    assert "has read no order MW-10003 yet" in missing


def test_what_was_adopted_is_listed_shown_and_tied(inkwell: Inkwell, world: World) -> None:
    """The list to check with the accountant, one of it, and by how much it differs."""
    world.put_orders(shop_order(TYPED), reset=True)
    typed = type_in(world, TYPED, "14.00")
    at = ("-w", world.slug)
    told(inkwell, *at, "run", BRIDGE, status=1)
    assert "is SI-00001 now" in told(inkwell, *at, "adopt", BRIDGE, "--order", TYPED, "--books-id", typed)
    assert TYPED in told(inkwell, *at, "documents", "list", "--state", "adopted")
    shown = told(inkwell, *at, "documents", "show", TYPED)
    assert "Invoice SI-00001: adopted" in shown
    assert "gross 14.00 GBP" in shown
    tied = inkwell(*at, "tie-out", "--from", "2026-10-01", "--to", "2026-10-31").stdout
    assert [line.split()[-1] for line in tied.splitlines() if line.strip().startswith("adopted")] == ["-0.06"]


def test_signing_in_through_a_consent_page(inkwell: Inkwell, bare: World, tmp_path: Path) -> None:
    """The command prints the page, listens on loopback, and tells what came of it."""
    market = BENCHES["marketplace"]
    told(inkwell, "connections", "add", "fair", "--name", "Lanternfair", "--kind", "marketplace", "--address",
         market.address(bare), "--credential", "client_id", "--credential", "client_secret", "--credential", "grant",
         given="\n".join([*market.credentials.values(), "consent page"]) + "\n")  # fmt: skip
    assert "nobody has signed in yet" in told(inkwell, "connections", "check", "fair", status=1)
    with subprocess.Popen(
        [INKWELL, "-w", bare.slug, "connections", "sign-in", "fair", "--no-browser"], text=True,
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=environment(tmp_path / "profile.json"),
    ) as waiting:  # fmt: skip
        assert waiting.stderr is not None
        page = next(line.strip() for line in waiting.stderr if line.startswith("  http"))
        allowed = dict.fromkeys(("sales", "handbacks", "sales.write"), "on")
        came_back = HTTP.get(str(agreed_to(page, **allowed)))
        assert "Go back to your terminal" in came_back.text
        said, _ = waiting.communicate(timeout=30)
    assert waiting.returncode == 0
    assert said.startswith("Lanternfair: connected\n  Consent page: signed in by ")
