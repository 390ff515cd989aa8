"""Who may see and do what; and that one workspace cannot see or touch another by any call."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import httpx
import psycopg
import pytest

from inkwell_bridge.client import Client, Forbidden, NotFound, NotSignedIn
from inkwell_bridge.demo.facts import rulebook_text
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, HTTP, PASSWORD, World, joined, new_world


@pytest.fixture(scope="module")
def carried(stack: Stack, owner: str) -> World:
    """A world whose October was carried."""
    world = new_world(stack, owner)
    world.run()
    return world


@pytest.fixture(scope="module")
def stranger(stack: Stack, owner: str) -> World:
    """Another client, whose owner has no role in the first."""
    world = new_world(stack, owner)
    email = f"own@{world.slug}.example"
    joined(world.calls, email=email, role="own", password=PASSWORD)
    token = Client(stack.address).make_token(email=email, password=PASSWORD, name="test")
    return World(
        stack=stack, slug=world.slug, token=token, calls=Client(stack.address, token=token).workspace(world.slug)
    )


def calls_in_a_workspace(stack: Stack) -> Iterator[tuple[str, str]]:
    """Every method and path under a workspace, from the API's own description."""
    paths = HTTP.get(f"{stack.address}/api/v1/openapi.json").json()["paths"]
    for path, methods in paths.items():
        if "{workspace}" in path:
            yield from ((method, path) for method in methods if method in {"get", "post", "put", "patch", "delete"})


# What stands for a kind, by what it is a kind of.
KINDS = {"/lanes/": "orders", "/links/": "products", "/names/": "accounts"}


def filled(path: str, world: World) -> str:
    """A path with names and numbers that exist in ``world``."""
    calls = world.calls
    if not any(one.name == "client.yaml" for one in calls.base_rulebooks()):
        calls.write_base_rulebook("client.yaml", "rulebook: 1\n")
    numbers = {
        "crossing": next(iter(calls.crossings())).id,
        "document": next(iter(calls.documents())).id,
        "run": next(iter(calls.runs())).id,
        "bridge": BRIDGE,
        "connection": "uk-books",
        "kind": next((kind for part, kind in KINDS.items() if part in path), ""),
        "name": "client.yaml",
        "number": 1,
        "rule": 1,
        "secret": 1,
        "company": "marrowby-uk",
        "account": "current-account",
        "line": "1",
        "currency": "EUR",
        "day": "2026-10-05",
        "month": "2026-10",
    }
    return re.sub(r"\{(\w+)\}", lambda found: str(numbers[found[1]]), path)


def test_no_call_reaches_into_another_workspace(stack: Stack, carried: World, stranger: World) -> None:
    """Every call there is, by somebody who owns another workspace: it answers as if nothing were there."""
    tried = 0
    for method, path in calls_in_a_workspace(stack):
        url = stack.address + filled(path.replace("{workspace}", carried.slug), carried)
        response = HTTP.request(method.upper(), url, headers={"Authorization": f"Bearer {stranger.token}"}, json={})
        assert response.status_code == 404, (method, path)
        assert response.json()["detail"] == f"There is no workspace '{carried.slug}', or you have no role in it."
        tried += 1
    assert tried >= 30


def test_numbers_of_another_workspace_are_not_found_in_ones_own(carried: World, stranger: World) -> None:
    """A number guessed right leads nowhere."""
    run, crossing = next(iter(carried.calls.runs())), next(iter(carried.calls.crossings()))
    document = next(iter(carried.calls.documents()))
    for look in (
        lambda: stranger.calls.run(run.id),
        lambda: stranger.calls.crossing(crossing.id),
        lambda: stranger.calls.document(document.id),
    ):
        with pytest.raises(NotFound):
            look()
    assert stranger.calls.release(crossings=[crossing.id]) == 0
    assert list(stranger.calls.crossings(run=run.id)) == []


