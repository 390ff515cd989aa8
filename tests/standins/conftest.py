"""Tests of ends and stand-ins need no service."""

from __future__ import annotations

import pytest

from inkwell_bridge.launch.stack import Stack
from tests.support.world import World, new_world


@pytest.fixture
def world(stack: Stack) -> World:
    """Shop and books of one's own."""
    return new_world(stack, "no token", set_up=False)
