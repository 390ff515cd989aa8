"""Each role and each call, from the API's own description: who may not is told so, who may is let through."""

from __future__ import annotations

import pytest

from inkwell_bridge.client import Client
from inkwell_bridge.launch.stack import Stack
from tests.service.test_access import calls_in_a_workspace, filled
from tests.support.world import HTTP, PASSWORD, World, joined, new_world, with_few_orders

ROLES = ["see", "operate", "edit", "publish", "own"]
# What a call that writes must take at the least, by the end of its path: the description is held against this.
AT_LEAST = {"/connections": "edit", "/switch": "own", "/companies": "own", "/people": "own", "/publish": "publish",
            "/take-up-again": "publish", "/rulebooks": "edit", "/bridges": "edit", "/import": "edit",
            "/answers": "operate", "/undo": "operate", "/runs": "operate", "/adopt": "operate",
            "/release": "operate"}  # fmt: skip


@pytest.fixture(scope="module")
def carried(stack: Stack, owner: str) -> World:
    """A world of its own, which the calls may change."""
    world = with_few_orders(new_world(stack, owner))
    world.run()
    return world


@pytest.fixture(scope="module")
def needs(stack: Stack) -> dict[tuple[str, str], str]:
    """The role that each call takes, as the description says."""
    paths = HTTP.get(f"{stack.address}/api/v1/openapi.json").json()["paths"]
    return {(method, path): paths[path][method]["x-role"] for method, path in calls_in_a_workspace(stack)}


@pytest.mark.parametrize("role", ROLES)
def test_every_call_is_open_to_the_roles_it_names_and_to_no_other(
    stack: Stack, carried: World, needs: dict[tuple[str, str], str], role: str
) -> None:
    """Forbidden is answered before anything is looked at; all else is another answer."""
    email = f"{role}@{carried.slug}.example"
    joined(carried.calls, email=email, role=role, password=PASSWORD)
    token = Client(stack.address).make_token(email=email, password=PASSWORD, name="test")
    for (method, path), needed in needs.items():
        url = stack.address + filled(path.replace("{workspace}", carried.slug), carried)
        response = HTTP.request(method.upper(), url, headers={"Authorization": f"Bearer {token}"}, json={})
        may = ROLES.index(role) >= ROLES.index(needed)
        assert (response.status_code == 403) != may, (role, method, path, response.status_code, response.text[:200])
        if not may:
            assert response.json()["detail"].startswith("Your role here is ")


# What has too much to say for an address, and changes nothing.
LOOKS = (
    "/rulebooks/edit", "/base-rulebooks/{name}/edit", "/configuration/compare", "/timetable/try", "/holds/preview",
    "/holds/followed", "/troubles/read",
)  # fmt: skip


def test_the_description_asks_for_enough(needs: dict[tuple[str, str], str]) -> None:
    """What may only be read by seeing, and what nobody may do in passing."""
    for (method, path), needed in needs.items():
        only_looks = method == "get" or path.endswith(LOOKS)
        assert needed == "see" if only_looks else needed != "see", (method, path)
        least = next((role for end, role in AT_LEAST.items() if path.endswith(end)), None)
        if method != "get" and least:
            assert ROLES.index(needed) >= ROLES.index(least), (method, path)
    assert len(needs) > 45


def test_a_token_of_a_lower_role_does_no_more(stack: Stack, carried: World) -> None:
    """Whoever owns it."""
    email = f"owner@{carried.slug}.example"
    joined(carried.calls, email=email, role="own", password=PASSWORD)
    token = Client(stack.address).make_token(
        email=email, password=PASSWORD, name="look", workspace=carried.slug, role="see"
    )
    url = f"{stack.address}/api/v1/workspaces/{carried.slug}/connections/uk-books/check"
    assert HTTP.post(url, headers={"Authorization": f"Bearer {token}"}).status_code == 403
