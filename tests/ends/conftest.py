"""Tests of ends and stand-ins need no service."""

from __future__ import annotations

import pytest

from inkwell_bridge.launch.stack import Stack
from tests.support.world import World, new_world


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """All tests on Vendure share its one shop, so they run one after the other, in one process.

    Who buys there changes the buyer and the stock that another test is reading. (Tryton has a database a world.)
    """
    for item in items:
        if "[vendure" in item.name or "vendure]" in item.name:
            item.add_marker(pytest.mark.xdist_group("vendure"))


@pytest.fixture
def world(stack: Stack) -> World:
    """Shop and books of one's own."""
    return new_world(stack, "no token", set_up=False)
