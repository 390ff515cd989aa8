"""The client library: typed, paged, its errors carry the problem; and it works without the service installed."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path
from typing import Any

import httpx
import pytest

import inkwell_bridge.client as client_package
from inkwell_bridge.client import ApiError, Client, Invalid, NotFound, NotSignedIn, NotUnderstood, Unreachable
from inkwell_bridge.launch.stack import Stack
from tests.support.world import BRIDGE, HTTP, World


def answering(status: int, body: Any) -> Client:
    """A client whose service answers the same to everything."""
    answer = httpx.Response(status, json=body) if not isinstance(body, str) else httpx.Response(status, text=body)
    return Client("http://service.example", token="t", transport=httpx.MockTransport(lambda _: answer))


def test_it_works_where_django_is_not_installed() -> None:
    """Nothing of the service is imported, even where it could not be."""
    code = (
        "import sys\n"
        "for name in ('django', 'rest_framework', 'procrastinate', 'psycopg', 'yaml', 'jsonschema'):\n"
        "    sys.modules[name] = None\n"
        "import inkwell_bridge.client, inkwell_bridge.cli.main\n"
        "print(inkwell_bridge.client.Client('http://127.0.0.1:9').workspace('w'))"
    )
    done = subprocess.run([sys.executable, "-c", code], text=True, capture_output=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")


def test_what_is_public_is_listed_in_order() -> None:
    """A name that comes or goes is a decision."""
    assert client_package.__all__ == sorted(client_package.__all__)
    assert all(getattr(client_package, name) for name in client_package.__all__)


def test_every_endpoint_has_a_call(stack: Stack, world: World) -> None:
    """The API's own description names no path that the client's source does not know."""
    folder = Path(client_package.__path__[0])
    known = "".join(path.read_text("utf-8") for path in folder.glob("*.py"))
    paths = HTTP.get(f"{stack.address}/api/v1/openapi.json").json()["paths"]
    # Going to a provider of identities takes a browser, and cookies that come back with it.
    for path in set(paths) - {"/api/v1/session/openid"}:
        last = [part for part in path.removeprefix("/api/v1/").split("/") if not part.startswith("{")][-1]
        assert re.search(rf"/{last}\b", known), path
    assert world.client.openapi()["openapi"].startswith("3.1")


def test_pages_are_one_iterator(world: World) -> None:
    """However many pages there are."""
    world.run()
    assert len(list(world.calls.crossings(limit=9))) == 60


@pytest.mark.parametrize(
    ("status", "kind"), [(400, Invalid), (401, NotSignedIn), (404, NotFound), (422, Invalid), (500, ApiError)]
)
def test_errors_carry_the_problem(status: int, kind: type[ApiError]) -> None:
    """Status, code, detail, hint; unknown members are kept."""
    body = {
        "status": status,
        "code": "c",
        "detail": "what",
        "hint": "do",
        "errors": [{"detail": "d", "line": 3}],
        "x": 1,
    }
    with pytest.raises(kind) as caught:
        answering(status, body).session()
    problem = caught.value.problem
    assert (str(caught.value), problem.hint, problem.errors[0].line) == ("what", "do", 3)
    assert (problem.model_extra or {})["x"] == 1


def test_an_answer_that_is_no_problem_document_is_still_an_error() -> None:
    """A gateway's page of HTML, say."""
    with pytest.raises(ApiError, match="status 502 and no explanation"):
        answering(502, "<html>Bad gateway</html>").session()


@pytest.mark.parametrize("body", [{"signed_in": "perhaps"}, "<html>Welcome to the hotel</html>"])
def test_an_answer_of_another_shape_is_an_error_of_its_own(body: dict[str, Any] | str) -> None:
    """Of another version of the service, or of whoever stands between: no traceback, and what to look at."""
    with pytest.raises(NotUnderstood, match="in a shape that this version does not know") as caught:
        answering(200, body).session()
    assert "of the same version" in caught.value.problem.hint


def test_no_answer_is_an_error_of_its_own() -> None:
    """With what to look at."""
    with pytest.raises(Unreachable) as caught:
        Client("http://127.0.0.1:9").session()
    assert caught.value.problem.hint == "Check the address, and that the service is running."


def test_problems_of_the_real_service(world: World) -> None:
    """The place of each error is a JSON Pointer."""
    with pytest.raises(Invalid) as caught:
        world.calls.create_company(slug="x", name="X", country="gb", currency="Pounds", time_zone="UTC")
    assert {item.pointer for item in caught.value.problem.errors} == {"/country", "/currency"}


def test_who_one_is(world: World) -> None:
    """The session names the person and the workspaces."""
    with world.client as client:
        session = client.session()
    assert session.signed_in
    assert world.slug in {entry.slug for entry in session.workspaces}


def test_a_whole_set_up_by_the_client_alone(world: World) -> None:
    """Everything that was set up can be read back, typed."""
    bridge = world.calls.bridge(BRIDGE).read()
    assert (bridge.source, bridge.books, bridge.rulebook_in_force) == ("web-shop", "uk-books", 1)
    assert [company.currency for company in world.calls.companies()] == ["GBP"]
    assert [member.role for member in world.calls.people()] == ["own"]
    assert world.calls.read().role == "own"
    assert world.calls.bridge(BRIDGE).rulebook(1).findings == []
