"""The service between Vendure and Tryton; collected only where both are running."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterator

import pytest

from inkwell_bridge.client import Client
from inkwell_bridge.launch import demo_peers, places
from inkwell_bridge.launch.stack import Stack
from tests.peers.between import Between, invoices_alone
from tests.support.peers import tryton_of
from tests.support.world import FAST, World, first_owner, running

collect_ignore_glob = [] if os.environ.get("INKWELL_TEST_PEERS") else ["test_*.py"]
_numbers = itertools.count(1)


@pytest.fixture(scope="module")
def between_stack(
    new_database: Callable[[str], str], tmp_path_factory: pytest.TempPathFactory, request: pytest.FixtureRequest
) -> Iterator[Stack]:
    """A service with two workers, patient enough for real systems."""
    name = request.module.__name__.rpartition(".")[2]
    made = Stack(
        database_url=new_database(name),
        home=tmp_path_factory.mktemp(name),
        console=places.console(),
        extra={**FAST, "INKWELL_END_TIMEOUT_SECONDS": "6"},
        workers=2,
    )
    with running(made):
        yield made


@pytest.fixture(scope="module")
def between_owner(between_stack: Stack) -> str:
    """A token of somebody who may open workspaces there."""
    return first_owner(between_stack)


@pytest.fixture
def between(between_stack: Stack, between_owner: str) -> Between:
    """A workspace with Vendure on one side and a Tryton database of its own on the other, for invoices alone."""
    return _new(between_stack, between_owner, rules=invoices_alone())


@pytest.fixture
def with_money(between_stack: Stack, between_owner: str) -> Between:
    """The same under the demo's own rules: payments and refunds cross too."""
    return _new(between_stack, between_owner)


@pytest.fixture(scope="module")
def carried(between_stack: Stack, between_owner: str) -> Between:
    """The same, run once, for tests that look at it and go on from there."""
    made = _new(between_stack, between_owner, rules=invoices_alone())
    made.run()
    return made


def _new(between_stack: Stack, between_owner: str, *, rules: str = "") -> Between:
    slug = f"between-{os.getpid()}-{next(_numbers)}"
    client = Client(between_stack.address, token=between_owner)
    client.open_workspace(slug=slug, name=slug)
    world = World(stack=between_stack, slug=slug, token=between_owner, calls=client.workspace(slug))
    where = {**demo_peers.addresses(), "tryton": tryton_of(world)}
    demo_peers.set_up(world.calls, where, rules=rules)
    return Between(world)