def test_a_bridge_cannot_be_laid_to_anothers_books(carried: World, stranger: World) -> None:
    """A name of another workspace is not known here."""
    carried.calls.create_company(slug="elsewhere", name="Elsewhere", country="GB", currency="GBP", time_zone="UTC")
    with pytest.raises(Exception, match="elsewhere"):
        stranger.calls.create_bridge(slug="b", name="B", source="web-shop", books="uk-books", company="elsewhere")


def test_the_database_itself_keeps_workspaces_apart(stack: Stack, carried: World, stranger: World) -> None:
    """A row that mixes two workspaces is refused, whoever writes it."""
    with psycopg.connect(stack.environment["DATABASE_URL"]) as db:
        mine, theirs = (
            db.execute("SELECT id FROM people_workspace WHERE slug = %s", [slug]).fetchone()
            for slug in (carried.slug, stranger.slug)
        )
        assert mine is not None
        assert theirs is not None
        bridge = db.execute("SELECT id FROM bridges_bridge WHERE workspace_id = %s", mine).fetchone()
        assert bridge is not None
        db.execute(
            "INSERT INTO carriage_run (workspace_id, bridge_id, purpose, numbers, lanes, outcomes, state, "
            "by_timetable, started_at, trouble, unchanged) "
            "VALUES (%s, %s, 'carry', '[]', '[]', '[]', 'ended', false, now(), '', 0)",
            [theirs[0], bridge[0]],
        )
        with pytest.raises(psycopg.errors.ForeignKeyViolation, match="same_ws"):
            db.commit()


@pytest.mark.parametrize(
    "statement",
    [
        "UPDATE people_trailentry SET action = 'nothing'",
        "DELETE FROM people_trailentry",
        "UPDATE bridges_rulebookversion SET text = ''",
        "UPDATE carriage_snapshot SET content = '{}'",
        "UPDATE connections_referenceload SET content = '{}'",
    ],
)
def test_what_was_written_cannot_be_rewritten(stack: Stack, carried: World, statement: str) -> None:
    """The trail, published rules, snapshots, reference data: the database refuses."""
    assert carried.slug
    with (
        psycopg.connect(stack.environment["DATABASE_URL"]) as db,
        pytest.raises(psycopg.errors.RaiseException, match="kept as it was written"),
    ):
        db.execute(statement)


def test_every_table_of_a_workspace_says_so(stack: Stack) -> None:
    """A new table that forgets its workspace fails here."""
    # What is a person's own belongs to none: how they sign in, where they are signed in, and who failed to.
    own = {"browsersession", "identity", "person", "recoverycode", "secondfactor", "signinfailure"}
    without = {"people_workspace", *(f"people_{name}" for name in own)}
    with psycopg.connect(stack.environment["DATABASE_URL"]) as db:
        tables = db.execute(
            "SELECT t.table_name, bool_or(c.column_name = 'workspace_id') FROM information_schema.tables t "
            "JOIN information_schema.columns c USING (table_schema, table_name) "
            "WHERE t.table_schema = 'public' AND t.table_name ~ %s GROUP BY 1",
            ["^(people|connections|reference|links|bridges|carriage|tieout)_"],
        ).fetchall()
    assert {name for name, owned in tables if not owned} == without
    assert len(tables) > 15


@pytest.fixture(scope="module")
def by_role(stack: Stack, carried: World) -> dict[str, Client]:
    """A client for each role in the carried world."""
    clients = {}
    for role in ("see", "operate", "edit", "publish"):
        email = f"{role}@{carried.slug}.example"
        joined(carried.calls, email=email, role=role, password=PASSWORD)
        token = Client(stack.address).make_token(email=email, password=PASSWORD, name="test")
        clients[role] = Client(stack.address, token=token)
    return clients


@pytest.mark.parametrize(
    ("role", "may", "may_not"),
    [
        ("see", "today", "run"),
        ("operate", "run", "switch"),
        ("edit", "switch", "publish"),
        ("publish", "publish", "invite"),
    ],
)
def test_a_role_may_what_it_may_and_no_more(carried: World, by_role: dict[str, Client], role: str, may: str,
                                            may_not: str) -> None:  # fmt: skip
    """See, operate, edit rules, publish them, own: each a step further."""
    calls = by_role[role].workspace(carried.slug)
    deeds: dict[str, Any] = {
        "today": calls.today,
        "run": lambda: carried.ended(calls.bridge(BRIDGE).run()),
        "switch": lambda: calls.bridge(BRIDGE).switch_lane("orders", on=True),
        "publish": lambda: calls.bridge(BRIDGE).publish_rulebook(
            calls.bridge(BRIDGE).write_rulebook(rulebook_text(BRIDGE)).number
        ),
        "invite": lambda: calls.invite(email="new@inkwell.example", role="see"),
    }
    deeds[may]()
    with pytest.raises(Forbidden) as caught:
        deeds[may_not]()
    assert caught.value.problem.detail.startswith("Your role here is")
    assert caught.value.problem.hint == "Ask an owner of the workspace for the role."


def test_a_token_can_be_bound_to_a_workspace_and_a_lower_role(stack: Stack, carried: World) -> None:
    """A key for one job opens no other door."""
    email = f"bound@{carried.slug}.example"
    joined(carried.calls, email=email, role="own", password=PASSWORD)
    token = Client(stack.address).make_token(
        email=email, password=PASSWORD, name="reader", role="see", workspace=carried.slug
    )
    bound = Client(stack.address, token=token)
    assert bound.workspace(carried.slug).read().role == "see"
    with pytest.raises(Forbidden):
        bound.workspace(carried.slug).bridge(BRIDGE).run()
    with pytest.raises(Forbidden, match="Only who owns"):
        bound.open_workspace(slug="mine-alone", name="Mine")


def test_a_withdrawn_token_opens_nothing(stack: Stack, carried: World) -> None:
    """From that moment on."""
    email = f"gone@{carried.slug}.example"
    joined(carried.calls, email=email, role="see", password=PASSWORD)
    client = Client(stack.address, token=Client(stack.address).make_token(email=email, password=PASSWORD, name="x"))
    (token,) = client.tokens()
    client.withdraw_token(token.id)
    with pytest.raises(NotSignedIn, match="unknown, withdrawn or has expired"):
        client.session()


def test_signing_in_by_browser_takes_a_csrf_token(stack: Stack) -> None:
    """Another site cannot sign somebody in, nor act in their name."""
    with httpx.Client(base_url=stack.address) as browser:
        browser.get("/api/v1/session")
        given = {"email": "first.owner@inkwell.example", "password": PASSWORD}
        assert browser.post("/api/v1/session", json=given).status_code == 403
        headers = {"X-CSRFToken": browser.cookies["inkwell_csrf"], "Referer": stack.address}
        assert browser.post("/api/v1/session", json=given, headers=headers).json()["signed_in"] is True
        assert browser.delete("/api/v1/session").status_code == 403
        headers["X-CSRFToken"] = browser.cookies["inkwell_csrf"]
        assert browser.delete("/api/v1/session", headers=headers).status_code == 204
        assert browser.get("/api/v1/session").json()["signed_in"] is False


def test_a_wrong_password_says_so_and_no_more(stack: Stack) -> None:
    """Whether the e-mail is known is not told."""
    for email in ("first.owner@inkwell.example", "nobody@inkwell.example"):
        with pytest.raises(NotSignedIn, match="This e-mail and password do not belong together"):
            Client(stack.address).make_token(email=email, password="wrong", name="x")


def test_every_page_comes_under_a_strict_policy(stack: Stack) -> None:
    """No script but our own, no frame around us."""
    headers = HTTP.get(f"{stack.address}/marrowby/today").headers
    assert "script-src 'self'" in headers["Content-Security-Policy"]
    assert "unsafe" not in headers["Content-Security-Policy"]
    assert (headers["X-Frame-Options"], headers["X-Content-Type-Options"]) == ("DENY", "nosniff")
